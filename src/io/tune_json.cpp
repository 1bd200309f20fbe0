#include "hollow_probe/io/tune_json.hpp"

#include "io/wrong_json.hpp"

namespace hollow_probe {
namespace {

Json range_of(const std::array<double, 2>& ends) {
    return {number_or_null(ends[0]), number_or_null(ends[1])};
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
                                    {"together", range_of(one.together)}});
    }
    return json.dump(2) + "\n";
}

template std::string tune_json<2>(const std::vector<std::string>&, const std::string&, const TunedRig<2>&);
template std::string tune_json<3>(const std::vector<std::string>&, const std::string&, const TunedRig<3>&);

}  // namespace hollow_probe
