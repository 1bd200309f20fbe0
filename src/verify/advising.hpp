// From proven causes to advice: which change for which finding.
#pragma once

#include <limits>

#include "verify/findings.hpp"

namespace hollow_probe {

/// A wrong verdict and what was proven to flip it.
template <int D>
struct Wrong {
    std::size_t pose = 0;
    std::size_t signal = 0;
    std::vector<ProvenCause<D>> causes = {};  // likeliest first
    /// The numbers of their keys, in the order of all keys.
    std::vector<std::size_t> keys = {};
    int solid = -1;  // missed, or falsely taken for a contact; -1: none
};

/// As many as are advised of in a last round.
constexpr std::size_t all_findings = std::numeric_limits<std::size_t>::max();
/// Changes are tried at no more poses in rounds before, which are to be told soon.
constexpr std::size_t most_readings_before_last = 2'000;

/// Gives findings their causes, each tried over the whole survey, and collects the changes that may be worth
/// making. `members` are the wrong verdicts of each finding. Only what would cure one of the first
/// `most_advised` findings is tried, and unless that is `all_findings` at fewer poses.
template <int D>
void advise(const Planned<D>& planned, const Samples<D>& samples, const std::vector<Wrong<D>>& wrongs,
            const std::vector<std::vector<std::size_t>>& members, std::size_t most_advised,
            Explained<D>& result);

}  // namespace hollow_probe
