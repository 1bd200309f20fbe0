// Ray against triangle: S. Woop, C. Benthin, I. Wald, "Watertight ray/triangle intersection", 2013. Two
// facets that share an edge see it from the same sheared corners, so no ray slips between them. This holds
// only where products are not fused with sums: see the compiler flags.
#include "geometry/quick_casts.hpp"

#include <algorithm>

#include "hollow_probe/geometry/ray_facet.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

/// Facets steeper to the ray than this, and rays nearer to an edge than this, both as part of the size of
/// what is computed with, are the general cast's.
constexpr double hard = 1e-10;

/// Rounding of positions around a start: see the general cast.
template <int D>
double tolerance_at(const Vec<D>* corners, const std::array<Vec<D>, D>& from_start) {
    double size = 0.0;
    double magnitude = 0.0;
    for (int i = 0; i < D; ++i) {
        size = std::max(size, from_start[i].abs().largest());
        magnitude = std::max(magnitude, corners[i].abs().largest());
    }
    return tolerance::of_cast(size, magnitude);
}

template <int D>
std::array<Vec<D>, D> seen_from(const Vec<D>& origin, const Vec<D>* corners) {
    std::array<Vec<D>, D> result;
    for (int i = 0; i < D; ++i) result[i] = corners[i] - origin;
    return result;
}

/// The unit normal of a facet, from its shortest sides; zero for one without area.
Vec<2> unit_normal(const std::array<Vec<2>, 2>& p) {
    const Vec<2> along = p[1] - p[0];
    return Vec<2>(-along.y(), along.x()).normalized();
}
Vec<3> unit_normal(const std::array<Vec<3>, 3>& p) {
    const Vec<3> u = p[1] - p[0];
    const Vec<3> v = p[2] - p[0];
    const Vec<3> n = u.cross(v);
    const double squared = n.squared_norm();
    if (squared > tolerance::needle * u.squared_norm() * v.squared_norm()) return n / std::sqrt(squared);
    // On needles the shortest sides keep the digits that a long one would drown.
    const std::array<Vec<3>, 3> sides = {u, p[2] - p[1], -v};
    int longest = 0;
    for (int i = 1; i < 3; ++i) {
        if (sides[i].squared_norm() > sides[longest].squared_norm()) longest = i;
    }
    return sides[(longest + 1) % 3].cross(sides[(longest + 2) % 3]).normalized();
}

}  // namespace

RayFrame<3>::RayFrame(const Vec<3>& unit) : direction(unit) {
    z = 0;
    if (std::abs(direction[1]) > std::abs(direction[z])) z = 1;
    if (std::abs(direction[2]) > std::abs(direction[z])) z = 2;
    x = (z + 1) % 3;
    y = (z + 2) % 3;
    inverse = 1.0 / direction[z];
    shear_x = direction[x] * inverse;
    shear_y = direction[y] * inverse;
}

namespace {

/// Within reach at both ends; only at the very ends does rounding need a thought.
template <int D>
Meets within_reach(double t, double reach, const Vec<D>* corners, const std::array<Vec<D>, D>& from_start) {
    if (t >= 0.0 && t <= reach) return Meets::yes;
    const double tolerance = tolerance_at<D>(corners, from_start);
    return t >= -tolerance && t <= reach + tolerance ? Meets::yes : Meets::no;
}

}  // namespace

template <>
Meets ray_meets_facet<2>(const RayFrame<2>& frame, const Vec<2>& origin, double reach, const Vec<2>* corners,
                         double& distance) {
    const auto p = seen_from<2>(origin, corners);
    const double a = frame.aside.dot(p[0]);
    const double b = frame.aside.dot(p[1]);
    const double scale = p[0].abs().sum() + p[1].abs().sum();
    const double across = b - a;
    if (std::abs(across) <= hard * scale) return Meets::unsure;
    if ((a < 0.0 && b < 0.0) || (a > 0.0 && b > 0.0)) {
        return std::min(std::abs(a), std::abs(b)) <= hard * scale ? Meets::unsure : Meets::no;
    }
    const double t = (frame.direction.dot(p[0]) * b - frame.direction.dot(p[1]) * a) / across;
    distance = std::max(t, 0.0);
    return within_reach<2>(t, reach, corners, p);
}

template <>
Meets ray_meets_facet<3>(const RayFrame<3>& frame, const Vec<3>& origin, double reach, const Vec<3>* corners,
                         double& distance) {
    const auto p = seen_from<3>(origin, corners);
    std::array<double, 3> px{};
    std::array<double, 3> py{};
    double scale = 0.0;
    for (int i = 0; i < 3; ++i) {
        px[i] = p[i][frame.x] - frame.shear_x * p[i][frame.z];
        py[i] = p[i][frame.y] - frame.shear_y * p[i][frame.z];
        scale = std::max(scale, std::abs(px[i]) + std::abs(py[i]));
    }
    const double u = px[2] * py[1] - py[2] * px[1];
    const double v = px[0] * py[2] - py[0] * px[2];
    const double w = px[1] * py[0] - py[1] * px[0];
    const double least = std::min({u, v, w});
    const double most = std::max({u, v, w});
    if (least < 0.0 && most > 0.0) {
        // Outside; by how much decides whether rounding could have it otherwise.
        return std::min(-least, most) <= hard * scale * scale ? Meets::unsure : Meets::no;
    }
    const double sum = u + v + w;
    if (std::abs(sum) <= hard * scale * scale) return Meets::unsure;
    const double t = frame.inverse * (u * p[0][frame.z] + v * p[1][frame.z] + w * p[2][frame.z]) / sum;
    distance = std::max(t, 0.0);
    return within_reach<3>(t, reach, corners, p);
}

template <int D>
Vec<D> normal_against(const Vec<D>* corners, const Vec<D>& direction) {
    const Vec<D> n = unit_normal(seen_from<D>(corners[0], corners));
    return n.dot(direction) > 0.0 ? -n : n;
}

template Vec<2> normal_against<2>(const Vec<2>*, const Vec<2>&);
template Vec<3> normal_against<3>(const Vec<3>*, const Vec<3>&);

template <int D>
QuickAnswer<D> cast_ray_at_facet(const Vec<D>& origin, const Vec<D>& direction, double reach,
                                 const Vec<D>* corners) {
    double t = 0.0;
    switch (ray_meets_facet<D>(RayFrame<D>(direction), origin, reach, corners, t)) {
        case Meets::no:
            return std::optional<CastHit<D>>();
        case Meets::unsure:
            return std::nullopt;
        case Meets::yes:
            break;
    }
    return CastHit<D>{t, normal_against<D>(corners, direction), false, 0.0, origin + t * direction, true};
}

template QuickAnswer<2> cast_ray_at_facet<2>(const Vec<2>&, const Vec<2>&, double, const Vec<2>*);
template QuickAnswer<3> cast_ray_at_facet<3>(const Vec<3>&, const Vec<3>&, double, const Vec<3>*);

namespace {

/// Where a line enters C, the facet minus a mover of one or two points, rounded: it enters the convex C
/// where it first enters one of the round corners, round edges and faces C is made of. Positions are relative
/// to the start; `on_target` is the place on the facet behind a corner of C.
template <int D>
struct RoundEntry {
    const Vec<D>& direction;
    double radius = 0.0;
    double reach = 0.0;  // beyond it nothing is of interest; comes down with every entry found
    bool any = false;
    bool unsure = false;
    Vec<D> center = Vec<D>::zero();  // on C without its rounding
    Vec<D> point = Vec<D>::zero();

    void corner(const Vec<D>& at, const Vec<D>& on_target) {
        const double along = direction.dot(at);
        if (along - radius >= reach) return;
        const double room = radius * radius - (along * direction - at).squared_norm();
        if (room <= tolerance::approaches * tolerance::approaches * radius * radius) return;
        offer(along - std::sqrt(room), at, on_target);
    }

    /// From a corner of C along a side; on the target the place goes along with it, or stays.
    void edge(const Vec<3>& from, const Vec<3>& side, const Vec<3>& on_target, bool goes_along) {
        const Vec<3> between = direction.cross(side);
        const double past = between.dot(from);
        const double across = between.squared_norm();
        const double room = radius * radius * across - past * past;
        if (room < 0.0) return;
        const double length2 = side.squared_norm();
        if (across <= tolerance::side * length2) {
            unsure = true;  // runs nearly along the edge
            return;
        }
        const double d = direction.dot(side);
        const double f = from.dot(side);
        const double half = std::sqrt(room * length2) / across;
        const double t = (direction.dot(from) * length2 - f * d) / across - half;
        const double u = t * d - f;
        if (t >= reach || u < 0.0 || u > length2) return;
        if (half * across <= tolerance::approaches * radius * length2) return;
        const Vec<3> on_side = u / length2 * side;
        offer(t, from + on_side, goes_along ? on_target + on_side : on_target);
    }

    void offer(double t, const Vec<D>& where, const Vec<D>& on_target) {
        if (!(t < reach)) return;
        reach = t;
        any = true;
        center = where;
        point = on_target;
    }
};

/// All of C but the faces along the facet. `low` is the mover's point that comes to the facet first.
void enter_beside(RoundEntry<2>& entry, const std::array<Vec<2>, 2>& p, const Vec<2>& low,
                  const Vec<2>* high) {
    for (const Vec<2>& corner : p) {
        entry.corner(corner - low, corner);
        if (high == nullptr) continue;
        entry.corner(corner - *high, corner);
        const Vec<2> axis = *high - low;
        Vec<2> n = Vec<2>(-axis.y(), axis.x()).normalized();
        if (n.dot(entry.direction) > 0.0) n = -n;
        const double speed = -n.dot(entry.direction);
        if (speed <= tolerance::approaches) continue;
        const double t = -(n.dot(corner - low) + entry.radius) / speed;
        const Vec<2> center = t * entry.direction - entry.radius * n;
        const double v = axis.dot(corner - low - center);
        if (v >= 0.0 && v <= axis.squared_norm()) entry.offer(t, center, corner);
    }
}

void enter_beside(RoundEntry<3>& entry, const std::array<Vec<3>, 3>& p, const Vec<3>& low,
                  const Vec<3>* high) {
    const std::array<Vec<3>, 3> side = {p[1] - p[0], p[2] - p[1], p[0] - p[2]};
    const Vec<3> axis = high != nullptr ? *high - low : Vec<3>::zero();
    std::array<bool, 3> front = {false, false, false};  // which of the faces between side and axis
    for (int i = 0; i < 3 && high != nullptr; ++i) {
        Vec<3> n = side[i].cross(axis);
        if (n.dot(side[(i + 1) % 3]) > 0.0) n = -n;  // out of C
        const double squared = n.squared_norm();
        const double speed = -n.dot(entry.direction);
        front[i] = speed >= 0.0 || squared == 0.0;
        if (speed * speed <= tolerance::approaches * tolerance::approaches * squared || speed < 0.0) continue;
        const Vec<3> from = p[i] - low;
        const double t = -(n.dot(from) + entry.radius * std::sqrt(squared)) / speed;
        if (t >= entry.reach) continue;
        const Vec<3> center = t * entry.direction - entry.radius / std::sqrt(squared) * n;
        const Vec<3> at = center - from;  // u·side - v·axis
        const Vec<3> turned = side[i].cross(axis);
        const double u = at.cross(axis).dot(turned);
        const double v = at.cross(side[i]).dot(turned);
        if (u < 0.0 || u > squared || v < 0.0 || v > squared) continue;
        entry.offer(t, center, p[i] + u / squared * side[i]);
        return;  // a line enters once
    }
    for (int i = 0; i < 3; ++i) {
        entry.corner(p[i] - low, p[i]);
        entry.edge(p[i] - low, side[i], p[i], true);
        // An edge or corner between faces that all look away is not entered.
        if (front[i]) entry.edge(p[i] - *high, side[i], p[i], true);
        if (front[i] || front[(i + 2) % 3]) {
            entry.corner(p[i] - *high, p[i]);
            entry.edge(p[i] - *high, axis, p[i], false);
        }
    }
}

/// Whether a point of the facet's plane lies in the facet; all relative to the same place.
bool inside(const std::array<Vec<2>, 2>& p, const Vec<2>&, const Vec<2>& at) {
    const Vec<2> along = p[1] - p[0];
    const double s = along.dot(at - p[0]);
    return s >= 0.0 && s <= along.squared_norm();
}
bool inside(const std::array<Vec<3>, 3>& p, const Vec<3>& n, const Vec<3>& at) {
    for (int i = 0; i < 3; ++i) {
        const Vec<3> inward = n.cross(p[(i + 1) % 3] - p[i]);
        // Either winding: the third corner lies on the inner side.
        const double third = inward.dot(p[(i + 2) % 3] - p[i]);
        const double here = inward.dot(at - p[i]);
        if (third > 0.0 ? here < 0.0 : here > 0.0) return false;
    }
    return true;
}

}  // namespace

template <int D>
QuickAnswer<D> cast_round_at_facet(const HullView<D>& mover, const Vec<D>& start, const Vec<D>& direction,
                                   double reach, const Vec<D>* corners) {
    const auto p = seen_from<D>(start, corners);
    const double radius = mover.radius;
    const double tolerance = tolerance_at<D>(corners, p) + tolerance::of_cast(radius, 0.0);
    Vec<D> n = unit_normal(p);
    if (n.is_zero(0.0)) return std::nullopt;
    if (n.dot(direction) > 0.0) n = -n;  // the side it comes from
    const double speed = -n.dot(direction);
    const double plane = n.dot(p[0]);
    double lowest = infinity;
    double highest = -infinity;
    double second = infinity;
    const Vec<D>* low = nullptr;
    for (const Vec<D>& m : mover.points) {
        const double s = n.dot(m) - plane;
        highest = std::max(highest, s);
        second = std::min(second, std::max(lowest, s));
        if (s < lowest) {
            lowest = s;
            low = &m;
        }
    }
    const bool before = lowest > radius + tolerance;
    // What never comes down to the plane, or is beyond it already, meets no part of the facet.
    if (before && reach * std::max(speed, hard) < lowest - radius - tolerance) {
        return std::optional<CastHit<D>>();
    }
    if (highest < -radius - tolerance) return std::optional<CastHit<D>>();
    if (speed < 1e-3 || second - lowest <= tolerance::accuracy * (std::abs(lowest) + radius))
        return std::nullopt;
    const double t = (lowest - radius) / speed;
    const Vec<D> at = *low + t * direction - radius * n;
    if (inside(p, n, at)) {
        if (!before) return std::nullopt;  // starts in touch or inside
        if (t > reach + tolerance) return std::optional<CastHit<D>>();
        return CastHit<D>{t, n, false, 0.0, start + at, true};
    }
    if (mover.points.size() > 2) return std::nullopt;
    const Vec<D>* high = mover.points.size() == 1 ? nullptr : &mover.points[low == &mover.points[0] ? 1 : 0];
    RoundEntry<D> entry{direction, radius, std::nextafter(reach + tolerance, infinity)};
    enter_beside(entry, p, *low, high);
    if (entry.unsure) return std::nullopt;
    if (!entry.any) return std::optional<CastHit<D>>();
    if (entry.reach <= 8.0 * tolerance) return std::nullopt;  // starts in touch, inside or beyond
    return CastHit<D>{
        entry.reach, (entry.reach * direction - entry.center).normalized(), false, 0.0, start + entry.point,
        true};
}

template QuickAnswer<2> cast_round_at_facet<2>(const HullView<2>&, const Vec<2>&, const Vec<2>&, double,
                                               const Vec<2>*);
template QuickAnswer<3> cast_round_at_facet<3>(const HullView<3>&, const Vec<3>&, const Vec<3>&, double,
                                               const Vec<3>*);

}  // namespace hollow_probe
