// The survey as JSON: format "hollow-probe survey 1", described in docs/survey-json.md.
#pragma once

#include <string>

#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// One JSON object and a newline. The same survey gives the same bytes. `level_name` and `rig_name` are put
/// in as they are.
template <int D>
std::string survey_json(const Level<D>& level, const Rig<D>& rig, const Survey<D>& survey,
                        const std::string& level_name, const std::string& rig_name);

}  // namespace hollow_probe
