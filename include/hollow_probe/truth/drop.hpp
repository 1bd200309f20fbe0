// T5 drop: where the ground ends ahead.
#pragma once

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/truth/known.hpp"

namespace hollow_probe {

template <int D>
struct DropTruth : Decision {
    double ahead = infinity;          // on: the least way along the heading at which the ground is gone
    Vec<D> edge = Vec<D>::zero();     // on: the foremost point of the footing that the body leaves
    double edge_distance = infinity;  // on: how far that is ahead of the anchor; negative: behind it
};

/// T5: the body is on ground() and would lose it by going on along `heading`. At some way the body, lifted by
/// tallest_step and lowered, comes to rest on no footing down to deepest_drop below the present footing
/// continued at its slope (on an edge that of the side ahead, if it is footing, too); the edge is the
/// foremost point of the footing it leaves there, no farther ahead of the anchor than intent.ahead_drop
/// (inclusive). Footing that a steep face falling off from the present one keeps the body from, or that lies
/// inside a solid, is none; a steep edge that the body only slides off is passed over. A body stopped on its
/// way (lifted, by something steeper than footing) loses nothing. Gaps that it strides over are no drop, nor
/// is a walkable slope, nor what is shorter than a millionth of the body. Found within 1e-9 of the body's
/// size.
///
/// Margin when on: how much ahead_drop could shrink, or the gap be filled. When off: how much farther the
/// next edge lies, looked for up to `horizon` beyond ahead_drop.
template <int D>
DropTruth<D> drop(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading,
                  const Intent& intent, double horizon = 0.0, Margins margins = Margins::told,
                  const Known<D>* known = nullptr);

}  // namespace hollow_probe
