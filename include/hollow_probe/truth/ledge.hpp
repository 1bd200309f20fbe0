// T6 ledge: a wall ahead with a walkable top.
#pragma once

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/truth/known.hpp"

namespace hollow_probe {

template <int D>
struct LedgeTruth : Decision {
    Vec<D> edge = Vec<D>::Zero();  // on: where the top begins, straight ahead of the anchor
    double height = 0.0;           // on: of the top above the anchor
    std::uint32_t piece = 0;       // on: that is met ahead
};

/// T6: the body moved along `heading` meets, within intent.ahead_ledge, something steeper than footing that
/// is no ceiling and faces it; and `climber` (a stance in level orientation, its anchor the origin), put
/// past that face by intent.tread (standard: half its own width) and lowered from the top of ledge_between to
/// its bottom, comes to rest on footing at a height above the anchor within ledge_between, clipping nothing
/// deeper than touch.
template <int D>
LedgeTruth<D> ledge(const Level<D>& level, const PlacedBody<D>& body, const HullView<D>& climber,
                    const Vec<D>& heading, const Intent& intent, Margins margins = Margins::told,
                    const Known<D>* known = nullptr);

}  // namespace hollow_probe
