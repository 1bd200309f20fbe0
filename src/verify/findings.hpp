// Findings: wrong verdicts clustered by place and cause.
#pragma once

#include "verify/fixes.hpp"
#include "verify/samples.hpp"

namespace hollow_probe {

/// What is wrong with a rig, and what could be changed.
template <int D>
struct Explained {
    std::vector<Finding<D>> findings;
    std::vector<Candidate<D>> candidates;
    std::vector<std::size_t> worth;  // numbers of candidates, in the order in which they are worth making
    bool knows_reached = false;
};

/// Proves causes for every wrong verdict, clusters them and tries each cause's change over the whole survey:
/// of the `most_advised` gravest findings. Runs in the calling thread's task arena.
template <int D>
Explained<D> find_findings(const Planned<D>& planned, const Samples<D>& samples, std::size_t most_advised,
                           const std::function<void(double)>& progress);

}  // namespace hollow_probe
