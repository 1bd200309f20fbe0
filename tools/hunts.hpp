// What a hunt came to, in words and as JSON.
#pragma once

#include <fmt/format.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/drill_file.hpp"
#include "hollow_probe/io/drill_json.hpp"
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

/// What was found, in a sentence.
template <int D>
std::string found_sentence(const HuntResult<D>& result) {
    if (!result.is_goal) return broken_sentence(outcome_of_found(result), result.broken);
    const Broken& there = result.broken;
    std::string at;
    for (const double x : there.at) at += (at.empty() ? "" : ", ") + plain(x);
    return fmt::format("comes to \"{}\" in {} s at ({})", result.expectations[there.expectation].area,
                       plain(there.seconds), at);
}

inline std::string words_of(const Expectation& expectation) {
    if (!expectation.area.empty()) return "never reaches \"" + expectation.area + "\"";
    return fmt::format("{}{} at {} {}", expectation.figure,
                       expectation.signal.empty() ? "" : " of \"" + expectation.signal + "\"",
                       expectation.kind == Expectation::Kind::most ? "most" : "least",
                       plain(expectation.limit));
}

/// keeper.drill.toml → keeper-found.drill.toml, beside it.
inline std::string found_name(const std::string& file) {
    for (const std::string_view ending : {".drill.toml", ".toml"}) {
        if (file.ends_with(ending))
            return file.substr(0, file.size() - ending.size()) + "-found" + std::string(ending);
    }
    return file + "-found.drill.toml";
}

/// What was found as a drill file for `path`, made of the one hunted with.
template <int D>
std::string found_text(const std::string& file, const std::string& path, std::uint64_t seed,
                       const HuntResult<D>& result) {
    constexpr std::size_t most_drill_bytes = 64U << 20U;
    const std::string folder = std::filesystem::path(path).parent_path().string();
    const std::string comment =
        fmt::format("\n# Found by a hunt with seed {}: {}.\n", seed, found_sentence(result));
    return with_cues<D>(read_file(file, most_drill_bytes), file, folder, *result.found, comment);
}

template <int D>
std::string hunt_words(const HuntResult<D>& result) {
    std::string text = fmt::format("{} {} played, {} ticks\n", result.drills,
                                   result.drills == 1 ? "drill" : "drills", result.ticks);
    if (result.found) {
        text += result.is_goal ? fmt::format("found a way:\n  ✓ {}\n", found_sentence(result))
                               : fmt::format("found one:\n  ✗ {}\n", found_sentence(result));
        const std::size_t cues = result.found->cues.size();
        text += fmt::format("{} {} in {} s, made of {} in {} s\n", cues, cues == 1 ? "cue" : "cues",
                            plain(result.found->seconds), result.cues_before, plain(result.seconds_before));
        return text;
    }
    text +=
        result.is_goal
            ? fmt::format("not found in {} ticks; how near each came, 100 % being there:\n", result.ticks)
            : "nothing found that breaks an expectation; how near each came, 100 % being its limit, or one "
              "too many:\n";
    for (std::size_t i = 0; i < result.expectations.size(); ++i) {
        const Expectation& expectation = result.expectations[i];
        text += fmt::format("  {:>5.1f} %  {}\n", 100.0 * result.nearest[i],
                            result.is_goal ? "reaches \"" + expectation.area + "\"" : words_of(expectation));
    }
    return text;
}

/// `found` is what the drill that was found came to, if one was.
template <int D>
std::string hunt_json(const HuntResult<D>& result, const std::string& name,
                      const std::optional<DrillOutcome>& found) {
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
                 {"sought", result.is_goal ? "a way" : "a fault"},
                 {"found", result.found.has_value()}};
    if (result.found) {
        json["broken"] = {{"expected", words_of(result.expectations[result.broken.expectation])},
                          {"got", result.broken.got},
                          {"seconds", result.broken.seconds},
                          {"at", result.broken.at}};
        json["cues"] = result.found->cues.size();
        json["seconds"] = result.found->seconds;
    }
    if (found) json["drill"] = Json::parse(drill_json({*found}))["drills"][0];
    return json.dump(2) + "\n";
}

}  // namespace hollow_probe::tool
