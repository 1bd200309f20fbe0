// Judged poses of a survey: the grid, and the borders between differing verdicts.
#pragma once

#include <optional>

#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/truth/answer.hpp"
#include "hollow_probe/verify/survey.hpp"
#include "verify/grid.hpp"

namespace hollow_probe {

/// Everything a survey holds fixed.
template <int D>
struct Surveyed {
    Surveyed(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options);

    const Level<D>& level;
    const Rig<D>& rig;
    std::vector<Facing<D>> facings;
    std::vector<MountedRig<D>> mounted;  // one a facing
    double half_width = 0.0;             // of the widest stance
    double narrowest_width = 0.0;        // of all stances, across up
    double body_size = 0.0;              // the widest stance's diagonal
    std::array<double, 4> heights{};     // above rest at which poses are judged
    double spacing;                      // as asked for, or chosen
    Grid<D> grid;
    double border_width;

    /// What a signal's claim is about, the anchor being there.
    [[nodiscard]] TruthQuestion<D> question(std::size_t facing, std::size_t signal,
                                            const Vec<D>& anchor) const {
        const MountedRig<D>& rig_here = mounted[facing];
        return {
            {rig_here.body.view(), anchor, rig_here.meets}, rig_here.heading, rig_here.asked[signal].view()};
    }
    /// Whether some signal is about what is overhead: then poses are judged under ceilings, too.
    bool looks_up = false;

    /// The pose judged, or nothing if it clips.
    [[nodiscard]] std::optional<SurveyPose<D>> judge(std::size_t facing, const Vec<D>& rest,
                                                     double above_rest) const;
};

/// A located border: the place between a pose and its differing neighbour.
template <int D>
struct BorderPoint {
    std::size_t pose = 0;
    Vec<D> at = Vec<D>::Zero();
};

template <int D>
struct Samples {
    std::vector<SurveyPose<D>> poses;
    std::size_t grid_poses = 0;
    std::size_t clipped = 0;
    std::vector<BorderPoint<D>> borders;
    std::vector<std::pair<std::size_t, std::size_t>> links;  // poses that are neighbours on one surface
    std::vector<std::array<double, verdict_count>> measure;  // one a signal
};

/// Runs in the calling thread's task arena.
template <int D>
Samples<D> take_samples(const Surveyed<D>& surveyed, const std::function<void(double)>& progress);

}  // namespace hollow_probe
