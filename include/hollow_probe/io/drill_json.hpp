// What drills came to, as JSON: format "hollow-probe drill result 1", described in docs/drill-json.md.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/motion/outcome.hpp"

namespace hollow_probe {

std::string drill_json(const std::vector<DrillOutcome>& outcomes);

}  // namespace hollow_probe
