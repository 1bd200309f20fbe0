#include "hollow_probe/report/survey_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>

#include "hollow_probe/report/advice_text.hpp"

namespace hollow_probe {
namespace {

/// Characters a terminal shows, not bytes.
std::size_t shown_width(const std::string& text) {
    return static_cast<std::size_t>(std::count_if(
        text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U; }));
}

/// A ratio rounded so that 1 is shown only where it is exactly 1.
std::string ratio(double x) {
    if (x == 1.0) return "1";
    return fmt::format("{:.4f}", std::floor(x * 1e4) / 1e4);
}

template <int D>
std::string point_text(const Vec<D>& p) {
    std::string text = "(";
    for (int axis = 0; axis < D; ++axis) text += (axis > 0 ? ", " : "") + plain(p[axis]);
    return text + ")";
}

}  // namespace

template <int D>
std::string state_words(const std::vector<Facing<D>>& all, const Facing<D>& facing) {
    std::string text;
    const auto varies = [&](auto differs) {
        return std::any_of(all.begin(), all.end(), [&](const Facing<D>& other) { return differs(other); });
    };
    if (varies([&](const Facing<D>& f) { return f.arrival != facing.arrival; })) {
        static constexpr std::array ways = {"stood there", "walked there", "fallen there", "jumped there"};
        text += std::string(", having ") + ways[static_cast<std::size_t>(facing.arrival)];
        if (!facing.velocity.isZero()) text += " at " + plain(facing.velocity.norm()) + "/s";
    }
    if (varies([&](const Facing<D>& f) { return f.grounded != facing.grounded; }))
        text += facing.grounded ? ", remembering ground" : ", remembering none";
    if (varies([&](const Facing<D>& f) { return f.drive != facing.drive; }) && !facing.drive.isZero())
        text += ", driven towards " + point_text<D>(facing.drive);
    if (varies([&](const Facing<D>& f) { return f.moment != facing.moment; }))
        text += ", at " + plain(facing.seconds) + " s";
    return text;
}

std::string plain(double x) {
    if (std::abs(x) < 5e-10) return "0";  // rounding, not a length
    return fmt::format("{:.4g}", x);
}

std::vector<std::string> wrapped(const std::string& text, std::size_t width) {
    std::vector<std::string> lines;
    std::string line;
    std::size_t start = 0;
    while (start <= text.size()) {
        const std::size_t end = std::min(text.find(' ', start), text.size());
        const std::string word = text.substr(start, end - start);
        if (!line.empty() && shown_width(line) + 1 + shown_width(word) > width) {
            lines.push_back(line);
            line.clear();
        }
        line += (line.empty() ? "" : " ") + word;
        start = end + 1;
    }
    if (!line.empty()) lines.push_back(line);
    return lines;
}

namespace {

/// Anchor space: areas in 2D, volumes in 3D.
std::string measure_text(double measure) {
    return measure > 0.0 && measure < 1e-4 ? "<0.0001" : plain(measure);
}

std::string names_text(const std::vector<std::string>& names) {
    std::string text;
    for (const std::string& name : names) text += (text.empty() ? "\"" : ", \"") + name + "\"";
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
    text += fmt::format(" In {}, {}", names_text(stances),
                        headings.size() == 1 ? "1 heading" : fmt::format("{} headings", headings.size()));
    if (drives.size() > 1) text += fmt::format(", each driven {} ways", drives.size());
    if (states.size() > 1) {
        text += ", having ";
        for (std::size_t i = 0; i < states.size(); ++i)
            text += (i == 0 ? "" : i + 1 == states.size() ? " or " : ", ") + states[i];
    }
    if (times.size() > 1) text += fmt::format(", at {} times", times.size());
    text +=
        fmt::format(": {} heights of one verdict, found by {}.", grouped(survey.judged), poses(survey.asked));
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

template <int D>
std::string survey_text(const Rig<D>& rig, const Survey<D>& survey, const TextOptions& options) {
    const std::size_t width = std::max<std::size_t>(options.width, 60);
    const auto painted = [&](const std::string& text, const char* code) {
        return options.color ? fmt::format("\x1b[{}m{}\x1b[0m", code, text) : text;
    };
    constexpr const char* bold = "1";
    constexpr const char* pale = "2";
    constexpr const char* orange = "38;5;208";
    constexpr const char* purple = "38;5;175";
    std::string out;
    for (const std::string& line : wrapped(scope_text<D>(rig, survey), width)) out += line + "\n";
    std::size_t name_width = 6;
    bool forgives = false;
    for (const SignalVerdicts& signal : survey.signals) {
        name_width = std::max(name_width, shown_width(signal.name));
        forgives = forgives || signal.count(Verdict::forgiven) > 0;
    }
    name_width = std::min<std::size_t>(name_width, 14);
    out += "\n" +
           painted(fmt::format("{:<{}}  {:<8} {:>12} {:>9} {:>9} {:>11} {:>10}{} {:>9} {:>6}",
                               D == 2 ? "area" : "volume", name_width, "claims", "true contact", "missed",
                               "false", "true clear", "undecided", forgives ? "  forgiven" : "", "precision",
                               "recall"),
                   bold) +
           "\n";
    for (const SignalVerdicts& signal : survey.signals) {
        std::string name = signal.name;
        if (shown_width(name) > name_width) name = name.substr(0, name_width - 1) + "…";
        if (!signal.claims) {
            out += fmt::format("{:<{}}  helper\n", name, name_width);
            continue;
        }
        const auto area = [&](Verdict v) { return measure_text(signal.of(v)); };
        const auto wrong = [&](Verdict v, std::size_t column, const char* code) {
            const std::string text = fmt::format("{:>{}}", area(v), column);
            return signal.count(v) > 0 ? painted(text, code) : text;
        };
        out += fmt::format(
            "{:<{}}  {:<8} {:>12} {} {} {:>11} {:>10}{} {:>9} {:>6}\n", name, name_width,
            name_of(signal.claims), area(Verdict::true_contact), wrong(Verdict::missed_contact, 9, orange),
            wrong(Verdict::false_contact, 9, purple), area(Verdict::true_clear), area(Verdict::undecided),
            forgives ? fmt::format(" {:>9}", area(Verdict::forgiven)) : "", ratio(signal.precision()),
            ratio(signal.recall()));
        const auto count = [&](Verdict v) { return grouped(signal.count(v)); };
        out += painted(fmt::format("{:<{}}  {:<8} {:>12} {:>9} {:>9} {:>11} {:>10}{}", "", name_width,
                                   "poses", count(Verdict::true_contact), count(Verdict::missed_contact),
                                   count(Verdict::false_contact), count(Verdict::true_clear),
                                   count(Verdict::undecided),
                                   forgives ? fmt::format(" {:>9}", count(Verdict::forgiven)) : ""),
                       pale) +
               "\n";
    }
    const std::vector<std::string> warnings = untested<D>(survey);
    if (!warnings.empty()) out += "\n";
    for (const std::string& warning : warnings) {
        for (const std::string& line : wrapped(warning, width)) out += line + "\n";
    }
    const bool gives = std::any_of(survey.values.begin(), survey.values.end(),
                                   [](const ValueErrors<D>& v) { return v.value != Value::none; });
    if (gives || !survey.claims.empty()) out += "\n";
    for (std::size_t i = 0; i < survey.values.size(); ++i) {
        const ValueErrors<D>& errors = survey.values[i];
        if (errors.value == Value::none) continue;
        const bool angle = errors.value == Value::slope || errors.value == Value::wall_normal;
        const char* unit = angle ? "°" : "";
        std::string line = fmt::format("\"{}\" gives {}: ", survey.signals[i].name, name_of(errors.value));
        if (errors.poses == 0) {
            line += "at no pose both it and truth have a value.";
        } else {
            line += fmt::format("off by {}{} in the median, {}{} at 95 %, {}{} at worst, at {} ({}).",
                                plain(errors.median), unit, plain(errors.high), unit, plain(errors.worst),
                                unit, point_text<D>(errors.worst_pose.anchor), poses(errors.poses));
        }
        for (const std::string& part : wrapped(line, width)) out += part + "\n";
        for (const std::string& cure : value_cures_text<D>(rig, i, errors)) {
            for (const std::string& part : wrapped(cure, width - 4)) out += "    " + part + "\n";
        }
    }
    for (const ClaimReport<D>& report : survey.claims) {
        std::string line = fmt::format("Claim: {} {} in \"{}\"", report.claim.always ? "always" : "never",
                                       name_of(report.claim.truth), report.claim.area);
        if (report.poses == 0) {
            line += ": no pose was judged there.";
        } else if (!report.first) {
            line += " holds at " + poses(report.poses) + ".";
        } else {
            line += fmt::format(": of {} geometry contradicts it at {}, signals at {}; first at {}.",
                                poses(report.poses), grouped(report.against_geometry),
                                grouped(report.against_signals), point_text<D>(report.first->anchor));
        }
        for (const std::string& part : wrapped(line, width)) out += part + "\n";
    }
    if (survey.signals.empty()) out += "(the rig has no signals: nothing is judged)\n";
    out += "\n";
    if (survey.findings.empty()) {
        out += survey.signals.empty()
                   ? ""
                   : "No finding: every signal agrees with truth wherever the survey looked.\n";
        return out;
    }
    for (const std::string& line : fixes_text<D>(rig, survey, width)) out += line + "\n";
    out += survey.findings.size() == 1 ? "1 finding:\n"
                                       : fmt::format("{} findings, worst first:\n", survey.findings.size());
    std::size_t shown = 0;
    std::size_t left_out = 0;
    bool reached = true;
    for (const Finding<D>& finding : survey.findings) {
        if (reached && !finding.reached && shown < options.most_findings) {
            out += "\n";
            for (const std::string& line : wrapped(unreached_text(rig.intent.moves), width))
                out += painted(line, bold) + "\n";
        }
        reached = finding.reached;
        if (shown++ >= options.most_findings) {
            left_out += finding.count;
            continue;
        }
        const char* code = finding.verdict == Verdict::missed_contact ? orange : purple;
        const std::string mark = finding.verdict == Verdict::missed_contact ? "○" : "×";
        std::string sentence = finding_sentence<D>(rig, finding);
        if (survey.signals.size() > 1) sentence = "\"" + rig.signals[finding.signal].name + "\": " + sentence;
        const std::string indent(11, ' ');
        bool first = true;
        for (const std::string& line : wrapped(sentence, width - indent.size())) {
            out += (first ? "\n" + painted(mark + " " + finding.id, code) + "  " : indent) + line + "\n";
            first = false;
        }
        for (const std::string& line : wrapped(place_text<D>(rig, survey, finding), width - indent.size()))
            out += indent + line + "\n";
        if (options.level_file.empty() || options.rig_file.empty()) continue;
        const Facing<D>& facing = survey.facings[finding.worst.facing];
        // In one piece: it is there to be copied.
        out +=
            indent +
            painted(draw_command<D>(options.level_file, options.rig_file, rig, facing, finding.worst.anchor),
                    pale) +
            "\n";
    }
    if (left_out > 0) {
        out += fmt::format("\n… and {} smaller findings, {} in all; --json has every one.\n",
                           survey.findings.size() - options.most_findings, poses(left_out));
    }
    return out;
}

template std::string scope_text<2>(const Rig<2>&, const Survey<2>&);
template std::string scope_text<3>(const Rig<3>&, const Survey<3>&);
template std::vector<std::string> untested<2>(const Survey<2>&);
template std::vector<std::string> untested<3>(const Survey<3>&);
template std::string state_words<2>(const std::vector<Facing<2>>&, const Facing<2>&);
template std::string state_words<3>(const std::vector<Facing<3>>&, const Facing<3>&);
template std::string survey_text<2>(const Rig<2>&, const Survey<2>&, const TextOptions&);
template std::string survey_text<3>(const Rig<3>&, const Survey<3>&, const TextOptions&);

}  // namespace hollow_probe
