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

Json wrong_of(const WrongTicks& wrong) {
    return {{"missed", wrong.missed}, {"false", wrong.falsely}};
}

Json text_or_null(const std::string& text) {
    return text.empty() ? Json(nullptr) : Json(text);
}

Json first_of(const DrillWhy& why) {
    using Wrong = FirstBroken::Wrong;
    Json list = Json::array();
    for (const FirstBroken& first : why.first) {
        Json verdict = nullptr;
        if (first.wrong != Wrong::no)
            verdict = first.wrong == Wrong::missed ? "missed_contact" : "false_contact";
        list.push_back({{"expectation", first.expectation + 1},
                        {"seconds", first.seconds},
                        {"at", first.at},
                        {"signal", text_or_null(first.signal)},
                        {"verdict", verdict},
                        {"probe", text_or_null(first.probe)},
                        {"reflex", text_or_null(first.reflex)},
                        {"reflex_acts", first.reflex.empty() ? Json(nullptr) : Json(first.reflex_acts)},
                        {"solid", text_or_null(first.solid)},
                        {"causes", first.causes},
                        {"cure", first.cure == 0 ? Json(nullptr) : Json(first.cure)},
                        {"in_part", first.in_part}});
    }
    return list;
}

Json numbered(const std::vector<std::size_t>& expectations) {
    Json list = Json::array();
    for (const std::size_t number : expectations) list.push_back(number + 1);
    return list;
}

Json cures_of(const std::vector<DrillCure>& cures) {
    Json list = Json::array();
    for (const DrillCure& cure : cures) {
        Json between = nullptr;
        if (cure.between[0] != cure.between[1])
            between = {number_or_null(cure.between[0]), number_or_null(cure.between[1])};
        list.push_back({{"number", list.size() + 1},
                        {"table", cure.table},
                        {"name", cure.name},
                        {"key", cure.key},
                        {"now", cure.now},
                        {"then", cure.then},
                        {"between", between},
                        {"cause", text_or_null(cure.cause)},
                        {"mends", numbered(cure.mends)},
                        {"spoils", numbered(cure.spoils)},
                        {"wrong_before", wrong_of(cure.before)},
                        {"wrong_after", wrong_of(cure.after)},
                        {"helps", cure.helps()},
                        {"can_be_written", !cure.edits.empty()}});
    }
    return list;
}

}  // namespace

std::string drill_json(const std::vector<DrillOutcome>& outcomes) {
    Json drills = Json::array();
    for (const DrillOutcome& outcome : outcomes) {
        drills.push_back(
            {{"name", outcome.name},
             {"tick_rate", outcome.tick_rate},
             {"phase", outcome.phase},
             {"seconds", outcome.seconds},
             {"ticks", outcome.figures.ticks},
             {"kept", outcome.kept()},
             {"expectations", outcome.expectations.size()},
             {"broken", broken_of(outcome)},
             {"figures", figures_of(outcome.figures)},
             {"signals", signals_of(outcome.figures)},
             {"first", first_of(outcome.why)},
             {"cures", cures_of(outcome.why.cures)},
             {"together", cures_of(outcome.why.together)},
             {"still_broken", outcome.why.asked ? Json(outcome.why.still_broken) : Json(nullptr)}});
    }
    return Json{{"format", "hollow-probe drill result 1"}, {"drills", drills}}.dump(2) + "\n";
}

}  // namespace hollow_probe
