// What a body touches where it is: the contacts a mover would report.
#pragma once

#include "hollow_probe/rig/mount.hpp"

namespace hollow_probe {

/// Every piece the body meets that is no farther than `touch`, by number of the piece.
template <int D>
std::vector<MoveContact<D>> touched_by(const Level<D>& level, const MountedRig<D>& rig, const Vec<D>& anchor,
                                       double touch);

}  // namespace hollow_probe
