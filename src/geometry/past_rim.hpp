// The distance of a point that lies past the rims of all facets of a convex hull in space, without searching.
#pragma once

#include <algorithm>
#include <optional>

#include "hollow_probe/geometry/separation.hpp"

namespace hollow_probe {

/// A ball's core that is outside of a hull with few edges, and over none of its facets: the nearest point of
/// the hull lies on an edge. Nothing where there are many edges, and so close to one that its direction is a
/// small difference of large numbers: the general search tells those.
inline std::optional<Separation<3>> past_rim(const HullView<3>& ball, const Vec<3>& shift,
                                             const HullView<3>& hull) {
    constexpr std::size_t most_edges = 24;
    constexpr double too_close = 1e-4;
    if (hull.topology->edges.size() > most_edges) return std::nullopt;
    const Vec<3> at = ball.points[0] + shift;
    double least = infinity;
    Vec<3> nearest = hull.points[0];
    for (const auto& [first, last] : hull.topology->edges) {
        const Vec<3>& from = hull.points[first];
        const Vec<3> side = hull.points[last] - from;
        const double length = side.squared_norm();
        const double part = length > 0.0 ? std::clamp(side.dot(at - from) / length, 0.0, 1.0) : 0.0;
        const Vec<3> point = from + part * side;
        const double squared = (at - point).squared_norm();
        if (squared >= least) continue;
        least = squared;
        nearest = point;
    }
    const double apart = std::sqrt(least);
    const double size = at.abs().largest() + hull.points[0].abs().largest() + apart;
    if (!(apart > too_close * size)) return std::nullopt;
    Separation<3> result;
    result.normal = (at - nearest) / apart;
    result.gap = apart - ball.radius - hull.radius;
    result.on_a = at - ball.radius * result.normal;
    result.on_b = nearest + hull.radius * result.normal;
    return result;
}

}  // namespace hollow_probe
