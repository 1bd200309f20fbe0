// What tuning came to, as JSON: docs/schemas/tuning.schema.json.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/study/front.hpp"

namespace hollow_probe {

template <int D>
std::string tune_json(const std::vector<std::string>& levels, const std::string& rig,
                      const TunedRig<D>& tuned);

/// docs/schemas/tuning-front.schema.json.
template <int D>
std::string front_json(const std::vector<std::string>& levels, const std::string& rig,
                       const TuningFront<D>& front);

}  // namespace hollow_probe
