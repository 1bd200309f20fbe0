// Columns that a grid misses: beside corners of the level, and where the body's rim passes them.
#pragma once

#include "verify/surveyed.hpp"

namespace hollow_probe {

/// Lips, seams, step noses and wall feet are all corners of pieces. At most about `most_columns`: of more
/// corners every so many are taken.
template <int D>
std::vector<Place<D>> feature_places(const Surveyed<D>& surveyed, std::size_t most_columns);

}  // namespace hollow_probe
