// Levels written as triangle meshes, to be opened in other programs.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/level/level.hpp"

namespace hollow_probe {

struct SaveOptions {
    std::vector<std::string> solids;  // only these; empty: all
    /// Round shapes are drawn with this many facets around.
    int facets_around = 32;
};

/// The level as the content of a file whose name chooses the kind: .glb or .gltf (glTF 2.0: one node a solid
/// with its layer in `extras.layer`, single precision), or .obj (one object a solid, full precision). Convex
/// pieces become closed surfaces facing outwards, rounded ones approximated from inside; meshes stay as they
/// are. 2D levels lie in the plane z = 0, segments being drawn as thin triangles. Reading the file gives a
/// level of the same solids; from .obj and meshes the very same corners. Throws InvalidInput for another
/// ending, a solid the level does not have and fewer than 3 facets around.
template <int D>
std::string saved_mesh(const Level<D>& level, const std::string& file_name, const SaveOptions& options = {});

}  // namespace hollow_probe
