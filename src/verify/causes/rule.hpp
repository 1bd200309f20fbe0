// What each cause's file begins with.
#pragma once

#include "verify/causes/cause_search.hpp"
#include "verify/causes/causes.hpp"
#include "verify/causes/ranks.hpp"

namespace hollow_probe {

/// A shape made smaller keeps a tenth of its size: less is no probe.
inline constexpr double most_lost = 0.9;

}  // namespace hollow_probe
