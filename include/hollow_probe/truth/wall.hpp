// T3 wall and T4 step: what stops the body on its way, and whether it can be stepped on.
#pragma once

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/truth/known.hpp"

namespace hollow_probe {

/// How squarely a wall faces the body: the least -normal·heading, exclusive.
inline constexpr double least_facing_of_wall = 0.1;

template <int D>
struct StepTruth : Decision {
    std::optional<Contact<D>> riser;  // on: the contact that stops the body, the nearest
    double rise = 0.0;                // on: the height of that contact above the anchor
};

/// T4: the body moved along `heading` is stopped, within intent.ahead_step, by something steeper than
/// footing: the nearest that stops it, rising more than touch above the anchor. Its rise, the height of what
/// it meets above where it stands there, is within [lowest_step, tallest_step]; lifted by tallest_step above
/// that place the body clips nothing deeper than touch, moves on past the gap by intent.tread without meeting
/// anything steeper than footing (which it rides over), and lowered from there by no more than tallest_step
/// (and touch) comes to rest on footing. Of what it meets the highest point within the body's width counts,
/// however the solid is cut into pieces. A kerb is as tall on a ramp as on the flat.
///
/// `heading` is unit and perpendicular to up. All limits inclusive.
template <int D>
StepTruth<D> step(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading,
                  const Intent& intent, Margins margins = Margins::told, const Known<D>* known = nullptr);

template <int D>
struct WallTruth : Decision {
    std::optional<Contact<D>> contact;  // on: the nearest
};

/// T3: the body moved along `heading` meets, within intent.ahead_wall, something steeper than footing that is
/// no ceiling, faces it (-normal·heading > least_facing_of_wall), rises more than touch above its anchor and
/// is no step: not one that step() would accept if it were near enough.
template <int D>
WallTruth<D> wall(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading,
                  const Intent& intent, Margins margins = Margins::told, const Known<D>* known = nullptr);

}  // namespace hollow_probe
