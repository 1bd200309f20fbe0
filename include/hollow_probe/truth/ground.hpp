// T1 ground, T2 ceiling and T8 clip: the reference answers about what the body touches above and below.
#pragma once

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/truth/decision.hpp"

namespace hollow_probe {

template <int D>
struct ContactTruth : Decision {
    std::optional<Contact<D>> contact;  // on: of those that make it so, the one squarest to the body
    bool clips = false;                 // the body clips something where it is: clip().on
};

/// T1: the body stands on footing: some piece approached within intent.touch straight down whose normal is
/// within steepest_footing of up (inclusive; angles to within 1e-9 rad). Margin when on: how much touch, or
/// steepest_footing, could shrink. When off: how much farther down the nearest footing lies, looked for up to
/// `horizon` beyond touch, and by how much the flattest contact is too steep.
template <int D>
ContactTruth<D> ground(const Level<D>& level, const PlacedBody<D>& body, const Intent& intent,
                       double horizon = 0.0);

/// T2: some piece approached within intent.touch straight up whose normal is within ceiling_within of
/// straight down. Margins as for ground().
template <int D>
ContactTruth<D> ceiling(const Level<D>& level, const PlacedBody<D>& body, const Intent& intent,
                        double horizon = 0.0);

template <int D>
struct ClipTruth {
    bool on = false;
    double depth = 0.0;   // deepest overlap with a piece; 0 when there is none
    double margin = 0.0;  // |depth - touch|
    bool decided = true;
    std::optional<std::uint32_t> piece;  // the one overlapped deepest
    bool lifted = false;                 // a piece overlaps the body beyond noise and pushes it upwards
    bool lowered = false;                // … downwards
};

/// T8: the body overlaps a piece deeper than intent.touch (exclusive).
template <int D>
ClipTruth<D> clip(const Level<D>& level, const PlacedBody<D>& body, const Intent& intent);

}  // namespace hollow_probe
