#include "hollow_probe/rig/mount.hpp"

#include <algorithm>

namespace hollow_probe {
namespace {

template <int D>
RoundedHull<D> point_shape() {
    // A ray is the cast of a point: a ball without its radius.
    return RoundedHull<D>::ball(Vec<D>::Zero(), 1.0).with_radius(0.0);
}

}  // namespace

template <int D>
MountedProbe<D>::MountedProbe(const Probe<D>& probe, const Level<D>& level, const Vec<D>& heading)
    : shape((probe.shape ? *probe.shape : point_shape<D>()).placed(body_frame<D>(heading, level.up()))),
      from(body_frame<D>(heading, level.up()) * probe.from),
      along(body_frame<D>(heading, level.up()) * probe.along),
      reach(probe.reach),
      sees(level.mask_of(probe.sees)),
      accept{radians(probe.accept_least_degrees), radians(probe.accept_most_degrees)},
      take(probe.take),
      if_inside(probe.if_inside) {}

template <int D>
Reading<D> MountedProbe<D>::read(const Level<D>& level, const Vec<D>& anchor) const noexcept {
    const LevelCast<D> cast{shape.view(), anchor + from, along, reach, sees, if_inside == IfInside::ignore};
    Reading<D> reading;
    if (take == Take::all) {
        if (const auto accepted = first_hit<D>(level, cast, accept)) {
            return {true, true, *accepted};
        }
    }
    if (const auto first = first_hit<D>(level, cast)) {
        reading.met = true;
        reading.hit = *first;
        reading.on = take == Take::first && within<D>(accept, first->normal, level.up());
    }
    return reading;
}

template <int D>
MountedRig<D>::MountedRig(const Rig<D>& rig, const Level<D>& level, std::size_t stance, const Vec<D>& heading)
    : body((check(rig), rig.body.stances.at(stance).shape.placed(body_frame<D>(heading, level.up())))),
      meets(level.mask_of(rig.body.meets)) {
    const std::string& stance_name = rig.body.stances[stance].name;
    for (const Probe<D>& probe : rig.probes) {
        probes.emplace_back(probe, level, heading);
        probes.back().mounted = probe.stances.empty() || std::find(probe.stances.begin(), probe.stances.end(),
                                                                   stance_name) != probe.stances.end();
    }
    for (const Signal& signal : rig.signals) {
        const auto bits = [&](const std::vector<std::string>& members) {
            std::uint64_t mask = 0;
            for (std::size_t i = 0; i < rig.probes.size(); ++i) {
                const bool member =
                    std::find(members.begin(), members.end(), rig.probes[i].name) != members.end();
                if (member && probes[i].mounted) mask |= std::uint64_t{1} << i;
            }
            return mask;
        };
        signals.push_back({bits(signal.any), bits(signal.all), bits(signal.none), !signal.any.empty()});
    }
}

template <int D>
std::uint64_t MountedRig<D>::probes_on(const Level<D>& level, const Vec<D>& anchor) const noexcept {
    std::uint64_t on = 0;
    for (std::size_t i = 0; i < probes.size(); ++i) {
        if (probes[i].mounted && probes[i].read(level, anchor).on) on |= std::uint64_t{1} << i;
    }
    return on;
}

template <int D>
std::uint64_t MountedRig<D>::signals_on(std::uint64_t on) const noexcept {
    std::uint64_t bits = 0;
    for (std::size_t i = 0; i < signals.size(); ++i) {
        if (signals[i].value(on)) bits |= std::uint64_t{1} << i;
    }
    return bits;
}

template <int D>
std::uint64_t MountedRig<D>::evaluate(const Level<D>& level, const Vec<D>& anchor,
                                      std::span<Reading<D>> readings) const noexcept {
    if (readings.empty()) return signals_on(probes_on(level, anchor));
    std::uint64_t on = 0;
    for (std::size_t i = 0; i < probes.size(); ++i) {
        readings[i] = probes[i].mounted ? probes[i].read(level, anchor) : Reading<D>{};
        if (readings[i].on) on |= std::uint64_t{1} << i;
    }
    return signals_on(on);
}

template struct MountedProbe<2>;
template struct MountedProbe<3>;
template struct MountedRig<2>;
template struct MountedRig<3>;

}  // namespace hollow_probe
