// Making a drill that breaks an expectation as short and simple as it can be.
#pragma once

#include "hollow_probe/motion/play.hpp"

namespace hollow_probe {

/// Whatever still breaks expectation number `broken.expectation` is simpler: fewer cues, rounder times,
/// plainer drives, fewer seconds. `broken` becomes what the result breaks. Plays at most 2000 drills.
template <int D>
Drill<D> shrunk(Stage<D>& stage, const Drill<D>& drill, Broken& broken);

extern template Drill<2> shrunk<2>(Stage<2>&, const Drill<2>&, Broken&);
extern template Drill<3> shrunk<3>(Stage<3>&, const Drill<3>&, Broken&);

}  // namespace hollow_probe
