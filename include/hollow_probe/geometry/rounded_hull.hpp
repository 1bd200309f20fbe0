// Rounded hulls: the one shape representation. A convex point set inflated by a radius is a ball (one point),
// a capsule (two), a box (2^D), a triangle or segment (radius 0) or any convex hull.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

/// How the points of a hull are joined. Only the directions of edges matter to most queries, so `directions`
/// lists one edge for each distinct direction (a box has 12 edges and 3 directions).
struct HullTopology {
    using Edge = std::array<std::uint16_t, 2>;
    std::vector<Edge> edges;                         // each edge once; in 2D counter-clockwise
    std::vector<Edge> directions;                    // a subset of edges
    std::vector<std::vector<std::uint16_t>> facets;  // 3D: loops, counter-clockwise from outside. 2D: empty
};

/// A rounded hull somebody else owns; cheap to copy.
template <int D>
struct HullView {
    std::span<const Vec<D>> points;
    double radius = 0.0;
    /// Unit directions n for which max n·p over the points bounds the hull, enough of them that together they
    /// enclose exactly its core: facet normals; for flat cores both sides and the outline; for a segment its
    /// two ends and enough sides; for a point all axes. Empty for facets: see for_each_normal().
    std::span<const Vec<D>> normals;
    const HullTopology* topology = nullptr;
};

/// The normals of a facet, worked out from its corners.
template <int D>
struct FacetNormals {
    std::array<Vec<D>, 6> at;
    std::size_t count = 0;

    void both(const Vec<D>& n) {
        at[count++] = n;
        at[count++] = -n;
    }
};

/// Of D corners, which may coincide or lie in one line. The two sides of the surface come first.
template <int D>
FacetNormals<D> facet_normals(const Vec<D>* corners);
/// The first of them, by itself.
template <int D>
Vec<D> facet_normal(const Vec<D>* corners);

/// The topology that all facets share.
template <int D>
const std::shared_ptr<const HullTopology>& facet_topology();

/// Calls visit(n) for every normal of the hull's core.
template <int D, class Visit>
void for_each_normal(const HullView<D>& hull, Visit visit) {
    if (!hull.normals.empty()) {
        for (const Vec<D>& n : hull.normals) visit(n);
    } else {
        const FacetNormals<D> normals = facet_normals<D>(hull.points.data());
        for (std::size_t i = 0; i < normals.count; ++i) visit(normals.at[i]);
    }
}

/// An owned rounded hull.
///
///     auto capsule = RoundedHull<2>::capsule({0, 0.3}, {0, 1.5}, 0.3);   // 1.8 high in all, standing on 0
///     auto slab = RoundedHull<2>::box({0, -0.5}, {40, 1});
///
/// Every factory throws InvalidInput for numbers that are not finite, negative or zero sizes, and fewer or
/// flatter points than the shape needs.
template <int D>
class RoundedHull {
  public:
    /// radius > 0.
    static RoundedHull ball(const Vec<D>& center, double radius);
    /// All points within `radius` of the segment from a to b; a == b gives a ball. radius > 0.
    static RoundedHull capsule(const Vec<D>& a, const Vec<D>& b, double radius);
    /// An axis-aligned box; every size > 0.
    static RoundedHull box(const Vec<D>& center, const Vec<D>& size);
    /// The convex hull of points in convex position (D + 1 to 128 of them), inflated by radius >= 0. Points
    /// on an edge or a facet of the others are dropped. Throws when a point lies inside the hull of the
    /// others, naming it, or when all lie in one line (2D) or plane (3D).
    static RoundedHull hull(std::vector<Vec<D>> points, double radius = 0.0);
    /// A 2D segment or 3D triangle (D points), radius 0: a piece of a polyline or mesh. It may be degenerate.
    static RoundedHull facet(const std::array<Vec<D>, D>& corners);

    [[nodiscard]] HullView<D> view() const { return {points_, radius_, normals_, topology_.get()}; }
    [[nodiscard]] const std::vector<Vec<D>>& points() const { return points_; }
    [[nodiscard]] double radius() const { return radius_; }
    /// Empty for facets.
    [[nodiscard]] const std::vector<Vec<D>>& normals() const { return normals_; }
    [[nodiscard]] const std::shared_ptr<const HullTopology>& topology() const { return topology_; }

    /// The shape turned by an orthogonal map (mirroring allowed), then moved.
    [[nodiscard]] RoundedHull placed(const Mat<D>& turn, const Vec<D>& move = Vec<D>::zero()) const;
    /// Becomes `original` turned by a proper rotation. Allocates nothing if this shape has as many points.
    void put(const RoundedHull& original, const Mat<D>& turn);
    /// The shape with its core stretched around the middle of its bounds, axis by axis; factors > 0.
    [[nodiscard]] RoundedHull stretched(const Vec<D>& factors) const;
    /// The same core with another radius >= 0.
    [[nodiscard]] RoundedHull with_radius(double radius) const;

    [[nodiscard]] Bounds<D> bounds() const;

  private:
    RoundedHull(std::vector<Vec<D>> points, double radius, std::shared_ptr<const HullTopology> topology);
    void find_normals();

    std::vector<Vec<D>> points_;
    double radius_ = 0.0;
    std::vector<Vec<D>> normals_;
    std::shared_ptr<const HullTopology> topology_;
};

/// The box around a hull, its radius included.
template <int D>
Bounds<D> bounds_of(const HullView<D>& hull) {
    Bounds<D> box;
    for (const Vec<D>& point : hull.points) box.grow(point);
    return box.inflated(hull.radius);
}

/// The least and greatest n·p over the core points (radius not included).
template <int D>
std::array<double, 2> extent_along(const HullView<D>& hull, const Vec<D>& n) {
    double low = infinity;
    double high = -infinity;
    for (const Vec<D>& point : hull.points) {
        const double s = n.dot(point);
        low = std::min(low, s);
        high = std::max(high, s);
    }
    return {low, high};
}

/// Calls visit(n) with unit directions, from b towards a, among which is the normal of every facet of the
/// Minkowski difference of the two cores: facet normals of either and, in 3D, cross products of their edges.
/// Directions that are no facet normal may be among them; every one is a valid separating direction to try.
template <int D, class Visit>
void for_each_separating_direction(const HullView<D>& a, const HullView<D>& b, Visit visit) {
    // A point adds nothing to the normals of the other hull, unless that is a point, too.
    if (b.points.size() > 1 || a.points.size() == 1) for_each_normal(b, visit);
    if (a.points.size() > 1) for_each_normal(a, [&](const Vec<D>& n) { visit(-n); });
    if constexpr (D == 3) {
        for (const auto& edge_a : a.topology->directions) {
            const Vec<D> along_a = a.points[edge_a[1]] - a.points[edge_a[0]];
            for (const auto& edge_b : b.topology->directions) {
                const Vec<D> along_b = b.points[edge_b[1]] - b.points[edge_b[0]];
                const Vec<D> n = along_a.cross(along_b);
                const double length = n.norm();
                if (length <= tolerance::side * along_a.norm() * along_b.norm() || length == 0.0) continue;
                visit(n / length);
                visit(-n / length);
            }
        }
    }
}

extern template class RoundedHull<2>;
extern template class RoundedHull<3>;

}  // namespace hollow_probe
