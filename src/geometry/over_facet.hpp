// The distance of a point or segment that lies straight over a facet of a convex hull in space, without
// searching.
#pragma once

#include <array>
#include <optional>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {

/// A ball's or capsule's core over a facet of a hull whose facets are known: by far the commonest place of a
/// body on a floor or at a wall. The plane of a facet parts the two by as much as the nearest end lies beyond
/// it; where that end is over the facet itself, nothing is nearer. Nothing where no end is, and where a
/// segment meets the hull or nearly does: the general search tells those.
inline std::optional<Separation<3>> over_facet(const HullView<3>& core, const Vec<3>& shift,
                                               const HullView<3>& hull) {
    const std::size_t ends = core.points.size();
    const std::array<Vec<3>, 2> at = {core.points[0] + shift, core.points[ends - 1] + shift};
    const auto& facets = hull.topology->facets;
    // A point inside is as deep as the facet is near that it lies beyond farthest.
    double apart = ends == 1 ? -infinity : 0.0;
    std::size_t best = facets.size();
    std::size_t end = 0;
    for (std::size_t facet = 0; facet < facets.size(); ++facet) {
        const Vec<3>& n = hull.normals[facet];
        const Vec<3>& corner = hull.points[facets[facet].front()];
        const double first = n.dot(at[0] - corner);
        const double second = n.dot(at[1] - corner);
        const double least = std::min(first, second);
        if (least <= apart) continue;
        apart = least;
        best = facet;
        end = second < first ? 1 : 0;
    }
    if (best == facets.size()) return std::nullopt;
    const double size = at[end].abs().largest() + hull.points[0].abs().largest() + apart;
    if (ends == 2 && !(apart > 1e-9 * size)) return std::nullopt;
    const Vec<3>& n = hull.normals[best];
    const auto& loop = facets[best];
    for (std::size_t i = 0; i < loop.size() && apart > 0.0; ++i) {
        const Vec<3>& from = hull.points[loop[i]];
        const Vec<3>& to = hull.points[loop[i + 1 < loop.size() ? i + 1 : 0]];
        if ((to - from).cross(at[end] - from).dot(n) < 0.0)
            return std::nullopt;  // counter-clockwise: outside
    }
    Separation<3> result;
    result.cores_meet = apart <= tolerance::cores_meet * size;
    result.gap = apart - core.radius - hull.radius;
    result.normal = n;
    result.on_a = at[end] - core.radius * n;
    result.on_b = at[end] - (apart - hull.radius) * n;
    return result;
}

}  // namespace hollow_probe
