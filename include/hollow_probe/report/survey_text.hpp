// The survey in words, for a terminal.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

struct TextOptions {
    std::size_t width = 100;         // columns; at least 60
    bool color = false;              // ANSI colours
    std::size_t most_findings = 12;  // shown; the rest are counted
    /// Under each finding stands the command that draws it, if both files are named.
    std::string level_file = {};
    std::string rig_file = {};
};

/// The verdict table, what to change, then the findings, worst first, each in one sentence.
template <int D>
std::string survey_text(const Rig<D>& rig, const Survey<D>& survey, const TextOptions& options = {});

/// What a survey looked at: heights, columns, states, times; what was left out and why.
template <int D>
std::string scope_text(const Rig<D>& rig, const Survey<D>& survey);

/// Claims that were never put to the test, and probes that were on nowhere or everywhere: a line each.
template <int D>
std::vector<std::string> untested(const Survey<D>& survey);

/// What of a body's state a survey varied, as it was at one facing: ", having walked there at 3/s", or
/// nothing.
template <int D>
std::string state_words(const std::vector<Facing<D>>& all, const Facing<D>& facing);

/// Text broken into lines of at most `width` characters at spaces; a longer word stays whole.
std::vector<std::string> wrapped(const std::string& text, std::size_t width);

/// A number for people: four significant digits, no trailing zeros; from 10,000 on whole.
std::string plain(double x);

/// What a round that is not the last came to: its table and leading fixes, in lines.
template <int D>
std::string round_text(const Rig<D>& rig, const Survey<D>& survey, const TextOptions& options);

}  // namespace hollow_probe
