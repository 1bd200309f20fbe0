// Where a moving solid is at any time.
#pragma once

#include <vector>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

/// From stop to stop along straight lines, and from the last one straight back to the first; at every stop it
/// waits. At time 0 it has just arrived at the first.
///
///     Path<2> lift{{{12, 0}, {12, 4}}, 1.2, 0.5};
///     lift.at(0.5 + 4.0 / 1.2);   // {12, 4}
template <int D>
struct Path {
    std::vector<Vec<D>> stops;  // offsets from where the level has the solid; at least one
    double pace = 1.0;          // length per second; > 0
    double wait = 0.0;          // seconds; >= 0

    /// Seconds from leaving the first stop to leaving it again; 0 for a single stop without wait.
    [[nodiscard]] double period() const;
    /// The offset at a time; times before 0 continue the round backwards.
    [[nodiscard]] Vec<D> at(double seconds) const;
    /// The velocity at a time: of what comes next, where it changes.
    [[nodiscard]] Vec<D> velocity(double seconds) const;
};

extern template struct Path<2>;
extern template struct Path<3>;

}  // namespace hollow_probe
