#include "verify/touching_heights.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "hollow_probe/geometry/ray_facet.hpp"
#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

/// A ball on the upright line through a place, and where along it its middle is when it touches a facet: a
/// triangle in space, a segment in the plane. The lowest and the highest such place lie over a corner, an
/// edge or the facet itself.
template <int D>
class BallAtFacet {
  public:
    BallAtFacet(const Vec<D>& place, const Vec<D>& up, double radius, std::span<const Vec<D>> corners)
        : place_(place), up_(up), radius_(radius), corners_(corners) {}

    Meets find(HeightSpan& span) {
        for (const Vec<D>& corner : corners_) touch_corner(corner);
        for (std::size_t i = 0; i + 1 < D; ++i) {
            for (std::size_t k = i + 1; k < D; ++k) {
                if (!touch_edge(corners_[i], corners_[k])) return Meets::unsure;
            }
        }
        if constexpr (D == 3) touch_side();
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
        const double beside = radius_ * radius_ - (way - height * up_).squaredNorm();
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
        const double rises = rise.squaredNorm();
        if (rises < 1e-30) return true;  // upright: its ends are touched first and last
        if (rises < 1e-8) return false;
        const Vec<D> to_place = place_ - begin;
        const Vec<D> from = to_place - along.dot(to_place) * along;
        const double middle = -from.dot(rise) / rises;
        const double beside = radius_ * radius_ - (from + middle * rise).squaredNorm();
        if (beside < 0.0) return true;
        const double half = std::sqrt(beside / rises);
        for (const double height : {middle - half, middle + half}) {
            const double on = along.dot(to_place + height * up_);
            if (on >= 0.0 && on <= length) touch(height);
        }
        return true;
    }

    void touch_side() requires(D == 3) {
        const Vec<3> cross = (corners_[1] - corners_[0]).cross(corners_[2] - corners_[0]);
        const double area = cross.norm();
        if (!(area > 0.0)) return;
        const Vec<3> n = cross / area;
        const double slope = n.dot(up_);
        if (std::abs(slope) < tolerance::angle) return;
        const double from = n.dot(place_ - corners_[0]);
        for (const double side : {radius_, -radius_}) {
            const double height = (side - from) / slope;
            const Vec<3> at = place_ + height * up_ - side * n;
            bool over = true;
            for (std::size_t i = 0; i < 3 && over; ++i) {
                const Vec<3>& corner = corners_[i];
                over = (corners_[(i + 1) % 3] - corner).cross(at - corner).dot(n) >= 0.0;
            }
            if (over) touch(height);
        }
    }

    Vec<D> place_;
    const Vec<D>& up_;
    double radius_;
    std::span<const Vec<D>> corners_;
    HeightSpan span_{infinity, -infinity};
};

/// Of a shape whose core is a point, or stands upright on one: as a ball at its lower and its upper end.
template <int D>
Meets of_upright(const HullView<D>& shape, const Vec<D>& foot, const Vec<D>& up, const HullView<D>& piece,
                 double radius, HeightSpan& span) {
    const bool is_facet = piece.points.size() == D && piece.normals.empty();
    if (!is_facet || shape.points.size() > 2) return Meets::unsure;
    const Vec<D> way = shape.points.back() - shape.points.front();
    const double rise = up.dot(way);
    if ((way - rise * up).norm() > tolerance::direction * std::abs(rise)) return Meets::unsure;
    const Meets known = BallAtFacet<D>(foot + shape.points.front(), up, radius, piece.points).find(span);
    span.low -= std::max(rise, 0.0);
    span.high -= std::min(rise, 0.0);
    return known;
}

/// By Newton's method: the gap along a line is convex, so that from outside it never steps past its root.
/// They touch between the heights `bottom` and `top` at most.
template <int D>
std::optional<HeightSpan> searched(const HullView<D>& shape, const Vec<D>& foot, const Vec<D>& up,
                                   const HullView<D>& piece, double slack, double bottom, double top) {
    constexpr int most_rounds = 60;
    const auto first_touch = [&](double start, double way) -> std::optional<double> {
        double height = start;
        for (int round = 0; round < most_rounds; ++round) {
            const Separation<D> now = separation<D>(shape, Vec<D>(foot + height * up), piece);
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

}  // namespace

template <int D>
std::optional<HeightSpan> touching_heights(const HullView<D>& shape, const Vec<D>& foot, const Vec<D>& up,
                                           const HullView<D>& piece) {
    const auto [low, high] = extent_along(shape, up);
    const auto [below, above] = extent_along(piece, up);
    const double radii = shape.radius + piece.radius;
    const double slack = 1e-10 * (high - low + above - below + 2.0 * radii + 1e-3);
    HeightSpan span;
    switch (of_upright<D>(shape, foot, up, piece, radii + slack, span)) {
        case Meets::yes:
            return span;
        case Meets::no:
            return std::nullopt;
        case Meets::unsure:
            break;
    }
    const double at = up.dot(foot);
    return searched<D>(shape, foot, up, piece, slack, below - high - at - radii, above - low - at + radii);
}

template std::optional<HeightSpan> touching_heights<2>(const HullView<2>&, const Vec<2>&, const Vec<2>&,
                                                       const HullView<2>&);
template std::optional<HeightSpan> touching_heights<3>(const HullView<3>&, const Vec<3>&, const Vec<3>&,
                                                       const HullView<3>&);

}  // namespace hollow_probe
