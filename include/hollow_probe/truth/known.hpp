// What has been found out about a body in one place, so that several truths need not find it out again.
#pragma once

#include <optional>

#include "hollow_probe/truth/ground.hpp"

namespace hollow_probe {

/// Holds for one level, body and intent. A truth that is told nothing finds out for itself and
/// answers the same.
template <int D>
struct Known {
    std::optional<ContactTruth<D>> ground;  // of all layers, as ground() without a horizon gives it
    std::vector<Contact<D>> ahead;          // K(ahead_toward, ahead_reach), in no order
    Vec<D> ahead_toward = Vec<D>::zero();
    double ahead_reach = -infinity;  // how far ahead was looked
};

/// Looks as far ahead as the truths of walls, steps and ledges do. Keeps the room that `known` has.
template <int D>
void look_ahead(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading, const Intent& intent,
                Known<D>& known);

}  // namespace hollow_probe
