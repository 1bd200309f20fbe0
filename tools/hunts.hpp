// What a hunt came to, in words and as JSON.
#pragma once

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "hollow_probe/motion/hunt.hpp"
#include "hollow_probe/motion/outcome.hpp"
#include "hollow_probe/report/drill_text.hpp"

namespace hollow_probe::tool {

template <int D>
DrillOutcome outcome_of_found(const HuntResult<D>& result) {
    DrillOutcome outcome;
    outcome.name = result.found->name;
    outcome.tick_rate = result.found->tick_rate;
    outcome.seconds = result.found->seconds;
    outcome.figures = result.figures;
    outcome.expectations = result.expectations;
    outcome.broken = {result.broken};
    return outcome;
}

inline std::string words_of(const Expectation& expectation) {
    if (!expectation.area.empty()) return "never reaches \"" + expectation.area + "\"";
    return fmt::format("{}{} at {} {}", expectation.figure,
                       expectation.signal.empty() ? "" : " of \"" + expectation.signal + "\"",
                       expectation.kind == Expectation::Kind::most ? "most" : "least",
                       plain(expectation.limit));
}

template <int D>
std::string hunt_words(const HuntResult<D>& result) {
    std::string text = fmt::format("{} drills played, {} ticks\n", result.drills, result.ticks);
    if (result.found) {
        text += fmt::format("found one:\n  ✗ {}\n", broken_sentence(outcome_of_found(result), result.broken));
        text += fmt::format("{} cues in {} s, made of {} in {} s\n", result.found->cues.size(),
                            plain(result.found->seconds), result.cues_before, plain(result.seconds_before));
        return text;
    }
    text += "nothing found that breaks an expectation; how near each came, 100 % being its limit:\n";
    for (std::size_t i = 0; i < result.expectations.size(); ++i)
        text +=
            fmt::format("  {:>5.1f} %  {}\n", 100.0 * result.nearest[i], words_of(result.expectations[i]));
    return text;
}

template <int D>
std::string hunt_json(const HuntResult<D>& result, const std::string& name) {
    using Json = nlohmann::ordered_json;
    Json expectations = Json::array();
    for (std::size_t i = 0; i < result.expectations.size(); ++i)
        expectations.push_back(
            {{"expected", words_of(result.expectations[i])}, {"nearest", result.nearest[i]}});
    Json json = {{"format", "hollow-probe hunt result 1"},
                 {"name", name},
                 {"drills", result.drills},
                 {"ticks", result.ticks},
                 {"expectations", expectations},
                 {"found", result.found.has_value()}};
    if (result.found) {
        json["broken"] = {{"expected", words_of(result.expectations[result.broken.expectation])},
                          {"got", result.broken.got},
                          {"seconds", result.broken.seconds},
                          {"at", result.broken.at}};
        json["cues"] = result.found->cues.size();
        json["seconds"] = result.found->seconds;
    }
    return json.dump(2) + "\n";
}

}  // namespace hollow_probe::tool
