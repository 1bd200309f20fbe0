// What drills came to, in words, for a terminal.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/motion/outcome.hpp"
#include "hollow_probe/report/survey_text.hpp"

namespace hollow_probe {

/// "culvert-run", and with a phase "culvert-run +1/4".
std::string name_of(const DrillOutcome& outcome);

/// One broken expectation in one sentence: what, by how much, when, where.
std::string broken_sentence(const DrillOutcome& outcome, const Broken& broken);

/// Where a broken expectation began: when, where, which signal, probe, reflex and solid, and the cause.
std::string first_sentence(const DrillOutcome& outcome, const FirstBroken& first);

/// One change and what came of replaying the drill with it.
std::string cure_sentence(const DrillOutcome& outcome, const DrillCure& cure);

/// Where each broken expectation began, and what would mend it; nothing if it was not asked for.
std::string why_text(const DrillOutcome& outcome, const TextOptions& options = {});

/// A table, one row a drill, and below it every broken expectation, who was wrong first, and what mends it.
std::string drill_text(const std::vector<DrillOutcome>& outcomes, const TextOptions& options = {});

/// All figures of one drill that are not nothing.
std::string figures_text(const DrillOutcome& outcome, const TextOptions& options = {});

}  // namespace hollow_probe
