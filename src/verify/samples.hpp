// Judged poses of a survey: columns decided over their height, and the borders between differing ones.
#pragma once

#include "verify/planned.hpp"

namespace hollow_probe {

/// A located border: the place between a pose and its differing neighbour.
template <int D>
struct BorderPoint {
    std::size_t pose = 0;
    Vec<D> at = Vec<D>::zero();
};

/// What is kept of a survey however many poses are judged: counts and measures of all, and the poses
/// themselves as long as they are no more than Surveyed::most_kept. Of more, every so many are kept, half of
/// them wrong ones if there are as many.
template <int D>
struct Samples {
    std::vector<SurveyPose<D>> poses;
    std::size_t right_step = 1;  // of poses right in every signal one in so many is kept
    std::size_t wrong_step = 1;  // of those wrong in some
    std::uint64_t judged = 0;    // poses that stand for intervals
    std::uint64_t asked = 0;     // poses at which rig and truths were asked
    std::size_t grid_poses = 0;
    std::size_t corner_poses = 0;
    SurveyScope scope;
    /// By facing, and by how far along its columns: what was asked there.
    static constexpr std::size_t effort_steps = 64;
    std::vector<std::array<double, effort_steps>> effort;
    std::vector<std::array<std::size_t, verdict_count>> counts;  // one a signal
    std::vector<BorderPoint<D>> borders;                         // of wrong poses
    std::vector<std::pair<std::size_t, std::size_t>> links;      // wrong poses that are neighbours
    std::vector<std::array<double, verdict_count>> measure;      // one a signal
    ReadingSet ever_on;                                          // probes, one bit each
    ReadingSet ever_off;                                         // … where mounted
};

/// What is kept of poses besides counts and measures.
enum class Keep { poses, nothing };

/// Runs in the calling thread's task arena.
template <int D>
Samples<D> take_samples(const Planned<D>& planned, const std::function<void(double)>& progress,
                        Keep keep = Keep::poses);

}  // namespace hollow_probe
