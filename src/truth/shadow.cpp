#include "truth/shadow.hpp"

#include <algorithm>

namespace hollow_probe {
namespace {

double turn(const Flat& a, const Flat& b, const Flat& c) {
    return (b - a).x() * (c - a).y() - (b - a).y() * (c - a).x();
}

/// Andrew's monotone chain (A. M. Andrew, "Another efficient algorithm for convex hulls in two dimensions",
/// 1979). Points in one line give the two ends, equal ones a single point.
std::vector<Flat> hull_of(std::vector<Flat> points) {
    const auto before = [](const Flat& a, const Flat& b) {
        return a.x() != b.x() ? a.x() < b.x() : a.y() < b.y();
    };
    std::sort(points.begin(), points.end(), before);
    points.erase(std::unique(points.begin(), points.end()), points.end());
    if (points.size() < 3) return points;
    std::vector<Flat> hull;
    for (int side = 0; side < 2; ++side) {
        const std::size_t begin = hull.size();
        for (const Flat& p : points) {
            while (hull.size() >= begin + 2 && turn(hull[hull.size() - 2], hull.back(), p) <= 0.0)
                hull.pop_back();
            hull.push_back(p);
        }
        hull.pop_back();  // it begins the other side
        std::reverse(points.begin(), points.end());
    }
    return hull;
}

double distance_to_segment(const Flat& a, const Flat& b, const Flat& p) {
    const Flat way = b - a;
    const double squared = way.squared_norm();
    const double part = squared > 0.0 ? std::clamp(way.dot(p - a) / squared, 0.0, 1.0) : 0.0;
    return (a + part * way - p).norm();
}

/// Where segment a b crosses the circle around `center`.
void cross_circle(const Flat& a, const Flat& b, const Flat& center, double radius, std::vector<Flat>& found) {
    const Flat way = b - a;
    const double squared = way.squared_norm();
    if (squared == 0.0) return;
    const double middle = way.dot(center - a) / squared;
    const double across = (a + middle * way - center).squared_norm();
    const double half = radius * radius - across;
    if (half < 0.0) return;
    const double part = std::sqrt(half / squared);
    for (const double t : {middle - part, middle + part}) {
        if (t >= 0.0 && t <= 1.0) found.emplace_back(a + t * way);
    }
}

/// Where segment a b crosses the line through c and d.
void cross_line(const Flat& a, const Flat& b, const Flat& c, const Flat& d, std::vector<Flat>& found) {
    const double at_a = turn(c, d, a);
    const double at_b = turn(c, d, b);
    if (at_a == at_b) return;
    const double t = at_a / (at_a - at_b);
    if (t >= 0.0 && t <= 1.0) found.emplace_back(a + t * (b - a));
}

}  // namespace

template <int D>
ContactPlane<D>::ContactPlane(const Vec<D>& at, const Vec<D>& across, const Vec<D>& along)
    : origin(at), normal(across), first(along - along.dot(across) * across), second(Vec<D>::zero()) {
    if (first.norm() < 1e-9) {
        const int least = normal.abs().smallest_axis();
        first = Vec<D>::unit(least) - normal[least] * normal;
    }
    first.normalize();
    if constexpr (D == 3) second = normal.cross(first);
}

template <int D>
Flat ContactPlane<D>::flat(const Vec<D>& p) const {
    return {first.dot(p - origin), second.dot(p - origin)};
}

template <int D>
Vec<D> ContactPlane<D>::point(const Flat& f) const {
    return origin + f.x() * first + f.y() * second;
}

Outline::Outline(std::vector<Flat> points, double given_radius)
    : core(hull_of(std::move(points))), radius(given_radius) {}

double Outline::distance(const Flat& p) const {
    double nearest = infinity;
    bool inside = core.size() > 2;
    for (std::size_t i = 0; i < core.size(); ++i) {
        const Flat& a = core[i];
        const Flat& b = core[(i + 1) % core.size()];
        nearest = std::min(nearest, distance_to_segment(a, b, p));
        inside = inside && turn(a, b, p) >= 0.0;
    }
    return inside ? 0.0 : nearest;
}

/// The farthest point of what two convex outlines share is a corner of one within the other, the farthest
/// point of one that lies in the other, or a crossing of their borders.
std::vector<Flat> shared_points(const Outline& face, const Outline& other, double slack) {
    std::vector<Flat> found;
    const auto keep = [&](const Flat& p) {
        if (face.has(p, slack) && other.has(p, slack)) found.push_back(p);
    };
    for (const Flat& p : face.core) keep(p);
    for (const Flat& p : other.core) {
        keep(p);
        if (other.radius > 0.0) keep(p + Flat(other.radius, 0.0));
    }
    std::vector<Flat> crossings;
    for (std::size_t i = 0; i < face.core.size(); ++i) {
        const Flat& a = face.core[i];
        const Flat& b = face.core[(i + 1) % face.core.size()];
        if (a == b) continue;
        for (std::size_t k = 0; k < other.core.size(); ++k) {
            const Flat& c = other.core[k];
            const Flat& d = other.core[(k + 1) % other.core.size()];
            cross_circle(a, b, c, other.radius, crossings);
            if (c == d) continue;
            const Flat way = (d - c).normalized();
            const Flat aside = other.radius * Flat(way.y(), -way.x());
            cross_line(a, b, c + aside, d + aside, crossings);
            if (other.core.size() == 2) cross_line(a, b, c - aside, d - aside, crossings);
        }
    }
    for (const Flat& p : crossings) keep(p);
    return found;
}

template <int D>
std::vector<Vec<D>> front_of(const HullView<D>& piece, const Vec<D>& point, const Vec<D>& normal,
                             double slack) {
    std::vector<Vec<D>> corners;
    for_each_front_point<D>(piece, point, normal, slack, [&](const Vec<D>& p) { corners.push_back(p); });
    return corners;
}

template struct ContactPlane<2>;
template struct ContactPlane<3>;
template std::vector<Vec<2>> front_of<2>(const HullView<2>&, const Vec<2>&, const Vec<2>&, double);
template std::vector<Vec<3>> front_of<3>(const HullView<3>&, const Vec<3>&, const Vec<3>&, double);

}  // namespace hollow_probe
