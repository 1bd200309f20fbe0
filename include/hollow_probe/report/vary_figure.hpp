// How wrong a rig is over a setting, as a figure.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/study/vary.hpp"

namespace hollow_probe {

/// An image of 1280 × 800: of one curve what is missed and false over the setting, and where nothing is
/// wrong; of several a map, darker where more is wrong. `file_name` must end in .svg or .png.
std::string vary_figure(const std::string& title, const std::vector<VaryMapRow>& map,
                        const std::string& file_name);

}  // namespace hollow_probe
