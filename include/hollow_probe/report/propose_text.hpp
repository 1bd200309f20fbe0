// A proposed rig in words.
#pragma once

#include <string>

#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/study/propose.hpp"

namespace hollow_probe {

/// For each claim the families tried and the one chosen; then what the whole rig comes to.
template <int D>
std::string propose_text(const std::string& title, const Proposal<D>& proposal,
                         const TextOptions& options = {});

}  // namespace hollow_probe
