#include "hollow_probe/level/heights.hpp"

#include <algorithm>

#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {

template <int D>
void add_heights(LevelBuilder<D>& builder, const std::string& name, const std::string& layer,
                 const HeightGrid& grid, const Vec<D>& corner) {
    const Vec<D>& up = builder.up();
    std::array<Vec<D>, D - 1> across;
    int found = 0;
    for (int axis = 0; axis < D; ++axis) {
        if (std::abs(up[axis]) > tolerance::direction) continue;
        if (found < D - 1) across[found] = Vec<D>::unit(axis);
        ++found;
    }
    if (found != D - 1) throw InvalidInput("a heightfield needs an up along one of the axes");
    const std::size_t fewest_rows = D == 2 ? 1 : 2;
    if (grid.columns < 2 || grid.rows < fewest_rows || (D == 2 && grid.rows > 1)) {
        throw InvalidInput("a heightfield of " + std::to_string(grid.columns) + " by " +
                           std::to_string(grid.rows) + " points: expected at least 2 by " +
                           (D == 2 ? "exactly 1 in a 2D level" : "2 in a 3D level"));
    }
    if (grid.columns > most_heights / grid.rows) {
        throw InvalidInput("a heightfield of more than " + std::to_string(most_heights) + " points");
    }
    if (!(grid.spacing > 0.0) || !std::isfinite(grid.spacing) ||
        !std::all_of(grid.heights.begin(), grid.heights.end(), [](double h) { return std::isfinite(h); })) {
        throw InvalidInput("a heightfield needs a spacing of more than 0, and finite heights");
    }
    if (grid.heights.size() != grid.columns * grid.rows)
        throw InvalidInput("a heightfield of " + std::to_string(grid.columns) + " by " +
                           std::to_string(grid.rows) + " points has " + std::to_string(grid.heights.size()) +
                           " heights");
    std::vector<Vec<D>> points;
    points.reserve(grid.heights.size());
    for (std::size_t row = 0; row < grid.rows; ++row) {
        for (std::size_t column = 0; column < grid.columns; ++column) {
            Vec<D> p = corner + grid.spacing * static_cast<double>(column) * across[0] +
                       grid.heights[row * grid.columns + column] * up;
            if constexpr (D == 3) p += grid.spacing * static_cast<double>(row) * across[1];
            points.push_back(p);
        }
    }
    if constexpr (D == 2) {
        builder.add_polyline(name, layer, points);
    } else {
        // Seen from above, counter-clockwise.
        const bool turns_right = across[0].cross(across[1]).dot(up) < 0.0;
        std::vector<std::array<std::uint32_t, 3>> triangles;
        const auto at = [&](std::size_t row, std::size_t column) {
            return static_cast<std::uint32_t>(row * grid.columns + column);
        };
        const auto add = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c) {
            triangles.push_back(turns_right ? std::array{a, c, b} : std::array{a, b, c});
        };
        for (std::size_t row = 0; row + 1 < grid.rows; ++row) {
            for (std::size_t column = 0; column + 1 < grid.columns; ++column) {
                add(at(row, column), at(row, column + 1), at(row + 1, column));
                add(at(row + 1, column), at(row, column + 1), at(row + 1, column + 1));
            }
        }
        builder.add_mesh(name, layer, points, triangles);
    }
}

template void add_heights<2>(LevelBuilder<2>&, const std::string&, const std::string&, const HeightGrid&,
                             const Vec<2>&);
template void add_heights<3>(LevelBuilder<3>&, const std::string&, const std::string&, const HeightGrid&,
                             const Vec<3>&);

}  // namespace hollow_probe
