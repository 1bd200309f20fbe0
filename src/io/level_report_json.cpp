#include "hollow_probe/io/level_report_json.hpp"
#include "io/json.hpp"

namespace hollow_probe {
namespace {

Json counts_of(const SolidReport& solid) {
    Json odd = Json::object();
    for (std::size_t i = 0; i < oddity_count; ++i) {
        std::string key = name_of(static_cast<Oddity>(i), true);
        std::replace(key.begin(), key.end(), ' ', '_');
        std::replace(key.begin(), key.end(), '-', '_');
        odd[key] = solid.odd[i];
    }
    return odd;
}

Json when_of(const SensedWhen& when) {
    Json json = {{"stances", when.stances}, {"slowest", when.slowest}};
    if (when.fastest < infinity) json["fastest"] = when.fastest;
    return json;
}

}  // namespace

template <int D>
std::string level_report_json(const Level<D>& level, const LevelReport<D>& report, const IndexFigures& index,
                              const std::string& name) {
    Json solids = Json::array();
    for (std::size_t i = 0; i < level.solids().size(); ++i) {
        const Solid<D>& solid = level.solids()[i];
        const SolidReport& its = report.solids[i];
        Json entry = {{"name", solid.name},          {"layer", level.layers()[solid.layer]},
                      {"pieces", solid.piece_count}, {"facets", its.facets},
                      {"convex", its.convex},        {"islands", its.islands},
                      {"closed", its.closed()},      {"odd", counts_of(its)}};
        if (solid.role != Role::both) entry["role"] = name_of(solid.role);
        if (solid.one_way) entry["one_way"] = numbers_of<D>(*solid.one_way);
        if (solid.volume) entry["volume"] = true;
        if (solid.sensed_when) entry["sensed_when"] = when_of(*solid.sensed_when);
        if (solid.path) {
            entry["path"] = {{"stops", solid.path->stops.size()},
                             {"pace", solid.path->pace},
                             {"wait", solid.path->wait},
                             {"period", solid.path->period()}};
        }
        solids.push_back(std::move(entry));
    }
    Json places = Json::array();
    for (const OddPlace<D>& place : report.places) {
        Json entry = {{"what", name_of(place.oddity)},
                      {"solid", level.solids()[place.solid].name},
                      {"at", numbers_of<D>(place.at)}};
        if (place.oddity == Oddity::narrow_gap) entry["width"] = place.width;
        places.push_back(std::move(entry));
    }
    Json areas = Json::array();
    for (const Area<D>& area : level.areas()) {
        areas.push_back({{"name", area.name},
                         {"low", numbers_of<D>(area.box.low)},
                         {"high", numbers_of<D>(area.box.high)}});
    }
    Json claims = Json::array();
    for (const AreaClaim& claim : level.claims()) {
        claims.push_back({{"area", claim.area},
                          {"truth", name_of(claim.truth)},
                          {"is", claim.always ? "always" : "never"}});
    }
    const Json json = {
        {"format", "hollow-probe level report 1"},
        {"level", name},
        {"dimensions", D},
        {"up", numbers_of<D>(level.up())},
        {"layers", level.layers()},
        {"pieces", level.piece_count()},
        {"bounds",
         {{"low", numbers_of<D>(level.bounds().low)}, {"high", numbers_of<D>(level.bounds().high)}}},
        {"index",
         {{"nodes", level.tree().node_count()},
          {"bytes", level.tree().bytes()},
          {"build_seconds", index.build_seconds}}},
        {"starts", level.starts().size()},
        {"areas", areas},
        {"claims", claims},
        {"solids", solids},
        {"odd_places", places},
        {"warnings", level.warnings()}};
    return json.dump(2) + "\n";
}

template std::string level_report_json<2>(const Level<2>&, const LevelReport<2>&, const IndexFigures&,
                                          const std::string&);
template std::string level_report_json<3>(const Level<3>&, const LevelReport<3>&, const IndexFigures&,
                                          const std::string&);

}  // namespace hollow_probe
