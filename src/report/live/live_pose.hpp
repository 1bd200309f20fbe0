// A body under the hand: what its probes read, its signals say and what is true there.
#pragma once

#include "hollow_probe/level/level.hpp"
#include "hollow_probe/rig/rig.hpp"
#include "io/json.hpp"

namespace hollow_probe {

/// A pose as a page asks for it: "at", "heading", "stance", "velocity", "drive", "grounded"; what is left out
/// is nothing, the heading the first axis across up. Throws InvalidInput for what is no pose of the rig.
template <int D>
Pose<D> pose_from(const Json& json, const Rig<D>& rig, const Vec<D>& up);

/// A list of D finite numbers. Throws InvalidInput; `what` is named.
template <int D>
Vec<D> vector_from(const Json& json, const char* what);

/// The pose, body, probes with words, and each signal with truth, margin and verdict.
template <int D>
Json pose_answer(const Level<D>& level, const Rig<D>& rig, const Pose<D>& pose);

/// The pose put at the rest nearest to it along up; as it is where there is none.
template <int D>
Pose<D> at_rest(const Level<D>& level, const Rig<D>& rig, Pose<D> pose);

}  // namespace hollow_probe
