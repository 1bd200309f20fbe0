// The heights of a column at which something may change.
#pragma once

#include <vector>

#include "verify/feelers.hpp"

namespace hollow_probe {

/// One column, seen from the anchor at height 0.
struct ColumnHeights {
    std::vector<HeightSpan> clipped;  // anchors at which the body clips: apart, ascending
    std::vector<double> candidates;   // ascending; where something may change
    std::vector<HeightSpan> busy;     // heights at which something may be sensed or true: apart, ascending
    std::vector<double> rests;        // where the body, lowered, touches some piece
};

/// `foot` is the column's point at height 0. Heights outside `within` are left out. What feelers of probes
/// are inside of does not matter at heights in `taken`, which are apart and ascend: nothing is asked there.
template <int D>
ColumnHeights heights_of_column(const Planned<D>& planned, std::size_t facing, const Feelers<D>& feelers,
                                const Vec<D>& foot, const HeightSpan& within,
                                const std::vector<HeightSpan>& taken = {});

/// Sorts spans and joins those that have a height in common.
void join(std::vector<HeightSpan>& spans);

}  // namespace hollow_probe
