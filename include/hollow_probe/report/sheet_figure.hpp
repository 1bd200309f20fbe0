// The figure of a data sheet: each line a strip, on above intended.
#pragma once

#include <string>

#include "hollow_probe/study/gauge.hpp"

namespace hollow_probe {

/// An image of 1280 × 800 (taller where there are more than 44 lines): for each line where the signal is on,
/// where it is meant to be, and what is missed and false between. `file_name` must end in .svg or .png.
template <int D>
std::string sheet_figure(const std::string& rig_name, const DataSheet<D>& sheet,
                         const std::string& file_name);

/// … of response curves by themselves.
std::string response_figure(const std::string& title, const std::vector<SheetRow>& rows,
                            const std::string& file_name);

}  // namespace hollow_probe
