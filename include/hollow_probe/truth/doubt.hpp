// Whether an answer hangs on rounding.
#pragma once

#include "hollow_probe/truth/answer.hpp"

namespace hollow_probe {

/// Whether no such shift as in_doubt() makes can flip an answer, seen from its own contacts: footing, or a
/// ceiling, far within its limits, or nothing anywhere near being one. As dear as one answer; false, which
/// says nothing, of other claims, of limits of 80 degrees and more, of bodies whose radius is not more than
/// twice touch, and where what counts are pieces that their neighbours may cover, or that a body other than a
/// ball or an upright capsule stands on.
template <int D>
bool beyond_doubt(Claim claim, const Level<D>& level, const TruthQuestion<D>& question, const Intent& intent);

/// Whether a shift of the body by 1e-9 of the level's size along every axis at once, to whichever sides, or
/// as small a change of the lengths of intent, flips the answer, which is `now`. As dear as six answers in
/// 2D, ten in 3D, where it is not beyond doubt.
template <int D>
bool in_doubt(Claim claim, const Level<D>& level, const TruthQuestion<D>& question, const Intent& intent,
              bool now);

}  // namespace hollow_probe
