// How near a tick is to counting one more of a figure that counts.
#pragma once

#include "motion/playing.hpp"

namespace hollow_probe {

/// From 0, far from it or nothing that tells, to below 1. Of missed and false ticks, refused and unearned
/// jumps: by how far off the body would have to be for this tick to be one, up to its own size, all else as
/// it is; where it is one nowhere near, by the margin of the truth. Of tunnels: by the part of the body's own
/// length that a tick takes it.
template <int D>
double near_one_more(const Playing<D>& playing, const TickRecord<D>& tick, const Expectation& expected);

}  // namespace hollow_probe
