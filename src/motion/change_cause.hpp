// What a change that mends a drill says was wrong, by the names that surveys give to causes.
#pragma once

#include "hollow_probe/motion/drill_cures.hpp"
#include "hollow_probe/verify/advice.hpp"

namespace hollow_probe {

/// Of a change by its key, and which way it goes: `step` is the new number less the old one, 0 for choices;
/// `farther` is by how much a line that starts elsewhere ends farther along its own way. Nothing for what
/// surveys have no name for: what a reflex does, and how.
std::optional<CauseKind> cause_of(const DrillCure& cure, double step, double farther);

}  // namespace hollow_probe
