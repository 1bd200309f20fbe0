#include "hollow_probe/report/page.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "report/page_data.hpp"
#include "web_files.hpp"
#include "web_libraries.hpp"

namespace hollow_probe {
namespace {

/// In the order in which they need each other.
constexpr std::array modules = {
    "dom.js",       "look.js",        "signs.js",     "plane_view.js", "space_view.js", "filters.js",
    "stage.js",     "survey_view.js", "strips.js",    "drill_view.js", "live_line.js",  "live_fields.js",
    "live_hand.js", "live_play.js",   "live_tune.js", "live_view.js",  "app.js"};

std::string escaped(std::string_view text) {
    std::string result;
    for (const char c : text) {
        switch (c) {
            case '&':
                result += "&amp;";
                break;
            case '<':
                result += "&lt;";
                break;
            case '>':
                result += "&gt;";
                break;
            case '"':
                result += "&quot;";
                break;
            default:
                result += c;
        }
    }
    return result;
}

std::string_view content_of(std::span<const EmbeddedFile> files, std::string_view name) {
    const auto found =
        std::find_if(files.begin(), files.end(), [&](const EmbeddedFile& f) { return f.name == name; });
    if (found == files.end()) throw InvalidInput("page: '" + std::string(name) + "' was not built in");
    return found->content;
}

/// A module as a part of one script: all share one scope, so imports go and exports are plain.
std::string as_part(std::string_view module) {
    std::string result;
    while (!module.empty()) {
        const std::size_t end = std::min(module.find('\n'), module.size());
        std::string_view line = module.substr(0, end);
        module.remove_prefix(std::min(end + 1, module.size()));
        if (line.starts_with("import ")) continue;
        if (line.starts_with("export ")) line.remove_prefix(7);
        result += line;
        result += '\n';
    }
    return result;
}

/// JSON within a page: no tag can begin in it.
std::string harmless(const std::string& json) {
    std::string result;
    result.reserve(json.size());
    for (const char c : json) {
        if (c == '<') {
            result += "\\u003c";
        } else {
            result += c;
        }
    }
    return result;
}

constexpr std::string_view figure_style = R"(
:root { color-scheme: light dark; }
body { font: 15px/1.45 system-ui, sans-serif; max-width: 1280px; margin: 1rem auto; padding: 0 1rem; }
figure { margin: 0; background: #fff; }
figure svg { width: 100%; height: auto; display: block; }
)";

}  // namespace

// An empty JSON value throws nothing, whatever its library admits to.
// NOLINTNEXTLINE(bugprone-exception-escape)
struct Page::Data {
    Json json;
    std::vector<const void*> levels;  // by scene
    bool in_space = false;

    template <int D>
    std::size_t scene_of(const Level<D>& level, const std::vector<Bounds<D>>& near) {
        const auto known = std::find(levels.begin(), levels.end(), &level);
        if (known != levels.end()) return static_cast<std::size_t>(known - levels.begin());
        levels.push_back(&level);
        json["scenes"].push_back(scene_data<D>(level, near));
        in_space = in_space || D == 3;
        return levels.size() - 1;
    }

    std::size_t add(Json report, std::size_t scene) {
        report["scene"] = scene;
        json["reports"].push_back(std::move(report));
        return json["reports"].size() - 1;
    }
};

Page::Page(std::string title) : data_(std::make_unique<Data>()) {
    data_->json = {{"format", "hollow-probe page 1"},
                   {"title", std::move(title)},
                   {"words", nullptr},
                   {"suite", nullptr},
                   {"compares", false},
                   {"scenes", Json::array()},
                   {"reports", Json::array()}};
}
Page::~Page() = default;
Page::Page(Page&&) noexcept = default;
Page& Page::operator=(Page&&) noexcept = default;

template <int D>
std::size_t Page::add(const Level<D>& level, const Rig<D>& rig, const Survey<D>& survey,
                      const SurveyNames& names) {
    constexpr std::size_t most_places = 64;
    std::vector<Bounds<D>> near;
    for (const Finding<D>& finding : survey.findings) {
        Bounds<D> worst;
        worst.grow(finding.worst.anchor);
        near.push_back(worst);
        if (near.size() == most_places) break;
    }
    if (near.empty()) {
        near.emplace_back();
        for (const SurveyPose<D>& pose : survey.poses) near.front().grow(pose.anchor);
    }
    return data_->add(survey_data<D>(level, rig, survey, names), data_->scene_of<D>(level, near));
}

template <int D>
std::size_t Page::add(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                      const DrillRecord<D>& record, const std::string& command) {
    if (record.readings.size() != record.ticks.size() * rig.probes.size() || record.ticks.empty())
        throw InvalidInput("page: the drill's record was made without its ticks and readings");
    std::vector<Bounds<D>> near(1);
    for (const TickRecord<D>& tick : record.ticks) near.front().grow(tick.anchor);
    const std::size_t scene = data_->scene_of<D>(level, near);
    for (const std::uint32_t solid : record.moving)
        data_->json["scenes"][scene]["solids"][solid]["moves"] = true;
    return data_->add(drill_data<D>(level, rig, drill, record, command), scene);
}

void Page::stand_beside() {
    compare();
    data_->json["beside"] = true;
}

void Page::compare() {
    data_->json["compares"] = true;
}

void Page::compare(const Comparison& c) {
    compare();
    data_->json["compared"] = {{"poses", c.poses},        {"mended", c.mended}, {"spoiled", c.spoiled},
                               {"still", c.still_wrong},  {"cured", c.cured},   {"new", c.fresh},
                               {"unchanged", c.unchanged}};
}

void Page::add(const std::vector<SuiteResult>& results,
               const std::vector<std::optional<std::size_t>>& reports) {
    Json list = Json::array();
    for (std::size_t i = 0; i < results.size(); ++i) {
        const bool shown = i < reports.size() && reports[i];
        list.push_back({{"kind", results[i].kind},
                        {"name", results[i].name},
                        {"passed", results[i].failure.empty()},
                        {"failure", results[i].failure},
                        {"report", shown ? Json(*reports[i]) : Json(nullptr)}});
    }
    data_->json["suite"] = {{"results", std::move(list)}};
}

void Page::say(const std::string& words) {
    data_->json["words"] = words;
}

std::string Page::finish() const {
    return page_of(data_->json["title"].get<std::string>(), data_->json, data_->in_space);
}

std::string page_of(const std::string& title, const Json& data, bool in_space) {
    std::string page = fmt::format(
        "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n"
        "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n"
        "<link rel=\"icon\" href=\"data:,\">\n<title>{}</title>\n<style>\n{}</style>\n</head>\n<body>\n"
        "<noscript>This page needs scripts to be allowed; they are all in it.</noscript>\n",
        escaped(title), content_of(web_files(), "page.css"));
    // Libraries under the MIT license: what is not drawn in three dimensions does without the larger one.
    std::vector<std::string_view> libraries = {"chart.min.js"};
    if (in_space) libraries.insert(libraries.end(), {"three.min.js", "OrbitControls.js"});
    for (const std::string_view name : libraries)
        page += fmt::format("<script>\n{}\n</script>\n", content_of(web_libraries(), name));
    page += "<script type=\"application/json\" id=\"data\">" +
            harmless(data.dump(-1, ' ', false, Json::error_handler_t::replace)) + "</script>\n";
    page += "<script>\n\"use strict\";\n(() => {\n";
    for (const char* const name : modules) page += as_part(content_of(web_files(), name));
    return page + "})();\n</script>\n</body>\n</html>\n";
}

std::string figure_page(const std::string& title, const std::string& svg, const std::string& words) {
    // The figure goes in without its XML declaration.
    const std::size_t start = svg.find("<svg");
    const std::string figure = start == std::string::npos ? "" : svg.substr(start);
    const std::string below = words.empty() ? "" : "<pre>" + escaped(words) + "</pre>\n";
    return fmt::format(
        "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"viewport\" "
        "content=\"width=device-width\">\n<title>{0}</title>\n<style>{1}</style>\n</head>\n"
        "<body>\n<h1>{0}</h1>\n<figure role=\"img\" aria-label=\"{0}\">\n{2}</figure>\n{3}</body>\n</html>\n",
        escaped(title), figure_style, figure, below);
}

template std::size_t Page::add<2>(const Level<2>&, const Rig<2>&, const Survey<2>&, const SurveyNames&);
template std::size_t Page::add<3>(const Level<3>&, const Rig<3>&, const Survey<3>&, const SurveyNames&);
template std::size_t Page::add<2>(const Level<2>&, const Rig<2>&, const Drill<2>&, const DrillRecord<2>&,
                                  const std::string&);
template std::size_t Page::add<3>(const Level<3>&, const Rig<3>&, const Drill<3>&, const DrillRecord<3>&,
                                  const std::string&);

}  // namespace hollow_probe
