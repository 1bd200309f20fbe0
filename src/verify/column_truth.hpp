// What is true over the height of one column.
#pragma once

#include <vector>

#include "hollow_probe/rig/number_set.hpp"
#include "verify/stretches.hpp"

namespace hollow_probe {

struct TruthState {
    SignalSet on;  // signals whose claim is true; helpers have none
    bool clips = false;
    bool hangs_on_way = false;  // as of SignalTruths; of no account once a column is found
    bool hangs_on_top = false;  // likewise

    bool operator==(const TruthState& other) const { return on == other.on && clips == other.clips; }
};

/// What is true over the height of one column, the anchor being there.
struct TruthColumn {
    std::vector<HeightSpan> taken;   // where no pose is judged: the body clips, or is inside of a closed mesh
    std::vector<HeightSpan> busy;    // where something may be met or true; apart, ascending
    std::vector<double> rests;       // where the body, lowered, touches some piece; ascending
    bool has_candidates = false;     // only of rigs that are told by them:
    std::vector<double> candidates;  // where something may change, ascending
    std::vector<Stretch<TruthState>> stretches;  // of what is busy and not taken; ascending
    TruthState idle;                             // elsewhere
    std::size_t asked = 0;                       // heights
};

}  // namespace hollow_probe
