// T1 ground and T8 clip: the reference answers.
#pragma once

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/truth/contact.hpp"

namespace hollow_probe {

/// How far an answer is from flipping. Infinite: no change of that kind alone would flip it, as far as was
/// looked.
struct Margin {
    double distance = infinity;  // in the level's unit
    double degrees = infinity;
};

template <int D>
struct GroundTruth {
    bool on = false;
    Margin margin;
    bool decided = true;                // false: the margin is below numerical noise
    std::optional<Contact<D>> support;  // on: the flattest contact that is footing
};

/// T1: the body stands on footing: some piece approached within intent.touch straight down whose normal is
/// within steepest_footing of up (inclusive; angles to within 1e-9 rad). Margin when on: how much touch, or
/// steepest_footing, could shrink. When off: how much farther down the nearest footing lies, looked for up to
/// `horizon` beyond touch, and by how much the flattest contact is too steep.
template <int D>
GroundTruth<D> ground(const Level<D>& level, const PlacedBody<D>& body, const Intent& intent,
                      double horizon = 0.0);

template <int D>
struct ClipTruth {
    bool on = false;
    double depth = 0.0;   // deepest overlap with a piece; 0 when there is none
    double margin = 0.0;  // |depth - touch|
    bool decided = true;
    std::optional<std::uint32_t> piece;  // the one overlapped deepest
    bool lifted = false;                 // a piece overlaps the body beyond noise and pushes it upwards
};

/// T8: the body overlaps a piece deeper than intent.touch (exclusive).
template <int D>
ClipTruth<D> clip(const Level<D>& level, const PlacedBody<D>& body, const Intent& intent);

}  // namespace hollow_probe
