// Meshes and lines as glTF 2.0.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

struct GltfPart {
    std::string name;
    std::string layer = {};  // goes into extras; empty: none
    std::vector<Vec<3>> vertices = {};
    std::vector<std::uint32_t> indices = {};  // three a triangle, or two a line
    bool lines = false;
    std::optional<std::array<float, 4>> color = {};  // red, green, blue, alpha
    std::optional<bool> on = {};                     // goes into extras
};

/// One node a part, single precision; parts without indices are left out. Binary: the content of a .glb file.
std::string gltf_file(const std::vector<GltfPart>& parts, bool binary);

}  // namespace hollow_probe
