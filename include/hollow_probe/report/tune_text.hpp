// What tuning came to, in words.
#pragma once

#include <string>

#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/study/tune.hpp"

namespace hollow_probe {

/// Setting by setting what it was and is, and how much room there is; then what came of it, and what would be
/// needed for what is left, if that was to be told.
template <int D>
std::string tune_text(const std::string& title, const TunedRig<D>& tuned, const TextOptions& options = {});

}  // namespace hollow_probe
