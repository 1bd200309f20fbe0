// Columns that a grid misses: beside the corners of the level, and where what a rig feels with passes them.
#pragma once

#include "verify/column.hpp"

namespace hollow_probe {

/// Places beside a corner (one), or along an edge (3D), in order.
template <int D>
using Row = std::vector<Place<D>>;

/// Rows beside every corner and edge of what a facing can meet, and where the rim of the body, or an end of a
/// probe, passes them: just before and just after. Sorted; in 2D by place. At most about `most` places: of
/// more corners and edges every so many are taken; `left_out` is increased by the rest.
template <int D>
std::vector<Row<D>> feature_places(const Planned<D>& planned, std::size_t facing, const ColumnJudge<D>& judge,
                                   std::size_t most, std::size_t& left_out);

}  // namespace hollow_probe
