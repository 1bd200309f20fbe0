// Several rays or casts in one probe: side by side, fanned out, in a ring, in a grid.
#pragma once

#include <array>
#include <cstddef>
#include <vector>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

enum class SpreadKind {
    none,
    row,   // `count` starts evenly over `width`, the outermost at its ends, around `from`
    fan,   // `count` directions evenly over `degrees`, from one start, around `along`
    ring,  // 3D: `count` starts evenly around a circle of `radius` around `from`, across `along`
    grid,  // 3D: `counts` starts evenly over `size`, around `from`, across `along`
};

/// The axis a row lies along or a fan turns around.
enum class SpreadAxis { standard, forward, up, right };

/// The probe is on when at least `least` of its lines are, and reads the nearest hit of those that are on.
struct Spread {
    SpreadKind kind = SpreadKind::none;
    int count = 1;         // row, fan, ring: at least 2
    double width = 0.0;    // row: > 0
    double degrees = 0.0;  // fan: > 0, at most 360; a full turn spaces its directions evenly around
    double radius = 0.0;   // ring: > 0
    std::array<int, 2> counts = {1, 1};  // grid: each at least 1
    std::array<double, 2> size = {};     // grid: each >= 0
    /// Row: standard is forward for what runs along up, else (2D) up or (3D) right. Fan, 3D: standard is up
    /// for what runs across up, else right.
    SpreadAxis axis = SpreadAxis::standard;
    int least = 1;  // lines that must be on, 1 to line_count()

    [[nodiscard]] int line_count() const;
};

/// One line of a probe in body coordinates.
template <int D>
struct ProbeLine {
    Vec<D> from = Vec<D>::zero();
    Vec<D> along = Vec<D>::zero();
};

inline constexpr int most_lines = 64;  // in one spread

/// The lines of a probe that starts at `from` and runs along unit `along`; one for no spread. `lines` keeps
/// its memory: called again for another direction of the same spread it allocates nothing.
template <int D>
void spread_lines(const Spread& spread, const Vec<D>& from, const Vec<D>& along,
                  std::vector<ProbeLine<D>>& lines);

}  // namespace hollow_probe
