#include "hollow_probe/report/advice_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "hollow_probe/report/survey_text.hpp"
#include "report/words.hpp"

namespace hollow_probe {

std::string grouped(std::size_t n) {
    std::string digits = std::to_string(n);
    for (std::size_t i = digits.size(); i > 3; i -= 3) digits.insert(i - 3, ",");
    return digits;
}

std::string poses(std::size_t n) {
    return n == 1 ? "1 pose" : grouped(n) + " poses";
}

std::string shell_word(const std::string& text) {
    const bool is_plain = !text.empty() && std::all_of(text.begin(), text.end(), [](char c) {
        return std::isalnum(static_cast<unsigned char>(c)) != 0 ||
               std::string_view("/._-+=,").find(c) != std::string_view::npos;
    });
    if (is_plain) return text;
    std::string result = "'";
    for (const char c : text) result += c == '\'' ? std::string("'\\''") : std::string(1, c);
    return result + "'";
}

namespace {

template <int D>
std::string kind_of_probe(const Rig<D>& rig, const std::string& name) {
    for (const Probe<D>& probe : rig.probes) {
        if (probe.name == name) return std::string(name_of(probe.kind())) + " \"" + name + "\"";
    }
    return "the signal";
}

/// Why it is wrong, as the rest of a sentence.
std::string reason(const CauseReport& cause, const std::string& who, Claim claim) {
    return reason_of(cause, who, plain(cause.by), claim);
}

std::string effect(const CauseReport& cause, std::size_t count) {
    std::string text = cause.cures >= count
                           ? fmt::format("cures all {}", grouped(count))
                           : fmt::format("cures {} of {}", grouped(cause.cures), grouped(count));
    if (cause.cures_elsewhere > 0) text += fmt::format(" and {} elsewhere", grouped(cause.cures_elsewhere));
    // Where verdicts change is told to within a part of an interval; poses are one for each.
    const bool only_beside =
        cause.adds_missed + cause.adds_false == 0 && !cause.helps() && cause.spoils > 0.0;
    text += only_beside ? fmt::format(", but spoils {} beside them, by measure", measure_text(cause.spoils))
                        : fmt::format(", adds {} missed, {} false", grouped(cause.adds_missed),
                                      grouped(cause.adds_false));
    if (cause.tried < cause.of) text += " (tried at " + grouped(cause.tried) + " poses)";
    return text;
}

/// One key's change; where it was at its default only what it becomes.
std::string edit_text(const FieldChange& edit) {
    if (edit.now.empty()) return edit.key + " = " + edit.then;
    if (edit.then.empty()) return "no " + edit.key;
    return edit.key + " " + edit.now + " → " + edit.then;
}

/// A part of the whole in percent, with two digits; 0 only for none.
std::string percent(double share) {
    if (share <= 0.0) return "0";
    if (share < 1e-4) return "<0.01 %";
    if (share >= 1.0) return "100 %";
    return share < 0.995 ? fmt::format("{:.2g} %", 100.0 * share) : fmt::format("{:.4g} %", 100.0 * share);
}

template <int D>
std::string comma_list(const Vec<D>& v) {
    std::string text;
    for (int axis = 0; axis < D; ++axis) text += fmt::format("{}{}", axis > 0 ? "," : "", v[axis] + 0.0);
    return text;
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

}  // namespace

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

namespace {

/// The change of a finding whose sentence has named the probe: its table is not named again.
std::string change_of(const CauseReport& change) {
    const bool elsewhere =
        change.edits.empty() ||
        std::any_of(change.edits.begin(), change.edits.end(), [&](const FieldChange& edit) {
            return edit.table != change.edits.front().table || edit.name != change.edits.front().name;
        });
    const bool named =
        change.probe.empty() || (!change.edits.empty() && change.edits.front().name == change.probe);
    if (elsewhere || !named) return change_text(change);
    std::string text;
    for (const FieldChange& edit : change.edits) text += (text.empty() ? "" : ", ") + edit_text(edit);
    return text;
}

}  // namespace

namespace {

/// Why a value is wrong, as the rest of a sentence.
std::string value_reason(const CauseReport& cause, const std::string& who, Claim claim) {
    if (cause.cause == CauseKind::aimed_beside)
        return who + " reads " + plain(cause.by) + " beside the anchor";
    if (cause.cause == CauseKind::wider_than_body) return who + " is so wide that it reads beside the anchor";
    return reason(cause, who, claim);
}

}  // namespace

template <int D>
std::vector<std::string> value_cures_text(const Rig<D>& rig, std::size_t signal,
                                          const ValueErrors<D>& errors) {
    std::vector<std::string> lines;
    const bool angle = errors.value == Value::slope || errors.value == Value::wall_normal;
    const char* unit = angle ? "°" : "";
    for (std::size_t i = 0; i < errors.cures.size(); ++i) {
        const ValueCure& cure = errors.cures[i];
        const Claim claim = *rig.signals[signal].claims;
        std::string line =
            fmt::format("{}:{}  {}; {} leaves {}{} in the median, {}{} at 95 %, {}{} at worst", errors.id,
                        i + 1, value_reason(cure.change, kind_of_probe<D>(rig, cure.change.probe), claim),
                        change_text(cure.change), plain(cure.median), unit, plain(cure.high), unit,
                        plain(cure.worst), unit);
        const std::size_t added = cure.change.adds_missed + cure.change.adds_false;
        if (added > 0)
            line += fmt::format(", but adds {} missed, {} false", grouped(cure.change.adds_missed),
                                grouped(cure.change.adds_false));
        lines.push_back(line + ".");
    }
    return lines;
}

std::string unreached_text(const Moves& moves) {
    std::string text = "Not reached from a start by walking, steps";
    if (moves.jump_height <= 0.0 && moves.jump_length <= 0.0) return text + " and falls:";
    return text + fmt::format(", falls and jumps of {} up and {} far:", plain(moves.jump_height),
                              plain(moves.jump_length));
}

std::string change_text(const CauseReport& change) {
    if (change.edits.empty()) return change.parameter + " of the level: " + change.now + " → " + change.needs;
    std::string text;
    const FieldChange* last = nullptr;
    for (const FieldChange& edit : change.edits) {
        const bool same = last != nullptr && last->table == edit.table && last->name == edit.name;
        if (!same) {
            text += text.empty() ? "" : "; ";
            if (!edit.table.empty()) text += edit.table + " \"" + edit.name + "\": ";
        }
        text += (same ? ", " : "") + edit_text(edit);
        last = &edit;
    }
    return text;
}

std::string promise_text(const Wrongness& before, const Wrongness& after) {
    const auto part = [](const char* what, double was, double is) {
        return fmt::format("{} {} → {}", what, percent(was), percent(is));
    };
    return part("missed", before.missed_share(), after.missed_share()) + ", " +
           part("false", before.false_share(), after.false_share());
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
    text += " at " + poses(finding.count) + severity_text<D>(finding) + ": " +
            reason(leading, kind_of_probe<D>(rig, leading.probe), *rig.signals[finding.signal].claims);
    if (leading.parameter.empty()) {
        return text + (leading.cause == CauseKind::unexplained
                           ? "; another probe may be needed, or the intent is at fault."
                           : ".");
    }
    if (!leading.helps()) {
        return text + ". Nothing that was tried helps without harm: " + change_of(leading) + " " +
               effect(leading, finding.count) + ". The intent may be at fault, or another probe needed.";
    }
    text += "; " + change_of(leading) + " " + effect(leading, finding.count);
    if (!finding.fixes.empty()) {
        text += finding.fixes.size() > 1 ? " (see fixes" : " (see fix";
        for (std::size_t i = 0; i < finding.fixes.size(); ++i)
            text += fmt::format("{} {}", i > 0 ? "," : "", finding.fixes[i] + 1);
        text += ")";
    }
    text += ".";
    if (leading.cause == CauseKind::aimed_beside && leading.cures < finding.count)
        text += " No one place serves all sides: a wider cast or several probes would.";
    return text;
}

namespace {

/// Which stances a fix concerns: nothing to say where there is but one.
template <int D>
std::string stances_of(const Rig<D>& rig, const Fix<D>& fix) {
    if (rig.body.stances.size() == 1) return {};
    if (fix.stances.size() == rig.body.stances.size())
        return fix.stances.size() == 2 ? ", in both stances" : ", in all stances";
    std::string text = ", ";
    for (std::size_t i = 0; i < fix.stances.size(); ++i)
        text += (i > 0 ? " and " : "") + rig.body.stances[fix.stances[i]].name;
    return text;
}

}  // namespace

template <int D>
std::vector<std::string> fixes_text(const Rig<D>& rig, const Survey<D>& survey, std::size_t width) {
    std::vector<std::string> lines;
    if (survey.findings.empty()) return lines;
    const auto add = [&](const std::string& first, const std::string& text) {
        const std::string indent(4, ' ');
        bool is_first = true;
        for (const std::string& line : wrapped(text, width - indent.size())) {
            lines.push_back((is_first ? first : indent) + line);
            is_first = false;
        }
    };
    if (survey.fixes.empty()) {
        lines.emplace_back("Nothing that was tried makes this rig less wrong.");
        lines.emplace_back();
        return lines;
    }
    lines.emplace_back("What to change, best first:");
    for (std::size_t i = 0; i < survey.fixes.size(); ++i) {
        const Fix<D>& fix = survey.fixes[i];
        add(fmt::format("{:>2}  ", i + 1), change_text(fix.change));
        std::string came;
        if (fix.after) {
            came = promise_text(survey.wrong, *fix.after) +
                   fmt::format(" ({} wrong → {})", poses(survey.wrong.poses()), grouped(fix.after->poses()));
        } else {
            came = fmt::format("{}; at the poses judged it cures {}, adds {} missed, {} false",
                               fix.apply ? "not surveyed anew" : "a change to the level",
                               grouped(fix.change.cures), grouped(fix.change.adds_missed),
                               grouped(fix.change.adds_false));
        }
        came += fmt::format(
            "; {} of {} findings{}",
            fix.whole == fix.findings.size()
                ? fmt::format("{}", fix.whole)
                : fmt::format("wholly {} and in part {}", fix.whole, fix.findings.size() - fix.whole),
            survey.findings.size(), stances_of<D>(rig, fix));
        if (std::none_of(fix.findings.begin(), fix.findings.end(),
                         [&](std::size_t finding) { return survey.findings[finding].reached; }))
            came += ", none of it reached from a start";
        add("    ", came);
    }
    if (survey.joint) {
        std::string together = "Fixes";
        for (std::size_t i = 0; i < survey.joint->fixes.size(); ++i) {
            const bool last = i + 1 == survey.joint->fixes.size();
            together += fmt::format("{} {}", i == 0 ? "" : last ? " and" : ",", survey.joint->fixes[i] + 1);
        }
        add("    ", together + " together: " + promise_text(survey.wrong, survey.joint->after) +
                        fmt::format(" ({} wrong → {})", poses(survey.wrong.poses()),
                                    grouped(survey.joint->after.poses())));
    }
    const auto helpless = static_cast<std::size_t>(std::count_if(
        survey.findings.begin(), survey.findings.end(),
        [](const Finding<D>& finding) { return finding.fixes.empty() && !finding.causes.front().helps(); }));
    const bool all_mended = survey.joint && survey.joint->after.poses() == 0;
    if (helpless > 0 && !all_mended)
        add("    ", fmt::format("For {} of {} findings nothing that was tried helps without harm.", helpless,
                                survey.findings.size()));
    lines.emplace_back();
    return lines;
}

template <int D>
std::string draw_command(const std::string& level_file, const std::string& rig_file, const Rig<D>& rig,
                         const Facing<D>& facing, const Vec<D>& anchor) {
    std::string text =
        fmt::format("hollow-probe draw {} {} --at={} --heading={}", shell_word(level_file),
                    shell_word(rig_file), comma_list<D>(anchor), comma_list<D>(facing.heading));
    if (rig.body.stances.size() > 1) text += " --stance " + shell_word(rig.body.stances[facing.stance].name);
    if (facing.arrival != Arrival::stood) text += std::string(" --arrival ") + name_of(facing.arrival);
    if (!facing.drive.is_zero()) text += " --drive=" + comma_list<D>(facing.drive);
    if (!facing.velocity.is_zero()) text += " --velocity=" + comma_list<D>(facing.velocity);
    if (facing.grounded) text += " --remembers ground";
    if (facing.seconds != 0.0) text += fmt::format(" --time {}", facing.seconds);
    return text + " --figure pose.png";
}

template <int D>
std::string left_text(const Rig<D>& rig, const Survey<D>& survey, std::size_t width) {
    constexpr std::size_t most = 3;
    const auto& findings = survey.findings;
    std::string out = fmt::format("What is left, of {}, and what it would need:\n", poses(survey.judged));
    const auto say = [&](const std::string& text) {
        for (const std::string& line : wrapped(text, width)) out += line + "\n";
    };
    for (std::size_t i = 0; i < std::min(most, findings.size()); ++i) {
        std::string sentence = finding_sentence<D>(rig, findings[i]);
        const std::size_t number = sentence.find(" (see fix");  // fixes are not listed here
        if (number != std::string::npos) sentence.erase(number, sentence.find(')', number) - number + 1);
        say("- " + sentence);
    }
    if (findings.size() > most)
        say(fmt::format("… and {} more; a survey of it has all.", findings.size() - most));
    return out;
}

template std::string left_text<2>(const Rig<2>&, const Survey<2>&, std::size_t);
template std::string left_text<3>(const Rig<3>&, const Survey<3>&, std::size_t);
template std::string finding_sentence<2>(const Rig<2>&, const Finding<2>&);
template std::vector<std::string> value_cures_text<2>(const Rig<2>&, std::size_t, const ValueErrors<2>&);
template std::vector<std::string> value_cures_text<3>(const Rig<3>&, std::size_t, const ValueErrors<3>&);
template std::string place_text<2>(const Rig<2>&, const Survey<2>&, const Finding<2>&);
template std::vector<std::string> fixes_text<2>(const Rig<2>&, const Survey<2>&, std::size_t);
template std::string draw_command<2>(const std::string&, const std::string&, const Rig<2>&, const Facing<2>&,
                                     const Vec<2>&);
template std::string finding_sentence<3>(const Rig<3>&, const Finding<3>&);
template std::string place_text<3>(const Rig<3>&, const Survey<3>&, const Finding<3>&);
template std::vector<std::string> fixes_text<3>(const Rig<3>&, const Survey<3>&, std::size_t);
template std::string draw_command<3>(const std::string&, const std::string&, const Rig<3>&, const Facing<3>&,
                                     const Vec<3>&);

}  // namespace hollow_probe
