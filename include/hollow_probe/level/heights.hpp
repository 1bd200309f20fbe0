// Heightfields: ground given by its height at the points of a grid.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/level/level.hpp"

namespace hollow_probe {

struct HeightGrid {
    std::size_t columns = 0;
    std::size_t rows = 0;
    std::vector<double> heights;  // columns · rows of them, along the level's up, from `corner`
    double spacing = 1.0;         // between neighbouring points; > 0
};

inline constexpr std::size_t most_heights = 2049UL * 2049UL;

/// Adds the ground as one solid: in 3D a mesh of two triangles a cell, columns along the first axis that up
/// does not lie along, rows along the other; in 2D a polyline through the only row. `corner` is where the
/// first point of the first row lies at height 0. Throws InvalidInput for an up that lies along no axis,
/// fewer than two points along an axis, more than most_heights of them, another count of heights than points,
/// and heights that are not finite.
template <int D>
void add_heights(LevelBuilder<D>& builder, const std::string& name, const std::string& layer,
                 const HeightGrid& grid, const Vec<D>& corner);

}  // namespace hollow_probe
