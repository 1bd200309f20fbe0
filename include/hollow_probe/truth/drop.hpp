// T5 drop: where the ground ends ahead.
#pragma once

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/truth/known.hpp"

namespace hollow_probe {

template <int D>
struct DropTruth : Decision {
    double ahead = infinity;  // on: the least way along the heading at which the ground is gone
};

/// T5: the body is on ground(), and for some a in [0, intent.ahead_drop] the body, lifted by tallest_step and
/// moved by a along `heading` (which nothing may block, but for what the lifting alone pushes it into: under
/// a low ceiling edges are edges still) finds no footing within tallest_step + deepest_drop below: no piece
/// whose normal, where the body would touch it, is within steepest_footing of up. The least such a is found
/// within 1e-9 of the body's size, for gaps of any width.
///
/// Margin when on: how much ahead_drop could shrink, or the gap be filled. When off: how much farther the
/// next drop lies, looked for up to `horizon` beyond ahead_drop.
template <int D>
DropTruth<D> drop(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading,
                  const Intent& intent, double horizon = 0.0, Margins margins = Margins::told,
                  const Known<D>* known = nullptr);

}  // namespace hollow_probe
