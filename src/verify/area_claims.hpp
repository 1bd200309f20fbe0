// Truths stated by hand, held against geometry and signals.
#pragma once

#include "verify/samples.hpp"

namespace hollow_probe {

/// One report for each claim of the level.
template <int D>
std::vector<ClaimReport<D>> judge_claims(const Planned<D>& planned, const Samples<D>& samples);

}  // namespace hollow_probe
