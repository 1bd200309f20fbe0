// Results as one self-contained HTML page: no script, no network, opens from disk.
#pragma once

#include <string>

#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// A page with a title and an SVG figure (as draw_figure gives it for a name in .svg), and words below it as
/// they stand.
std::string figure_page(const std::string& title, const std::string& svg, const std::string& words = "");

/// A page with the survey's figure, verdict table and every finding with all its proven causes.
template <int D>
std::string survey_page(const Level<D>& level, const Rig<D>& rig, const Survey<D>& survey,
                        const std::string& level_name, const std::string& rig_name);

}  // namespace hollow_probe
