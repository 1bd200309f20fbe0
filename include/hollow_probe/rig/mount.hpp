// A rig mounted on one stance, ready to be read at any anchor and to be carried through a game.
#pragma once

#include <bit>
#include <span>

#include "hollow_probe/level/neighbourhood.hpp"
#include "hollow_probe/rig/mounted_probe.hpp"
#include "hollow_probe/rig/number_set.hpp"

namespace hollow_probe {

/// What signals are made of, one bit each: probes and then conditions on them; signals and then nested
/// groups.
struct Bits {
    ReadingSet readings;
    SignalSet derived;

    bool operator==(const Bits&) const = default;
    [[nodiscard]] bool none() const noexcept { return readings.none() && derived.none(); }
    [[nodiscard]] int count() const noexcept { return readings.count() + derived.count(); }
};
inline Bits operator&(const Bits& a, const Bits& b) {
    return {a.readings & b.readings, a.derived & b.derived};
}
inline Bits operator|(const Bits& a, const Bits& b) {
    return {a.readings | b.readings, a.derived | b.derived};
}

/// A group over bits.
struct MountedGroup {
    Bits any;
    Bits all;
    Bits none;
    Bits counted;  // of these at least `least` must be on
    bool has_any = false;
    int least = 0;

    [[nodiscard]] Bits members() const noexcept { return any | all | none | counted; }

    [[nodiscard]] bool value(const Bits& on) const noexcept {
        return (!has_any || !(on & any).none()) && (on & all) == all && (on & none).none() &&
               (on & counted).count() >= least;
    }
};

/// A condition on a probe's reading beyond the probe's own.
struct MountedCondition {
    std::size_t probe = 0;
    AngleRange angle;
    double least_distance = 0.0;
    double most_distance = infinity;
    std::uint64_t layers = ~std::uint64_t{0};  // by number of the layer
};

/// When a signal turns on and off.
struct SignalTiming {
    double settle = 0.0;
    double grace = 0.0;
    std::uint64_t mute_events = 0;
    double mute_seconds = 0.0;

    [[nodiscard]] bool any() const { return settle > 0.0 || grace > 0.0 || mute_events != 0; }
};

/// How a world tells layers: up, and for each name of a layer its bit.
template <int D>
struct LayerBits {
    Vec<D> up = Vec<D>::unit(1);
    std::vector<std::string> layers;  // layer i has bit i
};

/// How far those that follow a probe are carried by it, of the probes read so far.
template <int D>
using CarriedBy = std::array<std::optional<Vec<D>>, most_probes>;

/// Example, a rig held against a level pose by pose:
///
///     const MountedRig<2> mounted(rig, level, 0, {1, 0});
///     std::vector<Reading<2>> readings(mounted.probes.size());
///     const SignalSet signals = mounted.evaluate(level, {3.0, 0.0}, readings);
///     const bool grounded = signals.has(0);  // the rig's first signal
///
/// and in a game, where time passes; one for each body, and each stance:
///
///     MountedRig<2> rig_of_body(rig, level, 0, {1, 0});
///     RigMemory memory = rig_of_body.memory();
///     Neighbourhood<2> around;
///     // each tick
///     rig_of_body.aim({heading, velocity, drive, memory.grounded});
///     const SignalSet signals =
///         rig_of_body.tick(level, {anchor, before, seconds}, memory, around, readings);
template <int D>
struct MountedRig {
    /// `stance` numbers rig.body.stances; `heading` is unit and perpendicular to up. Throws InvalidInput for
    /// a rig that check() refuses and for layers the level does not declare.
    MountedRig(const Rig<D>& rig, const Level<D>& level, std::size_t stance, const Vec<D>& heading);
    MountedRig(const Rig<D>& rig, const Level<D>& level, std::size_t stance, const Situation<D>& situation);
    /// For a world of the game's own: probes get the bits of the layers they see, and so does the body.
    MountedRig(const Rig<D>& rig, const LayerBits<D>& world, std::size_t stance, const Vec<D>& heading);

    RoundedHull<D> body;  // the stance, relative to the anchor
    Vec<D> heading;
    std::vector<RoundedHull<D>> asked;  // by signal: the stance its claim is about, relative to the anchor
    LayerSet meets = 0;
    Faces faces = Faces::both;                 // that stop the body
    std::vector<LayerSet> of;                  // by signal: the pieces its truth is limited to
    std::vector<Toward> toward;                // by signal
    std::vector<MountedProbe<D>> probes;       // as in the rig
    std::vector<MountedCondition> conditions;  // their bits follow those of the probes
    std::vector<MountedGroup> signals;         // as in the rig
    std::vector<SignalTiming> timing;          // by signal
    /// By signal: the bits of the members of any, all, none and at_least.of, in the order of the rig; none
    /// for what is not mounted in the stance.
    std::vector<std::array<std::vector<Bits>, 4>> members;
    std::vector<MountedGroup> groups;  // nested ones, inner before outer; their bits follow the signals'
    std::vector<std::string> events;   // that matter: bit i stands for events[i]
    Bounds<D> joint;                   // of the probes that are read in one traversal
    ReadingSet joined;                 // these
    ReadingSet plain_rays;             // of these, rays of one line that take the first hit

    /// Whether every probe is read before the move, so that the whole rig is.
    [[nodiscard]] bool reads_before_move() const noexcept;
    /// Puts another probe in place of one.
    void replace(std::size_t number, const MountedProbe<D>& probe);
    /// Turns all probes to a situation. Allocates nothing.
    void aim(const Situation<D>& situation) noexcept;
    /// Whether to be aimed for one situation is to be aimed for the other.
    [[nodiscard]] bool aims_alike(const Situation<D>& a, const Situation<D>& b) const noexcept;

    /// Reads every probe with the anchor at `anchor`; returns the signals whose members hold,
    /// time left aside: zones as if they kept the set. `readings` has room for all probes, or is empty if
    /// they are not wanted. Allocates nothing, takes no lock, never throws. One traversal of the level's
    /// index serves all rays and casts that reach no farther than about the body's own size.
    SignalSet evaluate(const Level<D>& level, const Vec<D>& anchor, std::span<Reading<D>> readings = {},
                       std::span<const MoveContact<D>> contacts = {}) const noexcept;
    /// … through what is kept of the level around the body from one pose to the next: the same answer, and
    /// less to gather where the body moves little.
    SignalSet evaluate(const Level<D>& level, const Vec<D>& anchor, Neighbourhood<D>& around,
                       std::span<Reading<D>> readings = {},
                       std::span<const MoveContact<D>> contacts = {}) const noexcept;

    /// The bits of the probes that are on, and of the conditions that hold.
    ReadingSet probes_on(const Level<D>& level, const Vec<D>& anchor, std::span<Reading<D>> readings = {},
                         std::span<const MoveContact<D>> contacts = {}) const noexcept;
    /// The bits that one probe sets at an anchor, read by itself; a zone as if it kept the set.
    [[nodiscard]] ReadingSet bits_at(std::size_t probe, const Level<D>& level, const Vec<D>& anchor,
                                     std::span<const MoveContact<D>> contacts = {}) const noexcept;
    /// The bits that one probe's reading sets: its own and those of conditions on it.
    [[nodiscard]] ReadingSet bits_of(std::size_t probe, const Reading<D>& reading) const noexcept;
    /// What bits_of() needs of a probe's reading.
    [[nodiscard]] Wanted wanted_of(std::size_t probe) const noexcept;
    /// All bits that depend on one probe.
    [[nodiscard]] ReadingSet bits_about(std::size_t probe) const noexcept;
    /// The signals whose members hold.
    [[nodiscard]] SignalSet signals_on(ReadingSet probes_on) const noexcept;

    [[nodiscard]] RigMemory memory() const;
    /// The bit of an event, 0 for one that matters to nothing.
    [[nodiscard]] std::uint64_t event(const std::string& name) const noexcept;

    /// One tick of a game: every probe is read, zones and signals remember. Returns the signals that are
    /// on. Allocates nothing, takes no lock, never throws.
    SignalSet tick(const Level<D>& level, const Tick<D>& now, RigMemory& memory,
                   std::span<Reading<D>> readings = {}) const noexcept;
    /// … through what is kept of the level around the body from one tick to the next.
    SignalSet tick(const Level<D>& level, const Tick<D>& now, RigMemory& memory, Neighbourhood<D>& around,
                   std::span<Reading<D>> readings = {}) const noexcept;
    /// … on a world of the game's own.
    template <QueryBackEnd<D> World>
    SignalSet tick(const World& world, const Tick<D>& now, RigMemory& memory,
                   std::span<Reading<D>> readings = {}) const noexcept;

    /// The part of a tick that comes after the probes have been read.
    SignalSet remember(ReadingSet probes_on, const Tick<D>& now, RigMemory& memory) const noexcept;

  private:
    MountedRig(const Rig<D>& rig, const Vec<D>& up, std::size_t stance, const Situation<D>& situation);
    void mount_signals(const Rig<D>& rig, const std::vector<std::string>& layers);
    void prepare_casts();
    void find_leaders();
    void find_joint() noexcept;
    template <class Held>
    [[nodiscard]] SignalSet derive(ReadingSet probes_on, Held held) const noexcept;
    ReadingSet read_level(const Level<D>& level, const Vec<D>& anchor, const Vec<D>& before,
                          Neighbourhood<D>& around, std::span<Reading<D>> readings,
                          std::span<const MoveContact<D>> contacts, RigMemory* memory,
                          std::uint64_t happened) const noexcept;
    /// One ray that takes the first hit, number `cast` among those joined.
    void read_ray(std::size_t probe, Neighbourhood<D>& around, std::size_t cast, const Vec<D>& anchor,
                  Reading<D>& reading) const noexcept;

    /// Reads the lines of a probe that follows none; `first(line, angles, hit)` finds a line's first hit.
    template <class First>
    void read_lines(std::size_t probe, Wanted wanted, First first, Reading<D>& reading) const noexcept;

    /// Lines; further ones are read by themselves.
    static constexpr std::size_t most_joined = Neighbourhood<D>::most_casts;
    Vec<D> up_;
    TurnedShape<D> stance_;
    std::vector<TurnedShape<D>> stances_asked_;              // by signal
    std::vector<PreparedCast<D>> casts_;                     // of all lines
    std::vector<std::size_t> first_cast_;                    // by probe
    std::array<std::uint32_t, most_joined> joined_casts_{};  // of the probes read in one traversal
    std::size_t joined_count_ = 0;
    std::size_t zone_count_ = 0;
    /// Reads a probe that follows another, whose reading is at hand if both are read at one time.
    template <QueryBackEnd<D> World>
    Reading<D> read_follower(const World& world, std::size_t probe, const Vec<D>& anchor,
                             const CarriedBy<D>& carried, ZoneMemory* zone,
                             std::uint64_t happened) const noexcept;

    std::vector<std::size_t> leader_;                // by probe: the one that it follows, or its own number
    std::vector<bool> leads_;                        // by probe: whether any follows it; empty if none does
    SignalSet ground_signal_;                        // the first signal that claims ground
    std::vector<std::array<std::size_t, 2>> order_;  // groups and signals in the order they are worked out
};

template <int D>
template <QueryBackEnd<D> World>
Reading<D> MountedRig<D>::read_follower(const World& world, std::size_t probe, const Vec<D>& anchor,
                                        const CarriedBy<D>& carried, ZoneMemory* zone,
                                        std::uint64_t happened) const noexcept {
    const std::size_t leader = leader_[probe];
    if (probes[leader].reads != probes[probe].reads)
        return probes[probe].read(world, up_, body, anchor, {}, zone, happened);
    return probes[probe].read_carried(world, up_, body, anchor, carried[leader], zone, happened);
}

template <int D>
template <QueryBackEnd<D> World>
SignalSet MountedRig<D>::tick(const World& world, const Tick<D>& now, RigMemory& memory,
                              std::span<Reading<D>> readings) const noexcept {
    ReadingSet on;
    std::optional<CarriedBy<D>> carried;
    if (!leads_.empty()) carried.emplace();
    for (std::size_t i = 0; i < probes.size(); ++i) {
        const Vec<D>& anchor = probes[i].reads == Reads::before_move ? now.before : now.anchor;
        Reading<D> reading;
        if (probes[i].mounted) {
            ZoneMemory* zone = probes[i].kind == ProbeKind::zone ? &memory.zones[probes[i].zone] : nullptr;
            reading = leader_[i] == i
                          ? probes[i].read(world, up_, body, anchor, now.contacts, zone, now.events)
                          : read_follower(world, i, anchor, *carried, zone, now.events);
            on |= bits_of(i, reading);
            if (carried && leads_[i]) (*carried)[i] = probes[i].carries(reading);
        }
        if (!readings.empty()) readings[i] = reading;
    }
    return remember(on, now, memory);
}

extern template struct MountedRig<2>;
extern template struct MountedRig<3>;

}  // namespace hollow_probe
