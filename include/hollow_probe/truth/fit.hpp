// T7 headroom and T9 tunnel: whether a body fits, and whether its way led through something.
#pragma once

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/truth/decision.hpp"

namespace hollow_probe {

template <int D>
struct HeadroomTruth : Decision {
    std::optional<std::uint32_t> piece;  // off: the one in the way, overlapped deepest
};

/// T7: `stance` (in level orientation, its anchor the origin) put at the anchor of the body overlaps nothing
/// the body meets deeper than intent.touch (inclusive). One-way solids count where the way from the body's
/// present stance to that one (from the middle of one's bounds to the other's) runs against their solid side
/// and the present stance is not inside them. Margin when on: how much nearer the nearest piece could come,
/// looked for up to `horizon`.
template <int D>
HeadroomTruth<D> headroom(const Level<D>& level, const PlacedBody<D>& body, const HullView<D>& stance,
                          const Intent& intent, double horizon = 0.0);

template <int D>
struct TunnelTruth : Decision {
    std::optional<std::uint32_t> piece;  // on: the one crossed deepest
    double depth = 0.0;                  // how deep the body was in it on the way
};

/// T9: moved straight from body.anchor by `move`, the body was on the way deeper than touch in a piece in
/// which it is neither at the start nor at the end: the way crossed a piece that the ticks at both ends do
/// not see. One-way pieces count only against their solid side. The overlap of convex shapes along a line is
/// a concave function of the way, so its greatest value is found by golden section.
template <int D>
TunnelTruth<D> tunnel(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& move,
                      const Intent& intent);

}  // namespace hollow_probe
