// Grids of cells, as of tile maps and pixel masks, made into solids.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "hollow_probe/level/level.hpp"

namespace hollow_probe {

/// What of a cell is solid. Up is the level's; right is the first axis.
enum class CellShape : std::uint8_t {
    empty,
    full,
    lower_half,
    upper_half,
    left_half,
    right_half,
    rise_right,  // a ramp: the lower right triangle
    rise_left,
    hang_right,  // a sloping ceiling: the upper right triangle
    hang_left,
    one_way,  // the upper side alone, solid to what comes down on it
};

/// One kind of cell; kind 0 of a grid is always empty.
struct CellKind {
    CellShape shape = CellShape::empty;
    std::string layer;
};

/// Cells in rows, the topmost row first, as one reads them. `corner` is the corner of the grid with the
/// lowest coordinates: rows go down where the level's up is +y, and towards +y where it is -y, as in images.
struct CellGrid {
    std::size_t columns = 0;
    std::size_t rows = 0;
    std::vector<std::uint8_t> cells;  // columns · rows of them: which kind
    double size = 1.0;                // of a cell; > 0
    Vec<2> corner = Vec<2>::zero();
};

inline constexpr std::size_t most_cells = 8192UL * 8192UL;

/// Adds the cells to a level as solids: one for each layer and one for the one-way cells of each layer,
/// called `name` if there is just one, else "name (layer)" and "name (layer, one-way)". Full cells are merged
/// to rectangles, one-way cells to segments; their outline stays exactly that of the cells. O(cells). Throws
/// InvalidInput for an up that is not ±y, sizes out of range, another count of cells than there are places,
/// and a grid with nothing solid.
void add_cells(LevelBuilder<2>& builder, const std::string& name, const CellGrid& grid,
               const std::vector<CellKind>& kinds);

}  // namespace hollow_probe
