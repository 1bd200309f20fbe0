#include "hollow_probe/report/drill_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "report/words.hpp"

namespace hollow_probe {
namespace {

std::string place_of(const Broken& broken) {
    std::string text = "(";
    for (std::size_t i = 0; i < broken.at.size(); ++i) text += (i > 0 ? ", " : "") + plain(broken.at[i]);
    return text + ")";
}

std::string words_of(const std::string& figure) {
    std::string words = figure;
    std::replace(words.begin(), words.end(), '_', ' ');
    return words;
}

/// The signal an expectation is about: as it says, else the one that is worst.
std::string signal_of(const DrillOutcome& outcome, const Expectation& expected) {
    if (!expected.signal.empty()) return expected.signal;
    const auto& signals = outcome.figures.signals;
    const auto worst =
        std::max_element(signals.begin(), signals.end(), [&](const SignalFigures& a, const SignalFigures& b) {
            return figure(outcome.figures, expected.figure, a.name) <
                   figure(outcome.figures, expected.figure, b.name);
        });
    return worst == signals.end() ? "the worst signal" : worst->name;  // a hunt tells no figures
}

std::string padded(const std::string& text, std::size_t width) {
    return text + std::string(width - std::min(width, letters(text)), ' ');
}

}  // namespace

std::string name_of(const DrillOutcome& outcome) {
    return outcome.name + (outcome.phase > 0.0 ? " +" + plain(outcome.phase) : "");
}

std::string broken_sentence(const DrillOutcome& outcome, const Broken& broken) {
    const Expectation& expected = outcome.expectations[broken.expectation];
    const std::string when = fmt::format("{} s at {}", plain(broken.seconds), place_of(broken));
    switch (expected.kind) {
        case Expectation::Kind::never_reaches:
            return fmt::format("comes to \"{}\" in {}, where it was never to be", expected.area, when);
        case Expectation::Kind::reaches:
            return fmt::format("never comes to \"{}\": {} away at best, in {}", expected.area,
                               plain(broken.got), when);
        case Expectation::Kind::most:
        case Expectation::Kind::least:
            break;
    }
    const bool most = expected.kind == Expectation::Kind::most;
    std::string text;
    if (is_of_signals(expected.figure)) text = signal_of(outcome, expected) + ": ";
    // "76 missed ticks", "climb 0.3".
    const std::string words = words_of(expected.figure);
    const std::string counted = broken.got == 1.0 ? words.substr(0, words.size() - 1) : words;
    text += words.ends_with(" ticks") ? plain(broken.got) + " " + counted : words + " " + plain(broken.got);
    text += fmt::format(" ({} {})", most ? "limit" : "at least", plain(expected.limit));
    if (broken.seconds < outcome.seconds - 0.5 / outcome.tick_rate) text += ", over it first at " + when;
    return text;
}

namespace {

/// One expectation of one drill, and where it was broken.
struct BrokenAnywhere {
    const DrillOutcome* worst = nullptr;
    const Broken* how = nullptr;
    std::vector<const DrillOutcome*> variants;
};

/// How far over its limit, or short of it.
double excess(const DrillOutcome& outcome, const Broken& broken) {
    const Expectation& expected = outcome.expectations[broken.expectation];
    const bool short_of = expected.kind == Expectation::Kind::least;
    return short_of ? expected.limit - broken.got : broken.got - expected.limit;
}

/// "at 30 ticks/s, and at 60 in 2 of 4 phases"
std::string variants_text(const std::vector<DrillOutcome>& all, const BrokenAnywhere& broken) {
    std::vector<double> rates;
    for (const DrillOutcome* variant : broken.variants) {
        if (std::find(rates.begin(), rates.end(), variant->tick_rate) == rates.end())
            rates.push_back(variant->tick_rate);
    }
    std::string text;
    for (const double rate : rates) {
        const auto of_rate = [&](const DrillOutcome& outcome) {
            return outcome.name == broken.worst->name && outcome.tick_rate == rate;
        };
        const auto phases = std::count_if(all.begin(), all.end(), of_rate);
        const auto those = std::count_if(broken.variants.begin(), broken.variants.end(),
                                         [&](const DrillOutcome* variant) { return of_rate(*variant); });
        text += text.empty() ? "at " : rate == rates.back() ? " and " : ", ";
        text += plain(rate) + (text.find("ticks/s") == std::string::npos ? " ticks/s" : "");
        if (phases > 1 && those == phases) text += " in every phase";
        if (phases > 1 && those < phases) text += fmt::format(" in {} of {} phases", those, phases);
    }
    return text;
}

std::string joined(const std::vector<std::size_t>& numbers, const DrillOutcome& outcome) {
    std::string text;
    for (const std::size_t number : numbers) {
        const Expectation& expected = outcome.expectations[number];
        text += (text.empty() ? "" : ", ") +
                (expected.area.empty() ? words_of(expected.figure) : "\"" + expected.area + "\"");
    }
    return text;
}

std::string span_text(const DrillCure& cure) {
    if (cure.between[0] == cure.between[1]) return "";
    if (!std::isfinite(cure.between[0])) return fmt::format(" ({} or less)", plain(cure.between[1]));
    if (!std::isfinite(cure.between[1])) return fmt::format(" ({} or more)", plain(cure.between[0]));
    return fmt::format(" ({} to {})", plain(cure.between[0]), plain(cure.between[1]));
}

}  // namespace

std::string cure_sentence(const DrillOutcome& outcome, const DrillCure& cure) {
    std::string text = cure.table.empty() ? "" : cure.table + " \"" + cure.name + "\": ";
    text += fmt::format("{} {} → {}{}", cure.key, cure.now.empty() ? "not given" : cure.now,
                        cure.then.empty() ? "not given" : cure.then, span_text(cure));
    if (!cure.mends.empty()) text += ": keeps " + joined(cure.mends, outcome);
    if (!cure.spoils.empty()) text += ", breaks " + joined(cure.spoils, outcome);
    text += fmt::format("; wrong ticks {} → {}", cure.before.all(), cure.after.all());
    if (cure.edits.empty()) text += "; to be written by hand";
    return text;
}

std::string first_sentence(const DrillOutcome& outcome, const FirstBroken& first) {
    using Wrong = FirstBroken::Wrong;
    const Expectation& expected = outcome.expectations[first.expectation];
    std::string at;
    for (const double x : first.at) at += (at.empty() ? "" : ", ") + plain(x);
    const std::string when = fmt::format("in {} s at ({})", plain(first.seconds), at);
    const bool of_ticks = expected.figure == "missed_ticks" || expected.figure == "false_ticks";
    const bool missed = first.wrong == Wrong::missed;
    const bool wrong = first.wrong != Wrong::no;
    std::string text;
    if (of_ticks) {
        text = fmt::format("\"{}\" {} first {}", first.signal, missed ? "misses" : "is on falsely", when);
        if (!first.solid.empty()) text += (missed ? ": \"" : ", by \"") + first.solid + "\"";
    } else {
        text = fmt::format("{}: first {}", words_of(expected.figure), when);
        if (!first.solid.empty()) text += ", \"" + first.solid + "\"";
        if (!first.reflex.empty())
            text +=
                fmt::format("; reflex \"{}\" {}", first.reflex, first.reflex_acts ? "acts" : "does not act");
        if (!first.signal.empty())
            text += fmt::format("{} \"{}\" is {}", first.reflex.empty() ? ";" : ":", first.signal,
                                wrong             ? missed ? "missed" : "on falsely"
                                : first.signal_on ? "on"
                                                  : "off");
    }
    if (!first.probe.empty())
        text += fmt::format("; probe \"{}\" is {}", first.probe, first.signal_on ? "on" : "off");
    for (const std::string& cause : first.causes)
        text += (&cause != &first.causes.front() ? ", "
                 : first.in_part                 ? "; cause in part: "
                                                 : "; cause: ") +
                cause;
    if (first.cure > 0)
        text += first.causes.empty() ? fmt::format("; change {} mends it", first.cure)
                                     : fmt::format(" (change {})", first.cure);
    return text;
}

std::string why_text(const DrillOutcome& outcome, const TextOptions& options) {
    const std::size_t width = options.width;
    constexpr std::size_t most = 5;
    std::string text;
    const auto add = [&](std::string first, const std::string& sentence) {
        for (const std::string& line : wrapped(sentence, width - 4)) {
            text += first + line + "\n";
            first = "    ";
        }
    };
    if (outcome.why.first.empty() && outcome.why.cures.empty() && !outcome.why.asked) return text;
    for (const FirstBroken& first : outcome.why.first) add("    ", first_sentence(outcome, first));
    const auto list = [&](const std::vector<DrillCure>& cures) {
        std::size_t number = 0;
        for (const DrillCure& cure : cures) {
            if (++number > most || (!cure.helps() && number > 1)) break;
            add(fmt::format("{:>3} ", number),
                cure_sentence(outcome, cure) + (cure.helps() ? "" : "; takes more than it gives"));
        }
    };
    if (outcome.why.cures.empty()) return text + "    no single change of the rig mends any of it\n";
    text += "  each change alone, and the drill replayed:\n";
    list(outcome.why.cures);
    if (outcome.why.together.empty()) return text;
    text += outcome.why.still_broken == 0
                ? "  one after the other they keep everything:\n"
                : fmt::format("  one after the other they leave {} of {} broken:\n", outcome.why.still_broken,
                              outcome.expectations.size());
    list(outcome.why.together);
    return text;
}

namespace {

/// What broke in a drill, over all its rates and phases: a line an expectation, with where it is worst.
std::string broken_text(const std::vector<DrillOutcome>& outcomes, const std::string& drill,
                        std::size_t width) {
    std::vector<BrokenAnywhere> all;
    std::size_t variants = 0;
    for (const DrillOutcome& outcome : outcomes) {
        if (outcome.name != drill) continue;
        ++variants;
        for (const Broken& broken : outcome.broken) {
            const auto same = std::find_if(all.begin(), all.end(), [&](const BrokenAnywhere& other) {
                return other.how->expectation == broken.expectation;
            });
            BrokenAnywhere& entry = same == all.end() ? all.emplace_back() : *same;
            entry.variants.push_back(&outcome);
            if (entry.worst != nullptr && excess(outcome, broken) <= excess(*entry.worst, *entry.how))
                continue;
            entry.worst = &outcome;
            entry.how = &broken;
        }
    }
    std::string text = "\n" + drill;
    if (variants == 1) text += fmt::format(" at {} ticks/s", plain(all.front().worst->tick_rate));
    text += "\n";
    for (const BrokenAnywhere& broken : all) {
        std::string sentence = broken_sentence(*broken.worst, *broken.how);
        if (variants > 1) {
            sentence += fmt::format(", at {} ticks/s", plain(broken.worst->tick_rate));
            if (broken.worst->phase > 0.0) sentence += ", phase " + plain(broken.worst->phase);
            sentence += broken.variants.size() == variants
                            ? fmt::format("; in each of {} variants", variants)
                            : fmt::format("; in {} of {} variants: {}", broken.variants.size(), variants,
                                          variants_text(outcomes, broken));
        }
        std::string first = "  ✗ ";
        for (const std::string& line : wrapped(sentence, width - 4)) {
            text += first + line + "\n";
            first = "    ";
        }
    }
    return text;
}

}  // namespace

std::string drill_text(const std::vector<DrillOutcome>& outcomes, const TextOptions& options) {
    std::size_t widest = 5;
    for (const DrillOutcome& outcome : outcomes) widest = std::max(widest, letters(name_of(outcome)));
    std::string text = fmt::format(
        "{}  ticks/s   ticks  missed   false  flicker  clip      headway  result\n", padded("drill", widest));
    std::size_t broken_drills = 0;
    for (const DrillOutcome& outcome : outcomes) {
        const auto of = [&](const char* name) { return figure(outcome.figures, name); };
        const std::size_t all = outcome.expectations.size();
        const std::string result =
            outcome.kept() ? all == 0 ? "nothing expected" : fmt::format("kept {} of {}", all, all)
                           : fmt::format("broke {} of {}", outcome.broken.size(), all);
        broken_drills += outcome.kept() ? 0 : 1;
        const std::string shown = options.color && !outcome.kept() ? "\033[1m" + result + "\033[0m" : result;
        text += fmt::format("{}{:>9}{:>8}{:>8}{:>8}{:>9}  {:<10}{:<7}  {}\n",
                            padded(name_of(outcome), widest), plain(outcome.tick_rate), outcome.figures.ticks,
                            of("missed_ticks"), of("false_ticks"), of("flicker"), plain(of("deepest_clip")),
                            plain(of("headway")), shown);
    }
    std::vector<std::string> told;
    for (const DrillOutcome& outcome : outcomes) {
        if (outcome.kept() || std::find(told.begin(), told.end(), outcome.name) != told.end()) continue;
        told.push_back(outcome.name);
        text += broken_text(outcomes, outcome.name, options.width);
        text += why_text(outcome, options);
    }
    const auto idle = std::count_if(outcomes.begin(), outcomes.end(),
                                    [](const DrillOutcome& outcome) { return outcome.expectations.empty(); });
    if (idle > 0)
        text += fmt::format(
            "\n{} of {} drills expect{} nothing, and so cannot fail: [[expect]] says what must come of one\n",
            idle, outcomes.size(), idle == 1 ? "s" : "");
    if (broken_drills == 0) return text;
    return text + fmt::format("\n{} of {} drills break an expectation\n", broken_drills, outcomes.size());
}

std::string figures_text(const DrillOutcome& outcome, const TextOptions& options) {
    std::string of_drill;
    for (const char* name : figure_names()) {
        if (is_of_signals(name)) continue;
        const double value = figure(outcome.figures, name);
        const bool nothing = std::string_view(name) == "headway" ? value == 1.0 : value == 0.0;
        if (!nothing)
            of_drill += fmt::format("{}{} {}", of_drill.empty() ? "" : ", ", words_of(name), plain(value));
    }
    std::string text;
    for (const std::string& line : wrapped(of_drill, options.width)) text += line + "\n";
    for (const SignalFigures& signal : outcome.figures.signals) {
        std::string its;
        for (const char* name : figure_names()) {
            const double value = is_of_signals(name) ? figure(outcome.figures, name, signal.name) : 0.0;
            if (value != 0.0) its += fmt::format(", {} {}", words_of(name), plain(value));
        }
        if (its.empty()) its = ", as the truth throughout";
        for (const std::string& line :
             wrapped(fmt::format("{} ({}){}", signal.name, name_of(signal.claims), its), options.width))
            text += line + "\n";
    }
    return text;
}

}  // namespace hollow_probe
