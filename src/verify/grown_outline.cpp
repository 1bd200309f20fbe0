#include "verify/grown_outline.hpp"

#include <algorithm>
#include <cmath>

#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {

GrownOutline::GrownOutline(const HullView<2>& shape, const Vec<2>& foot, const Vec<2>& up,
                           const HullView<2>& piece) {
    const Vec<2> across(up.y(), -up.x());
    const auto seen_from_line = [&](const Vec<2>& p) { return Vec<2>(across.dot(p), up.dot(p)); };
    of_piece_.take(piece, [&](const Vec<2>& p) { return seen_from_line(p - foot); });
    of_shape_.take(shape, [&](const Vec<2>& p) { return seen_from_line(-p); });
}

std::optional<HeightSpan> GrownOutline::within(double radius, double slack) const {
    HeightSpan span{infinity, -infinity};
    const auto touch = [&](double height) {
        span.low = std::min(span.low, height);
        span.high = std::max(span.high, height);
    };
    const auto touch_corner = [&](const Vec<2>& corner) {
        const double aside = std::abs(corner.x());
        if (aside > radius + slack) return;
        const double half = aside < radius ? std::sqrt(radius * radius - aside * aside) : 0.0;
        touch(corner.y() - half);
        touch(corner.y() + half);
    };
    touch_corner(first());
    for_each_side([&](Vec<2> from, Vec<2> to) {
        touch_corner(to);
        if (radius > 0.0) {
            const Vec<2> along = (to - from).normalized();
            const Vec<2> out = radius * Vec<2>(along.y(), -along.x());
            from += out;
            to += out;
        }
        if ((from.x() <= 0.0) == (to.x() <= 0.0)) return;
        touch(from.y() + from.x() / (from.x() - to.x()) * (to.y() - from.y()));
    });
    return span.low <= span.high ? std::optional(span) : std::nullopt;
}

std::optional<HeightSpan> GrownOutline::deeper(double depth) const {
    HeightSpan span{-infinity, infinity};
    bool has_sides = false;
    for_each_side([&](const Vec<2>& from, const Vec<2>& to) {
        has_sides = true;
        const Vec<2> along = (to - from).normalized();
        // So much deeper inside of the side at height 0, and by `slope` more with each length up.
        const double inside = along.y() * from.x() - along.x() * from.y() - depth;
        const double slope = along.x();
        if (std::abs(slope) < tolerance::direction) {
            if (inside <= 0.0) span.high = -infinity;
        } else if (slope > 0.0) {
            span.low = std::max(span.low, -inside / slope);
        } else {
            span.high = std::min(span.high, -inside / slope);
        }
    });
    return has_sides && span.low < span.high ? std::optional(span) : std::nullopt;
}

template <class Place>
void GrownOutline::Loop::take(const HullView<2>& hull, Place place) {
    count = hull.points.size();
    std::array<Vec<2>, most_corners> placed;
    std::size_t lowest = 0;
    double area = 0.0;
    for (std::size_t i = 0; i < count; ++i) {
        placed[i] = place(hull.points[i]);
        if (i >= 2) {
            const Vec<2> a = placed[i - 1] - placed[0];
            const Vec<2> b = placed[i] - placed[0];
            area += a.x() * b.y() - a.y() * b.x();
        }
        const Vec<2>& low = placed[lowest];
        if (placed[i].y() < low.y() || (placed[i].y() == low.y() && placed[i].x() < low.x())) lowest = i;
    }
    for (std::size_t i = 0; i < count; ++i)
        corners[i] = placed[(lowest + (area < 0.0 ? count - i : i)) % count];
}

template <class Visit>
void GrownOutline::for_each_side(Visit visit) const {
    Vec<2> from = first();
    std::size_t i = 0;
    std::size_t k = 0;
    while (i < of_piece_.sides() || k < of_shape_.sides()) {
        double turn = 0.0;  // from the piece's side to the shape's
        if (i == of_piece_.sides()) {
            turn = -1.0;
        } else if (k == of_shape_.sides()) {
            turn = 1.0;
        } else {
            const Vec<2> a = of_piece_.side(i);
            const Vec<2> b = of_shape_.side(k);
            turn = a.x() * b.y() - a.y() * b.x();
        }
        Vec<2> way = Vec<2>::zero();
        if (turn >= 0.0) way += of_piece_.side(i++);
        if (turn <= 0.0) way += of_shape_.side(k++);
        const Vec<2> to = from + way;
        if (way.squared_norm() > 0.0) visit(from, to);
        from = to;
    }
}

}  // namespace hollow_probe
