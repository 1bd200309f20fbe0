#include "hollow_probe/io/part_file.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/level/content_hash.hpp"
#include "io/json.hpp"

namespace hollow_probe {
namespace {

constexpr const char* survey_format = "hollow-probe part 1";
constexpr const char* hunt_format = "hollow-probe hunt part 1";
constexpr std::size_t most_bytes_of_a_part = std::size_t{64} << 30U;
constexpr std::size_t most_head = std::size_t{1} << 20U;

/// Members alike in C++ and in the file.
template <class Visit>
void for_each_option(SurveyOptions& options, Visit visit) {
    visit("spacing", options.spacing);
    visit("headings", options.headings);
    visit("stances", options.stances);
    visit("border_fraction", options.border_fraction);
    visit("seed", options.seed);
    visit("area", options.area);
    visit("region", options.region);
    visit("speeds", options.speeds);
    visit("times", options.times);
    visit("tick_seconds", options.tick_seconds);
    visit("explain", options.explain);
    visit("most_kept", options.most_kept);
}

template <class Visit>
void for_each_limit(SurveyOptions& options, Visit visit) {
    visit("budget", options.budget);
    visit("most_tried", options.most_tried);
    visit("most_corner_columns", options.most_corner_columns);
}

Json options_json(SurveyOptions options) {
    Json json;
    for_each_option(options, [&](const char* name, const auto& value) { json[name] = value; });
    for_each_limit(options, [&](const char* name, const std::optional<std::size_t>& value) {
        if (value) json[name] = *value;
    });
    return json;
}

SurveyOptions options_from(const Json& json) {
    SurveyOptions options;
    for_each_option(options, [&](const char* name, auto& value) { json.at(name).get_to(value); });
    for_each_limit(options, [&](const char* name, std::optional<std::size_t>& value) {
        if (json.contains(name)) value = json.at(name).get<std::size_t>();
    });
    return options;
}

/// Quoted where a shell would not take it as one word.
std::string word_of(const std::string& text) {
    constexpr std::string_view plain =
        "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_-+=,./:@%";
    if (!text.empty() && text.find_first_not_of(plain) == std::string::npos) return text;
    std::string quoted = "'";
    for (const char letter : text) quoted += letter == '\'' ? std::string("'\\''") : std::string(1, letter);
    return quoted + "'";
}

/// A line that says what follows, and how many bytes each thing that follows has.
std::string with_head(Json head, const std::vector<std::string>& found) {
    std::string all;
    Json sizes = Json::array();
    for (const std::string& one : found) {
        sizes.push_back(one.size());
        all += one;
    }
    head["bytes"] = std::move(sizes);
    head["check"] = content_hash(all);
    return head.dump() + "\n" + all;
}

/// Fills in what all parts have, and gives the rest to `take(head, found)`.
template <class Part, class Take>
void load(const std::string& path, const char* format, Part& part, Take take) {
    const std::string text = read_file(path, most_bytes_of_a_part);
    const std::size_t end = text.find('\n');
    const auto refuse = [&](const std::string& why) { throw InputError(path + ":1:1: " + why); };
    if (!text.starts_with('{') || end == std::string::npos || end > most_head)
        refuse(std::string("is no part, expected a first line with \"format\": \"") + format + "\"");
    try {
        const Json head = Json::parse(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(end));
        const std::string told = head.at("format").get<std::string>();
        if (told != format) refuse("has format \"" + told + "\", expected \"" + format + "\"");
        head.at("inputs").get_to(part.inputs);
        head.at("build").get_to(part.build);
        part.part.of = head.at("of").get<std::size_t>();
        part.part.number = head.at("part").get<std::size_t>() - 1;
        std::string_view left = std::string_view(text).substr(end + 1);
        const bool whole = content_hash(left) == head.at("check").get<std::string>();
        std::vector<std::string> found;
        for (const std::size_t size : head.at("bytes").get<std::vector<std::size_t>>()) {
            found.emplace_back(left.substr(0, size));
            left.remove_prefix(std::min(size, left.size()));
        }
        take(head, std::move(found));
        if (part.part.number >= part.part.of) refuse("has a part's number that is not among them");
        if (!whole) refuse("is damaged or cut short: it has to be made again, by " + command_of(part));
    } catch (const nlohmann::json::exception& error) {
        refuse(std::string("has a first line that is not understood: ") + error.what());
    }
}

}  // namespace

std::string command_of(const PartFile& part) {
    const SurveyOptions standard;
    const SurveyOptions& options = part.options;
    std::string text = "hollow-probe survey " + word_of(part.level) + " " + word_of(part.rig);
    const auto add = [&](const char* name, const std::string& value) {
        text += std::string(" ") + name + "=" + word_of(value);
    };
    if (options.spacing != standard.spacing) add("--spacing", fmt::format("{}", options.spacing));
    if (options.headings != standard.headings) add("--headings", fmt::format("{}", options.headings));
    for (const std::string& stance : options.stances) add("--stance", stance);
    if (options.budget == std::size_t{0} && options.spacing == 0.0) text += " --thorough";
    if (options.budget.value_or(0) > 0) add("--budget", fmt::format("{}", *options.budget));
    if (!options.area.empty()) add("--area", options.area);
    if (!options.region.empty()) add("--region", fmt::format("{}", fmt::join(options.region, ",")));
    if (!options.speeds.empty()) add("--speeds", fmt::format("{}", fmt::join(options.speeds, ",")));
    if (!options.times.empty()) add("--times", fmt::format("{}", fmt::join(options.times, ",")));
    if (options.tick_seconds != standard.tick_seconds)
        add("--tick-rate", fmt::format("{}", 1.0 / options.tick_seconds));
    if (options.seed != standard.seed) add("--seed", fmt::format("{}", options.seed));
    if (options.most_tried) add("--try", fmt::format("{}", *options.most_tried));
    return text + fmt::format(" --part {}/{}", part.part.number + 1, part.part.of);
}

std::string command_of(const HuntPartFile& part) {
    std::string text = "hollow-probe hunt " + word_of(part.drill);
    if (!part.tick_rates.empty()) text += fmt::format(" --tick-rates={}", fmt::join(part.tick_rates, ","));
    return text + fmt::format(" --seed={} --seeds={} --ticks={} --part {}/{}", part.seed, part.seeds,
                              part.ticks, part.part.number + 1, part.part.of);
}

std::string part_text(const PartFile& part) {
    return with_head({{"format", survey_format},
                      {"level", part.level},
                      {"rig", part.rig},
                      {"part", part.part.number + 1},
                      {"of", part.part.of},
                      {"options", options_json(part.options)},
                      {"inputs", part.inputs},
                      {"build", part.build}},
                     {part.found});
}

std::string part_text(const HuntPartFile& part) {
    return with_head({{"format", hunt_format},
                      {"drill", part.drill},
                      {"part", part.part.number + 1},
                      {"of", part.part.of},
                      {"seed", part.seed},
                      {"seeds", part.seeds},
                      {"ticks", part.ticks},
                      {"tick_rates", part.tick_rates},
                      {"inputs", part.inputs},
                      {"build", part.build}},
                     part.found);
}

bool is_hunt_part(const std::string& path) {
    const std::string text = read_file(path, most_bytes_of_a_part);
    return text.starts_with("{\"format\":\"" + std::string(hunt_format) + "\"");
}

PartFile load_part(const std::string& path) {
    PartFile part;
    load(path, survey_format, part, [&](const Json& head, std::vector<std::string> found) {
        head.at("level").get_to(part.level);
        head.at("rig").get_to(part.rig);
        part.options = options_from(head.at("options"));
        if (found.size() != 1) throw InputError(path + ":1:1: is not one part");
        part.found = std::move(found.front());
    });
    return part;
}

HuntPartFile load_hunt_part(const std::string& path) {
    HuntPartFile part;
    load(path, hunt_format, part, [&](const Json& head, std::vector<std::string> found) {
        head.at("drill").get_to(part.drill);
        head.at("seed").get_to(part.seed);
        head.at("seeds").get_to(part.seeds);
        head.at("ticks").get_to(part.ticks);
        head.at("tick_rates").get_to(part.tick_rates);
        part.found = std::move(found);
    });
    return part;
}

}  // namespace hollow_probe
