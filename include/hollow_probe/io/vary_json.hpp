// Curves over settings as JSON.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/study/vary.hpp"

namespace hollow_probe {

std::string vary_json(const std::string& title, const std::vector<VaryMapRow>& map);

}  // namespace hollow_probe
