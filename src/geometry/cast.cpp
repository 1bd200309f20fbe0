#include "hollow_probe/geometry/cast.hpp"

#include "geometry/quick_casts.hpp"
#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

// The mover touches the target at distance t where t·direction lies on the surface of the set
// C = target - mover(start), rounded by the sum of both radii. So a cast is a ray from the origin against C.

namespace hollow_probe {
namespace {

template <int D>
struct Caster {
    const HullView<D>& mover;
    const Vec<D>& start;
    const Vec<D>& direction;
    double reach = 0.0;
    const HullView<D>& target;
    double radius = mover.radius + target.radius;
    double tolerance = 0.0;

    // Differences to the start come first: far from the origin they keep the digits that sums would lose.
    Vec<D> from_start(const Vec<D>& of_target) const { return of_target - start; }

    Vec<D> corner(std::size_t of_target, std::size_t of_mover) const {
        return from_start(target.points[of_target]) - mover.points[of_mover];
    }

    /// max n·p over the target, from the start.
    double target_extent(const Vec<D>& n) const {
        double high = -infinity;
        for (const Vec<D>& p : target.points) high = std::max(high, n.dot(from_start(p)));
        return high;
    }

    /// max n·c over C.
    double support(const Vec<D>& n) const { return target_extent(n) - extent_along(mover, n)[0]; }

    /// Whether a point on the plane of C's support along n lies on C's facet there, rather than beside it.
    bool on_facet(const Vec<D>& point, const Vec<D>& n) const {
        const double far_target = target_extent(n);
        const double near_mover = extent_along(mover, n)[0];
        const auto holds = [&](const Vec<D>& side) {
            double high = -infinity;
            double low = infinity;
            for (const Vec<D>& p : target.points) {
                const Vec<D> q = from_start(p);
                if (n.dot(q) >= far_target - tolerance) high = std::max(high, side.dot(q));
            }
            for (const Vec<D>& p : mover.points) {
                if (n.dot(p) <= near_mover + tolerance) low = std::min(low, side.dot(p));
            }
            return side.dot(point) <= high - low + tolerance;
        };
        if constexpr (D == 2) {
            const Vec<2> side(n.y(), -n.x());
            return holds(side) && holds(-side);
        } else {
            bool any = false;
            const auto holds_beside = [&](const HullView<3>& hull) {
                for (const auto& edge : hull.topology->directions) {
                    const Vec<3> along = hull.points[edge[1]] - hull.points[edge[0]];
                    const double length = along.norm();
                    if (length == 0.0 || std::abs(n.dot(along)) > tolerance + tolerance::angle * length)
                        continue;
                    any = true;
                    const Vec<3> e = along / length;
                    const Vec<3> side = n.cross(e).normalized();
                    if (!holds(side) || !holds(-side) || !holds(e) || !holds(-e)) return false;
                }
                return true;
            };
            return holds_beside(target) && holds_beside(mover) && any;
        }
    }

    /// A point or ball and a hull whose facets are known: one corner of a facet tells its plane.
    bool knows_facets() const {
        if (mover.points.size() > 1 || target.points.size() <= D || target.topology == nullptr) return false;
        const std::size_t facets = D == 2 ? target.topology->edges.size() : target.topology->facets.size();
        return target.normals.size() == facets;
    }
    std::size_t corner_of_facet(std::size_t i) const {
        if constexpr (D == 2) return target.topology->edges[i][0];
        return target.topology->facets[i].front();
    }

    /// … in space, whether a point on the plane of a facet of C is within its rim.
    bool within_rim(const Vec<3>& point, std::size_t facet) const {
        const auto& loop = target.topology->facets[facet];
        for (std::size_t i = 0; i < loop.size(); ++i) {
            const Vec<3> from = corner(loop[i], 0);
            const Vec<3> side = corner(loop[i + 1 < loop.size() ? i + 1 : 0], 0) - from;
            const double beyond = -side.cross(point - from).dot(target.normals[facet]);
            if (beyond > 0.0 && beyond * beyond > tolerance * tolerance * side.squared_norm()) return false;
        }
        return true;
    }

    /// The ray against a ball around a corner of C.
    void meet_ball(const Vec<D>& center, const Vec<D>& on_target, CastHit<D>& best) const {
        const double along = direction.dot(center);
        const Vec<D> aside = along * direction - center;  // from the center to the ray's nearest point
        const double room = radius * radius - aside.squared_norm();
        if (room < 0.0) return;
        offer(along - std::sqrt(room), center, on_target, best);
    }

    /// The ray against the round side of a rounded edge of C, which an edge of the target runs along from
    /// `on_target`, or its corner there stays put.
    void meet_cylinder(const Vec<D>& a, const Vec<D>& b, const Vec<D>& on_target, bool target_edge,
                       CastHit<D>& best) const {
        const Vec<D> side = b - a;
        // Most edges are passed by far: no root is needed to tell.
        const Vec<D> between = direction.cross(side);
        const double past = between.dot(a);
        if (past * past > (1.0 + 1e-9) * radius * radius * between.squared_norm()) return;
        const double length = side.norm();
        if (length == 0.0) return;
        const Vec<D> e = side / length;
        const Vec<D> d = direction - direction.dot(e) * e;
        const double speed = d.norm();
        if (speed <= tolerance::speed) return;  // runs along the edge: meets an end first
        const Vec<D> unit = d / speed;
        const Vec<D> center = a - a.dot(e) * e;
        const double along = unit.dot(center);
        const double room = radius * radius - (along * unit - center).squared_norm();
        if (room < 0.0) return;
        const double t = (along - std::sqrt(room)) / speed;
        const double at = (t * direction - a).dot(e);
        if (at < 0.0 || at > length) return;
        offer(t, a + at * e, target_edge ? on_target + at * e : on_target, best);
    }

    void offer(double t, const Vec<D>& center, const Vec<D>& on_target, CastHit<D>& best) const {
        if (t < -tolerance || !(t < best.distance)) return;
        const Vec<D> normal = (t * direction - center).normalized();
        if (normal.dot(direction) > -tolerance::approaches) return;
        best.distance = std::max(t, 0.0);
        best.normal = normal;
        best.point = on_target + target.radius * normal;
        best.point_known = true;
    }

    bool is_on_facet(const Vec<D>& point, const Vec<D>& n, std::size_t facet) const {
        if constexpr (D == 3) {
            if (facet < target.normals.size()) return within_rim(point, facet);
        }
        return on_facet(point, n);
    }

    std::optional<CastHit<D>> run() {
        const Vec<D> first = corner(0, 0);
        Vec<D> low = target.points.front();
        Vec<D> high = low;
        for (const Vec<D>& p : target.points.subspan(1)) {
            low = low.min(p);
            high = high.max(p);
        }
        const auto greatest = [](const Vec<D>& a, const Vec<D>& b) { return a.abs().max(b.abs()).largest(); };
        // Of what is computed with, and of the coordinates given: their own rounding.
        double size = std::max(first.norm() + radius, greatest(from_start(low), from_start(high)));
        const double magnitude = greatest(low, high);
        for (const Vec<D>& p : mover.points) size = std::max(size, p.abs().largest());
        tolerance = tolerance::of_cast(size, magnitude);

        double enters = -infinity;
        double leaves = infinity;
        double depth = infinity;  // of the origin below the nearest plane
        Vec<D> entry = Vec<D>::zero();
        Vec<D> way_out = Vec<D>::zero();
        bool misses = false;
        const auto look_at_plane = [&](const Vec<D>& n, double extent) {
            const double height = -(extent + radius);  // of the origin above the plane
            const double speed = n.dot(direction);
            if (-height < depth) {
                depth = -height;
                way_out = n;
            }
            if (std::abs(speed) <= tolerance::speed) {
                misses = height > tolerance;
                return;
            }
            const double t = -height / speed;
            if (speed < 0.0) {
                if (t > enters) {
                    enters = t;
                    entry = n;
                }
            } else {
                leaves = std::min(leaves, t);
            }
            misses = enters > leaves + tolerance || leaves < -tolerance || enters > reach + tolerance;
        };
        std::size_t entry_facet = target.normals.size();
        if (knows_facets()) {
            for (std::size_t i = 0; i < target.normals.size() && !misses; ++i) {
                const double before = enters;
                look_at_plane(target.normals[i], target.normals[i].dot(corner(corner_of_facet(i), 0)));
                if (enters > before) entry_facet = i;
            }
        } else {
            for_each_separating_direction(mover, target, [&](const Vec<D>& n) {
                if (!misses) look_at_plane(n, support(n));
            });
        }
        if (misses) return std::nullopt;
        if (radius == 0.0) {
            if (depth > tolerance) return CastHit<D>{0.0, way_out, true, depth};
            if (enters < -tolerance) return std::nullopt;  // in touch, sliding along or leaving
            return on_plane(std::max(enters, 0.0), entry);
        }
        if (depth > -tolerance) {
            // Between the planes, but perhaps off a rounded corner.
            const Separation<D> now = separation<D>(mover, start, target);
            if (now.gap < -tolerance) return CastHit<D>{0.0, now.normal, true, -now.gap};
            if (now.gap <= tolerance) {
                if (now.normal.dot(direction) > -tolerance::approaches) return std::nullopt;
                return CastHit<D>{0.0, now.normal, false, 0.0};
            }
        } else if (enters >= -tolerance) {
            const double t = std::max(enters, 0.0);
            const Vec<D> point = t * direction - radius * entry;
            if (is_on_facet(point, entry, entry_facet)) return on_plane(t, entry);
        }
        return meet_edges();
    }

    /// A hit on a facet of C. Where a corner of either takes part, the point is known.
    CastHit<D> on_plane(double t, const Vec<D>& n) const {
        CastHit<D> hit{t, n, false, 0.0};
        const auto only = [&](const HullView<D>& hull, double sign) {
            const Vec<D>* most = nullptr;
            double best = -infinity;
            double second = -infinity;
            for (const Vec<D>& p : hull.points) {
                const double s = sign * n.dot(p);
                if (s > best) {
                    second = best;
                    best = s;
                    most = &p;
                } else {
                    second = std::max(second, s);
                }
            }
            return second < best - tolerance::accuracy * (std::abs(best) + radius) - tolerance ? most
                                                                                               : nullptr;
        };
        if (const Vec<D>* corner_of_target = only(target, 1.0)) {
            hit.point = *corner_of_target + target.radius * n;
            hit.point_known = true;
        } else if (const Vec<D>* corner_of_mover = only(mover, -1.0)) {
            hit.point = start + *corner_of_mover + t * direction - mover.radius * n;
            hit.point_known = true;
        }
        return hit;
    }

    std::optional<CastHit<D>> meet_edges() const {
        CastHit<D> best;
        best.distance = infinity;
        if (knows_facets()) {
            meet_front(best);
            return within_reach(best);
        }
        for (std::size_t i = 0; i < target.points.size(); ++i) {
            for (std::size_t k = 0; k < mover.points.size(); ++k)
                meet_ball(corner(i, k), target.points[i], best);
        }
        if constexpr (D == 3) {
            for (const auto& edge : target.topology->edges) {
                for (std::size_t k = 0; k < mover.points.size(); ++k) {
                    meet_cylinder(corner(edge[0], k), corner(edge[1], k), target.points[edge[0]], true, best);
                }
            }
            for (const auto& edge : mover.topology->edges) {
                for (std::size_t i = 0; i < target.points.size(); ++i) {
                    // C has the mover's edges the other way round.
                    meet_cylinder(corner(i, edge[0]), corner(i, edge[1]), target.points[i], false, best);
                }
            }
        }
        return within_reach(best);
    }

    /// Edges and corners of the facets that face the ray: it comes in by no other.
    void meet_front(CastHit<D>& best) const {
        for (std::size_t i = 0; i < target.normals.size(); ++i) {
            if (target.normals[i].dot(direction) >= 0.0) continue;
            if constexpr (D == 2) {
                for (const std::size_t end : target.topology->edges[i])
                    meet_ball(corner(end, 0), target.points[end], best);
            } else {
                const auto& loop = target.topology->facets[i];
                for (std::size_t k = 0; k < loop.size(); ++k) {
                    const Vec<D>& from = target.points[loop[k]];
                    const Vec<D> a = corner(loop[k], 0);
                    meet_ball(a, from, best);
                    meet_cylinder(a, corner(loop[k + 1 < loop.size() ? k + 1 : 0], 0), from, true, best);
                }
            }
        }
    }

    std::optional<CastHit<D>> within_reach(const CastHit<D>& best) const {
        if (!(best.distance <= reach + tolerance) || best.distance == infinity) return std::nullopt;
        return best;
    }
};

}  // namespace

namespace {

/// A facet so thin that the direction of its normal is not known well enough to find the point of contact
/// with.
template <int D>
bool is_needle(const HullView<D>& target) {
    if constexpr (D == 2) return false;
    if (target.points.size() != 3) return false;
    if constexpr (D == 3) {
        const Vec<3> u = target.points[1] - target.points[0];
        const Vec<3> v = target.points[2] - target.points[0];
        const double longest = std::max({u.squared_norm(), v.squared_norm(), (v - u).squared_norm()});
        return u.cross(v).squared_norm() <= 1e-12 * longest * longest;
    }
}

template <int D>
std::optional<CastHit<D>> cast_at_any(const HullView<D>& mover, const Vec<D>& start, const Vec<D>& direction,
                                      double reach, const HullView<D>& target);

}  // namespace

template <int D>
std::optional<CastHit<D>> cast(const HullView<D>& mover, const Vec<D>& start, const Vec<D>& direction,
                               double reach, const HullView<D>& target) {
    auto hit = cast_at_any<D>(mover, start, direction, reach, target);
    if (hit && hit->point_known && mover.radius > 0.0 && is_needle<D>(target)) hit->point_known = false;
    return hit;
}

namespace {

/// A ray against a convex polygon, whose normals are those of its edges in order: what Caster does, side by
/// side.
std::optional<CastHit<2>> cast_ray_at_polygon(const Vec<2>& origin, const Vec<2>& direction, double reach,
                                              const HullView<2>& target) {
    double size = 0.0;
    double magnitude = 0.0;
    for (const Vec<2>& p : target.points) {
        size = std::max({size, std::abs(p.x() - origin.x()), std::abs(p.y() - origin.y())});
        magnitude = std::max({magnitude, std::abs(p.x()), std::abs(p.y())});
    }
    const double tolerance = tolerance::of_cast(size, magnitude);
    double enters = -infinity;
    double leaves = infinity;
    double depth = infinity;
    std::size_t entry = 0;
    std::size_t way_out = 0;
    for (std::size_t i = 0; i < target.normals.size(); ++i) {
        const Vec<2>& n = target.normals[i];
        const Vec<2>& corner = target.points[target.topology->edges[i][0]];
        const double height = n.x() * (origin.x() - corner.x()) + n.y() * (origin.y() - corner.y());
        const double speed = n.x() * direction.x() + n.y() * direction.y();
        if (-height < depth) {
            depth = -height;
            way_out = i;
        }
        if (std::abs(speed) <= tolerance::speed) {
            if (height > tolerance) return std::nullopt;
            continue;
        }
        const double t = -height / speed;
        if (speed > 0.0) {
            leaves = std::min(leaves, t);
        } else if (t > enters) {
            enters = t;
            entry = i;
        }
        if (enters > leaves + tolerance || leaves < -tolerance || enters > reach + tolerance)
            return std::nullopt;
    }
    if (depth > tolerance) return CastHit<2>{0.0, target.normals[way_out], true, depth};
    if (enters < -tolerance) return std::nullopt;  // in touch, sliding along or leaving
    const double t = std::max(enters, 0.0);
    return CastHit<2>{t, target.normals[entry], false, 0.0, origin + t * direction, true};
}

template <int D>
std::optional<CastHit<D>> cast_at_any(const HullView<D>& mover, const Vec<D>& start, const Vec<D>& direction,
                                      double reach, const HullView<D>& target) {
    if constexpr (D == 2) {
        const bool is_ray = mover.points.size() == 1 && mover.radius == 0.0;
        if (is_ray && target.points.size() > 2 && target.radius == 0.0)
            return cast_ray_at_polygon(start + mover.points[0], direction, reach, target);
    }
    if (target.points.size() == D && target.radius == 0.0) {
        QuickAnswer<D> quick;
        if (mover.radius > 0.0) {
            quick = cast_round_at_facet<D>(mover, start, direction, reach, target.points.data());
        } else if (mover.points.size() == 1) {
            quick = cast_ray_at_facet<D>(start + mover.points[0], direction, reach, target.points.data());
        }
        if (quick) return *quick;
    }
    if constexpr (D == 3) {
        if (mover.points.size() > 1 && mover.radius == 0.0 && target.radius == 0.0 && !is_needle<3>(target)) {
            if (const QuickAnswer<3> quick = cast_polytope(mover, start, direction, reach, target))
                return *quick;
        }
    }
    return Caster<D>{mover, start, direction, reach, target}.run();
}

}  // namespace

template <int D>
Vec<D> contact_point(const HullView<D>& mover, const Vec<D>& start, const Vec<D>& direction,
                     const HullView<D>& target, const CastHit<D>& hit) {
    if (hit.point_known) return hit.point;
    // The deepest point of a point is itself, moved out.
    if (mover.points.size() == 1 && mover.radius == 0.0)
        return start + mover.points.front() + hit.distance * direction + hit.depth * hit.normal;
    return separation<D>(mover, start + hit.distance * direction, target).on_b;
}

template Vec<2> contact_point<2>(const HullView<2>&, const Vec<2>&, const Vec<2>&, const HullView<2>&,
                                 const CastHit<2>&);
template Vec<3> contact_point<3>(const HullView<3>&, const Vec<3>&, const Vec<3>&, const HullView<3>&,
                                 const CastHit<3>&);
template std::optional<CastHit<2>> cast<2>(const HullView<2>&, const Vec<2>&, const Vec<2>&, double,
                                           const HullView<2>&);
template std::optional<CastHit<3>> cast<3>(const HullView<3>&, const Vec<3>&, const Vec<3>&, double,
                                           const HullView<3>&);

}  // namespace hollow_probe
