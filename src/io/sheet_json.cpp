#include "hollow_probe/io/sheet_json.hpp"

#include "io/json.hpp"

namespace hollow_probe {
namespace {

Json stretches_of(const std::vector<Stretch>& stretches) {
    Json list = Json::array();
    for (const Stretch& one : stretches) list.push_back({one.from, one.to});
    return list;
}

Json row_of(const SheetRow& row) {
    Json curves = Json::array();
    for (const ResponseCurve& curve : row.curves) {
        curves.push_back({{"turn_degrees", curve.turn_degrees},
                          {"remembers_ground", curve.remembers_ground},
                          {row.moves ? "right" : "on", stretches_of(curve.on)},
                          {"intended", stretches_of(curve.intended)},
                          {"missed", curve.missed},
                          {"false", curve.falsely}});
    }
    return {{"line", row.line},        {"fixture", row.fixture},
            {"varies", row.axis.name}, {"unit", name_of(row.axis.unit)},
            {"from", row.axis.least},  {"to", row.axis.most},
            {"signal", row.signal},    {"in_motion", row.moves},
            {"worst", row.worst},      {"curves", curves}};
}

Json ticks_or_null(const std::optional<std::size_t>& ticks) {
    return ticks ? Json(*ticks) : Json(nullptr);
}

}  // namespace

template <int D>
std::string sheet_json(const std::string& rig_name, const DataSheet<D>& sheet,
                       std::optional<double> microseconds) {
    Json json = {
        {"format", "hollow-probe data sheet 1"},
        {"rig", rig_name},
        {"stance", sheet.stance},
        {"layer", sheet.layer},
        {"size", sheet.size},
        {"rows", Json::array()},
        {"latencies", Json::array()},
        {"cost",
         {{"casts", sheet.cost.casts}, {"overlaps", sheet.cost.overlaps}, {"pieces", sheet.cost.pieces}}}};
    for (const SheetRow& row : sheet.rows) json["rows"].push_back(row_of(row));
    for (const SheetLatency& one : sheet.latencies) {
        json["latencies"].push_back({{"signal", one.signal},
                                     {"tick_rate", one.tick_rate},
                                     {"onset", ticks_or_null(one.onset)},
                                     {"release", ticks_or_null(one.release)}});
    }
    if (sheet.cost.allocations) json["cost"]["allocations"] = *sheet.cost.allocations;
    if (microseconds) json["cost"]["microseconds"] = *microseconds;
    return json.dump(2) + "\n";
}

template std::string sheet_json<2>(const std::string&, const DataSheet<2>&, std::optional<double>);
template std::string sheet_json<3>(const std::string&, const DataSheet<3>&, std::optional<double>);

}  // namespace hollow_probe
