// One pose, judged as a survey judges it.
#pragma once

#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// What a survey finds at one anchor of a facing: what the rig says, having come there as the facing has it,
/// what is true, and which wrong verdicts are undecided or forgiven. The pose stands for no interval and has
/// no measure; its facing is 0. `facing.moment` is left aside: `facing.seconds` says where moving solids are.
/// Throws InvalidInput for a rig that check() refuses, and for layers that the level does not declare.
template <int D>
SurveyPose<D> judge_at(const Level<D>& level, const Rig<D>& rig, const Facing<D>& facing,
                       const Vec<D>& anchor, double tick_seconds = 1.0 / 60.0);

extern template SurveyPose<2> judge_at<2>(const Level<2>&, const Rig<2>&, const Facing<2>&, const Vec<2>&,
                                          double);
extern template SurveyPose<3> judge_at<3>(const Level<3>&, const Rig<3>&, const Facing<3>&, const Vec<3>&,
                                          double);

}  // namespace hollow_probe
