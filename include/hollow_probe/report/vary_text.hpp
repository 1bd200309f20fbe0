// How wrong a rig is over a setting, in words.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/study/vary.hpp"

namespace hollow_probe {

/// One curve: a table of values and where nothing is wrong. Several: a line each.
std::string vary_text(const std::string& title, const std::vector<VaryMapRow>& map,
                      const TextOptions& options = {});

}  // namespace hollow_probe
