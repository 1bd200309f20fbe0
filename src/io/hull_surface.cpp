#include "io/hull_surface.hpp"

#include <algorithm>

namespace hollow_probe {
namespace {

/// Directions over the unit sphere as a closed mesh: rings from pole to pole, the poles along `axis`.
TriangleMesh sphere(int around, const Vec<3>& axis) {
    TriangleMesh mesh;
    const int rings = std::max(2, around / 2);
    const Vec<3> right = axis.unit_across();
    const Vec<3> ahead = axis.cross(right);
    const auto ring_vertex = [&](int ring, int sector) {
        return static_cast<std::uint32_t>(1 + (ring - 1) * around + sector % around);
    };
    mesh.vertices.push_back(axis);
    for (int ring = 1; ring < rings; ++ring) {
        const double down = std::numbers::pi * ring / rings;
        for (int sector = 0; sector < around; ++sector) {
            const double turn = 2.0 * std::numbers::pi * sector / around;
            mesh.vertices.emplace_back(std::cos(down) * axis +
                                       std::sin(down) * (std::cos(turn) * right + std::sin(turn) * ahead));
        }
    }
    mesh.vertices.emplace_back(-axis);
    const auto last = static_cast<std::uint32_t>(mesh.vertices.size() - 1);
    for (int sector = 0; sector < around; ++sector) {
        mesh.triangles.push_back({0, ring_vertex(1, sector), ring_vertex(1, sector + 1)});
        for (int ring = 1; ring + 1 < rings; ++ring) {
            const auto a = ring_vertex(ring, sector);
            const auto b = ring_vertex(ring, sector + 1);
            const auto c = ring_vertex(ring + 1, sector);
            const auto d = ring_vertex(ring + 1, sector + 1);
            mesh.triangles.push_back({a, c, b});
            mesh.triangles.push_back({b, c, d});
        }
        mesh.triangles.push_back({last, ring_vertex(rings - 1, sector + 1), ring_vertex(rings - 1, sector)});
    }
    return mesh;
}

/// A convex fan around loops of corners.
TriangleMesh fans(const std::vector<Vec<3>>& points, const std::vector<std::vector<std::uint16_t>>& loops) {
    TriangleMesh mesh;
    mesh.vertices = points;
    for (const auto& loop : loops) {
        for (std::size_t i = 2; i < loop.size(); ++i) {
            mesh.triangles.push_back({loop[0], loop[i - 1], loop[i]});
        }
    }
    return mesh;
}

/// The surface of a rounded hull: every direction of a sphere put on the corner that is farthest along it.
/// Triangles between directions with the same corner are parts of balls, the others span edges and facets.
TriangleMesh rounded(const HullView<3>& hull, int around) {
    Vec<3> axis = Vec<3>::unit(1);
    if (hull.points.size() == 2) axis = (hull.points[1] - hull.points[0]).normalized();
    TriangleMesh mesh = sphere(around, axis);
    for (Vec<3>& n : mesh.vertices) {
        const Vec<3>* farthest = hull.points.data();
        for (const Vec<3>& p : hull.points) {
            // Directions across an edge lie on its middle's far side of nothing: the first corner takes them.
            if (n.dot(p) > n.dot(*farthest) + 1e-12 * std::abs(n.dot(p))) farthest = &p;
        }
        n = *farthest + hull.radius * n;
    }
    return mesh;
}

}  // namespace

template <>
TriangleMesh hull_surface<3>(const HullView<3>& hull, bool is_facet, int around) {
    if (hull.radius > 0.0) return rounded(hull, around);
    std::vector<Vec<3>> points(hull.points.begin(), hull.points.end());
    if (is_facet) return {std::move(points), {{0, 1, 2}}};
    return fans(points, hull.topology->facets);
}

template <>
TriangleMesh hull_surface<2>(const HullView<2>& hull, bool is_facet, int around) {
    TriangleMesh mesh;
    std::vector<Vec<2>> outline(hull.points.begin(), hull.points.end());
    if (hull.radius > 0.0) {
        outline.clear();
        for (int i = 0; i < around; ++i) {
            const double angle = 2.0 * std::numbers::pi * i / around;
            const Vec<2> n(std::cos(angle), std::sin(angle));
            const auto farthest =
                std::max_element(hull.points.begin(), hull.points.end(),
                                 [&](const Vec<2>& a, const Vec<2>& b) { return n.dot(a) < n.dot(b); });
            outline.emplace_back(*farthest + hull.radius * n);
        }
    }
    if (is_facet) {
        // A hair of thickness, which programs that drop flat triangles can show.
        const Vec<2> along = outline[1] - outline[0];
        outline.emplace_back(outline[1] + 1e-3 * Vec<2>(along.y(), -along.x()));
    }
    for (const Vec<2>& p : outline) mesh.vertices.emplace_back(p.x(), p.y(), 0.0);
    for (std::uint32_t i = 2; i < outline.size(); ++i) mesh.triangles.push_back({0, i - 1, i});
    return mesh;
}

}  // namespace hollow_probe
