#include "hollow_probe/io/compare_json.hpp"

#include "io/json.hpp"

namespace hollow_probe {
namespace {

template <int D>
Json difference_of(const RigDifference<D>& one, const std::string& wrong) {
    return {
        {"signal", one.signal},
        {"verdict", name_of(one.verdict)},
        {"wrong", wrong},
        {"stance", one.stance},
        {"poses", one.poses},
        {"measure", one.measure},
        {"bounds", {numbers_of<D>(one.bounds.low), numbers_of<D>(one.bounds.high)}},
        {"pose", {{"anchor", numbers_of<D>(one.anchor)}, {"heading", numbers_of<D>(one.facing.heading)}}}};
}

Json changes_of(const std::vector<FieldChange>& changes) {
    Json list = Json::array();
    for (const FieldChange& change : changes)
        list.push_back({{"table", change.table},
                        {"name", change.name},
                        {"key", change.key},
                        {"first", change.now},
                        {"second", change.then}});
    return list;
}

}  // namespace

template <int D>
std::string compare_json(const ComparedRigs<D>& compared) {
    Json json = {{"format", "hollow-probe comparison 1"},
                 {"levels", compared.levels},
                 {"rigs", Json::array()},
                 {"pairs", Json::array()}};
    for (const ComparedRig& rig : compared.rigs) {
        const RigScore& score = rig.score;
        Json one = {{"rig", rig.path},
                    {"missed", score.wrong.missed},
                    {"false", score.wrong.falsely},
                    {"missed_share", score.wrong.missed_share()},
                    {"false_share", score.wrong.false_share()},
                    {"missed_poses", score.wrong.missed_poses},
                    {"false_poses", score.wrong.false_poses},
                    {"findings", score.findings},
                    {"gravest", number_or_null(score.severity)},
                    {"casts", score.casts},
                    {"pieces", score.pieces},
                    {"none_beats_it", rig.in_front},
                    {"worse_than_first", rig.worse}};
        if (compared.columns.drills)
            one["drills"] = {{"broken", score.broken},
                             {"wrong_ticks", score.wrong_ticks},
                             {"latency", score.latency},
                             {"flicker", score.flicker}};
        if (compared.columns.sheets) one["wrong_lines"] = score.wrong_lines;
        json["rigs"].push_back(one);
    }
    for (const ComparedPair<D>& pair : compared.pairs) {
        Json one = {{"first", compared.rigs[pair.first].path},
                    {"second", compared.rigs[pair.second].path},
                    {"changes", changes_of(pair.changes)},
                    {"only_in_first", pair.only_in_first},
                    {"only_in_second", pair.only_in_second},
                    {"intents_differ", pair.intents_differ},
                    {"on", Json::array()}};
        for (const auto& [level, held] : pair.on) {
            Json on = {{"level", level},
                       {"poses", held.poses},
                       {"only_first_right", held.only_first_right},
                       {"only_second_right", held.only_second_right},
                       {"both_wrong", held.both_wrong},
                       {"cured", held.cured},
                       {"new", held.fresh},
                       {"unchanged", held.unchanged},
                       {"differences", Json::array()}};
            for (const RigDifference<D>& each : held.differences)
                on["differences"].push_back(difference_of<D>(
                    each, compared.rigs[each.first_is_right ? pair.second : pair.first].path));
            one["on"].push_back(on);
        }
        json["pairs"].push_back(one);
    }
    return json.dump(2) + "\n";
}

template std::string compare_json<2>(const ComparedRigs<2>&);
template std::string compare_json<3>(const ComparedRigs<3>&);

}  // namespace hollow_probe
