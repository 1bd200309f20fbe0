#include "hollow_probe/rig/mount.hpp"

#include <algorithm>
#include <array>
#include <bit>

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
      sees(level.mask_of(probe.sees, Role::sensed)),
      accept{radians(probe.accept_least_degrees), radians(probe.accept_most_degrees)},
      take(probe.take),
      if_inside(probe.if_inside) {}

namespace {

/// `first(angles, hit)` finds the first hit within angles.
template <int D, class First>
void take_reading(const MountedProbe<D>& probe, const Level<D>& level, First first, Reading<D>& reading) {
    if (probe.take == Take::all && first(probe.accept, reading.hit)) {
        reading.on = true;
        reading.met = true;
        return;
    }
    reading.met = first(AngleRange{}, reading.hit);
    reading.on =
        reading.met && probe.take == Take::first && within<D>(probe.accept, reading.hit.normal, level.up());
}

template <int D>
LevelCast<D> cast_of(const MountedProbe<D>& probe, const Vec<D>& anchor) {
    return {probe.shape.view(), anchor + probe.from, probe.along,
            probe.reach,        probe.sees,          probe.if_inside == IfInside::ignore};
}

}  // namespace

template <int D>
Reading<D> MountedProbe<D>::read(const Level<D>& level, const Vec<D>& anchor) const noexcept {
    const LevelCast<D> cast = cast_of(*this, anchor);
    Reading<D> reading;
    const auto first = [&](const AngleRange& angles, LevelHit<D>& hit) {
        const auto found = first_hit<D>(level, cast, angles);
        if (found) hit = *found;
        return found.has_value();
    };
    take_reading(*this, level, first, reading);
    return reading;
}

template <int D>
Bounds<D> MountedProbe<D>::bounds() const {
    Bounds<D> box = shape.bounds().moved(from);
    box.grow(box.moved(reach * along));
    return box;
}

template <int D>
MountedRig<D>::MountedRig(const Rig<D>& rig, const Level<D>& level, std::size_t stance, const Vec<D>& facing)
    : body((check(rig), rig.body.stances.at(stance).shape.placed(body_frame<D>(facing, level.up())))),
      heading(facing),
      meets(level.mask_of(rig.body.meets, Role::reference)) {
    const std::string& stance_name = rig.body.stances[stance].name;
    for (const Probe<D>& probe : rig.probes) {
        probes.emplace_back(probe, level, facing);
        probes.back().mounted = probe.stances.empty() || std::find(probe.stances.begin(), probe.stances.end(),
                                                                   stance_name) != probe.stances.end();
    }
    for (const Signal& signal : rig.signals) {
        const auto named = std::find_if(rig.body.stances.begin(), rig.body.stances.end(),
                                        [&](const Stance<D>& s) { return s.name == signal.stance; });
        asked.push_back(
            named == rig.body.stances.end() ? body : named->shape.placed(body_frame<D>(facing, level.up())));
        const auto bits = [&](const std::vector<std::string>& members) {
            std::uint64_t mask = 0;
            for (std::size_t i = 0; i < rig.probes.size(); ++i) {
                const bool member =
                    std::find(members.begin(), members.end(), rig.probes[i].name) != members.end();
                if (member && probes[i].mounted) mask |= std::uint64_t{1} << i;
            }
            return mask;
        };
        const int least = signal.at_least.of.empty() ? 0 : static_cast<int>(signal.at_least.count);
        signals.push_back({bits(signal.any), bits(signal.all), bits(signal.none), !signal.any.empty(),
                           bits(signal.at_least.of), least});
    }
    join_probes();
}

template <int D>
void MountedRig<D>::join_probes() {
    constexpr double near =
        1.5;  // of the body's size: a probe beyond it would gather too much for the others
    const double farthest = near * body.bounds().size().maxCoeff();
    const Vec<D> middle = body.bounds().center();
    for (std::size_t i = 0; i < probes.size(); ++i) {
        casts.emplace_back(probes[i].shape, cast_of(probes[i], Vec<D>(Vec<D>::Zero())));
        const Bounds<D> box = probes[i].bounds();
        const bool is_near = (box.low - middle).cwiseAbs().maxCoeff() <= farthest &&
                             (box.high - middle).cwiseAbs().maxCoeff() <= farthest;
        if (!probes[i].mounted || !is_near || std::popcount(joined) == most_joined) continue;
        joint.grow(box);
        joined |= std::uint64_t{1} << i;
        joint_layers |= probes[i].sees;
    }
    if (std::popcount(joined) < 2) joined = 0;
}

template <int D>
std::uint64_t MountedRig<D>::probes_on(const Level<D>& level, const Vec<D>& anchor,
                                       std::span<Reading<D>> readings) const noexcept {
    // Neither is filled in before it is used.
    Gathered<D> near;
    // NOLINTNEXTLINE(cppcoreguidelines-pro-type-member-init)
    std::array<std::uint8_t, most_joined * Gathered<D>::most_blocks> lanes;
    const bool gathered = joined != 0 && level.tree().gather(joint.moved(anchor), joint_layers, near);
    if (gathered) {
        std::array<PlacedSweep<D>, most_joined> sweeps;
        std::size_t count = 0;
        for (std::uint64_t left = joined; left != 0; left &= left - 1U) {
            const PreparedCast<D>& cast = casts[static_cast<std::size_t>(std::countr_zero(left))];
            sweeps[count++] = {&cast.sweep, anchor + cast.middle};
        }
        level.tree().candidates(near, {sweeps.data(), count}, lanes);
    }
    Reading<D> unwanted;
    std::uint64_t on = 0;
    std::size_t number = 0;  // among the joined
    for (std::size_t i = 0; i < probes.size(); ++i) {
        Reading<D>& reading = readings.empty() ? unwanted : readings[i];
        reading.on = false;
        reading.met = false;
        if (!probes[i].mounted) continue;
        if (gathered && (joined >> i & 1U) != 0) {
            const std::span<const std::uint8_t> own(lanes.data() + near.count * number++, near.count);
            const auto first = [&](const AngleRange& angles, LevelHit<D>& hit) {
                return first_hit<D>(level, near, own, casts[i], anchor, angles, hit);
            };
            take_reading(probes[i], level, first, reading);
        } else {
            reading = probes[i].read(level, anchor);
        }
        if (reading.on) on |= std::uint64_t{1} << i;
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
    return signals_on(probes_on(level, anchor, readings));
}

template struct MountedProbe<2>;
template struct MountedProbe<3>;
template struct MountedRig<2>;
template struct MountedRig<3>;

}  // namespace hollow_probe
