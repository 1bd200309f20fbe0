// The lines that show a rounded hull: its outline in 2D, its edges or the outlines of its round parts in 3D.
#pragma once

#include "hollow_probe/geometry/rounded_hull.hpp"

namespace hollow_probe {

/// Calls visit(a, b) for every piece of line. Round parts become polygons of `around` corners (at least 3) to
/// a full turn, their corners on the surface. Allocates nothing.
template <int D, class Visit>
void for_each_wire(const HullView<D>& hull, int around, Visit visit) {
    const auto turn_at = [around](int i) { return 2.0 * std::numbers::pi * i / around; };
    if (hull.radius == 0.0) {
        for (const auto& edge : hull.topology->edges) visit(hull.points[edge[0]], hull.points[edge[1]]);
        return;
    }
    // All lines lie on the surface: a direction's farthest corner, and from it out by the radius.
    const auto outline = [&](const Vec<D>& ahead, const Vec<D>& side) {
        const auto at = [&](int i) {
            const Vec<D> n = std::cos(turn_at(i)) * ahead + std::sin(turn_at(i)) * side;
            const Vec<D>* farthest = &hull.points[0];
            for (const Vec<D>& p : hull.points) {
                if (n.dot(p) > n.dot(*farthest)) farthest = &p;
            }
            return *farthest + hull.radius * n;
        };
        for (int i = 0; i < around; ++i) visit(at(i), at(i + 1));
    };
    if constexpr (D == 2) {
        outline(Vec<2>::unit(0), Vec<2>::unit(1));
    } else {
        const bool long_one = hull.points.size() == 2;
        const Vec<3> axis = long_one ? (hull.points[1] - hull.points[0]).normalized() : Vec<3>::unit(1);
        const Vec<3> side = axis.unit_across();
        const Vec<3> other = axis.cross(side);
        outline(axis, side);
        outline(axis, other);
        if (!long_one) outline(side, other);
        if (!long_one) return;
        for (const Vec<3>& p : hull.points) {
            const auto at = [&](int i) {
                return p + hull.radius * (std::cos(turn_at(i)) * side + std::sin(turn_at(i)) * other);
            };
            for (int i = 0; i < around; ++i) visit(at(i), at(i + 1));
        }
    }
}

}  // namespace hollow_probe
