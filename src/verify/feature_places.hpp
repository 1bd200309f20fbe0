// Columns that a grid misses: beside the corners of the level, and where what a rig feels with passes them.
#pragma once

#include "verify/column.hpp"

namespace hollow_probe {

/// Places beside every corner and (3D) along every edge of what a facing can meet, and where the rim of the
/// body, or an end of a probe, passes them: just before and just after. Sorted; in 2D by place. At most about
/// `most`: of more corners every so many are taken; `left_out` is increased by the rest.
template <int D>
std::vector<Place<D>> feature_places(const Surveyed<D>& surveyed, std::size_t facing,
                                     const ColumnJudge<D>& judge, std::size_t most, std::size_t& left_out);

}  // namespace hollow_probe
