// The known ways to sense what claims are about.
#pragma once

#include <vector>

#include "hollow_probe/study/propose.hpp"

namespace hollow_probe {

/// Mounted in every stance with the numbers of the intent, the plainest first. `standing` names a signal that
/// tells ground, for claims that hold on ground alone.
template <int D>
std::vector<TriedFamily<D>> families_of(const Rig<D>& bare, Claim claim, const std::string& standing);

/// What of a family's numbers may be tuned: paths of settings.
template <int D>
std::vector<std::string> tunable(const TriedFamily<D>& family);

}  // namespace hollow_probe
