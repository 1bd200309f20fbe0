// What playing many drills of one rig on one level can share.
#pragma once

#include <optional>

#include "hollow_probe/level/shifting_level.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "verify/signal_truths.hpp"

namespace hollow_probe {

/// A reflex with its signal looked up.
struct BoundReflex {
    Reflex reflex;
    std::size_t signal = 0;
    ReadingSet probes;       // of the signal
    std::size_t stance = 0;  // refuse_stance
};

template <int D>
struct StageParts {
    /// Both must outlive it.
    StageParts(const Level<D>& level, const Rig<D>& rig);

    /// Throws InvalidInput for a stance the body does not have.
    [[nodiscard]] std::size_t stance_number(const std::string& name) const;
    /// The level with everything where it is now.
    [[nodiscard]] const Level<D>& level_now() const { return shifting ? shifting->level() : level; }
    /// Puts every solid where it is before the first tick.
    void begin();
    /// Puts solids with paths where they are at a time.
    void set_time(double seconds) {
        if (!shifting) return;
        shifting->at(seconds);
        shifting->refit();
    }

    const Level<D>& level;
    const Rig<D>& rig;
    std::vector<MountedRig<D>> mounted;  // by stance
    std::vector<BoundReflex> reflexes;
    std::vector<std::size_t> value_probes;     // by signal: that it takes its value from
    std::optional<ShiftingLevel<D>> shifting;  // for levels in which something moves
    bool gates_jumps = false;
    bool feels_contacts = false;
};

/// The probes that a signal is made of, its members' members included.
template <int D>
ReadingSet probes_of_signal(const Rig<D>& rig, const std::string& signal);

/// The body in a drill.
template <int D>
struct Actor {
    StageParts<D>& stage;
    Vec<D> anchor = Vec<D>::zero();
    Vec<D> velocity = Vec<D>::zero();
    Vec<D> heading = Vec<D>::zero();
    Vec<D> drive = Vec<D>::zero();
    std::size_t stance = 0;
    bool grounded = false;                                // what the rig remembers
    std::vector<std::optional<Situation<D>>> aimed = {};  // by stance: what its probes are turned to

    /// Turns body and probes to where it looks, moves and is driven.
    void aim() {
        const Situation<D> now{heading, velocity, drive, grounded};
        aimed.resize(stage.mounted.size());
        std::optional<Situation<D>>& before = aimed[stance];
        if (before && mounted().aims_alike(*before, now)) return;
        mounted().aim(now);
        before = now;
    }

    [[nodiscard]] const Level<D>& level() const { return stage.level_now(); }
    [[nodiscard]] const Intent& intent() const { return stage.rig.intent; }
    [[nodiscard]] const Vec<D>& up() const { return stage.level.up(); }
    [[nodiscard]] MountedRig<D>& mounted() const { return stage.mounted[stance]; }
    [[nodiscard]] PlacedBody<D> placed() const { return placed_body<D>(mounted(), anchor); }
    [[nodiscard]] Situation<D> situation() const { return {heading, velocity, drive, false}; }
    [[nodiscard]] Vec<D> across_up(const Vec<D>& v) const { return v - v.dot(up()) * up(); }
};

/// What a reflex's signal was made of: of its probes that are on the one that hit nearest; null if none did.
template <int D>
const Reading<D>* nearest_reading(const BoundReflex& reflex, std::span<const Reading<D>> readings) {
    const Reading<D>* nearest = nullptr;
    for (std::size_t i = 0; i < readings.size(); ++i) {
        if (!reflex.probes.has(i) || !readings[i].on || !readings[i].met) continue;
        if (nearest == nullptr || readings[i].hit.distance < nearest->hit.distance) nearest = &readings[i];
    }
    return nearest;
}

extern template struct StageParts<2>;
extern template struct StageParts<3>;

}  // namespace hollow_probe
