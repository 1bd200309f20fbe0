// Data sheets and response curves in words, for a terminal.
#pragma once

#include <string>

#include "hollow_probe/study/gauge.hpp"

namespace hollow_probe {

/// A value of a dimension with its unit: "45°", "0.32", "3.2/s".
std::string value_text(double value, Unit unit);

/// Stretches of a dimension: "0 to 45°", "never", "everywhere", "0.05 to 0.35 and 1 to 1.2".
std::string stretches_text(const std::vector<Stretch>& stretches, const FixtureAxis& axis);

/// What is wrong at a curve, each way: "○ 0.12", "× 15°", "○ 0.1 × 0.2"; "right" where nothing is.
std::string wrong_text(const ResponseCurve& curve, const FixtureAxis& axis);

/// The limits, the intended ones beside them, and what lies between; then latencies and what reading costs.
template <int D>
std::string sheet_text(const std::string& rig_name, const DataSheet<D>& sheet);

/// Rows of one fixture, turn by turn.
std::string response_text(const std::vector<SheetRow>& rows);

}  // namespace hollow_probe
