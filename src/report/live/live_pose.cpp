#include "report/live/live_pose.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/truth/fit.hpp"
#include "hollow_probe/truth/rest.hpp"
#include "report/pose_data.hpp"
#include "verify/signal_truths.hpp"

namespace hollow_probe {
namespace {

Verdict verdict_of(bool on, bool truth, bool decided) {
    if (on == truth) return on ? Verdict::true_contact : Verdict::true_clear;
    if (!decided) return Verdict::undecided;
    return on ? Verdict::false_contact : Verdict::missed_contact;
}

/// "by 0.02 or 3°": how far an answer is from flipping.
std::string margin_words(const Margin& margin) {
    std::string words;
    if (std::isfinite(margin.distance)) words = plain(margin.distance);
    if (std::isfinite(margin.degrees)) words += (words.empty() ? "" : " or ") + plain(margin.degrees) + "°";
    return words.empty() ? "" : ", by " + words;
}

template <int D>
Json signal_answer(const PoseReading<D>& reading, std::size_t number) {
    const Signal& signal = reading.rig.signals[number];
    const bool on = reading.signals_on.has(number);
    Json json = {{"name", signal.name}, {"claims", nullptr}, {"on", on}};
    if (!signal.claims) {
        json["words"] = on ? "on" : "off";
        return json;
    }
    const Pose<D>& at = reading.pose;
    const auto question =
        question_of<D>(reading.rig, reading.mounted, number, {at.heading, at.velocity, at.drive, at.grounded},
                       at.anchor, reading.level.up());
    const double horizon = reading.mounted.body.bounds().size().largest();
    const TruthAnswer<D> truth =
        answer<D>(*signal.claims, reading.level, question, reading.rig.intent, horizon);
    const char* const claim = name_of(signal.claims);
    std::string words = fmt::format("{}; truth: {}{}", on ? "on" : "off", truth.on ? "" : "no ", claim);
    if (truth.on && truth.piece)
        words += fmt::format(", \"{}\"", reading.level.solids()[reading.level.solid_of(*truth.piece)].name);
    words += margin_words(truth.margin);
    json["claims"] = claim;
    json["truth"] = truth.on;
    json["verdict"] = static_cast<int>(verdict_of(on, truth.on, truth.decided));
    json["at"] = truth.on ? numbers_of<D>(truth.point) : Json(nullptr);
    json["words"] = words;
    return json;
}

}  // namespace

template <int D>
Vec<D> vector_from(const Json& json, const char* what) {
    Vec<D> v;
    bool sound = json.is_array() && json.size() == D;
    for (std::size_t axis = 0; sound && axis < D; ++axis) {
        sound = json[axis].is_number() && std::isfinite(json[axis].get<double>());
        if (sound) v[static_cast<int>(axis)] = json[axis].get<double>();
    }
    if (!sound) throw InvalidInput(fmt::format("'{}' is no list of {} finite numbers", what, D));
    return v;
}

template <int D>
Pose<D> pose_from(const Json& json, const Rig<D>& rig, const Vec<D>& up) {
    if (!json.is_object()) throw InvalidInput("'pose' is no object");
    const auto given = [&](const char* key) { return json.contains(key) && !json[key].is_null(); };
    Pose<D> pose;
    pose.anchor = vector_from<D>(json.value("at", Json()), "at");
    pose.heading = level_heading<D>(given("heading")        ? vector_from<D>(json["heading"], "heading")
                                    : std::abs(up[0]) < 0.9 ? Vec<D>::unit(0)
                                                            : Vec<D>::unit(1),
                                    up);
    if (given("velocity")) pose.velocity = vector_from<D>(json["velocity"], "velocity");
    if (given("drive")) pose.drive = vector_from<D>(json["drive"], "drive");
    if (pose.drive.norm() > 0.0) pose.drive.normalize();
    if (given("grounded")) {
        if (!json["grounded"].is_boolean()) throw InvalidInput("'grounded' is neither true nor false");
        pose.grounded = json["grounded"].get<bool>();
    }
    if (given("stance")) {
        const auto& stances = rig.body.stances;
        const auto found = std::find_if(stances.begin(), stances.end(), [&](const Stance<D>& stance) {
            return json["stance"].is_string() && stance.name == json["stance"].get<std::string>();
        });
        // One that was renamed or taken away is the first again.
        if (found != stances.end()) pose.stance = static_cast<std::size_t>(found - stances.begin());
    }
    return pose;
}

template <int D>
Json pose_answer(const Level<D>& level, const Rig<D>& rig, const Pose<D>& pose) {
    const PoseReading<D> reading(level, rig, pose);
    Json json = pose_data<D>(reading);
    json["stance"] = rig.body.stances[pose.stance].name;
    json["signals"] = Json::array();
    for (std::size_t i = 0; i < rig.signals.size(); ++i)
        json["signals"].push_back(signal_answer<D>(reading, i));
    const PlacedBody<D> body = placed_body<D>(reading.mounted, pose.anchor);
    const HeadroomTruth<D> fits = headroom<D>(level, body, body.shape, rig.intent);
    json["clips"] =
        fits.on || !fits.piece ? Json(nullptr) : Json(level.solids()[level.solid_of(*fits.piece)].name);
    return json;
}

template <int D>
Pose<D> at_rest(const Level<D>& level, const Rig<D>& rig, Pose<D> pose) {
    const MountedRig<D> mounted(rig, level, pose.stance, pose.heading);
    const Vec<D>& up = level.up();
    const double height = pose.anchor.dot(up);
    PlacedBody<D> column = placed_body<D>(mounted, pose.anchor - height * up);
    std::vector<double> rests;
    find_rests<D>(level, column, rig.intent, rests);
    double best = infinity;
    for (const double rest : rests) {
        if (std::abs(rest - height) < std::abs(best - height)) best = rest;
    }
    if (std::isfinite(best)) pose.anchor += (best - height) * up;
    return pose;
}

template Vec<2> vector_from<2>(const Json&, const char*);
template Vec<3> vector_from<3>(const Json&, const char*);
template Pose<2> pose_from<2>(const Json&, const Rig<2>&, const Vec<2>&);
template Pose<3> pose_from<3>(const Json&, const Rig<3>&, const Vec<3>&);
template Json pose_answer<2>(const Level<2>&, const Rig<2>&, const Pose<2>&);
template Json pose_answer<3>(const Level<3>&, const Rig<3>&, const Pose<3>&);
template Pose<2> at_rest<2>(const Level<2>&, const Rig<2>&, Pose<2>);
template Pose<3> at_rest<3>(const Level<3>&, const Rig<3>&, Pose<3>);

}  // namespace hollow_probe
