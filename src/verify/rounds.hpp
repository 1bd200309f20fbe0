// What the rounds of a survey have in common, whether it is made at once or in parts.
#pragma once

#include "verify/found_work.hpp"
#include "verify/round_plan.hpp"
#include "verify/samples.hpp"

namespace hollow_probe {

/// How many poses a survey may judge; 0: any number.
std::size_t budget_of(const SurveyOptions& options);

/// A pose is where a scout is read, not where the move ends that it looks along: probes that serve `blocked`
/// alone are read at the pose.
template <int D>
Rig<D> scouts_at_poses(const Rig<D>& rig);

/// What a round came to.
template <int D>
RoundCount count_of(const Samples<D>& samples);

/// The rounds of a survey; only the last where they are not to be told, and there is no budget.
template <int D>
RoundPlan rounds_of(const Planned<D>& planned, const SurveyOptions& options, bool are_told);

/// Makes the round at hand the planned survey's.
template <int D>
void lay_round(Planned<D>& planned, const RoundPlan& plan, const SurveyOptions& options);

/// How closely it looks.
template <int D>
RoundSpec spec_of(const Planned<D>& planned);

}  // namespace hollow_probe
