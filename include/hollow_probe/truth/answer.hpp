// Any truth by its name: what surveys and drawings ask for.
#pragma once

#include "hollow_probe/level/claim.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/known.hpp"

namespace hollow_probe {

/// A body where it is, and the stance that headroom and ledge are about.
template <int D>
struct TruthQuestion {
    PlacedBody<D> body;
    Vec<D> toward = Vec<D>::unit(0);  // unit: the direction it is about; zero: there is none, and what it is
                                      // about does not hold. What lies along up counts for blocked alone
    HullView<D> other;                // in level orientation, its anchor the origin
    const Known<D>* known = nullptr;
    double move = 0.0;  // blocked: the planned way
};

template <int D>
struct TruthAnswer : Decision {
    std::optional<std::uint32_t> piece;  // on, and for headroom off: what makes it so; a drop has none
    Vec<D> point = Vec<D>::zero();       // on it, where the body meets it, or the edge of a ledge
};

/// Margins are looked for up to `horizon` beyond the limits of intent, where the truth takes one. Left out,
/// the answer is only whether it is on, and decided.
template <int D>
TruthAnswer<D> answer(Claim claim, const Level<D>& level, const TruthQuestion<D>& question,
                      const Intent& intent, double horizon = 0.0, Margins margins = Margins::told);

}  // namespace hollow_probe
