// Wrong verdicts that are none: within rounding, or within what the intent forgives.
#pragma once

#include "verify/planned.hpp"

namespace hollow_probe {

/// Marks which of a pose's wrong verdicts are undecided, and which are forgiven.
template <int D>
void excuse(const Planned<D>& planned, SurveyPose<D>& pose);

/// Asks rig and truths anew, and excuses: at the pose's own anchor, whatever its interval was found to be.
template <int D>
void judge_anew(const Planned<D>& planned, SurveyPose<D>& pose);

}  // namespace hollow_probe
