// What a level is made of, and what is odd about it, as JSON: format "hollow-probe level report 1".
#pragma once

#include <string>

#include "hollow_probe/level/inspect.hpp"

namespace hollow_probe {

/// Figures of the index that only a clock can tell.
struct IndexFigures {
    double build_seconds = 0.0;
};

template <int D>
std::string level_report_json(const Level<D>& level, const LevelReport<D>& report, const IndexFigures& index,
                              const std::string& name);

}  // namespace hollow_probe
