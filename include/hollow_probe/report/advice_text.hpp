// Findings and fixes in words.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// One finding in one sentence: what is wrong, why, and what cures it.
template <int D>
std::string finding_sentence(const Rig<D>& rig, const Finding<D>& finding);

/// What brings the values of a signal nearer to truth, a line a change, best first.
template <int D>
std::vector<std::string> value_cures_text(const Rig<D>& rig, std::size_t signal,
                                          const ValueErrors<D>& errors);

/// "Not reached from a start by walking, steps and falls:", with the jumps there are.
std::string unreached_text(const Moves& moves);

/// Where a finding is, and its worst pose.
template <int D>
std::string place_text(const Rig<D>& rig, const Survey<D>& survey, const Finding<D>& finding);

/// A change in words: `probe "sole": reach 0.42 → 0.456`.
std::string change_text(const CauseReport& change);

/// What came of a change: `missed 31 % → 4 %, false 0 → 0.2 %`.
std::string promise_text(const Wrongness& before, const Wrongness& after);

/// What to change, best first, in lines of at most `width` characters; nothing where there is no finding.
template <int D>
std::vector<std::string> fixes_text(const Rig<D>& rig, const Survey<D>& survey, std::size_t width);

/// The gravest of what a survey finds wrong, and what it would need, in lines of at most `width` characters.
template <int D>
std::string left_text(const Rig<D>& rig, const Survey<D>& survey, std::size_t width);

/// The command that draws a body as it was at a facing, and what its rig reads there: typed back it gives the
/// same verdict, but for what a rig remembers of ticks before.
template <int D>
std::string draw_command(const std::string& level_file, const std::string& rig_file, const Rig<D>& rig,
                         const Facing<D>& facing, const Vec<D>& anchor);

/// As a shell takes it for one word.
std::string shell_word(const std::string& text);

/// Digits in groups of three; "1 pose", "1,204 poses".
std::string grouped(std::size_t n);
std::string poses(std::size_t n);

}  // namespace hollow_probe
