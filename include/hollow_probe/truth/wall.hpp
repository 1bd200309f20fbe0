// T3 wall and T4 step: what stops the body on its way, and whether it can be stepped on.
#pragma once

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/truth/known.hpp"

namespace hollow_probe {

template <int D>
struct StepTruth : Decision {
    std::optional<Contact<D>> riser;  // on: the contact that stops the body, the nearest
    double rise = 0.0;                // on: the height of that contact above the anchor
};

/// T4: the body moved along `heading` meets something steeper than footing within intent.ahead_step; its
/// rise, the height of the contact above the anchor, is within [lowest_step, tallest_step]; lifted by
/// tallest_step the body clips nothing deeper than touch, moves on past the gap by intent.tread without
/// meeting anything, and lowered from there by no more than tallest_step (and touch) comes to rest on
/// footing. Of a contact along a face or edge the highest point counts: a box before a kerb meets the kerb's
/// upper edge, a round sole rests low on its nose.
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
/// no ceiling, faces it (normal·heading < -0.1) and is no step: not one that step() would accept if it were
/// near enough.
template <int D>
WallTruth<D> wall(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading,
                  const Intent& intent, Margins margins = Margins::told, const Known<D>* known = nullptr);

/// The highest point of a contact, the body standing where it touches. Of contacts in one point that point.
template <int D>
Vec<D> highest_of_contact(const Level<D>& level, const PlacedBody<D>& touching, const Contact<D>& contact);

}  // namespace hollow_probe
