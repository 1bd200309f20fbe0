// What of a survey is planned before anything is judged.
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

struct FoundRound;
class WorkRecord;

/// What a survey is to do, and all that it needs for that: nothing in it depends on what is judged.
template <int D>
struct Planned {
    Planned(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options, KeptTruths<D>& kept);

    const Level<D>& level;
    const Rig<D>& rig;
    KeptTruths<D>& kept;
    std::vector<Facing<D>> facings;
    std::vector<MountedRig<D>> mounted;   // one a facing
    std::vector<double> terms;            // by facing: the number under which its truths are kept
    std::vector<std::size_t> first;       // by facing: the first one that is alike, see first_alike()
    std::vector<std::size_t> explaining;  // by facing: see first_explaining()
    double half_width = 0.0;              // of the widest stance
    double narrowest_width = 0.0;         // of all stances, across up
    double body_size = 0.0;               // the widest stance's diagonal
    std::optional<Bounds<D>> region;      // that anchors must lie in
    double finest_spacing = 0.0;          // as asked for, or the standard
    Extents<D> extents;                   // of the level grown by what is felt with, across up
    double spacing = 0.0;                 // of the round at hand
    Grid<D> grid;
    double border_width = 0.0;
    std::optional<std::size_t> most_corners;  // columns beside corners and edges, of all facings together
    std::optional<int> most_halvings;         // of the ground between columns that differ

    static constexpr int standard_halvings = D == 2 ? 8 : 4;
    double tick_seconds;
    std::size_t ticks_before = 0;         // that are played before each pose; 0: the rig does not remember
    std::vector<std::size_t> ticks_read;  // … by probe: how many of them what it reads may matter
    std::size_t ticks_of_signals = 0;     // … by what signals remember, what zones keep left aside
    std::size_t ticks_of_way = 0;  // that a body's way to a pose is told of: for memory and forgiveness
    bool feels_contacts = false;   // some probe reads the last move's contacts

    std::size_t most_kept;  // poses
    std::function<bool()> stop;
    WorkSharing sharing;
    const FoundRound* found = nullptr;  // of the round at hand, by parts of this survey
    WorkRecord* record = nullptr;       // what a part writes down

    /// Lays the grid of a round.
    void lay_grid(double distance);
    /// Throws SurveyStopped if it is time to.
    void stop_if_asked() const {
        if (stop && stop()) throw SurveyStopped();
    }

    [[nodiscard]] bool contains(const Vec<D>& anchor) const {
        return !region || (all_at_most(region->low, anchor) && all_at_most(anchor, region->high));
    }
    /// The level at the time of a facing.
    [[nodiscard]] const Level<D>& level_of(std::size_t facing) const {
        return moments.empty() ? level : moments[facings[facing].moment];
    }
    [[nodiscard]] Situation<D> situation(std::size_t facing) const;
    /// How far a body comes while signals remember.
    [[nodiscard]] Vec<D> way_remembered(const Facing<D>& facing) const {
        return static_cast<double>(ticks_of_signals) * tick_seconds * facing.velocity;
    }
    /// Whether the rig feels what the body does, or remembers it: then its signals may change wherever truths
    /// may.
    [[nodiscard]] bool is_told_by_body() const { return feels_contacts || ticks_before > 0; }
    /// Whether what is found of a facing is not already known from one that is alike.
    [[nodiscard]] bool is_first(std::size_t facing) const { return first[facing] == facing; }
    /// How closely heights at which something changes are found.
    [[nodiscard]] double finest() const { return rig.intent.touch / 64.0; }

    /// What a signal's claim is about, the anchor being there.
    [[nodiscard]] TruthQuestion<D> question(std::size_t facing, std::size_t signal,
                                            const Vec<D>& anchor) const {
        return question_of<D>(rig, mounted[facing], signal, situation(facing), anchor, level.up());
    }

  private:
    std::uint64_t seed_;
    double border_fraction_;
    std::deque<Level<D>> moments;  // by number; none for levels without motion
};

extern template struct Planned<2>;
extern template struct Planned<3>;

}  // namespace hollow_probe
