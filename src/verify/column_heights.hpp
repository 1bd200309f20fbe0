// The heights of a column at which something may change.
#pragma once

#include <vector>

#include "verify/feelers.hpp"
#include "verify/truth_store.hpp"

namespace hollow_probe {

/// One column, seen from the anchor at height 0: what it feels like, and what the body, which is the first
/// feeler of the truths, meets.
struct ColumnHeights {
    FeltHeights felt;
    std::vector<HeightSpan> clipped;  // anchors at which the body clips: apart, ascending
    std::vector<double> rests;        // where the body, lowered, touches some piece; ascending
};

/// What the feelers of truths, which are all that is given, say of a column. `foot` is the column's point at
/// height 0. Heights outside `within` are left out.
template <int D>
ColumnHeights heights_of_column(const Planned<D>& planned, std::size_t facing, const Feelers<D>& feelers,
                                const Vec<D>& foot, const HeightSpan& within);

/// What the feelers of the probes in `wanted` say, by the number of the probe; those of no other feel. What
/// they are inside of does not matter at heights in `taken`, which are apart and ascend: nothing is asked
/// there.
template <int D>
std::vector<FeltHeights> heights_of_probes(const Planned<D>& planned, std::size_t facing,
                                           const Feelers<D>& feelers, const Vec<D>& foot,
                                           const HeightSpan& within, const std::vector<HeightSpan>& taken,
                                           const std::vector<bool>& wanted);

/// Sorts spans and joins those that have a height in common.
void join(std::vector<HeightSpan>& spans);

}  // namespace hollow_probe
