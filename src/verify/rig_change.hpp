// A cause's change made to a rig.
#pragma once

#include "verify/changes.hpp"

namespace hollow_probe {

/// The rig with a cause's changes made, as a file with them written into it would be read. Nothing for a
/// change that is none to a rig: a role in the level.
template <int D>
std::optional<Rig<D>> with_change(const Level<D>& level, const Rig<D>& rig, std::size_t signal,
                                  const ProvenCause<D>& cause);

}  // namespace hollow_probe
