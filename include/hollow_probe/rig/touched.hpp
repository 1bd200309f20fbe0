// What a body touches where it is: the contacts a mover would report.
#pragma once

#include "hollow_probe/rig/mount.hpp"

namespace hollow_probe {

/// What the body meets within `touch` (inclusive) below, above and ahead of it, by the distance it would have
/// to travel straight down, straight up or along its heading until it touches; and what it overlaps by no
/// more than that. A piece that is near on several sides is told once for each. In order of side and piece.
template <int D>
std::vector<MoveContact<D>> touched_by(const Level<D>& level, const MountedRig<D>& rig, const Vec<D>& anchor,
                                       double touch);

}  // namespace hollow_probe
