// A body at a pose and what each of its probes reads there: what close-ups draw and say.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// Level and rig must outlive it.
template <int D>
struct PoseReading {
    PoseReading(const Level<D>& level, const Rig<D>& rig, const Pose<D>& pose);

    /// Takes what the rig said when a survey came there, not what it would say anew.
    void say_as(const SurveyPose<D>& judged);

    [[nodiscard]] Vec<D> start_of(std::size_t probe, std::size_t line) const {
        return pose.anchor + mounted.probes[probe].start(line, readings[probe]);
    }
    /// What a line of a probe hit.
    [[nodiscard]] std::optional<LevelHit<D>> hit_of(std::size_t probe, std::size_t line) const;
    /// How far a line of a probe went: to its hit, or all its reach; what rests goes nowhere.
    [[nodiscard]] double end_of(std::size_t probe, std::size_t line) const;
    /// Whether it is on the body and has a direction, and what it follows has hit something.
    [[nodiscard]] bool is_read(std::size_t probe) const {
        return mounted.probes[probe].mounted && mounted.probes[probe].aimed && !readings[probe].unread;
    }
    [[nodiscard]] bool line_on(std::size_t probe, std::size_t line) const {
        return mounted.probes[probe].lines.size() == 1 ? readings[probe].on
                                                       : (readings[probe].lines_on >> line & 1U) != 0;
    }
    /// "sole (cast): hits "ramp" after 0.04, normal 12° from up: on"
    [[nodiscard]] std::string words(std::size_t probe) const;

    const Level<D>& level;
    const Rig<D>& rig;
    Pose<D> pose;
    MountedRig<D> mounted;
    std::vector<MoveContact<D>> contacts;
    std::vector<Reading<D>> readings;
    SignalSet signals_on;
};

extern template struct PoseReading<2>;
extern template struct PoseReading<3>;

}  // namespace hollow_probe
