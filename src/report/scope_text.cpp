// What a survey looked at, and what it did not.
#include <fmt/format.h>

#include <algorithm>

#include "hollow_probe/report/advice_text.hpp"
#include "hollow_probe/report/survey_text.hpp"

namespace hollow_probe {
namespace {

std::string names_text(const std::vector<std::string>& names) {
    std::string text;
    for (const std::string& name : names) text += (text.empty() ? "\"" : ", \"") + name + "\"";
    return text;
}

}  // namespace

namespace {

/// In which stances, headings, states and at which times; `stances` become those that were surveyed.
template <int D>
std::string facings_text(const Rig<D>& rig, const Survey<D>& survey, std::vector<std::string>& stances) {
    std::vector<std::string> states;
    std::vector<double> times;
    std::vector<Vec<D>> headings;
    std::vector<Vec<D>> drives;  // of one heading
    for (const Facing<D>& facing : survey.facings) {
        const auto add = [](auto& list, const auto& value) {
            if (std::find(list.begin(), list.end(), value) == list.end()) list.push_back(value);
        };
        add(stances, rig.body.stances[facing.stance].name);
        add(states, std::string(name_of(facing.arrival)));
        add(times, facing.seconds);
        add(headings, facing.heading);
        if (facing.heading == headings.front()) add(drives, facing.drive);
    }
    std::string text =
        fmt::format(" In {}, {}", names_text(stances),
                    headings.size() == 1 ? "1 heading" : fmt::format("{} headings", headings.size()));
    if (survey.scope.facings_alike > 0) {
        const bool all =
            survey.scope.facings_alike * headings.size() == survey.facings.size() * (headings.size() - 1);
        text += all ? " that are alike to this rig (one was walked over for all)"
                    : ", some of which are alike to this rig (one was walked over for those)";
    }
    if (drives.size() > 1) text += fmt::format(", each driven {} ways", drives.size());
    if (states.size() > 1) {
        text += ", having ";
        for (std::size_t i = 0; i < states.size(); ++i)
            text += (i == 0 ? "" : i + 1 == states.size() ? " or " : ", ") + states[i];
    }
    if (times.size() > 1) text += fmt::format(", at {} times", times.size());
    return text;
}

template <int D>
std::string rounds_text(const Survey<D>& survey) {
    std::string text;
    if (survey.rounds.size() > 1) {
        text += fmt::format(" In {} rounds, of ", survey.rounds.size());
        for (std::size_t i = 0; i < survey.rounds.size(); ++i)
            text += (i == 0                          ? ""
                     : i + 1 == survey.rounds.size() ? " and "
                                                     : ", ") +
                    grouped(survey.rounds[i].poses);
        text += " poses.";
    }
    if (survey.end == SurveyEnd::budget)
        text += " The budget ended it before the finest spacing: --thorough looks closer.";
    return text;
}

}  // namespace

/// What was looked at, and what was left out and why.
template <int D>
std::string scope_text(const Rig<D>& rig, const Survey<D>& survey) {
    const SurveyScope& scope = survey.scope;
    std::string text = fmt::format(
        "Judged whole columns from {} to {} along up: {} on a grid of spacing {}, {} at borders, {} beside "
        "corners "
        "and edges.",
        plain(scope.lowest), plain(scope.highest), grouped(scope.grid_columns), plain(survey.spacing),
        grouped(scope.border_columns), grouped(scope.corner_columns));
    std::vector<std::string> stances;
    text += facings_text<D>(rig, survey, stances);
    text +=
        fmt::format(": {} heights of one verdict, found by {}.", grouped(survey.judged), poses(survey.asked));
    text += rounds_text<D>(survey);
    if (survey.end == SurveyEnd::stopped)
        text = "Unfinished: interrupted after round " + std::to_string(survey.rounds.size()) +
               ", which is what follows. " + text;
    std::vector<std::string> left_out;
    for (const Stance<D>& stance : rig.body.stances) {
        if (std::find(stances.begin(), stances.end(), stance.name) == stances.end())
            left_out.push_back(stance.name);
    }
    if (!left_out.empty()) text += " Left out: stance " + names_text(left_out) + ", not asked for.";
    if (!scope.enclosed.empty())
        text += fmt::format(" Left out: the inside of {}, closed, with no start in it.",
                            names_text(scope.enclosed));
    if (!scope.entered.empty())
        text += fmt::format(" The inside of {} is surveyed: a start lies in it.", names_text(scope.entered));
    if (scope.corners_left_out > 0)
        text += fmt::format(" {} corners and edges have no columns of their own: there are too many.",
                            grouped(scope.corners_left_out));
    if (survey.wrong_kept_of > 1 || survey.right_kept_of > 1) {
        text += fmt::format(
            " For findings and cures 1 in {} of the wrong poses was kept and 1 in {} of the others.",
            survey.wrong_kept_of, survey.right_kept_of);
    }
    return text;
}

/// What was never put to the test, and probes that tell nothing.
template <int D>
std::vector<std::string> untested(const Survey<D>& survey) {
    std::vector<std::string> lines;
    for (const SignalVerdicts& signal : survey.signals) {
        if (signal.claims && !signal.put_to_test())
            lines.push_back(fmt::format("\"{}\" was never put to the test: nowhere was there a true {}.",
                                        signal.name, name_of(signal.claims)));
    }
    for (const std::string& warning : survey.scope.warnings) lines.push_back("Warning: " + warning + ".");
    if (!survey.scope.odd.empty()) {
        constexpr std::size_t most = 3;
        std::string line = "Odd surfaces: ";
        for (std::size_t i = 0; i < std::min(most, survey.scope.odd.size()); ++i)
            line += (i > 0 ? "; " : "") + survey.scope.odd[i];
        if (survey.scope.odd.size() > most)
            line += fmt::format("; and {} more solids", survey.scope.odd.size() - most);
        lines.push_back(line + ". `hollow-probe level` tells where.");
    }
    for (const std::string& probe : survey.scope.never_on)
        lines.push_back(fmt::format("Probe \"{}\" was on nowhere.", probe));
    for (const std::string& probe : survey.scope.never_off)
        lines.push_back(fmt::format("Probe \"{}\" was on everywhere it was read.", probe));
    return lines;
}

template std::string scope_text<2>(const Rig<2>&, const Survey<2>&);
template std::string scope_text<3>(const Rig<3>&, const Survey<3>&);
template std::vector<std::string> untested<2>(const Survey<2>&);
template std::vector<std::string> untested<3>(const Survey<3>&);

}  // namespace hollow_probe
