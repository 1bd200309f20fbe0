#include "verify/touching_heights.hpp"

#include <algorithm>
#include <cmath>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"
#include "verify/grown_outline.hpp"

namespace hollow_probe {
namespace {

/// A ball on the upright line through a place, and where along it its middle is when it touches a piece. The
/// lowest and the highest such place lie over a corner, an edge or a facet.
template <int D>
class BallAtPiece {
  public:
    /// The piece's own radius is part of `radius`.
    BallAtPiece(const Vec<D>& place, const Vec<D>& up, double radius, const HullView<D>& piece)
        : place_(place), up_(up), radius_(radius), piece_(piece) {}

    Meets find(HeightSpan& span) {
        for (const Vec<D>& corner : piece_.points) touch_corner(corner);
        for (const auto& [begin, end] : piece_.topology->edges) {
            if (!touch_edge(piece_.points[begin], piece_.points[end])) return Meets::unsure;
        }
        if constexpr (D == 3) touch_facets();
        span = span_;
        return span.low <= span.high ? Meets::yes : Meets::no;
    }

  private:
    void touch(double height) {
        span_.low = std::min(span_.low, height);
        span_.high = std::max(span_.high, height);
    }

    void touch_corner(const Vec<D>& corner) {
        const Vec<D> way = corner - place_;
        const double height = up_.dot(way);
        const double beside = radius_ * radius_ - (way - height * up_).squared_norm();
        if (beside < 0.0) return;
        touch(height - std::sqrt(beside));
        touch(height + std::sqrt(beside));
    }

    /// Between the ends of an edge. False if that cannot be told well, as of one that is nearly upright.
    bool touch_edge(const Vec<D>& begin, const Vec<D>& end) {
        const Vec<D> way = end - begin;
        const double length = way.norm();
        if (length == 0.0) return true;
        const Vec<D> along = way / length;
        // Beside the edge, by height: from + height * rise.
        const Vec<D> rise = up_ - along.dot(up_) * along;
        const double rises = rise.squared_norm();
        if (rises < 1e-30) return true;  // upright: its ends are touched first and last
        if (rises < 1e-8) return false;
        const Vec<D> to_place = place_ - begin;
        const Vec<D> from = to_place - along.dot(to_place) * along;
        const double middle = -from.dot(rise) / rises;
        const double beside = radius_ * radius_ - (from + middle * rise).squared_norm();
        if (beside < 0.0) return true;
        const double half = std::sqrt(beside / rises);
        for (const double height : {middle - half, middle + half}) {
            const double on = along.dot(to_place + height * up_);
            if (on >= 0.0 && on <= length) touch(height);
        }
        return true;
    }

    void touch_facets() requires(D == 3) {
        const auto& facets = piece_.topology->facets;
        if (!piece_.normals.empty()) {
            for (std::size_t i = 0; i < facets.size(); ++i) touch_facet(facets[i], piece_.normals[i]);
            return;
        }
        // A triangle, whose facets are its two sides.
        const auto corners = piece_.points;
        const Vec<3> cross = (corners[1] - corners[0]).cross(corners[2] - corners[0]);
        const double area = cross.norm();
        if (area > 0.0) touch_facet(facets.front(), cross / area);
    }

    void touch_facet(const std::vector<std::uint16_t>& loop, const Vec<3>& n) requires(D == 3) {
        const double slope = n.dot(up_);
        if (std::abs(slope) < tolerance::angle) return;
        const double from = n.dot(place_ - piece_.points[loop.front()]);
        for (const double side : {radius_, -radius_}) {
            const double height = (side - from) / slope;
            const Vec<3> at = place_ + height * up_ - side * n;
            bool over = true;
            for (std::size_t i = 0; i < loop.size() && over; ++i) {
                const Vec<3>& corner = piece_.points[loop[i]];
                const Vec<3>& next = piece_.points[loop[i + 1 < loop.size() ? i + 1 : 0]];
                over = (next - corner).cross(at - corner).dot(n) >= 0.0;
            }
            if (over) touch(height);
        }
    }

    Vec<D> place_;
    const Vec<D>& up_;
    double radius_;
    const HullView<D>& piece_;
    HeightSpan span_{infinity, -infinity};
};

/// How far rounding moves a touch.
template <int D>
double slack_of(const HullView<D>& piece, const Vec<D>& up, double size) {
    const auto [below, above] = extent_along(piece, up);
    return 1e-10 * (above - below + size + 1e-3);
}

}  // namespace

template <int D>
std::optional<Upright<D>> upright_of(const HullView<D>& shape, const Vec<D>& up) {
    if (shape.points.size() > 2) return std::nullopt;
    const double first = up.dot(shape.points.front());
    const double last = up.dot(shape.points.back());
    const Vec<D> foot = shape.points.front() - first * up;
    if ((shape.points.back() - last * up - foot).norm() > tolerance::direction * std::abs(last - first))
        return std::nullopt;
    return Upright<D>{foot, shape.radius, std::min(first, last), std::max(first, last)};
}

template <int D>
Meets touching_heights_of_ball(const Vec<D>& foot, const Vec<D>& up, double radius, const HullView<D>& piece,
                               HeightSpan& span) {
    const double radii = radius + piece.radius;
    const double slack = slack_of<D>(piece, up, 2.0 * radii);
    return BallAtPiece<D>(foot, up, radii + slack, piece).find(span);
}

namespace {

/// By Newton's method: the gap along a line is convex, so that from outside it never steps past its root.
template <int D>
std::optional<HeightSpan> searched_touch(const HullView<D>& shape, const Vec<D>& foot, const Vec<D>& up,
                                         const HullView<D>& piece) {
    constexpr int most_rounds = 60;
    const auto [low, high] = extent_along(shape, up);
    const auto [below, above] = extent_along(piece, up);
    const double radii = shape.radius + piece.radius;
    const double slack = slack_of<D>(piece, up, high - low + 2.0 * radii);
    // They touch in between, if at all.
    const double bottom = below - high - up.dot(foot) - radii;
    const double top = above - low - up.dot(foot) + radii;
    const auto first_touch = [&](double start, double way) -> std::optional<double> {
        double height = start;
        for (int round = 0; round < most_rounds; ++round) {
            const Separation<D> now = separation<D>(shape, foot + height * up, piece);
            if (now.gap <= slack) return height;
            const double speed = -way * now.normal.dot(up);
            if (speed <= tolerance::angle) return std::nullopt;
            height += way * now.gap / speed;
        }
        return height;
    };
    const auto from_above = first_touch(top + 1e-6 * (top - bottom), -1.0);
    if (!from_above) return std::nullopt;
    const auto from_below = first_touch(bottom - 1e-6 * (top - bottom), 1.0);
    if (!from_below || *from_below > *from_above) return HeightSpan{*from_above, *from_above};
    return HeightSpan{*from_below, *from_above};
}

/// The overlap along the column is concave: from outside, Newton's method never steps past the depth.
template <int D>
std::optional<HeightSpan> searched_depth(const HullView<D>& shape, const Vec<D>& foot, const Vec<D>& up,
                                         const HullView<D>& piece, const HeightSpan& touching, double touch) {
    constexpr int most_rounds = 40;
    const auto last_shallow = [&](double height, double way) -> std::optional<double> {
        for (int round = 0; round < most_rounds; ++round) {
            const Separation<D> now = separation<D>(shape, foot + height * up, piece);
            const double missing = touch + now.gap;
            if (missing <= touch / 2048.0) return height;
            const double speed = -way * now.normal.dot(up);
            if (speed <= tolerance::angle) return std::nullopt;  // it overlaps no deeper anywhere
            height += way * missing / speed;
            if (height < touching.low || height > touching.high) return std::nullopt;
        }
        return height;
    };
    const auto low = last_shallow(touching.low, 1.0);
    if (!low) return std::nullopt;
    const auto high = last_shallow(touching.high, -1.0);
    if (!high || *low >= *high) return std::nullopt;
    return HeightSpan{*low, *high};
}

}  // namespace

template <int D>
std::optional<HeightSpan> touching_heights(const HullView<D>& shape, const Vec<D>& foot, const Vec<D>& up,
                                           const HullView<D>& piece) {
    if constexpr (D == 2) {
        if (GrownOutline::can(shape, piece)) {
            const double radii = shape.radius + piece.radius;
            const auto [low, high] = extent_along(shape, up);
            const double slack = slack_of<2>(piece, up, high - low + 2.0 * radii);
            return GrownOutline(shape, foot, up, piece).within(radii, slack);
        }
    }
    return searched_touch<D>(shape, foot, up, piece);
}

template <int D>
std::optional<HeightSpan> deep_heights(const HullView<D>& shape, const Vec<D>& foot, const Vec<D>& up,
                                       const HullView<D>& piece, const HeightSpan& touching, double touch) {
    // A little less, so that a column that leads just touch deep past a side is told alike however that is
    // rounded.
    const double within = shape.radius + piece.radius - touch * (1.0 - 1.0 / 1048576.0);
    if constexpr (D == 2) {
        if (GrownOutline::can(shape, piece)) {
            const GrownOutline outline(shape, foot, up, piece);
            const auto span = within > 0.0 ? outline.within(within, 0.0) : outline.deeper(-within);
            return span && span->low < span->high ? span : std::nullopt;
        }
    }
    if (const auto upright = upright_of<D>(shape, up); upright && within > 0.0) {
        HeightSpan ball;
        const Meets deep = BallAtPiece<D>(foot + upright->foot, up, within, piece).find(ball);
        if (deep != Meets::unsure) {
            const HeightSpan span{ball.low - upright->high, ball.high - upright->low};
            return deep == Meets::yes && span.low < span.high ? std::optional(span) : std::nullopt;
        }
    }
    return searched_depth<D>(shape, foot, up, piece, touching, touch);
}

template std::optional<HeightSpan> deep_heights<2>(const HullView<2>&, const Vec<2>&, const Vec<2>&,
                                                   const HullView<2>&, const HeightSpan&, double);
template std::optional<HeightSpan> deep_heights<3>(const HullView<3>&, const Vec<3>&, const Vec<3>&,
                                                   const HullView<3>&, const HeightSpan&, double);
template std::optional<Upright<2>> upright_of<2>(const HullView<2>&, const Vec<2>&);
template std::optional<Upright<3>> upright_of<3>(const HullView<3>&, const Vec<3>&);
template Meets touching_heights_of_ball<2>(const Vec<2>&, const Vec<2>&, double, const HullView<2>&,
                                           HeightSpan&);
template Meets touching_heights_of_ball<3>(const Vec<3>&, const Vec<3>&, double, const HullView<3>&,
                                           HeightSpan&);
template std::optional<HeightSpan> touching_heights<2>(const HullView<2>&, const Vec<2>&, const Vec<2>&,
                                                       const HullView<2>&);
template std::optional<HeightSpan> touching_heights<3>(const HullView<3>&, const Vec<3>&, const Vec<3>&,
                                                       const HullView<3>&);

}  // namespace hollow_probe
