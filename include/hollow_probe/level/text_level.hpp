// Small 2D levels written as text, one character a cell, for tests and sketches.
#pragma once

#include <string_view>

#include "hollow_probe/level/level.hpp"

namespace hollow_probe {

/// Builds a 2D level from text; rows go down, the bottom row's lower edge is y = 0, the first column starts
/// at x = 0, cells are squares of size `cell`.
///
///     const Level<2> level = level_from_text("....\n"
///                                            "....\n"
///                                            "##/.");
///
/// '#' is solid, '/' and '\' are half cells rising to the right and to the left, '.' and ' ' are empty. A
/// letter a-z is a solid cell on the layer of that name. '#', '/' and '\' are on layer "solid". Runs of solid
/// cells in a row become one box. Throws InvalidInput naming row and column for any other character, and for
/// text without a solid cell.
Level<2> level_from_text(std::string_view rows, double cell = 1.0);

}  // namespace hollow_probe
