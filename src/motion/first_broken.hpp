// Where a broken expectation began: in which tick, and by which signal, probe, reflex and solid.
#pragma once

#include "hollow_probe/motion/drill_cures.hpp"
#include "hollow_probe/motion/play.hpp"

namespace hollow_probe {

/// One for each broken expectation that says most of a figure; found by playing the drill again. Without
/// causes.
template <int D>
std::vector<FirstBroken> first_broken(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                                      const std::vector<Broken>& broken);

}  // namespace hollow_probe
