// T6 ledge: a wall ahead with a walkable top.
#pragma once

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/truth/known.hpp"

namespace hollow_probe {

template <int D>
struct LedgeTruth : Decision {
    Vec<D> edge = Vec<D>::zero();  // on: where the top begins, straight ahead of the anchor
    double height = 0.0;           // on: of the edge above the anchor
    std::uint32_t piece = 0;       // on: that is met ahead
};

/// T6: the first thing that stops the body moved along `heading` within intent.ahead_ledge, or that it would
/// walk up on, is a wall(), however far ahead walls count (what rises no more than touch is neither); and
/// `climber` (a stance in level orientation, its anchor the origin), its back put past that face by
/// intent.tread (standard: half its own width) and lowered from above, has on it a rest on footing, clipping
/// nothing deeper than touch. The edge, the foremost point of the walkable top that the highest such rest
/// belongs to, lies within ledge_between above the anchor (inclusive), whether the top is level, sloped or
/// rounded. A top behind something higher is seen through it by nobody.
template <int D>
LedgeTruth<D> ledge(const Level<D>& level, const PlacedBody<D>& body, const HullView<D>& climber,
                    const Vec<D>& heading, const Intent& intent, Margins margins = Margins::told,
                    const Known<D>* known = nullptr);

}  // namespace hollow_probe
