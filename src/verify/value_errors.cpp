#include "verify/value_errors.hpp"

#include <algorithm>

#include "geometry/parallel.hpp"
#include "hollow_probe/rig/value.hpp"
#include "hollow_probe/truth/value.hpp"

namespace hollow_probe {
namespace {

/// How far the value is from truth at a pose, if both have one.
template <int D>
std::optional<double> error_at(const Surveyed<D>& s, const SurveyPose<D>& pose, std::size_t signal,
                               std::size_t probe) {
    const Signal& given = s.rig.signals[signal];
    const MountedRig<D>& mounted = s.mounted[pose.facing];
    std::vector<Reading<D>> readings(mounted.probes.size());
    s.hear(mounted, pose, readings);
    const Vec<D>& up = s.level.up();
    const auto read = read_value<D>(given.gives, mounted.probes[probe], readings[probe], pose.anchor, up);
    const auto truth = true_value<D>(given.gives, *given.claims, s.level_of(pose.facing),
                                     s.question(pose.facing, signal, pose.anchor), s.rig.intent);
    if (!read || !truth) return std::nullopt;
    return value_error<D>(given.gives, *read, *truth);
}

}  // namespace

template <int D>
std::vector<ValueErrors<D>> value_errors(const Surveyed<D>& s, const Samples<D>& samples) {
    std::vector<ValueErrors<D>> all(s.rig.signals.size());
    for (std::size_t signal = 0; signal < all.size(); ++signal) {
        const Signal& given = s.rig.signals[signal];
        if (given.gives == Value::none) continue;
        const auto probe = static_cast<std::size_t>(
            std::find_if(s.rig.probes.begin(), s.rig.probes.end(),
                         [&](const Probe<D>& p) { return p.name == given.gives_from; }) -
            s.rig.probes.begin());
        std::vector<std::size_t> rightly_on;
        for (std::size_t i = 0; i < samples.poses.size(); ++i) {
            if (samples.poses[i].verdict(signal) == Verdict::true_contact) rightly_on.push_back(i);
        }
        std::vector<double> errors(rightly_on.size());
        for_each_index(errors.size(), [&](std::size_t i) {
            errors[i] = error_at<D>(s, samples.poses[rightly_on[i]], signal, probe).value_or(-1.0);
        });
        ValueErrors<D>& result = all[signal];
        result.value = given.gives;
        for (std::size_t i = 0; i < errors.size(); ++i) {
            if (errors[i] > result.worst || (errors[i] >= 0.0 && result.poses == 0)) {
                result.worst = errors[i];
                result.worst_pose = samples.poses[rightly_on[i]];
            }
            if (errors[i] >= 0.0) ++result.poses;
        }
        std::erase_if(errors, [](double error) { return error < 0.0; });
        if (errors.empty()) continue;
        std::sort(errors.begin(), errors.end());
        const auto at = [&](double part) {
            return errors[static_cast<std::size_t>(std::ceil(part * static_cast<double>(errors.size())) -
                                                   1.0)];
        };
        result.median = at(0.5);
        result.high = at(0.95);
    }
    return all;
}

template std::vector<ValueErrors<2>> value_errors<2>(const Surveyed<2>&, const Samples<2>&);
template std::vector<ValueErrors<3>> value_errors<3>(const Surveyed<3>&, const Samples<3>&);

}  // namespace hollow_probe
