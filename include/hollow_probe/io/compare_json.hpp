// Rigs side by side as JSON: docs/schemas/comparison.schema.json.
#pragma once

#include <string>

#include "hollow_probe/study/compare.hpp"

namespace hollow_probe {

template <int D>
std::string compare_json(const ComparedRigs<D>& compared);

}  // namespace hollow_probe
