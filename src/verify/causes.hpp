// Causes: what change of a rig flips a wrong verdict.
#pragma once

#include "verify/changes.hpp"

namespace hollow_probe {

/// Every single change found to flip the verdict of `signal` at `pose`, likeliest first; never empty: the
/// last resort is `unexplained`.
template <int D>
std::vector<ProvenCause<D>> prove_causes(const Surveyed<D>& surveyed, const SurveyPose<D>& pose,
                                         std::size_t signal);

/// Two changes, else three, that together flip what no single one does; nothing if none were found.
template <int D>
std::optional<ProvenCause<D>> prove_combined(const Surveyed<D>& surveyed, const SurveyPose<D>& pose,
                                             std::size_t signal);

}  // namespace hollow_probe
