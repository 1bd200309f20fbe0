// Columns that a grid misses: beside the corners of the level, and where what a rig feels with passes them.
#pragma once

#include <limits>

#include "verify/feelers.hpp"

namespace hollow_probe {

/// Places beside a corner (one), or along an edge (3D), in order.
template <int D>
using Row = std::vector<Place<D>>;

/// Rows beside every corner and edge of what a facing can meet, and where the rim of the body, or an end of a
/// probe, passes them: just before and just after. At most a quarter more than `most` places. Of too many
/// corners and edges some are taken, evenly or by chance, the same each time; of too many places beside them,
/// too. Throws InvalidInput where all are wanted and these come to more than 50 million.
template <int D>
struct FeaturePlaces {
    static constexpr std::size_t every_one = std::numeric_limits<std::size_t>::max() / 64;

    FeaturePlaces(const Planned<D>& planned, std::size_t facing, std::size_t most);

    std::vector<Row<D>> rows;  // sorted; in 2D by place
    std::size_t left_out = 0;  // corners and edges; where some are taken by chance about so many
};

extern template struct FeaturePlaces<2>;
extern template struct FeaturePlaces<3>;

}  // namespace hollow_probe
