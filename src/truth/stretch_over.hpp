// From where to where along the heading a point passes over a side of a piece.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "truth/ahead.hpp"

namespace hollow_probe {

/// A segment in 2D, a triangle in 3D: a surface without thickness, one side in each direction.
template <int D>
bool is_facet(const HullView<D>& hull) {
    return hull.points.size() == D;
}

/// The number of a corner of a side.
template <int D>
std::size_t first_corner(const HullView<D>& hull, std::size_t side) {
    if (is_facet(hull)) return 0;
    if constexpr (D == 2)
        return hull.topology->edges[side][0];
    else
        return hull.topology->facets[side].front();
}

/// From where to where a point that goes ahead is straight over or under a side; nothing if it passes beside
/// it.
template <int D>
std::optional<std::array<double, 2>> stretch_over(const HullView<D>& hull, std::size_t side,
                                                  const Vec<D>& point, const Vec<D>& heading,
                                                  const Vec<D>& up) {
    std::array<double, 2> ways = {infinity, -infinity};
    const auto take = [&](const Vec<D>& p) {
        const double way = heading.dot(p - point);
        ways = {std::min(ways[0], way), std::max(ways[1], way)};
    };
    if constexpr (D == 2) {
        const auto edge = is_facet(hull) ? HullTopology::Edge{0, 1} : hull.topology->edges[side];
        take(hull.points[edge[0]]);
        take(hull.points[edge[1]]);
    } else {
        static const std::vector<std::uint16_t> triangle = {0, 1, 2};
        const auto& loop = is_facet(hull) ? triangle : hull.topology->facets[side];
        const Vec<3> across = up.cross(heading);
        for (std::size_t i = 0; i < loop.size(); ++i) {
            const Vec<3>& from = hull.points[loop[i]];
            const Vec<3>& to = hull.points[loop[i + 1 < loop.size() ? i + 1 : 0]];
            const double of_from = across.dot(from - point);
            const double of_to = across.dot(to - point);
            if (of_from == 0.0) take(from);
            if ((of_from < 0.0) != (of_to < 0.0)) take(from + of_from / (of_from - of_to) * (to - from));
        }
    }
    if (!(ways[0] < ways[1])) return std::nullopt;
    return ways;
}

/// Calls visit(side, normal) for the flat sides of a piece without a radius. False for needles and points,
/// which have none.
template <int D, class Visit>
bool for_each_side(const HullView<D>& hull, Visit visit) {
    if (hull.points.size() < D) return false;
    if (!is_facet(hull)) {
        for (std::size_t i = 0; i < hull.normals.size(); ++i) visit(i, hull.normals[i]);
        return true;
    }
    const FacetNormals<D> normals = facet_normals<D>(hull.points.data());
    if (normals.count != D + 2) return false;
    for (std::size_t i = 0; i < 2; ++i) visit(std::size_t{0}, normals.at[i]);
    return true;
}

/// Calls visit(foot, stretch) for what a body that goes ahead rests on a side with: the points of its core
/// that lie lowest against it, each with where it passes over the side.
template <int D, class Visit>
void for_each_foot_over(const Ahead<D>& ahead, const HullView<D>& hull, std::size_t side,
                        const Vec<D>& normal, Visit visit) {
    const HullView<D>& shape = ahead.body.shape;
    const double lowest = extent_along(shape, normal)[0];
    for (const Vec<D>& core : shape.points) {
        if (normal.dot(core) > lowest + ahead.noise.distance) continue;
        const Vec<D> foot = ahead.body.anchor + core - shape.radius * normal;
        if (const auto stretch = stretch_over<D>(hull, side, foot, ahead.heading, ahead.level.up()))
            visit(foot, *stretch);
    }
}

}  // namespace hollow_probe
