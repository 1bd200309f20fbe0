// The distance of two convex polygons in the plane, without searching.
#pragma once

#include <algorithm>
#include <optional>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {

/// Two cores of three corners or more. No side's line parts them farther than they are apart, and one does so
/// exactly that far where a corner lies nearest over a side; else corners of both are nearest. Where they
/// overlap, the side that parts them best is the shortest way out.
class PolygonPair {
  public:
    PolygonPair(const HullView<2>& a, const Vec<2>& shift, const HullView<2>& b)
        : a_(a), shift_(shift), b_(b) {}

    static bool can(const HullView<2>& polygon) {
        return polygon.points.size() > 2 && polygon.topology != nullptr &&
               polygon.topology->edges.size() == polygon.normals.size();
    }

    /// Nothing where corners are so near each other that the general search tells more surely.
    [[nodiscard]] std::optional<Separation<2>> find() {
        look_at_sides(b_, Vec<2>::zero(), a_, shift_, true);
        look_at_sides(a_, shift_, b_, Vec<2>::zero(), false);
        const HullView<2>& other = of_b_ ? a_ : b_;
        const Vec<2> along = to_ - from_;
        const double length = along.norm();
        const double scale = length + (other.points[0] + way_).norm();
        const double flush = 1e-12 * scale + 1e-15 * (from_.abs().largest() + way_.abs().largest());
        const bool meet = apart_ <= tolerance::cores_meet * scale;
        // Of the corners that are nearest to the side, from where to where along it.
        double low = infinity;
        double high = -infinity;
        for (const Vec<2>& point : other.points) {
            const Vec<2> way = point + way_;
            if (normal_.dot(way) > apart_ + flush) continue;
            low = std::min(low, along.dot(way) / length);
            high = std::max(high, along.dot(way) / length);
        }
        low = std::max(low, 0.0);
        high = std::min(high, length);
        if (low <= high) {
            const Vec<2> on_side = from_ + (0.5 * (low + high) / length) * along;
            return result(on_side, meet);
        }
        if (apart_ <= 1e-4 * scale) return std::nullopt;
        return between_corners();
    }

  private:
    void look_at_sides(const HullView<2>& polygon, const Vec<2>& placed, const HullView<2>& other,
                       const Vec<2>& other_placed, bool of_b) {
        const Vec<2> by = other_placed - placed;
        for (std::size_t i = 0; i < polygon.normals.size(); ++i) {
            const Vec<2>& n = polygon.normals[i];
            const Vec<2>& corner = polygon.points[polygon.topology->edges[i][0]];
            const Vec<2> way = by - corner;
            double least = infinity;
            for (const Vec<2>& point : other.points)
                least = std::min(least, n.x() * (point.x() + way.x()) + n.y() * (point.y() + way.y()));
            if (least <= apart_) continue;
            apart_ = least;
            normal_ = n;
            way_ = way;
            from_ = corner + placed;
            to_ = polygon.points[polygon.topology->edges[i][1]] + placed;
            of_b_ = of_b;
        }
    }

    [[nodiscard]] Separation<2> result(const Vec<2>& on_side, bool meet) const {
        const Vec<2> on_other = on_side + apart_ * normal_;
        return placed(of_b_ ? on_other : on_side, of_b_ ? on_side : on_other, of_b_ ? normal_ : -normal_,
                      apart_, meet);
    }

    [[nodiscard]] Separation<2> between_corners() const {
        double squared = infinity;
        Vec<2> on_a = Vec<2>::zero();
        Vec<2> on_b = Vec<2>::zero();
        for (const Vec<2>& p : a_.points) {
            for (const Vec<2>& q : b_.points) {
                const double now = (p + shift_ - q).squared_norm();
                if (now >= squared) continue;
                squared = now;
                on_a = p + shift_;
                on_b = q;
            }
        }
        const Vec<2> way = on_a - on_b;
        const double apart = way.norm();
        return placed(on_a, on_b, way / apart, apart, false);
    }

    [[nodiscard]] Separation<2> placed(const Vec<2>& core_a, const Vec<2>& core_b, const Vec<2>& normal,
                                       double apart, bool meet) const {
        Separation<2> result;
        result.gap = apart - a_.radius - b_.radius;
        result.normal = normal;
        result.on_a = core_a - a_.radius * normal;
        result.on_b = core_b + b_.radius * normal;
        result.cores_meet = meet;
        return result;
    }

    const HullView<2>& a_;
    const Vec<2>& shift_;
    const HullView<2>& b_;
    // The side that parts them farthest.
    double apart_ = -infinity;
    Vec<2> normal_ = Vec<2>::zero();  // outwards
    Vec<2> way_ = Vec<2>::zero();     // from its first corner to what the other's points are counted from
    Vec<2> from_ = Vec<2>::zero();
    Vec<2> to_ = Vec<2>::zero();
    bool of_b_ = true;
};

}  // namespace hollow_probe
