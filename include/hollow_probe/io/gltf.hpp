// Triangle meshes from glTF 2.0 files.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

struct TriangleMesh {
    std::vector<Vec<3>> vertices;
    std::vector<std::array<std::uint32_t, 3>> triangles;
};

/// Reads the triangles below the node named `node` (all nodes of the scene if empty) from a .gltf or .glb
/// file, with all node transforms applied. Indexed and plain triangles, strips and fans; other primitives are
/// passed over. Throws InvalidInput, naming the file, if it cannot be read, has no such node or no triangles.
TriangleMesh load_gltf(const std::string& path, const std::string& node);

}  // namespace hollow_probe
