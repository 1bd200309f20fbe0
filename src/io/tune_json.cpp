#include "hollow_probe/io/tune_json.hpp"

#include "io/wrong_json.hpp"

namespace hollow_probe {
namespace {

Json range_of(const std::array<double, 2>& ends) {
    return {number_or_null(ends[0]), number_or_null(ends[1])};
}

Json beside_of(const TunedSetting& setting) {
    Json list = Json::array();
    for (const TunedSetting::Beside& one : setting.beside)
        list.push_back({{"other", one.other}, {"at", one.at}, {"room", range_of(one.room)}});
    return list;
}

template <int D>
Json rig_of(const FrontRig<D>& one, const std::vector<std::string>& settings) {
    Json values = Json::object();
    for (std::size_t i = 0; i < settings.size(); ++i) values[settings[i]] = one.values[i];
    return {{"values", values},
            {"wrong", wrongness_json(one.wrong)},
            {"effort", one.effort},
            {"broken", one.broken}};
}

}  // namespace

template <int D>
std::string tune_json(const std::vector<std::string>& levels, const std::string& rig,
                      const TunedRig<D>& tuned) {
    Json json = {
        {"format", "hollow-probe tuning 1"},
        {"levels", levels},
        {"rig", rig},
        {"settings", Json::array()},
        {"better", tuned.better()},
        {"before", wrongness_json(tuned.before)},
        {"after", wrongness_json(tuned.after)},
        {"weighed_before", tuned.weighed_before},
        {"weighed_after", tuned.weighed_after},
        {"held_before", {{"missed", tuned.held_before.missed}, {"false", tuned.held_before.falsely}}},
        {"held_after", {{"missed", tuned.held_after.missed}, {"false", tuned.held_after.falsely}}},
        {"broken_before", tuned.broken_before},
        {"broken_after", tuned.broken_after},
        {"tried", tuned.tried},
        {"rounds", tuned.rounds}};
    for (const TunedSetting& one : tuned.settings) {
        json["settings"].push_back({{"setting", one.path},
                                    {"was", one.was},
                                    {"is", one.is},
                                    {"value", number_or_null(one.value)},
                                    {"alone", range_of(one.alone)},
                                    {"together", range_of(one.together)},
                                    {"beside", beside_of(one)}});
    }
    return json.dump(2) + "\n";
}

template <int D>
std::string front_json(const std::vector<std::string>& levels, const std::string& rig,
                       const TuningFront<D>& front) {
    Json rigs = Json::array();
    for (const FrontRig<D>& one : front.rigs) rigs.push_back(rig_of<D>(one, front.settings));
    return Json{{"format", "hollow-probe tuning front 1"},
                {"levels", levels},
                {"rig", rig},
                {"settings", front.settings},
                {"before", rig_of<D>(front.before, front.settings)},
                {"rigs", rigs},
                {"tried", front.tried}}
               .dump(2) +
           "\n";
}

template std::string tune_json<2>(const std::vector<std::string>&, const std::string&, const TunedRig<2>&);
template std::string tune_json<3>(const std::vector<std::string>&, const std::string&, const TunedRig<3>&);
template std::string front_json<2>(const std::vector<std::string>&, const std::string&,
                                   const TuningFront<2>&);
template std::string front_json<3>(const std::vector<std::string>&, const std::string&,
                                   const TuningFront<3>&);

}  // namespace hollow_probe
