#include "hollow_probe/report/survey_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>

namespace hollow_probe {
namespace {

std::string grouped(std::size_t n) {
    std::string digits = std::to_string(n);
    for (std::size_t i = digits.size(); i > 3; i -= 3) digits.insert(i - 3, ",");
    return digits;
}

std::string poses(std::size_t n) {
    return n == 1 ? "1 pose" : grouped(n) + " poses";
}

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
std::string kind_of_probe(const Rig<D>& rig, const std::string& name) {
    for (const Probe<D>& probe : rig.probes) {
        if (probe.name == name) return std::string(name_of(probe.kind)) + " \"" + name + "\"";
    }
    return "the signal";
}

/// Why it is wrong, as the rest of a sentence.
std::string reason(const CauseReport& cause, const std::string& who, Claim claim) {
    const std::string by = plain(cause.by);
    switch (cause.cause) {
        case CauseKind::reach_short:
            return who + " is too short by " + by;
        case CauseKind::aimed_beside:
            if (cause.parameter == "along") return who + " looks another way than the signal is about";
            return who + " is aimed beside " + (claim == Claim::ground ? "the footing" : "it") +
                   " by up to " + by;
        case CauseKind::layer_unseen:
            return who + " does not see its layer";
        case CauseKind::starts_inside:
            return who + " starts inside a solid" + (cause.by > 0.0 ? ", " + by + " too far forward" : "");
        case CauseKind::angle_refused:
            return who + " refuses its angle, by up to " + by + "°";
        case CauseKind::first_hit_shadowed:
            return who + " stops at a refused first hit that hides it";
        case CauseKind::not_sensed:
            return "it stops the body but no probe can meet it";
        case CauseKind::combined_out:
            return "its combination of probes says no though one senses it";
        case CauseKind::reach_long:
            return who + " reaches too far, by up to " + by;
        case CauseKind::wider_than_body:
            return who + " feels up to " + by + " a side beyond what the body " +
                   (claim == Claim::ground ? "can stand on" : "meets");
        case CauseKind::layer_wrong:
            return who + " sees a layer that does not stop the body";
        case CauseKind::too_steep:
            return who + " accepts what is steeper than footing, by up to " + by + "°";
        case CauseKind::sensed_only:
            return who + " meets what is there for probes alone and stops no body";
        case CauseKind::combined_in:
            return "one probe alone decides where all together would not";
        case CauseKind::gated_off:
            return "another signal that it is gated by says no though its probes sense it";
        case CauseKind::settling:
            return "it has not held for long enough, by up to " + by + " s";
        case CauseKind::muted:
            return "an event still keeps it off, by up to " + by + " s";
        case CauseKind::stepped_over:
            return who + " looks only where the body would arrive, beyond what is in between";
        case CauseKind::not_solid:
            return who + " meets a volume where nothing solid is";
        case CauseKind::own_body:
            return who + " meets the body itself";
        case CauseKind::held:
            return cause.by > 0.0 ? "its grace keeps it on, by up to " + by + " s"
                                  : who + " is kept on by its latch";
        case CauseKind::edge_graze:
            return who + " just brushes an edge, by up to " + by;
        case CauseKind::one_way_side:
            return who + " takes a one-way solid otherwise than the body meets it";
        case CauseKind::stale:
            return cause.probe.empty() ? "it is read before the move, a tick late"
                                       : who + " keeps a flag that is out of date";
        case CauseKind::back_face:
            return who + " takes the back of a surface otherwise than the body does";
        case CauseKind::not_mounted:
            return cause.probe.empty() ? "no probe of it is mounted in this stance"
                                       : who + " is not mounted in this stance";
        case CauseKind::unexplained:
            return "no change that was tried cures it, one alone or up to three";
    }
    return "";
}

std::string effect(const CauseReport& cause, std::size_t count) {
    std::string text = cause.cures == count
                           ? fmt::format("cures all {}", grouped(count))
                           : fmt::format("cures {} of {}", grouped(cause.cures), grouped(count));
    if (cause.cures_elsewhere > 0) text += fmt::format(" and {} elsewhere", grouped(cause.cures_elsewhere));
    text += fmt::format(", adds {} missed, {} false", grouped(cause.adds_missed), grouped(cause.adds_false));
    if (cause.tried < cause.of) text += " (tried at " + grouped(cause.tried) + " poses)";
    return text;
}

/// Every number in a text cut to four decimals.
std::string shorter_numbers(const std::string& text) {
    std::string result;
    for (std::size_t i = 0; i < text.size();) {
        std::size_t end = i;
        while (end < text.size() && (std::isdigit(static_cast<unsigned char>(text[end])) != 0 ||
                                     text[end] == '.' || (end == i && text[end] == '-'))) {
            ++end;
        }
        const std::string word = text.substr(i, end - i);
        const std::size_t point = word.find('.');
        if (point != std::string::npos && word.size() - point > 5) {
            result += fmt::format("{:.4g}", std::round(std::stod(word) * 1e4) / 1e4);
        } else {
            result += end > i ? word : std::string(1, text[i]);
        }
        i = std::max(end, i + 1);
    }
    return result;
}

/// A number rounded to four decimals to the side where it still cures.
std::string safe_number(const CauseReport& cause) {
    const double scaled = cause.needs_number * 1e4;
    const bool up = cause.cause == CauseKind::reach_short || cause.cause == CauseKind::angle_refused;
    const bool down = cause.cause == CauseKind::reach_long || cause.cause == CauseKind::wider_than_body;
    const double rounded = up     ? std::ceil(scaled - 1e-3)
                           : down ? std::floor(scaled + 1e-3)
                                  : std::round(scaled);
    return fmt::format("{:.6g}", rounded / 1e4);
}

std::string change(const CauseReport& cause) {
    const bool number = std::isfinite(cause.needs_number);
    if (cause.parameter == "any" || cause.parameter == "all") {
        return cause.needs.starts_with('[') ? cause.parameter + " = " + cause.needs : cause.needs;
    }
    if (number) return fmt::format("{} {} → {}", cause.parameter, cause.now, safe_number(cause));
    const bool quoted = cause.parameter == "take" || cause.parameter == "if_inside" ||
                        cause.parameter == "keeps" || cause.parameter == "match" ||
                        cause.parameter == "one_way" || cause.parameter == "reads" ||
                        cause.parameter == "along" || cause.parameter == "faces";
    return quoted ? fmt::format("{} = \"{}\"", cause.parameter, cause.needs)
                  : cause.parameter + " = " + shorter_numbers(cause.needs);
}

/// The change, and those to be made along with it.
std::string changes(const CauseReport& cause) {
    std::string text = change(cause);
    for (const CauseReport& further : cause.with)
        text += (further.probe.empty() ? " and " : " and \"" + further.probe + "\" ") + change(further);
    return text;
}

double gain(const CauseReport& cause) {
    return static_cast<double>(cause.cures + cause.cures_elsewhere) -
           static_cast<double>(cause.adds_missed + cause.adds_false);
}

template <int D>
std::string point_text(const Vec<D>& p) {
    std::string text = "(";
    for (int axis = 0; axis < D; ++axis) text += (axis > 0 ? ", " : "") + plain(p[axis]);
    return text + ")";
}

template <int D>
std::string place_text(const Rig<D>& rig, const Survey<D>& survey, const Finding<D>& finding) {
    constexpr std::string_view axes = "xyz";
    std::string text;
    for (int axis = 0; axis < D; ++axis) {
        text += fmt::format("{}{} {} to {}", axis > 0 ? ", " : "", axes[static_cast<std::size_t>(axis)],
                            plain(finding.bounds.low[axis]), plain(finding.bounds.high[axis]));
    }
    const Vec<D>& heading = survey.facings[finding.worst.facing].heading;
    text += "; worst at " + point_text<D>(finding.worst.anchor) + " heading " + point_text<D>(heading);
    if (rig.body.stances.size() > 1) text += ", " + rig.body.stances[finding.stance].name;
    return text + state_words<D>(survey.facings, survey.facings[finding.worst.facing]);
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

/// Where the solid is that a claim is about.
const char* where(Claim claim) {
    switch (claim) {
        case Claim::ground:
        case Claim::drop:
            return "on";
        case Claim::ceiling:
        case Claim::headroom:
            return "under";
        case Claim::wall:
        case Claim::step:
        case Claim::ledge:
        case Claim::blocked:
            return "before";
    }
    return "";
}

/// How far from right it is at worst.
template <int D>
std::string severity_text(const Finding<D>& finding) {
    const bool missed = finding.verdict == Verdict::missed_contact;
    if (!std::isfinite(finding.severity)) return missed ? ", everywhere" : ", far from any";
    return fmt::format(", up to {} {} where it is true", plain(finding.severity),
                       missed ? "inside" : "beyond");
}

template <int D>
std::string finding_sentence(const Rig<D>& rig, const Finding<D>& finding) {
    const std::string claim = name_of(rig.signals[finding.signal].claims);
    const CauseReport& leading = finding.causes.front();
    const bool missed = finding.verdict == Verdict::missed_contact;
    std::string text = missed ? "Misses " + claim : "Falsely signals " + claim;
    if (!finding.solid.empty()) {
        text += std::string(" ") + where(*rig.signals[finding.signal].claims) + " \"" + finding.solid + "\"";
    }
    text += " at " + poses(finding.count) + severity_text(finding) + ": " +
            reason(leading, kind_of_probe(rig, leading.probe), *rig.signals[finding.signal].claims);
    if (leading.parameter.empty()) return text + ".";
    text += "; " + changes(leading) + " " + effect(leading, finding.count) + ".";
    const auto best = std::max_element(finding.causes.begin(), finding.causes.end(),
                                       [](const auto& a, const auto& b) { return gain(a) < gain(b); });
    if (!best->parameter.empty() && best->cures >= leading.cures && gain(*best) > gain(leading)) {
        text +=
            fmt::format(" Better: {}{} {}.", best->probe.empty() ? "" : kind_of_probe(rig, best->probe) + " ",
                        changes(*best), effect(*best, finding.count));
    } else if (leading.cause == CauseKind::aimed_beside && leading.cures < finding.count) {
        text += " No one place serves all sides: a wider cast or several probes would.";
    }
    return text;
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
    out += survey.findings.size() == 1 ? "1 finding:\n"
                                       : fmt::format("{} findings, worst first:\n", survey.findings.size());
    std::size_t shown = 0;
    std::size_t left_out = 0;
    for (const Finding<D>& finding : survey.findings) {
        if (shown++ >= options.most_findings) {
            left_out += finding.count;
            continue;
        }
        const char* code = finding.verdict == Verdict::missed_contact ? orange : purple;
        const std::string mark = finding.verdict == Verdict::missed_contact ? "○" : "×";
        std::string sentence = finding_sentence(rig, finding);
        if (survey.signals.size() > 1) sentence = "\"" + rig.signals[finding.signal].name + "\": " + sentence;
        const std::string indent(11, ' ');
        bool first = true;
        for (const std::string& line : wrapped(sentence, width - indent.size())) {
            out += (first ? "\n" + painted(mark + " " + finding.id, code) + "  " : indent) + line + "\n";
            first = false;
        }
        for (const std::string& line : wrapped(place_text(rig, survey, finding), width - indent.size())) {
            out += indent + line + "\n";
        }
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
template std::string finding_sentence<2>(const Rig<2>&, const Finding<2>&);
template std::string finding_sentence<3>(const Rig<3>&, const Finding<3>&);

}  // namespace hollow_probe
