// Values that signals give, held against truth.
#pragma once

#include "verify/samples.hpp"

namespace hollow_probe {

/// The number of the probe that a signal takes its value from.
template <int D>
std::size_t giving_probe(const Rig<D>& rig, std::size_t signal);

/// How far the value that a rig, the one surveyed or a changed one, gives at a pose is from truth, if both
/// have one. `mounted` is that rig as it stands in the pose's facing.
template <int D>
std::optional<double> value_error_at(const Planned<D>& planned, const Rig<D>& rig,
                                     const MountedRig<D>& mounted, const SurveyPose<D>& pose,
                                     std::size_t signal);

/// One a signal, over the poses at which it is rightly on. With `explain` their cures are looked for, too.
template <int D>
std::vector<ValueErrors<D>> value_errors(const Planned<D>& planned, const Samples<D>& samples, bool explain);

}  // namespace hollow_probe
