// What to change: the changes worth making, each surveyed anew.
#pragma once

#include "verify/planned.hpp"
#include "verify/trials.hpp"

namespace hollow_probe {

/// A change that may be worth making, and what it does at the poses judged.
template <int D>
struct Candidate {
    ProvenCause<D> cause;
    std::size_t signal = 0;
    CauseReport report;                   // counted over all findings
    typename Trials<D>::Outcome outcome;  // at all poses tried
    std::vector<std::size_t> findings;    // that it cures, in part at least
    std::vector<std::size_t> whole;       // … wholly
};

/// Of the candidates those worth making: the one of the greatest gain first, then whatever gains most on what
/// those before have left wrong. Numbers of candidates.
template <int D>
std::vector<std::size_t> worth_making(const Trials<D>& trials, const std::vector<Candidate<D>>& candidates);

/// How wrong a rig is that was surveyed.
Wrongness wrongness_of(const std::vector<SignalVerdicts>& signals);

/// Gives a survey its fixes: surveys each changed rig anew, drops what does not make the rig less wrong,
/// orders the others by what came of it, and looks for the best set, greedily. `survey_anew(rig)` tells how
/// wrong a rig is, or throws InvalidInput for one that cannot be.
template <int D>
void find_fixes(const Planned<D>& planned, std::vector<Candidate<D>> candidates,
                const std::vector<std::size_t>& worth, std::size_t most_tried,
                const std::function<Wrongness(const Rig<D>&)>& survey_anew, Survey<D>& result);

}  // namespace hollow_probe
