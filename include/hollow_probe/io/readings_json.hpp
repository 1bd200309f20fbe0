// What every probe returned at one pose, as JSON: format "hollow-probe readings 1", described in
// docs/survey-json.md.
#pragma once

#include <string>

#include "hollow_probe/level/level.hpp"
#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe {

/// One JSON object and a newline. Throws InvalidInput for a rig that check() refuses.
template <int D>
std::string readings_json(const Level<D>& level, const Rig<D>& rig, const Pose<D>& pose);

}  // namespace hollow_probe
