#include "hollow_probe/io/part_file.hpp"

#include <fmt/format.h>

#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/level/content_hash.hpp"
#include "io/json.hpp"

namespace hollow_probe {
namespace {

constexpr const char* format = "hollow-probe part 1";
constexpr std::size_t most_bytes = std::size_t{64} << 30U;
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

std::string part_text(const PartFile& part) {
    const Json head = {{"format", format},
                       {"level", part.level},
                       {"rig", part.rig},
                       {"part", part.part.number + 1},
                       {"of", part.part.of},
                       {"options", options_json(part.options)},
                       {"inputs", part.inputs},
                       {"build", part.build},
                       {"bytes", part.found.size()},
                       {"check", content_hash(part.found)}};
    return head.dump() + "\n" + part.found;
}

PartFile load_part(const std::string& path) {
    std::string text = read_file(path, most_bytes);
    const std::size_t end = text.find('\n');
    const auto refuse = [&](const std::string& why) { throw InputError(path + ":1:1: " + why); };
    if (!text.starts_with('{') || end == std::string::npos || end > most_head)
        refuse(std::string("is no part of a survey, expected a first line with \"format\": \"") + format +
               "\"");
    PartFile part;
    try {
        const Json head = Json::parse(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(end));
        const std::string told = head.at("format").get<std::string>();
        if (told != format) refuse("has format \"" + told + "\", expected \"" + format + "\"");
        head.at("level").get_to(part.level);
        head.at("rig").get_to(part.rig);
        head.at("inputs").get_to(part.inputs);
        head.at("build").get_to(part.build);
        part.part.of = head.at("of").get<std::size_t>();
        part.part.number = head.at("part").get<std::size_t>() - 1;
        part.options = options_from(head.at("options"));
        part.found = text.substr(end + 1);
        if (part.part.number >= part.part.of) refuse("has a part's number that is not among them");
        if (part.found.size() != head.at("bytes").get<std::size_t>() ||
            content_hash(part.found) != head.at("check").get<std::string>())
            refuse("is damaged or cut short: it has to be made again, by " + command_of(part));
    } catch (const nlohmann::json::exception& error) {
        refuse(std::string("has a first line that is not understood: ") + error.what());
    }
    return part;
}

}  // namespace hollow_probe
