// What every probe returned at one pose, as JSON: format "hollow-probe readings 1", described in
// docs/survey-json.md.
#pragma once

#include <optional>
#include <string>

#include "hollow_probe/level/level.hpp"
#include "hollow_probe/rig/rig.hpp"
#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// One JSON object and a newline. `judged`: what a survey makes of the pose, as judge_at() gives it: its
/// signals are told, with their verdicts. Throws InvalidInput for a rig that check() refuses.
template <int D>
std::string readings_json(const Level<D>& level, const Rig<D>& rig, const Pose<D>& pose,
                          const std::optional<SurveyPose<D>>& judged = {});

}  // namespace hollow_probe
