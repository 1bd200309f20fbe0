// Causes: what change of a rig flips a wrong verdict. Each is a rule in a file of its own.
#pragma once

#include <span>

#include "verify/planned.hpp"
#include "verify/proven_cause.hpp"

namespace hollow_probe {

/// Why one verdict is wrong, and what it is about.
template <int D>
struct Explanation {
    /// Every single change found to flip it, likeliest first; never empty: the last resort is `unexplained`.
    std::vector<ProvenCause<D>> causes;
    int solid = -1;  // missed, or falsely taken for a contact; -1: none
};

template <int D>
class Alternatives;

/// Of the verdict of `signal` at `pose`, which is wrong.
template <int D>
Explanation<D> prove_causes(Alternatives<D>& alternatives, const SurveyPose<D>& pose, std::size_t signal);

/// Two changes, else three, that together flip what no single one does; nothing if none were found.
template <int D>
std::optional<ProvenCause<D>> prove_combined(Alternatives<D>& alternatives, const SurveyPose<D>& pose,
                                             std::size_t signal);

template <int D>
class CauseSearch;

/// A cause that is to be told, with its probe and its amount in words.
struct CauseTold {
    const CauseReport& cause;
    const std::string& who;
    const std::string& by;
    Claim claim;
};

/// When a cause may be meant, which changes would show it, and how it is told: the rest of a sentence.
template <int D>
struct CauseRule {
    CauseKind kind = CauseKind::unexplained;
    std::string (*reason)(const CauseTold&) = nullptr;
    void (*of_probe)(CauseSearch<D>&) = nullptr;   // asked for each probe that may be at fault
    void (*of_signal)(CauseSearch<D>&) = nullptr;  // … and once for the signal
};

/// All of them, in the order in which they are asked. A new cause is a file and a line here.
template <int D>
std::span<const CauseRule<D>> cause_rules();

}  // namespace hollow_probe
