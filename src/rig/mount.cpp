#include "hollow_probe/rig/mount.hpp"

#include <algorithm>
#include <array>

namespace hollow_probe {

template <int D>
MountedRig<D>::MountedRig(const Rig<D>& rig, const Vec<D>& up, std::size_t stance,
                          const Situation<D>& situation)
    : body((check(rig), rig.body.stances.at(stance).shape.placed(body_frame<D>(situation.heading, up)))),
      heading(situation.heading),
      faces(rig.body.faces),
      up_(up),
      stance_(rig.body.stances[stance].shape) {
    for (const Signal& signal : rig.signals) {
        const auto named = std::find_if(rig.body.stances.begin(), rig.body.stances.end(),
                                        [&](const Stance<D>& s) { return s.name == signal.stance; });
        stances_asked_.emplace_back(named == rig.body.stances.end() ? stance_.upright : named->shape);
        asked.push_back(stances_asked_.back().upright.placed(body_frame<D>(heading, up)));
        of.push_back(all_layers);
        toward.push_back(toward_of<D>(rig, signal));
    }
}

template <int D>
MountedRig<D>::MountedRig(const Rig<D>& rig, const Level<D>& level, std::size_t stance,
                          const Situation<D>& situation)
    : MountedRig(rig, level.up(), stance, situation) {
    meets = level.mask_of(rig.body.meets, Role::reference);
    for (std::size_t i = 0; i < rig.signals.size(); ++i) {
        if (!rig.signals[i].of.empty()) of[i] = level.mask_of(rig.signals[i].of, Role::reference);
    }
    for (const Probe<D>& probe : rig.probes) probes.emplace_back(probe, rig, level, stance, situation);
    find_leaders();
    mount_signals(rig, level.layers());
    prepare_casts();
}

template <int D>
MountedRig<D>::MountedRig(const Rig<D>& rig, const Level<D>& level, std::size_t stance, const Vec<D>& facing)
    : MountedRig(rig, level, stance, Situation<D>{facing}) {}

template <int D>
MountedRig<D>::MountedRig(const Rig<D>& rig, const LayerBits<D>& world, std::size_t stance,
                          const Vec<D>& facing)
    : MountedRig(rig, world.up, stance, Situation<D>{facing}) {
    const auto mask = [&](const std::vector<std::string>& names) {
        LayerSet bits = 0;
        for (const std::string& name : names) {
            const auto found = std::find(world.layers.begin(), world.layers.end(), name);
            if (found == world.layers.end()) throw InvalidInput("layer '" + name + "' is not declared");
            bits |= LayerSet{1} << (found - world.layers.begin());
        }
        return bits;
    };
    meets = mask(rig.body.meets);
    const LayerSet own = rig.body.layer.empty() ? 0 : mask({rig.body.layer});
    const std::string& name = rig.body.stances[stance].name;
    for (const Probe<D>& probe : rig.probes) {
        probes.emplace_back(probe, stance_.upright, SeenLayers{mask(probe.sees), {}}, own);
        probes.back().reads = probe.reads.value_or(rig.reads);
        probes.back().sunk = rig.intent.touch;
        probes.back().mounted = probe.stances.empty() || std::find(probe.stances.begin(), probe.stances.end(),
                                                                   name) != probe.stances.end();
        probes.back().aim(Situation<D>{facing}, world.up);
    }
    for (std::size_t i = 0; i < rig.signals.size(); ++i) {
        if (!rig.signals[i].of.empty()) of[i] = mask(rig.signals[i].of);
    }
    find_leaders();
    mount_signals(rig, world.layers);
    prepare_casts();
}

template <int D>
void MountedRig<D>::find_leaders() {
    for (std::size_t i = 0; i < probes.size(); ++i) {
        leader_.push_back(i);
        const std::string& follows = probes[i].probe().follows;
        if (follows.empty()) continue;
        for (std::size_t k = 0; k < i; ++k) {
            if (probes[k].probe().name == follows) leader_[i] = k;
        }
        probes[i].follow(probes[leader_[i]]);
        leads_.resize(probes.size());
        leads_[leader_[i]] = true;
    }
}

namespace {

/// Gives probes, conditions, signals and nested groups their bits.
template <int D>
class Mounter {
  public:
    Mounter(const Rig<D>& rig, const std::vector<std::string>& layers, MountedRig<D>& mounted,
            std::vector<std::array<std::size_t, 2>>& order)
        : rig_(rig), layers_(layers), mounted_(mounted), order_(order) {}

    MountedGroup group(const Group& of, std::array<std::vector<Bits>, 4>& members) {
        MountedGroup result;
        result.any = bits(of.any, members[0]);
        result.all = bits(of.all, members[1]);
        result.none = bits(of.none, members[2]);
        result.counted = bits(of.at_least.of, members[3]);
        result.has_any = !of.any.empty();
        result.least = of.at_least.of.empty() ? 0 : static_cast<int>(of.at_least.count);
        return result;
    }

  private:
    Bits bits(const std::vector<Member>& members, std::vector<Bits>& each) {
        Bits result;
        for (const Member& member : members) {
            each.push_back(bit(member));
            result = result | each.back();
        }
        return result;
    }

    Bits bit(const Member& member) {
        if (member.name.empty()) {
            std::array<std::vector<Bits>, 4> inner_members;
            const MountedGroup inner = group(member.group.front(), inner_members);
            const std::size_t number = mounted_.groups.size();
            mounted_.groups.push_back(inner);
            order_.push_back({1, number});
            return {{}, SignalSet::of(rig_.signals.size() + number)};
        }
        for (std::size_t i = 0; i < rig_.probes.size(); ++i) {
            if (rig_.probes[i].name != member.name) continue;
            // Numbered alike in every stance.
            const std::size_t number = member.has_condition() ? condition(i, member) : i;
            if (!mounted_.probes[i].mounted) return {};
            return {ReadingSet::of(number), {}};
        }
        for (std::size_t i = 0; i < rig_.signals.size(); ++i) {
            if (rig_.signals[i].name == member.name) return {{}, SignalSet::of(i)};
        }
        return {};
    }

    std::size_t condition(std::size_t probe, const Member& member) {
        MountedCondition result;
        result.probe = probe;
        if (member.angle_degrees)
            result.angle = {radians((*member.angle_degrees)[0]), radians((*member.angle_degrees)[1])};
        if (member.distance) {
            result.least_distance = (*member.distance)[0];
            result.most_distance = (*member.distance)[1];
        }
        if (!member.layers.empty()) {
            result.layers = 0;
            for (const std::string& name : member.layers) {
                const auto found = std::find(layers_.begin(), layers_.end(), name);
                if (found == layers_.end()) throw InvalidInput("layer '" + name + "' is not declared");
                result.layers |= std::uint64_t{1} << (found - layers_.begin());
            }
        }
        mounted_.conditions.push_back(result);
        return rig_.probes.size() + mounted_.conditions.size() - 1;
    }

    const Rig<D>& rig_;
    const std::vector<std::string>& layers_;
    MountedRig<D>& mounted_;
    std::vector<std::array<std::size_t, 2>>& order_;
};

}  // namespace

template <int D>
void MountedRig<D>::mount_signals(const Rig<D>& rig, const std::vector<std::string>& layers) {
    const auto event_bit = [&](const std::string& name) {
        const auto found = std::find(events.begin(), events.end(), name);
        const auto number = static_cast<std::size_t>(found - events.begin());
        if (found == events.end()) events.push_back(name);
        return std::uint64_t{1} << number;
    };
    for (std::size_t i = 0; i < probes.size(); ++i) {
        if (probes[i].kind != ProbeKind::zone) continue;
        probes[i].zone = zone_count_++;
        if (probes[i].keeps == Keeps::until_used) probes[i].used_by = event_bit(rig.probes[i].zone().used_by);
    }
    Mounter<D> mounter(rig, layers, *this, order_);
    for (const Signal& signal : rig.signals) {
        const MountedGroup group = mounter.group(signal.members, members.emplace_back());
        order_.push_back({0, signals.size()});
        if (signal.claims == Claim::ground && ground_signal_.none()) ground_signal_.put(signals.size());
        signals.push_back(group);
        SignalTiming times{signal.settle, signal.grace, 0, signal.mute_after.seconds};
        if (!signal.mute_after.event.empty()) times.mute_events = event_bit(signal.mute_after.event);
        timing.push_back(times);
    }
}

template <int D>
bool MountedRig<D>::reads_before_move() const noexcept {
    return !probes.empty() && std::all_of(probes.begin(), probes.end(), [](const MountedProbe<D>& probe) {
        return probe.reads == Reads::before_move;
    });
}

template <int D>
void MountedRig<D>::replace(std::size_t number, const MountedProbe<D>& probe) {
    probes[number] = probe;
    for (std::size_t i = number; i < probes.size(); ++i) {
        if (leader_[i] != i) probes[i].follow(probes[leader_[i]]);
    }
    prepare_casts();
}

template <int D>
void MountedRig<D>::prepare_casts() {
    casts_.clear();
    first_cast_.clear();
    for (const MountedProbe<D>& probe : probes) {
        first_cast_.push_back(casts_.size());
        if (!probe.is_line()) continue;
        for (std::size_t line = 0; line < probe.lines.size(); ++line)
            casts_.emplace_back(probe.shape, probe.cast(line, Vec<D>::zero()));
    }
    find_joint();
}

template <int D>
void MountedRig<D>::find_joint() noexcept {
    constexpr double near =
        1.5;  // of the body's size: a probe beyond it would gather too much for the others
    const double farthest = near * body.bounds().size().largest();
    const Vec<D> middle = body.bounds().center();
    joint = {};
    joined = {};
    plain_rays = {};
    joined_count_ = 0;
    for (std::size_t i = 0; i < probes.size(); ++i) {
        const MountedProbe<D>& probe = probes[i];
        if (!probe.mounted || !probe.is_line() || !probe.aimed || probe.reads == Reads::before_move) continue;
        if (leader_[i] != i) continue;
        const Bounds<D> box = probe.bounds();
        const bool is_near =
            (box.low - middle).abs().largest() <= farthest && (box.high - middle).abs().largest() <= farthest;
        if (!is_near || joined_count_ + probe.lines.size() > most_joined) continue;
        for (std::size_t line = 0; line < probe.lines.size(); ++line)
            joined_casts_[joined_count_++] = static_cast<std::uint32_t>(first_cast_[i] + line);
        joint.grow(box);
        joined.put(i);
        plain_rays.put(i, probe.lines.size() == 1 && probe.take == Take::first && !probe.meets_own_body &&
                              probe.least == 1 && casts_[first_cast_[i]].is_ray);
    }
    if (joined_count_ > 1) return;
    joined = {};
    joined_count_ = 0;
}

template <int D>
void MountedRig<D>::aim(const Situation<D>& situation) noexcept {
    heading = situation.heading;
    const Mat<D> frame = body_frame<D>(heading, up_);
    stance_.put(body, frame);
    for (std::size_t i = 0; i < asked.size(); ++i) stances_asked_[i].put(asked[i], frame);
    for (std::size_t i = 0; i < probes.size(); ++i) {
        probes[i].aim(situation, up_);
        if (!probes[i].is_line()) continue;
        for (std::size_t line = 0; line < probes[i].lines.size(); ++line)
            casts_[first_cast_[i] + line].aim(probes[i].shape, probes[i].cast(line, Vec<D>::zero()));
    }
    find_joint();
}

template <int D>
bool MountedRig<D>::aims_alike(const Situation<D>& a, const Situation<D>& b) const noexcept {
    return a.heading == b.heading &&
           std::all_of(probes.begin(), probes.end(),
                       [&](const MountedProbe<D>& probe) { return probe.aims_alike(a, b); });
}

template <int D>
ReadingSet MountedRig<D>::bits_of(std::size_t probe, const Reading<D>& reading) const noexcept {
    if (!reading.on) return {};
    ReadingSet bits = ReadingSet::of(probe);
    for (std::size_t i = 0; i < conditions.size(); ++i) {
        const MountedCondition& condition = conditions[i];
        if (condition.probe != probe || !reading.met) continue;
        const bool holds = within<D>(condition.angle, reading.hit.normal, up_) &&
                           reading.hit.distance >= condition.least_distance &&
                           reading.hit.distance <= condition.most_distance && !reading.own_body &&
                           (condition.layers >> reading.hit.layer & 1U) != 0;
        bits.put(probes.size() + i, holds);
    }
    return bits;
}

template <int D>
ReadingSet MountedRig<D>::bits_about(std::size_t probe) const noexcept {
    ReadingSet bits = ReadingSet::of(probe);
    for (std::size_t i = 0; i < conditions.size(); ++i) {
        bits.put(probes.size() + i, conditions[i].probe == probe);
    }
    return bits;
}

template <int D>
template <class First>
void MountedRig<D>::read_lines(std::size_t probe, Wanted wanted, First first,
                               Reading<D>& reading) const noexcept {
    // Not made anew: most of a reading is left as it is.
    reading.on = false;
    reading.met = false;
    reading.own_body = false;
    reading.lines_on = 0;
    probes[probe].read_lines(up_, body, first, reading, wanted);
}

template <int D>
Wanted MountedRig<D>::wanted_of(std::size_t probe) const noexcept {
    const bool is_asked_more =
        std::any_of(conditions.begin(), conditions.end(),
                    [&](const MountedCondition& condition) { return condition.probe == probe; });
    return is_asked_more ? Wanted::if_on : Wanted::on;
}

template <int D>
ReadingSet MountedRig<D>::bits_at(std::size_t probe, const Level<D>& level, const Vec<D>& anchor,
                                  std::span<const MoveContact<D>> contacts) const noexcept {
    const MountedProbe<D>& read = probes[probe];
    if (!read.mounted || !read.aimed) return {};
    if (!read.is_line() || leader_[probe] != probe)
        return bits_of(probe, read.read(level, body, anchor, contacts, wanted_of(probe)));
    Reading<D> reading;
    read_lines(
        probe, wanted_of(probe),
        [&](std::size_t line, const AngleRange& angles, LevelHit<D>& hit) {
            return first_hit<D>(level, casts_[first_cast_[probe] + line], anchor, angles, hit);
        },
        reading);
    return bits_of(probe, reading);
}

template <int D>
void MountedRig<D>::read_ray(std::size_t probe, Neighbourhood<D>& around, std::size_t cast,
                             const Vec<D>& anchor, Reading<D>& reading) const noexcept {
    static constexpr AngleRange all;
    const PreparedCast<D>& ray = casts_[first_cast_[probe]];
    reading.met = around.first_hit(cast, ray, anchor, all, reading.hit);
    reading.on = reading.met && within<D>(probes[probe].accept, reading.hit.normal, ray.direction, up_);
    reading.lines_on = reading.on ? 1 : 0;
    reading.own_body = false;
}

template <int D>
ReadingSet MountedRig<D>::read_level(const Level<D>& level, const Vec<D>& anchor, const Vec<D>& before,
                                     Neighbourhood<D>& around, std::span<Reading<D>> readings,
                                     std::span<const MoveContact<D>> contacts, RigMemory* memory,
                                     std::uint64_t happened) const noexcept {
    const bool kept = joined_count_ > 0 &&
                      around.keep(level, anchor, joint, {casts_, {joined_casts_.data(), joined_count_}});
    Reading<D> unwanted;
    const Wanted of_all = !readings.empty()                      ? Wanted::all
                          : conditions.empty() && leads_.empty() ? Wanted::on
                                                                 : Wanted::if_on;
    ReadingSet on;
    std::optional<CarriedBy<D>> carried;
    if (!leads_.empty()) carried.emplace();
    std::size_t number = 0;  // among the joined lines
    for (std::size_t i = 0; i < probes.size(); ++i) {
        const MountedProbe<D>& probe = probes[i];
        Reading<D>& reading = readings.empty() ? unwanted : readings[i];
        const Vec<D>& at = probe.reads == Reads::before_move ? before : anchor;
        if (!probe.mounted) {
            reading.on = false;
            reading.met = false;
            continue;
        }
        if (kept && joined.has(i)) {
            if (plain_rays.has(i)) {
                read_ray(i, around, number, anchor, reading);
            } else {
                read_lines(
                    i, of_all,
                    [&](std::size_t line, const AngleRange& angles, LevelHit<D>& hit) {
                        return around.first_hit(number + line, casts_[first_cast_[i] + line], anchor, angles,
                                                hit);
                    },
                    reading);
            }
            number += probe.lines.size();
        } else if (probe.is_line() && probe.aimed && leader_[i] == i) {
            read_lines(
                i, of_all,
                [&](std::size_t line, const AngleRange& angles, LevelHit<D>& hit) {
                    return first_hit<D>(level, casts_[first_cast_[i] + line], at, angles, hit);
                },
                reading);
        } else {
            const bool is_zone = probe.kind == ProbeKind::zone && memory != nullptr;
            ZoneMemory* const zone = is_zone ? &memory->zones[probe.zone] : nullptr;
            const LevelBackEnd<D> world(level);
            reading = leader_[i] == i ? probe.read(world, up_, body, at, contacts, zone, happened)
                                      : read_follower(world, i, at, *carried, zone, happened);
        }
        if (reading.on) on |= conditions.empty() ? ReadingSet::of(i) : bits_of(i, reading);
        if (carried && leads_[i]) (*carried)[i] = probe.carries(reading);
    }
    return on;
}

template <int D>
ReadingSet MountedRig<D>::probes_on(const Level<D>& level, const Vec<D>& anchor,
                                    std::span<Reading<D>> readings,
                                    std::span<const MoveContact<D>> contacts) const noexcept {
    Neighbourhood<D> around(0.0);
    return read_level(level, anchor, anchor, around, readings, contacts, nullptr, 0);
}

template <int D>
template <class Held>
SignalSet MountedRig<D>::derive(ReadingSet on, Held held) const noexcept {
    Bits bits{on, {}};
    for (const auto& [nested, number] : order_) {
        if (nested != 0) {
            bits.derived.put(signals.size() + number, groups[number].value(bits));
        } else if (held(number, signals[number].value(bits))) {
            bits.derived.put(number);
        }
    }
    return bits.derived & SignalSet::below(signals.size());
}

template <int D>
SignalSet MountedRig<D>::signals_on(ReadingSet on) const noexcept {
    return derive(on, [](std::size_t, bool holds) { return holds; });
}

template <int D>
SignalSet MountedRig<D>::evaluate(const Level<D>& level, const Vec<D>& anchor, std::span<Reading<D>> readings,
                                  std::span<const MoveContact<D>> contacts) const noexcept {
    return signals_on(probes_on(level, anchor, readings, contacts));
}

template <int D>
SignalSet MountedRig<D>::evaluate(const Level<D>& level, const Vec<D>& anchor, Neighbourhood<D>& around,
                                  std::span<Reading<D>> readings,
                                  std::span<const MoveContact<D>> contacts) const noexcept {
    return signals_on(read_level(level, anchor, anchor, around, readings, contacts, nullptr, 0));
}

template <int D>
RigMemory MountedRig<D>::memory() const {
    RigMemory memory;
    memory.zones.resize(zone_count_);
    memory.signals.resize(signals.size());
    return memory;
}

template <int D>
std::uint64_t MountedRig<D>::event(const std::string& name) const noexcept {
    const auto found = std::find(events.begin(), events.end(), name);
    return found == events.end() ? 0 : std::uint64_t{1} << (found - events.begin());
}

template <int D>
SignalSet MountedRig<D>::remember(ReadingSet on, const Tick<D>& now, RigMemory& memory) const noexcept {
    // Sums of ticks come out a little beside the times that people write.
    constexpr double rounding = 1e-9;
    memory.seconds += now.seconds;
    const double time = memory.seconds;
    const SignalSet result = derive(on, [&](std::size_t number, bool holds) {
        const SignalTiming& times = timing[number];
        if (!times.any()) return holds;
        SignalMemory& past = memory.signals[number];
        if (!holds) {
            past.held_since = infinity;
        } else if (past.held_since > time) {
            past.held_since = time;
        }
        if ((now.events & times.mute_events) != 0) past.muted_until = time + times.mute_seconds;
        const bool muted = time < past.muted_until - rounding;
        const bool settled = holds && time - past.held_since >= times.settle - rounding;
        if (settled && !muted) past.last_on = time;
        if (muted) past.last_on = -infinity;
        return !muted && (settled || time - past.last_on <= times.grace + rounding);
    });
    memory.grounded = (result & ground_signal_).any();
    return result;
}

template <int D>
SignalSet MountedRig<D>::tick(const Level<D>& level, const Tick<D>& now, RigMemory& memory,
                              std::span<Reading<D>> readings) const noexcept {
    Neighbourhood<D> around(0.0);
    return tick(level, now, memory, around, readings);
}

template <int D>
SignalSet MountedRig<D>::tick(const Level<D>& level, const Tick<D>& now, RigMemory& memory,
                              Neighbourhood<D>& around, std::span<Reading<D>> readings) const noexcept {
    return remember(
        read_level(level, now.anchor, now.before, around, readings, now.contacts, &memory, now.events), now,
        memory);
}

template struct MountedRig<2>;
template struct MountedRig<3>;

}  // namespace hollow_probe
