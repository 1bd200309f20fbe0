#include "verify/tellers.hpp"

#include <algorithm>

#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

template <int D>
bool is_in_chain(const Rig<D>& rig, const Probe<D>& probe) {
    return !probe.follows.empty() ||
           std::any_of(rig.probes.begin(), rig.probes.end(),
                       [&](const Probe<D>& other) { return other.follows == probe.name; });
}

/// Whether a probe judges what stops it first, aside from up, or what it overlaps deepest.
template <int D>
bool judges_one_of_many(const MountedRig<D>& mounted, std::size_t number, const Vec<D>& up) {
    const MountedProbe<D>& probe = mounted.probes[number];
    if (!probe.mounted || !probe.aimed || probe.kind == ProbeKind::contact) return false;
    const bool conditions =
        std::any_of(mounted.conditions.begin(), mounted.conditions.end(),
                    [&](const MountedCondition& condition) { return condition.probe == number; });
    if (!probe.is_line()) return conditions;
    const bool judges = conditions || (probe.take == Take::first && !probe.accept.everything());
    return judges && std::any_of(probe.lines.begin(), probe.lines.end(), [&](const ProbeLine<D>& line) {
               return std::abs(line.along.dot(up)) < 1.0 - tolerance::direction;
           });
}

}  // namespace

template <int D>
Tellers<D>::Tellers(const Planned<D>& planned, std::size_t facing) : up_(planned.level.up()) {
    const std::vector<Probe<D>>& probes = planned.rig.probes;
    for (std::size_t i = 0; i < probes.size(); ++i) {
        const bool in_chain = is_in_chain(planned.rig, probes[i]);
        follow_ = follow_ || in_chain;
        if (in_chain || judges_one_of_many<D>(planned.mounted[facing], i, up_)) probes_.push_back(i);
    }
}

template <int D>
int Tellers<D>::parts_of(double length, double tall) const {
    constexpr double parts = 64.0;  // of the body's height
    return follow_ ? static_cast<int>(std::clamp(parts * length / tall, 1.0, 4.0 * parts)) : 1;
}

template <int D>
std::uint64_t Tellers<D>::met(std::span<const Reading<D>> readings) const {
    std::uint64_t all = 0;
    for (const std::size_t probe : probes_) {
        const Reading<D>& reading = readings[probe];
        const double rises = reading.hit.normal.dot(up_);
        const std::uint64_t side = rises > tolerance::angle ? 2 : rises < -tolerance::angle ? 1 : 0;
        const std::uint64_t stopped =
            reading.met ? 1 + 2 * (side + 3 * std::uint64_t{reading.hit.piece}) + (reading.on ? 1 : 0) : 0;
        all = (all ^ stopped) * 0x9e3779b97f4a7c15U;
        all ^= all >> 29;
    }
    return all;
}

template class Tellers<2>;
template class Tellers<3>;

}  // namespace hollow_probe
