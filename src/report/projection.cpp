#include "report/projection.hpp"

#include <algorithm>

#include "hollow_probe/geometry/separation.hpp"

namespace hollow_probe {
namespace {

double turn(const Vec<2>& a, const Vec<2>& b, const Vec<2>& c) {
    return (b.x() - a.x()) * (c.y() - a.y()) - (b.y() - a.y()) * (c.x() - a.x());
}

Outline convex_hull(Outline points) {
    std::sort(points.begin(), points.end(), [](const Vec<2>& a, const Vec<2>& b) {
        return std::pair(a.x(), a.y()) < std::pair(b.x(), b.y());
    });
    points.erase(std::unique(points.begin(), points.end()), points.end());
    if (points.size() < 3) return points;
    Outline hull;
    const auto sweep = [&](auto first, auto last) {
        const std::size_t floor = hull.size();
        for (auto it = first; it != last; ++it) {
            while (hull.size() >= floor + 2 && turn(hull[hull.size() - 2], hull.back(), *it) <= 0.0)
                hull.pop_back();
            hull.push_back(*it);
        }
        hull.pop_back();
    };
    sweep(points.begin(), points.end());
    sweep(points.rbegin(), points.rend());
    return hull;
}

}  // namespace

template <int D>
void View<D>::fit(const Vec<2>& low, const Vec<2>& high, double margin) {
    const Vec<2> size = (high - low).max(Vec<2>::constant(1e-9));
    scale = std::min((frame.width - 2.0 * margin) / size.x(), (frame.height - 2.0 * margin) / size.y());
    const Vec<2> middle = 0.5 * (low + high);
    center = middle.x() * right + middle.y() * up;
}

Outline rounded_outline(Outline points, double radius) {
    Outline hull = convex_hull(std::move(points));
    if (radius <= 0.0) return hull;
    constexpr int steps = 10;  // to a quarter turn
    Outline result;
    const auto arc = [&](const Vec<2>& center, double from, double to) {
        const int count =
            std::max(1, static_cast<int>(std::ceil((to - from) / (0.5 * std::numbers::pi) * steps)));
        for (int i = 0; i <= count; ++i) {
            const double angle = from + (to - from) * i / count;
            result.push_back(center + radius * Vec<2>(std::cos(angle), std::sin(angle)));
        }
    };
    if (hull.size() == 1) {
        arc(hull[0], 0.0, 2.0 * std::numbers::pi);
        return result;
    }
    for (std::size_t i = 0; i < hull.size(); ++i) {
        const Vec<2> before = hull[i] - hull[(i + hull.size() - 1) % hull.size()];
        const Vec<2> after = hull[(i + 1) % hull.size()] - hull[i];
        const double from = std::atan2(-before.x(), before.y());
        double to = std::atan2(-after.x(), after.y());
        while (to < from) to += 2.0 * std::numbers::pi;
        arc(hull[i], from, to);
    }
    return result;
}

template <int D>
Outline shadow(const View<D>& view, const HullView<D>& hull, const Vec<D>& shift) {
    Outline points;
    for (const Vec<D>& p : hull.points) points.push_back(view.flat(p + shift));
    return rounded_outline(std::move(points), hull.radius);
}

Outline section(const View<3>& view, const HullView<3>& hull) {
    const auto [nearest, farthest] = extent_along(hull, view.away);
    if (nearest - hull.radius > view.cut || farthest + hull.radius < view.cut) return {};
    if (hull.radius == 0.0) {
        Outline points;
        for (const auto& edge : hull.topology->edges) {
            const Vec<3>& a = hull.points[edge[0]];
            const Vec<3>& b = hull.points[edge[1]];
            const double da = view.depth(a) - view.cut;
            const double db = view.depth(b) - view.cut;
            if (da == 0.0) points.push_back(view.flat(a));
            if (db == 0.0) points.push_back(view.flat(b));
            if ((da < 0.0) != (db < 0.0) && da != db)
                points.push_back(view.flat(a + (b - a) * (da / (da - db))));
        }
        return convex_hull(std::move(points));
    }
    // A rounded hull: from its inside, feel for the surface all around in the cutting plane.
    Vec<3> inside = Vec<3>::zero();
    double weight_sum = 0.0;
    for (const Vec<3>& p : hull.points) {
        const double weight = 1.0 / (1e-9 + std::abs(view.depth(p) - view.cut));
        inside += weight * p;
        weight_sum += weight;
    }
    inside /= weight_sum;
    inside += (view.cut - view.depth(inside)) * view.away;
    const auto gap = [&](const Vec<3>& p) {
        const std::array<Vec<3>, 1> point = {p};
        static const HullTopology none;
        return separation<3>({point, 0.0, {}, &none}, hull).gap;
    };
    if (gap(inside) > 0.0) return {};
    Outline result;
    constexpr int directions = 72;
    for (int i = 0; i < directions; ++i) {
        const double angle = 2.0 * std::numbers::pi * i / directions;
        const Vec<3> along = std::cos(angle) * view.right + std::sin(angle) * view.up;
        double near = 0.0;
        double far = 2.0 * bounds_of(hull).size().norm();
        for (int round = 0; round < 40; ++round) {
            const double middle = 0.5 * (near + far);
            (gap(inside + middle * along) <= 0.0 ? near : far) = middle;
        }
        result.push_back(view.flat(inside + near * along));
    }
    return result;
}

template struct View<2>;
template struct View<3>;
template Outline shadow<2>(const View<2>&, const HullView<2>&, const Vec<2>&);
template Outline shadow<3>(const View<3>&, const HullView<3>&, const Vec<3>&);

}  // namespace hollow_probe
