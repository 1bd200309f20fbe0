#include "verify/cures.hpp"

#include <algorithm>

#include "verify/parallel.hpp"

namespace hollow_probe {
namespace {

constexpr std::size_t trials_in_all = 16'000'000;
constexpr std::size_t fewest_trials = 20'000;

bool is_wrong(Verdict verdict) {
    return verdict == Verdict::missed_contact || verdict == Verdict::false_contact;
}

}  // namespace

template <int D>
Cures<D>::Cures(const Surveyed<D>& surveyed, const Samples<D>& samples, std::size_t expected)
    : s_(surveyed), samples_(samples) {
    // A rig that remembers is played for many ticks at each pose.
    const std::size_t ticks = 1 + surveyed.ticks_before;
    const std::size_t each =
        std::max(fewest_trials / ticks, trials_in_all / (ticks * std::max<std::size_t>(expected, 1)));
    step_ = std::max<std::size_t>(1, (samples.poses.size() + each - 1) / std::max<std::size_t>(each, 1));
    if (surveyed.ticks_before == 0) return;
    ways_.resize((samples.poses.size() + step_ - 1) / step_);
    for_each_index(ways_.size(), [&](std::size_t i) {
        ways_[i] = surveyed.way_to(samples.poses[i * step_]);
        surveyed.read_along(ways_[i]);
    });
}

template <int D>
bool Cures<D>::is_of_reach_alone(const ProvenCause<D>& cause) const {
    if (cause.change != Change::reach || !cause.with.empty() || s_.ticks_before > 0) return false;
    const auto index = static_cast<std::size_t>(cause.probe);
    const Probe<D>& probe = s_.rig.probes[index];
    const MountedRig<D>& mounted = s_.mounted.front();
    return !probe.reach_grounded && probe.reach_per_speed == 0.0 && mounted.probes[index].is_line() &&
           probe.spread.least == 1 && mounted.bits_about(index) == std::uint64_t{1} << index;
}

/// A longer reach meets the same first hit, so that one reading tells of all shorter ones.
template <int D>
const std::vector<double>& Cures<D>::reaches(std::size_t probe, double reach) {
    auto& entry = reaches_[probe];
    double& known = entry.first;  // by name: a lambda of clang 14 takes in no bindings
    std::vector<double>& distances = entry.second;
    if (!distances.empty() && known >= reach) return distances;
    known = 1.25 * reach;
    ProvenCause<D> longer;
    longer.change = Change::reach;
    longer.probe = static_cast<int>(probe);
    longer.amount = known;
    std::vector<Alternative<D>> alternatives;
    for (std::size_t facing = 0; facing < s_.facings.size(); ++facing)
        alternatives.emplace_back(s_, facing, 0, longer);
    distances.resize(samples_.poses.size());
    for_each_index(distances.size(), [&](std::size_t i) {
        const SurveyPose<D>& pose = samples_.poses[i];
        const Reading<D> reading = alternatives[pose.facing].reading(pose);
        const bool mounted = s_.mounted[pose.facing].probes[probe].mounted;
        distances[i] = mounted && reading.on ? reading.hit.distance : infinity;
    });
    return distances;
}

template <int D>
void Cures<D>::attempt(const ProvenCause<D>& cause, std::size_t signal, const std::vector<bool>& mine,
                       CauseReport& report) {
    std::vector<std::uint8_t> on(samples_.poses.size());
    const bool quick = is_of_reach_alone(cause);
    const auto tried = [&](std::size_t i) { return quick || mine[i] || i % step_ == 0; };
    if (quick) {
        const auto index = static_cast<std::size_t>(cause.probe);
        const auto& distances = reaches(index, cause.amount);
        const std::uint64_t bit = std::uint64_t{1} << index;
        for_each_index(on.size(), [&](std::size_t i) {
            const SurveyPose<D>& pose = samples_.poses[i];
            const std::uint64_t probes =
                distances[i] <= cause.amount ? pose.probes_on | bit : pose.probes_on & ~bit;
            on[i] = s_.mounted[pose.facing].signals_on(probes) >> signal & 1U;
        });
    } else {
        std::vector<Alternative<D>> alternatives;
        for (std::size_t facing = 0; facing < s_.facings.size(); ++facing)
            alternatives.emplace_back(s_, facing, signal, cause);
        for_each_index(on.size(), [&](std::size_t i) {
            const SurveyPose<D>& pose = samples_.poses[i];
            if (!tried(i)) return;
            const Alternative<D>& changed = alternatives[pose.facing];
            const bool known = i % step_ == 0 && !ways_.empty();
            on[i] = (known ? changed.signal_on(pose, ways_[i / step_]) : changed.signal_on(pose)) ? 1 : 0;
        });
    }
    report.of = on.size();
    for (std::size_t i = 0; i < on.size(); ++i) {
        if (!tried(i)) continue;
        ++report.tried;
        SurveyPose<D> after = samples_.poses[i];
        const std::uint64_t bit = std::uint64_t{1} << signal;
        after.signals_on = on[i] != 0 ? after.signals_on | bit : after.signals_on & ~bit;
        const Verdict was = samples_.poses[i].verdict(signal);
        const Verdict is = after.verdict(signal);
        // A pose stands for those that were not kept.
        const bool is_any_wrong = (samples_.poses[i].signals_on ^ samples_.poses[i].truths_on) != 0;
        const std::size_t weight = is_any_wrong ? samples_.wrong_step : samples_.right_step;
        if (is_wrong(was) && !is_wrong(is)) (mine[i] ? report.cures : report.cures_elsewhere) += weight;
        if (!is_wrong(was) && is_wrong(is))
            (is == Verdict::missed_contact ? report.adds_missed : report.adds_false) += weight;
    }
}

template class Cures<2>;
template class Cures<3>;

}  // namespace hollow_probe
