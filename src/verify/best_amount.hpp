// Which number a change should have.
#pragma once

#include <array>

#include "verify/trials.hpp"

namespace hollow_probe {

/// A change with a number that is worth most, and the numbers that do as well.
template <int D>
struct Tuned {
    ProvenCause<D> cause;
    std::array<double, 2> between{};  // as a file has them, the lower first; NaN for changes without number
};

/// The change whose number gains most over the whole survey, out of those demanded at its places: where one
/// number serves all of them it is that one's. The number is the roundest well inside the interval of those
/// that gain as much, whose ends are located at some of the poses. `demanded` holds causes of one key, at
/// least one.
template <int D>
Tuned<D> best_amount(const Planned<D>& planned, const Trials<D>& trials,
                     std::vector<ProvenCause<D>> demanded);

/// The change as it is demanded, its number rounded to the bolder side.
template <int D>
Tuned<D> as_demanded(const Planned<D>& planned, const ProvenCause<D>& demanded);

}  // namespace hollow_probe
