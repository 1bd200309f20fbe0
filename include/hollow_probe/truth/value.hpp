// The values that signals give, from the geometry.
#pragma once

#include "hollow_probe/level/value.hpp"
#include "hollow_probe/truth/answer.hpp"

namespace hollow_probe {

/// The true value where there is one:
/// - ground_height: of the highest surface straight beneath a point tallest_step above the anchor, no more
///   than tallest_step + deepest_drop below that point;
/// - slope: of the contact that makes ground() on;
/// - wall_normal: of the contact that makes wall() on, or step() for a signal that claims a step;
/// - step_rise: of step();
/// - edge_distance: of drop(), or of ledge() for a signal that claims a ledge.
template <int D>
std::optional<GivenValue<D>> true_value(Value value, Claim claim, const Level<D>& level,
                                        const TruthQuestion<D>& question, const Intent& intent);

}  // namespace hollow_probe
