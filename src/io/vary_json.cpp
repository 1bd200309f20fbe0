#include "hollow_probe/io/vary_json.hpp"

#include "io/json.hpp"

namespace hollow_probe {

std::string vary_json(const std::string& title, const std::vector<VaryMapRow>& map) {
    Json json = {{"format", "hollow-probe curve 1"}, {"title", title}, {"curves", Json::array()}};
    for (const VaryMapRow& row : map) {
        Json curve = {{"setting", row.curve.setting},
                      {"now", row.curve.now},
                      {"over", row.curve.on_fixtures ? "fixtures" : "level"}};
        if (row.with) curve["with"] = {{"setting", row.with->first}, {"value", row.with->second}};
        curve["points"] = Json::array();
        for (const VaryPoint& point : row.curve.points) {
            curve["points"].push_back({{"value", point.value},
                                       {"missed", point.wrong.missed},
                                       {"false", point.wrong.falsely},
                                       {"missed_poses", point.wrong.missed_poses},
                                       {"false_poses", point.wrong.false_poses},
                                       {"recall", point.recall()},
                                       {"precision", point.precision()},
                                       {"severity", number_or_null(point.severity)}});
        }
        curve["right"] = Json::array();
        for (const Stretch& one : row.curve.right) curve["right"].push_back({one.from, one.to});
        json["curves"].push_back(curve);
    }
    return json.dump(2) + "\n";
}

}  // namespace hollow_probe
