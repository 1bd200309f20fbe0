// Everything a survey holds fixed, and what a rig says at one pose.
#pragma once

#include <deque>
#include <optional>

#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/truth/answer.hpp"
#include "hollow_probe/verify/kept_truths.hpp"
#include "hollow_probe/verify/survey.hpp"
#include "verify/grid.hpp"
#include "verify/signal_truths.hpp"

namespace hollow_probe {

/// The bits of probes and signals that are on.
struct Heard {
    ReadingSet probes_on;
    SignalSet signals_on;
};

template <int D>
struct Surveyed {
    Surveyed(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options, KeptTruths<D>& kept);

    const Level<D>& level;
    const Rig<D>& rig;
    KeptTruths<D>& kept;
    std::vector<Facing<D>> facings;
    std::vector<MountedRig<D>> mounted;  // one a facing
    std::vector<double> terms;           // by facing: the number under which its truths are kept
    double half_width = 0.0;             // of the widest stance
    double narrowest_width = 0.0;        // of all stances, across up
    double body_size = 0.0;              // the widest stance's diagonal
    std::optional<Bounds<D>> region;     // that anchors must lie in
    double finest_spacing = 0.0;         // as asked for, or the standard
    Extents<D> extents;                  // of the level grown by what is felt with, across up
    double spacing = 0.0;                // of the round at hand
    Grid<D> grid;
    double border_width = 0.0;
    std::optional<std::size_t> most_corners;  // columns beside corners and edges, a facing
    std::optional<int> most_halvings;         // of the ground between columns that differ

    static constexpr int standard_halvings = D == 2 ? 8 : 4;
    double tick_seconds;
    std::size_t ticks_before = 0;  // that are played before each pose; 0: the rig does not remember
    std::size_t ticks_of_way = 0;  // that a body's way to a pose is told of: for memory and forgiveness
    bool feels_contacts = false;   // some probe reads the last move's contacts

    std::size_t most_kept;  // poses
    std::function<bool()> stop;

    /// Lays the grid of a round.
    void lay_grid(double distance);
    /// Throws SurveyStopped if it is time to.
    void stop_if_asked() const {
        if (stop && stop()) throw SurveyStopped();
    }

    [[nodiscard]] bool contains(const Vec<D>& anchor) const {
        return !region || ((anchor.array() >= region->low.array()).all() &&
                           (anchor.array() <= region->high.array()).all());
    }
    /// The level at the time of a facing.
    [[nodiscard]] const Level<D>& level_of(std::size_t facing) const {
        return moments.empty() ? level : moments[facings[facing].moment];
    }
    [[nodiscard]] Situation<D> situation(std::size_t facing) const;
    /// How closely heights at which something changes are found.
    [[nodiscard]] double finest() const { return rig.intent.touch / 64.0; }

    /// What a signal's claim is about, the anchor being there.
    [[nodiscard]] TruthQuestion<D> question(std::size_t facing, std::size_t signal,
                                            const Vec<D>& anchor) const {
        return question_of<D>(rig, mounted[facing], signal, situation(facing), anchor, level.up());
    }
    /// What a body that rests or moves there touches.
    [[nodiscard]] std::vector<MoveContact<D>> contacts(const MountedRig<D>& rig, std::size_t facing,
                                                       const Vec<D>& anchor) const;
    /// How a body comes to a pose, as its facing has it: the anchors of the ticks before, oldest first, and
    /// last the pose's own; what it touches at each, if that matters; and the number of the tick at which it
    /// takes off.
    struct Way {
        std::size_t facing = 0;
        std::vector<Vec<D>> anchors;
        std::vector<std::vector<MoveContact<D>>> touched;
        std::size_t jump = ~std::size_t{0};
        std::vector<ReadingSet> on;  // at each tick, of the rig surveyed; empty: not read yet
    };
    [[nodiscard]] Way way_to(std::size_t facing, const Vec<D>& anchor, double above_rest) const;
    [[nodiscard]] Way way_to(const SurveyPose<D>& pose) const {
        return way_to(pose.facing, pose.anchor, pose.above_rest);
    }
    /// Reads the probes of the rig surveyed all along the way, for rigs that differ in their signals alone.
    void read_along(Way& way) const;
    /// What such a rig says, its probes having been read.
    [[nodiscard]] SignalSet signals_after(const MountedRig<D>& rig_there, const Way& way) const;
    /// What a rig, the one surveyed or a changed one, says having come that way.
    Heard hear(const MountedRig<D>& rig_there, const Way& way, std::span<Reading<D>> readings = {}) const;
    Heard hear(const MountedRig<D>& rig_there, const SurveyPose<D>& pose,
               std::span<Reading<D>> readings = {}) const {
        return hear(rig_there, way_to(pose), readings);
    }

  private:
    std::uint64_t seed_;
    double border_fraction_;
    [[nodiscard]] Tick<D> tick_at(const Way& way, std::size_t number) const;

    std::deque<Level<D>> moments;  // by number; none for levels without motion
};

extern template struct Surveyed<2>;
extern template struct Surveyed<3>;

}  // namespace hollow_probe
