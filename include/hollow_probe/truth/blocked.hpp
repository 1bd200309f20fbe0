// T10 blocked: whether the planned move meets something.
#pragma once

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/truth/decision.hpp"

namespace hollow_probe {

template <int D>
struct BlockedTruth : Decision {
    std::optional<Contact<D>> contact;  // on: the nearest
};

/// T10: the body moved along unit `direction` by `way` (inclusive) meets a piece that stops it: anything it
/// comes to touch or touches already, but for what lies flush with its feet (steeper than footing and rising
/// no more than touch above the anchor). Margin when off: how much farther the next thing lies, looked for up
/// to `horizon` beyond.
template <int D>
BlockedTruth<D> blocked(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& direction, double way,
                        const Intent& intent, double horizon = 0.0);

}  // namespace hollow_probe
