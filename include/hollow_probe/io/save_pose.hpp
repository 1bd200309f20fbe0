// A rig at a pose as a model, to be opened beside the level in other programs.
#pragma once

#include <string>

#include "hollow_probe/level/level.hpp"
#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe {

/// The content of a .glb or .gltf file (glTF 2.0) whose nodes are the body and every probe mounted in the
/// stance: their shapes, translucent, and lines (see debug_lines.hpp) for ways, hits and normals. Names are
/// "body", and the probe's, with " lines" behind those of lines; `extras.on` says what the probe read. 2D
/// lies in the plane z = 0. Throws InvalidInput for another ending and for a rig that check() refuses.
template <int D>
std::string saved_pose(const Level<D>& level, const Rig<D>& rig, const Pose<D>& pose,
                       const std::string& file_name);

}  // namespace hollow_probe
