#include "verify/value_errors.hpp"

#include <algorithm>
#include <cmath>

#include "geometry/together.hpp"
#include "hollow_probe/rig/value.hpp"
#include "hollow_probe/truth/value.hpp"
#include "verify/hearing.hpp"
#include "verify/short_hash.hpp"
#include "verify/value_cures.hpp"

namespace hollow_probe {

template <int D>
std::size_t giving_probe(const Rig<D>& rig, std::size_t signal) {
    return static_cast<std::size_t>(
        std::find_if(rig.probes.begin(), rig.probes.end(),
                     [&](const Probe<D>& p) { return p.name == rig.signals[signal].gives_from; }) -
        rig.probes.begin());
}

template <int D>
std::optional<double> value_error_at(const Planned<D>& s, const Rig<D>& rig, const MountedRig<D>& mounted,
                                     const SurveyPose<D>& pose, std::size_t signal) {
    const Signal& given = rig.signals[signal];
    const std::size_t probe = giving_probe<D>(rig, signal);
    std::vector<Reading<D>> readings(mounted.probes.size());
    hear<D>(s, mounted, pose, readings);
    const auto read =
        read_value<D>(given.gives, mounted.probes[probe], readings[probe], pose.anchor, s.level.up());
    if (!read) return std::nullopt;
    const auto truth = true_value<D>(given.gives, *given.claims, s.level_of(pose.facing),
                                     s.question(pose.facing, signal, pose.anchor), s.rig.intent);
    if (!truth) return std::nullopt;
    return value_error<D>(given.gives, *read, *truth);
}

template <int D>
std::vector<ValueErrors<D>> value_errors(const Planned<D>& s, const Samples<D>& samples, bool explain) {
    std::vector<ValueErrors<D>> all(s.rig.signals.size());
    for (std::size_t signal = 0; signal < all.size(); ++signal) {
        const Signal& given = s.rig.signals[signal];
        if (given.gives == Value::none) continue;
        ValueErrors<D>& result = all[signal];
        result.value = given.gives;
        result.id = "v-" + short_hash(given.name + '|' + name_of(given.gives));
        std::vector<std::size_t> rightly_on;
        for (std::size_t i = 0; i < samples.poses.size(); ++i) {
            if (samples.poses[i].verdict(signal) == Verdict::true_contact) rightly_on.push_back(i);
        }
        auto errors = made_together<double>(s.sharing, rightly_on.size(), [&](std::size_t i) {
            s.stop_if_asked();
            const SurveyPose<D>& pose = samples.poses[rightly_on[i]];
            return value_error_at<D>(s, s.rig, s.mounted[pose.facing], pose, signal).value_or(-1.0);
        });
        for (std::size_t i = 0; i < errors.size(); ++i) {
            if (errors[i] > result.worst || (errors[i] >= 0.0 && result.poses == 0)) {
                result.worst = errors[i];
                result.worst_pose = samples.poses[rightly_on[i]];
            }
            if (errors[i] >= 0.0) ++result.poses;
        }
        std::vector<std::size_t> with_value;
        for (std::size_t i = 0; i < errors.size(); ++i) {
            if (errors[i] >= 0.0) with_value.push_back(rightly_on[i]);
        }
        std::erase_if(errors, [](double error) { return error < 0.0; });
        if (errors.empty()) continue;
        const ErrorSpread spread = spread_of(std::move(errors));
        result.median = spread.median;
        result.high = spread.high;
        if (explain) result.cures = value_cures<D>(s, samples, signal, with_value);
    }
    return all;
}

template std::size_t giving_probe<2>(const Rig<2>&, std::size_t);
template std::size_t giving_probe<3>(const Rig<3>&, std::size_t);
template std::optional<double> value_error_at<2>(const Planned<2>&, const Rig<2>&, const MountedRig<2>&,
                                                 const SurveyPose<2>&, std::size_t);
template std::optional<double> value_error_at<3>(const Planned<3>&, const Rig<3>&, const MountedRig<3>&,
                                                 const SurveyPose<3>&, std::size_t);
template std::vector<ValueErrors<2>> value_errors<2>(const Planned<2>&, const Samples<2>&, bool);
template std::vector<ValueErrors<3>> value_errors<3>(const Planned<3>&, const Samples<3>&, bool);

}  // namespace hollow_probe
