#include "study/response.hpp"

#include <algorithm>
#include <map>

#include "hollow_probe/motion/play.hpp"
#include "hollow_probe/rig/touched.hpp"
#include "verify/signal_truths.hpp"

namespace hollow_probe {
namespace {

template <int D>
Situation<D> situation_of(const Pose<D>& pose) {
    return {pose.heading, pose.velocity, pose.drive, pose.grounded};
}

template <int D>
SignalSet judged(const Rig<D>& rig) {
    return SignalSet::below(rig.signals.size()) & ~helpers_of<D>(rig);
}

/// The stretches within which a bit is set, from looks in ascending order with changes located between them.
template <class Has>
std::vector<Stretch> stretches_of(const std::vector<std::pair<double, Look>>& looks, Has has) {
    std::vector<Stretch> found;
    bool within = false;
    for (std::size_t i = 0; i < looks.size(); ++i) {
        const bool now = has(looks[i].second);
        // A change lies between two looks.
        const double change = i == 0 ? looks[0].first : 0.5 * (looks[i - 1].first + looks[i].first);
        if (now && !within) found.push_back({change, looks[i].first});
        if (now || within) found.back().to = now ? looks[i].first : change;
        within = now;
    }
    return found;
}

/// Length of what is in `these` and in none of `others`; pieces no longer than `noise` left out.
double length_without(const std::vector<Stretch>& these, const std::vector<Stretch>& others, double noise) {
    double length = 0.0;
    for (const Stretch& one : these) {
        double at = one.from;
        const auto count = [&](double until) {
            if (until - at > noise) length += until - at;
        };
        for (const Stretch& other : others) {
            if (other.to <= at) continue;
            count(std::min(other.from, one.to));
            at = std::max(at, other.to);
        }
        count(one.to);
    }
    return length;
}

}  // namespace

template <int D>
Look look_at(const Rig<D>& rig, const FixtureScene<D>& scene) {
    const Situation<D> situation = situation_of<D>(scene.pose);
    const MountedRig<D> mounted(rig, scene.level, scene.pose.stance, situation);
    const bool feels = std::any_of(rig.probes.begin(), rig.probes.end(),
                                   [](const Probe<D>& probe) { return probe.kind() == ProbeKind::contact; });
    std::vector<MoveContact<D>> contacts;
    if (feels) contacts = touched_by<D>(scene.level, mounted, scene.pose.anchor, rig.intent.touch);
    Known<D> known;
    const SignalTruths truths =
        truths_of_signals<D>(scene.level, rig, mounted, situation, scene.pose.anchor, known);
    const SignalSet on = mounted.evaluate(scene.level, scene.pose.anchor, {}, contacts);
    const SignalSet all = judged<D>(rig);
    // What is in doubt is taken to be as the signal says.
    const SignalSet meant = (truths.on & ~truths.undecided) | (on & truths.undecided);
    return {on & all, meant & all};
}

template <int D>
Look Viewpoint<D>::look(double value) const {
    std::vector<double> at = values;
    at[axis] = value;
    if (!fixture.moves()) {
        FixtureScene<D> scene = fixture.scene(at, turn_degrees);
        scene.pose.grounded = remembers_ground;
        return look_at<D>(rig, scene);
    }
    const FixtureScene<D> scene = fixture.scene(at, turn_degrees);
    PlayOptions<D> options;
    options.keep_ticks = false;
    const DrillRecord<D> record = play<D>(scene.level, rig, fixture.drill(at, turn_degrees), options);
    Look look{{}, judged<D>(rig)};
    for (std::size_t i = 0; i < record.figures.signals.size(); ++i) {
        const SignalFigures& figures = record.figures.signals[i];
        look.on.put(i, look.intended.has(i) && figures.missed_ticks + figures.false_ticks == 0);
    }
    return look;
}

template <int D>
std::vector<ResponseCurve> responses(const Viewpoint<D>& view, double from, double to, std::size_t steps,
                                     double within, const std::vector<double>& also) {
    std::vector<double> at;
    for (std::size_t i = 0; i <= steps; ++i) {
        const double part = static_cast<double>(i) / static_cast<double>(steps);
        at.push_back(i == steps ? to : from + part * (to - from));
    }
    for (const double x : also) {
        if (x > from && x < to) at.push_back(x);
    }
    std::sort(at.begin(), at.end());
    at.erase(std::unique(at.begin(), at.end()), at.end());
    std::map<double, Look> looked;
    for (const double x : at) looked.emplace(x, view.look(x));
    // Halves whatever changes, until it is located; what differs at both ends of a half is looked for in
    // both.
    std::vector<std::pair<double, double>> open;
    for (std::size_t i = 0; i + 1 < at.size(); ++i) open.emplace_back(at[i], at[i + 1]);
    while (!open.empty()) {
        const auto [low, high] = open.back();
        open.pop_back();
        const double middle = 0.5 * (low + high);
        if (high - low <= within || middle <= low || middle >= high || looked.at(low) == looked.at(high))
            continue;
        looked.emplace(middle, view.look(middle));
        open.emplace_back(low, middle);
        open.emplace_back(middle, high);
    }
    const std::vector<std::pair<double, Look>> looks(looked.begin(), looked.end());
    std::vector<ResponseCurve> curves;
    for (std::size_t i = 0; i < view.rig.signals.size(); ++i) {
        ResponseCurve curve;
        curve.turn_degrees = view.turn_degrees;
        curve.remembers_ground = view.remembers_ground;
        curve.on = stretches_of(looks, [i](const Look& look) { return look.on.has(i); });
        curve.intended = stretches_of(looks, [i](const Look& look) { return look.intended.has(i); });
        const double noise = 4.0 * within;
        curve.missed = length_without(curve.intended, curve.on, noise);
        curve.falsely = length_without(curve.on, curve.intended, noise);
        curves.push_back(std::move(curve));
    }
    return curves;
}

template Look look_at<2>(const Rig<2>&, const FixtureScene<2>&);
template Look look_at<3>(const Rig<3>&, const FixtureScene<3>&);
template struct Viewpoint<2>;
template struct Viewpoint<3>;
template std::vector<ResponseCurve> responses<2>(const Viewpoint<2>&, double, double, std::size_t, double,
                                                 const std::vector<double>&);
template std::vector<ResponseCurve> responses<3>(const Viewpoint<3>&, double, double, std::size_t, double,
                                                 const std::vector<double>&);

}  // namespace hollow_probe
