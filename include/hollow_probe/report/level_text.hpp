// What a level is made of, and what is odd about it, in words for a terminal.
#pragma once

#include <string>

#include "hollow_probe/io/level_report_json.hpp"
#include "hollow_probe/report/survey_text.hpp"

namespace hollow_probe {

template <int D>
std::string level_text(const Level<D>& level, const LevelReport<D>& report, const IndexFigures& index,
                       const TextOptions& options = {});

}  // namespace hollow_probe
