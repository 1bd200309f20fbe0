#include "hollow_probe/io/survey_json.hpp"
#include "io/wrong_json.hpp"

#include <algorithm>

namespace hollow_probe {
namespace {

template <int D>
Json pose_json(const Rig<D>& rig, const Survey<D>& survey, const SurveyPose<D>& pose) {
    const Facing<D>& facing = survey.facings[pose.facing];
    Json json = {{"anchor", numbers_of<D>(pose.anchor)},
                 {"heading", numbers_of<D>(facing.heading)},
                 {"stance", rig.body.stances[facing.stance].name},
                 {"above_rest", number_or_null(pose.above_rest)},
                 {"holds", {number_or_null(-pose.down), number_or_null(pose.up)}}};
    if (facing.arrival != Arrival::stood) {
        json["arrival"] = name_of(facing.arrival);
        json["velocity"] = numbers_of<D>(facing.velocity);
    }
    if (!facing.drive.is_zero()) json["drive"] = numbers_of<D>(facing.drive);
    if (facing.grounded) json["remembers_ground"] = true;
    if (facing.seconds != 0.0) json["seconds"] = facing.seconds;
    return json;
}

Json scope_json(const SurveyScope& scope) {
    return {{"columns",
             {{"grid", scope.grid_columns},
              {"borders", scope.border_columns},
              {"corners", scope.corner_columns}}},
            {"heights", {scope.lowest, scope.highest}},
            {"corners_left_out", scope.corners_left_out},
            {"states_alike", scope.facings_alike},
            {"insides_left_out", scope.enclosed},
            {"insides_surveyed", scope.entered},
            {"odd_surfaces", scope.odd},
            {"warnings", scope.warnings},
            {"probes_never_on", scope.never_on},
            {"probes_never_off", scope.never_off}};
}

Json cause_json(const CauseReport& cause) {
    Json json = {{"cause", name_of(cause.cause)}};
    if (cause.parameter.empty()) {
        json["proven"] = cause.proven;
        return json;
    }
    json["probe"] = cause.probe.empty() ? Json(nullptr) : Json(cause.probe);
    json["parameter"] = cause.parameter;
    json["now"] = cause.now;
    json["needs"] = cause.needs;
    json["needs_number"] = number_or_null(cause.needs_number);
    json["between"] = std::isnan(cause.between[0]) || cause.between == std::array<double, 2>{}
                          ? Json(nullptr)
                          : Json{number_or_null(cause.between[0]), number_or_null(cause.between[1])};
    json["by"] = cause.by;
    json["proven"] = cause.proven;
    json["gain"] = cause.gain;
    json["spoils"] = cause.spoils;
    json["helps"] = cause.helps();
    json["edits"] = Json::array();
    for (const FieldChange& edit : cause.edits) {
        json["edits"].push_back({{"table", edit.table},
                                 {"name", edit.name},
                                 {"key", edit.key},
                                 {"now", edit.now},
                                 {"then", edit.then}});
    }
    json["cures"] = cause.cures;
    json["cures_elsewhere"] = cause.cures_elsewhere;
    json["adds_missed"] = cause.adds_missed;
    json["adds_false"] = cause.adds_false;
    if (cause.tried < cause.of) json["tried"] = cause.tried;
    for (const CauseReport& further : cause.with) {
        json["with"].push_back({{"cause", name_of(further.cause)},
                                {"probe", further.probe.empty() ? Json(nullptr) : Json(further.probe)},
                                {"parameter", further.parameter},
                                {"now", further.now},
                                {"needs", further.needs},
                                {"needs_number", number_or_null(further.needs_number)},
                                {"by", further.by}});
    }
    return json;
}

/// Fixes are numbered from 1, as the text has them and --fix takes them.
template <int D>
Json fixes_json(const Rig<D>& rig, const Survey<D>& survey) {
    Json fixes = Json::array();
    for (const Fix<D>& fix : survey.fixes) {
        Json ids = Json::array();
        for (const std::size_t finding : fix.findings) ids.push_back(survey.findings[finding].id);
        Json stances = Json::array();
        for (const std::size_t stance : fix.stances) stances.push_back(rig.body.stances[stance].name);
        fixes.push_back({{"number", fixes.size() + 1},
                         {"change", cause_json(fix.change)},
                         {"findings", ids},
                         {"wholly_cured", fix.whole},
                         {"stances", stances},
                         {"after", fix.after ? wrongness_json(*fix.after) : Json(nullptr)}});
    }
    return fixes;
}

template <int D>
Json verdicts_json(const Rig<D>& rig, const Survey<D>& survey, std::size_t i) {
    const SignalVerdicts& signal = survey.signals[i];
    Json verdicts = {{"claims", name_of(signal.claims)}, {"put_to_test", signal.put_to_test()}};
    Json measure = Json::object();
    for (std::size_t v = 0; v < verdict_count; ++v) {
        verdicts[name_of(static_cast<Verdict>(v))] = signal.poses[v];
        measure[name_of(static_cast<Verdict>(v))] = signal.measure[v];
    }
    verdicts["measure"] = measure;
    verdicts["precision"] = signal.precision();
    verdicts["recall"] = signal.recall();
    if (const ValueErrors<D>& errors = survey.values[i]; errors.value != Value::none) {
        Json value = {{"gives", name_of(errors.value)}, {"poses", errors.poses}};
        if (errors.poses > 0) {
            value["median"] = errors.median;
            value["95_percent"] = errors.high;
            value["worst"] = errors.worst;
            value["worst_pose"] = pose_json(rig, survey, errors.worst_pose);
        }
        value["id"] = errors.id;
        value["cures"] = Json::array();
        for (const ValueCure& cure : errors.cures) {
            value["cures"].push_back({{"change", cause_json(cure.change)},
                                      {"median", cure.median},
                                      {"95_percent", cure.high},
                                      {"worst", cure.worst}});
        }
        verdicts["value_error"] = value;
    }
    return verdicts;
}

template <int D>
Json claim_json(const Rig<D>& rig, const Survey<D>& survey, const ClaimReport<D>& report) {
    Json claim = {{"area", report.claim.area},
                  {"truth", name_of(report.claim.truth)},
                  {"is", report.claim.always ? "always" : "never"},
                  {"poses", report.poses},
                  {"against_geometry", report.against_geometry},
                  {"against_signals", report.against_signals}};
    if (report.first) claim["first"] = pose_json(rig, survey, *report.first);
    return claim;
}

template <int D>
Json finding_json(const Rig<D>& rig, const Survey<D>& survey, const Finding<D>& finding) {
    Json causes = Json::array();
    for (const CauseReport& cause : finding.causes) causes.push_back(cause_json(cause));
    Json json = {{"id", finding.id},
                 {"signal", rig.signals[finding.signal].name},
                 {"verdict", name_of(finding.verdict)},
                 {"stance", rig.body.stances[finding.stance].name},
                 {"solid", finding.solid},
                 {"count", finding.count},
                 {"measure", finding.measure},
                 {"reached", survey.scope.knows_reached ? Json(finding.reached) : Json(nullptr)},
                 {"severity", number_or_null(finding.severity)},
                 {"bounds",
                  {{"low", numbers_of<D>(finding.bounds.low)}, {"high", numbers_of<D>(finding.bounds.high)}}},
                 {"worst", pose_json(rig, survey, finding.worst)},
                 {"causes", causes}};
    Json& fixes = json["fixes"] = Json::array();
    for (const std::size_t fix : finding.fixes) fixes.push_back(fix + 1);
    return json;
}

}  // namespace

template <int D>
std::string survey_json(const Level<D>& level, const Rig<D>& rig, const Survey<D>& survey,
                        const std::string& level_name, const std::string& rig_name) {
    Json json = {{"format", "hollow-probe survey 1"},
                 {"level", level_name},
                 {"rig", rig_name},
                 {"dimensions", D},
                 {"up", numbers_of<D>(level.up())},
                 {"spacing", survey.spacing},
                 {"seed", survey.seed},
                 {"rounds", Json::array()},
                 {"end", name_of(survey.end)},
                 {"headings", Json::array()},
                 {"poses", survey.judged},
                 {"grid_poses", survey.grid_poses},
                 {"border_poses", survey.border_poses},
                 {"asked", survey.asked},
                 {"looked_at", scope_json(survey.scope)},
                 {"signals", Json::object()},
                 {"findings", Json::array()}};
    for (const SurveyRound& round : survey.rounds)
        json["rounds"].push_back({{"spacing", round.spacing}, {"poses", round.poses}});
    for (const Facing<D>& facing : survey.facings) {
        const Json heading = numbers_of<D>(facing.heading);
        if (std::find(json["headings"].begin(), json["headings"].end(), heading) == json["headings"].end())
            json["headings"].push_back(heading);
    }
    json["states"] = survey.facings.size();
    if (survey.right_kept_of > 1) json["right_kept_of"] = survey.right_kept_of;
    if (survey.wrong_kept_of > 1) json["wrong_kept_of"] = survey.wrong_kept_of;
    for (std::size_t i = 0; i < survey.signals.size(); ++i) {
        const SignalVerdicts& signal = survey.signals[i];
        if (!signal.claims) {
            json["helpers"].push_back(signal.name);
            continue;
        }
        json["signals"][signal.name] = verdicts_json<D>(rig, survey, i);
    }
    for (const ClaimReport<D>& report : survey.claims) {
        json["claims"].push_back(claim_json<D>(rig, survey, report));
    }
    for (const Finding<D>& finding : survey.findings) {
        json["findings"].push_back(finding_json<D>(rig, survey, finding));
    }
    json["wrong"] = wrongness_json(survey.wrong);
    json["fixes"] = fixes_json<D>(rig, survey);
    if (survey.joint) {
        Json numbers = Json::array();
        for (const std::size_t fix : survey.joint->fixes) numbers.push_back(fix + 1);
        json["together"] = {{"fixes", numbers}, {"after", wrongness_json(survey.joint->after)}};
    }
    return json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

template std::string survey_json<2>(const Level<2>&, const Rig<2>&, const Survey<2>&, const std::string&,
                                    const std::string&);
template std::string survey_json<3>(const Level<3>&, const Rig<3>&, const Survey<3>&, const std::string&,
                                    const std::string&);

}  // namespace hollow_probe
