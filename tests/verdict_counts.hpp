// How often a survey told each verdict.
#pragma once

#include "hollow_probe/verify/survey.hpp"

namespace scenes {

inline std::size_t poses(const hollow_probe::SignalVerdicts& signal, hollow_probe::Verdict verdict) {
    return signal.poses[static_cast<std::size_t>(verdict)];
}

}  // namespace scenes
