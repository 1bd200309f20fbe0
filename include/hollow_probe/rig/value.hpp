// The values that signals give, from a probe's reading.
#pragma once

#include "hollow_probe/level/value.hpp"
#include "hollow_probe/rig/mounted_probe.hpp"

namespace hollow_probe {

/// The value a reading gives, if it gives one: ground_height and step_rise are the height of the hit above
/// the anchor, slope and wall_normal its normal, edge_distance the way across up from the anchor to the
/// nearest line of the probe that is off (of a ledge: to the hit of a probe that is on). Allocates nothing.
template <int D>
std::optional<GivenValue<D>> read_value(Value value, const MountedProbe<D>& probe, const Reading<D>& reading,
                                        const Vec<D>& anchor, const Vec<D>& up) noexcept;

}  // namespace hollow_probe
