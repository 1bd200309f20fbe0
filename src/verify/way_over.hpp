// How a body comes to a pose, over ground that is known one way or another.
#pragma once

#include <algorithm>

#include "verify/hearing.hpp"

namespace hollow_probe {

/// The way to an anchor, so far above what it rests on; what is touched on it is left out. Of `ground` it is
/// asked, so many ticks back and at an anchor there,
///     bool fits(std::size_t ticks_back, const Vec<D>& anchor)
///     double to_rest(std::size_t ticks_back, const Vec<D>& anchor, double height)
/// whether the body fits, and how far the nearest rest is from a height, no farther than the tallest step, or
/// infinity.
template <int D, class Ground>
Way<D> way_over(const Planned<D>& planned, std::size_t facing, const Vec<D>& anchor, double above_rest,
                Ground&& ground) {
    const std::size_t ticks_of_way = planned.ticks_of_way;
    const Facing<D>& f = planned.facings[facing];
    const Vec<D>& up = planned.level.up();
    const Vec<D> stride = planned.tick_seconds * f.velocity;
    Way<D> way;
    way.facing = facing;
    way.anchors.push_back(anchor);
    if (ticks_of_way == 0) {
        // Only where it is counts.
    } else if (f.arrival == Arrival::jumped) {
        // Back down to the ground it took off from, where it stood.
        Vec<D> at = anchor - stride;
        double left = above_rest - stride.norm();
        while (left > 0.0 && way.anchors.size() < ticks_of_way && ground.fits(way.anchors.size(), at)) {
            way.anchors.push_back(at);
            at -= stride;
            left -= stride.norm();
        }
        // Far from any ground it has been on its way for longer than is remembered.
        const bool from_ground = above_rest > 0.0 && std::isfinite(above_rest);
        const Vec<D> start = from_ground ? anchor - above_rest * up : way.anchors.back();
        const std::size_t flight = way.anchors.size();
        for (std::size_t i = 0; i < ticks_of_way; ++i) way.anchors.push_back(start);
        way.jump = way.anchors.size() - flight;
    } else {
        const bool on_ground =
            f.arrival == Arrival::walked && std::abs(above_rest) <= planned.rig.intent.touch;
        Vec<D> at = anchor;
        for (std::size_t back = 1; back <= ticks_of_way; ++back) {
            at -= stride;
            if (on_ground) {
                // Over whatever it could have walked on.
                const double by = ground.to_rest(back, at, up.dot(at) - above_rest);
                if (std::isfinite(by)) at += by * up;
            }
            if (!stride.is_zero() && !ground.fits(back, at)) break;
            way.anchors.push_back(at);
        }
    }
    std::reverse(way.anchors.begin(), way.anchors.end());
    return way;
}

/// How far the nearest of some rests is from a height; infinity beyond the tallest step.
inline double to_nearest_rest(const std::vector<double>& rests, double height, double tallest_step) {
    double best = infinity;
    for (const double rest : rests) {
        if (std::abs(rest - height) < std::abs(best)) best = rest - height;
    }
    return std::abs(best) <= tallest_step ? best : infinity;
}

}  // namespace hollow_probe
