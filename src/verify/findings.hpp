// Findings: wrong verdicts clustered by place and cause.
#pragma once

#include "verify/samples.hpp"

namespace hollow_probe {

/// Proves causes for every wrong verdict, clusters them and tries each finding's cures over all poses. Runs
/// in the calling thread's task arena.
template <int D>
std::vector<Finding<D>> find_findings(const Surveyed<D>& surveyed, const Samples<D>& samples,
                                      const std::function<void(double)>& progress);

}  // namespace hollow_probe
