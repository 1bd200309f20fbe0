#include "hollow_probe/io/readings_json.hpp"

#include "hollow_probe/rig/touched.hpp"
#include "hollow_probe/rig/value.hpp"
#include "hollow_probe/truth/answer.hpp"
#include "io/json.hpp"
#include "verify/signal_truths.hpp"

namespace hollow_probe {
template <int D>
std::string readings_json(const Level<D>& level, const Rig<D>& rig, const Pose<D>& pose,
                          const std::optional<SurveyPose<D>>& judged) {
    const MountedRig<D> mounted(rig, level, pose.stance,
                                Situation<D>{pose.heading, pose.velocity, pose.drive, pose.grounded});
    std::vector<Reading<D>> readings(mounted.probes.size());
    const auto contacts = touched_by<D>(level, mounted, pose.anchor, rig.intent.touch);
    const SignalSet read = mounted.evaluate(level, pose.anchor, readings, contacts);
    const SignalSet signals = judged ? judged->signals_on : read;
    const PlacedBody<D> body = placed_body<D>(mounted, pose.anchor);
    const Situation<D> situation{pose.heading, pose.velocity, pose.drive, pose.grounded};
    Json json = {{"format", "hollow-probe readings 1"},
                 {"anchor", numbers_of<D>(pose.anchor)},
                 {"heading", numbers_of<D>(pose.heading)},
                 {"stance", rig.body.stances[pose.stance].name},
                 {"clips", clip<D>(level, body, rig.intent).on},
                 {"probes", Json::object()},
                 {"signals", Json::object()}};
    for (std::size_t i = 0; i < readings.size(); ++i) {
        Json reading = {{"on", readings[i].on}, {"mounted", mounted.probes[i].mounted}};
        if (!rig.probes[i].follows.empty()) reading["follows"] = rig.probes[i].follows;
        if (readings[i].unread) reading["unread"] = true;  // what it follows is off
        if (readings[i].met) {
            const LevelHit<D>& hit = readings[i].hit;
            reading["hit"] = {{"distance", hit.distance},
                              {"point", numbers_of<D>(hit.point)},
                              {"normal", numbers_of<D>(hit.normal)},
                              {"angle_from_up", degrees(angle_between<D>(hit.normal, level.up()))}};
            if (readings[i].own_body) {
                reading["hit"]["own_body"] = true;
            } else {
                reading["hit"]["solid"] = level.solids()[level.solid_of(hit.piece)].name;
                reading["hit"]["layer"] = level.layers()[level.layer_of(hit.piece)];
            }
            reading["hit"]["began_inside"] = hit.began_inside;
        }
        json["probes"][rig.probes[i].name] = reading;
    }
    for (std::size_t i = 0; i < rig.signals.size(); ++i) {
        Json& signal = json["signals"][rig.signals[i].name] = {{"on", signals.has(i)}};
        if (!rig.signals[i].claims) continue;
        const auto question = question_of<D>(rig, mounted, i, situation, pose.anchor, level.up());
        signal["claims"] = name_of(rig.signals[i].claims);
        signal["truth"] = answer<D>(*rig.signals[i].claims, level, question, rig.intent).on;
        if (judged) signal["verdict"] = name_of(judged->verdict(i));
        if (rig.signals[i].gives == Value::none) continue;
        for (std::size_t k = 0; k < readings.size(); ++k) {
            if (rig.probes[k].name != rig.signals[i].gives_from) continue;
            const auto value =
                read_value<D>(rig.signals[i].gives, mounted.probes[k], readings[k], pose.anchor, level.up());
            Json& given = json["signals"][rig.signals[i].name][name_of(rig.signals[i].gives)];
            if (value)
                given = rig.signals[i].gives == Value::wall_normal ? numbers_of<D>(value->direction)
                                                                   : Json(value->number);
        }
    }
    return json.dump(2) + "\n";
}

template std::string readings_json<2>(const Level<2>&, const Rig<2>&, const Pose<2>&,
                                      const std::optional<SurveyPose<2>>&);
template std::string readings_json<3>(const Level<3>&, const Rig<3>&, const Pose<3>&,
                                      const std::optional<SurveyPose<3>>&);

}  // namespace hollow_probe
