// The columns a survey lowers the body in: a regular grid across up.
#pragma once

#include <array>

#include "hollow_probe/level/level.hpp"

namespace hollow_probe {

/// No more stand on a grid, or beside corners and edges.
constexpr double most_columns = 50e6;

/// Up and the directions across it. In 2D `across` is to the right of up; in 3D they are the x and z axes
/// carried along by the least turn that takes +y to up, so that a turned level gets a turned grid.
template <int D>
struct LevelAxes {
    explicit LevelAxes(const Vec<D>& up);

    Vec<D> up;
    std::array<Vec<D>, D - 1> across;
};

/// Coordinates along LevelAxes::across.
template <int D>
using Place = VecOf<D - 1, double>;

/// From where to where along each of the directions across.
template <int D>
using Extents = std::array<std::array<double, 2>, D - 1>;

template <int D>
struct Grid {
    /// Covers the extents given along each axis. Throws InvalidInput for more than 50 million columns.
    Grid(const LevelAxes<D>& axes, const Extents<D>& extents, double spacing, std::uint64_t seed);

    LevelAxes<D> axes;
    double spacing;
    Place<D> first;
    std::array<std::size_t, D - 1> counts;  // columns along each axis

    [[nodiscard]] std::size_t column_count() const;
    [[nodiscard]] std::size_t stride(std::size_t axis) const { return axis == 0 ? 1 : counts[0]; }
    [[nodiscard]] Place<D> place(std::size_t column) const;
    /// Whether column has a neighbour at column + stride(axis).
    [[nodiscard]] bool has_next(std::size_t column, std::size_t axis) const;
    [[nodiscard]] Vec<D> point(const Place<D>& place, double height) const;
};

}  // namespace hollow_probe
