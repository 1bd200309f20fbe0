// What a rig says at one pose of a survey, having come there as the pose's facing has it.
#pragma once

#include "verify/planned.hpp"

namespace hollow_probe {

/// The bits of probes and signals that are on.
struct Heard {
    ReadingSet probes_on;
    SignalSet signals_on;
};

/// How a body comes to a pose: the anchors of the ticks before, oldest first, and last the pose's own; what
/// it touches at each, if that matters; and the number of the tick at which it takes off.
template <int D>
struct Way {
    std::size_t facing = 0;
    std::vector<Vec<D>> anchors;
    std::vector<std::vector<MoveContact<D>>> touched;
    std::size_t jump = ~std::size_t{0};
    std::vector<ReadingSet> on;  // at each tick, of the rig surveyed; empty: not read yet
};

template <int D>
Way<D> way_to(const Planned<D>& planned, std::size_t facing, const Vec<D>& anchor, double above_rest);
template <int D>
Way<D> way_to(const Planned<D>& planned, const SurveyPose<D>& pose) {
    return way_to<D>(planned, pose.facing, pose.anchor, pose.above_rest);
}

/// What a body that rests or moves there touches.
template <int D>
std::vector<MoveContact<D>> contacts_at(const Planned<D>& planned, const MountedRig<D>& rig,
                                        std::size_t facing, const Vec<D>& anchor);

/// Reads the probes of the rig surveyed all along the way, for rigs that differ in their signals alone.
template <int D>
void read_along(const Planned<D>& planned, Way<D>& way);
/// What such a rig says, its probes having been read.
template <int D>
SignalSet signals_after(const Planned<D>& planned, const MountedRig<D>& rig, const Way<D>& way);

/// What a rig, the one surveyed or a changed one, says having come that way.
template <int D>
Heard hear(const Planned<D>& planned, const MountedRig<D>& rig, const Way<D>& way,
           std::span<Reading<D>> readings = {});
template <int D>
Heard hear(const Planned<D>& planned, const MountedRig<D>& rig, const SurveyPose<D>& pose,
           std::span<Reading<D>> readings = {});

}  // namespace hollow_probe
