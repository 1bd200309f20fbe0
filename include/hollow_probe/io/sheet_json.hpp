// Data sheets as JSON: docs/schemas/data-sheet.schema.json.
#pragma once

#include <optional>
#include <string>

#include "hollow_probe/study/gauge.hpp"

namespace hollow_probe {

/// `microseconds`: what reading took by the clock, where it was measured.
template <int D>
std::string sheet_json(const std::string& rig_name, const DataSheet<D>& sheet,
                       std::optional<double> microseconds = {});

}  // namespace hollow_probe
