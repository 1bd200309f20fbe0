#include "hollow_probe/io/drill_json.hpp"
#include "io/json.hpp"

namespace hollow_probe {
namespace {

const char* word_of(Expectation::Kind kind) {
    static constexpr std::array words = {"most", "least", "reaches", "never_reaches"};
    return words[static_cast<std::size_t>(kind)];
}

Json figures_of(const DrillFigures& figures) {
    Json json = Json::object();
    for (const char* name : figure_names()) {
        if (!is_of_signals(name)) json[name] = figure(figures, name);
    }
    return json;
}

Json signals_of(const DrillFigures& figures) {
    Json json = Json::object();
    for (const SignalFigures& signal : figures.signals) {
        Json its = {{"claims", name_of(signal.claims)}};
        for (const char* name : figure_names()) {
            if (is_of_signals(name)) its[name] = figure(figures, name, signal.name);
        }
        json[signal.name] = its;
    }
    return json;
}

Json broken_of(const DrillOutcome& outcome) {
    Json list = Json::array();
    for (const Broken& broken : outcome.broken) {
        const Expectation& expected = outcome.expectations[broken.expectation];
        Json json = {{"expected", word_of(expected.kind)}};
        if (expected.area.empty()) {
            json["figure"] = expected.figure;
            if (!expected.signal.empty()) json["signal"] = expected.signal;
            json["limit"] = expected.limit;
            json["got"] = broken.got;
        } else {
            json["area"] = expected.area;
            json["nearest"] = broken.got;
        }
        json["seconds"] = broken.seconds;
        json["at"] = broken.at;
        list.push_back(json);
    }
    return list;
}

}  // namespace

std::string drill_json(const std::vector<DrillOutcome>& outcomes) {
    Json drills = Json::array();
    for (const DrillOutcome& outcome : outcomes) {
        drills.push_back({{"name", outcome.name},
                          {"tick_rate", outcome.tick_rate},
                          {"phase", outcome.phase},
                          {"seconds", outcome.seconds},
                          {"ticks", outcome.figures.ticks},
                          {"kept", outcome.kept()},
                          {"expectations", outcome.expectations.size()},
                          {"broken", broken_of(outcome)},
                          {"figures", figures_of(outcome.figures)},
                          {"signals", signals_of(outcome.figures)}});
    }
    return Json{{"format", "hollow-probe drill result 1"}, {"drills", drills}}.dump(2) + "\n";
}

}  // namespace hollow_probe
