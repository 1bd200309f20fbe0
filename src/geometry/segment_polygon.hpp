// The distance of a point or segment from a convex polygon or segment in the plane, without searching.
#pragma once

#include <array>
#include <optional>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {

/// A ball's or capsule's core against another hull of two points or more. Where they do not meet, an end of
/// the segment is nearest to the polygon, or a corner of the polygon to the segment.
///
/// A point outside a convex polygon lies beyond some of its sides; the side it lies beyond farthest is the
/// nearest, or the nearest corner is an end of that side: every other side's line is nearer to the point than
/// one of the two sides that meet in its nearest corner.
class SegmentAndPolygon {
  public:
    SegmentAndPolygon(const HullView<2>& segment, const Vec<2>& shift, const HullView<2>& polygon)
        : segment_(segment), polygon_(polygon), count_(static_cast<int>(segment.points.size())) {
        for (int i = 0; i < count_; ++i) ends_[i] = segment.points[i] + shift;
    }

    /// Nothing where the cores meet, or are so near each other that the general search tells more surely.
    [[nodiscard]] std::optional<Separation<2>> find() {
        lay_sides_beyond();
        const int lower = count_ == 2 && beyond_[1].by < beyond_[0].by ? 1 : 0;
        Nearest nearest = from_end(lower);
        const double size =
            ends_[0].abs().largest() + polygon_.points[0].abs().largest() + std::abs(beyond_[0].by);
        if (count_ == 1 && polygon_.points.size() > 2 &&
            beyond_[0].by <= (nearest.over_side ? 1e-9 * size : 0.0))
            return point_at_side(size);
        if (count_ == 1 || (same_side_ && nearest.over_side)) {
            if (!(beyond_[lower].by > 0.0)) return std::nullopt;
        } else if (!add_segment_sides(nearest, size)) {
            return std::nullopt;
        }
        // Very near, the direction between corners is a small difference of large numbers.
        if (!(nearest.apart > (nearest.over_side ? 1e-9 : 1e-4) * size)) return std::nullopt;
        Separation<2> result;
        result.gap = nearest.apart - segment_.radius - polygon_.radius;
        result.normal = nearest.normal;
        result.on_a = nearest.on_segment - segment_.radius * nearest.normal;
        result.on_b = nearest.on_segment - (nearest.apart - polygon_.radius) * nearest.normal;
        return result;
    }

  private:
    /// The side that a point lies beyond farthest.
    struct Beyond {
        double by = -infinity;
        int from = 0;
        int to = 0;
        Vec<2> normal = Vec<2>::zero();
    };
    struct Nearest {
        double apart = infinity;
        Vec<2> normal = Vec<2>::zero();  // from the polygon to the segment
        Vec<2> on_segment = Vec<2>::zero();
        bool over_side = false;  // the normal is that of a side of either
    };

    /// Also whether both ends are beyond one side by no less than the lower of them lies beyond any.
    void lay_sides_beyond() {
        double farthest = -infinity;
        const auto lay = [&](int from, int to, const Vec<2>& n) {
            // Number by number: vectors of two cost more to put together than they save.
            const Vec<2>& corner = polygon_.points[from];
            double least = infinity;
            for (int i = 0; i < count_; ++i) {
                const double by = n.x() * (ends_[i].x() - corner.x()) + n.y() * (ends_[i].y() - corner.y());
                least = std::min(least, by);
                if (by > beyond_[i].by) {
                    beyond_[i].by = by;
                    beyond_[i].from = from;
                    beyond_[i].to = to;
                    beyond_[i].normal = n;
                }
            }
            farthest = std::max(farthest, least);
        };
        if (polygon_.points.size() == 2) {
            const Vec<2> along = polygon_.points[1] - polygon_.points[0];
            const Vec<2> n = Vec<2>(along.y(), -along.x()).normalized();
            lay(0, 1, n);
            lay(1, 0, -n);
        } else {
            const auto& edges = polygon_.topology->edges;
            for (std::size_t i = 0; i < edges.size(); ++i) lay(edges[i][0], edges[i][1], polygon_.normals[i]);
        }
        farthest_ = farthest;
        same_side_ = count_ == 1 || farthest == std::min(beyond_[0].by, beyond_[1].by);
    }

    [[nodiscard]] Nearest from_end(int end) const {
        const Beyond& side = beyond_[end];
        const Vec<2>& p = ends_[end];
        const Vec<2>& from = polygon_.points[side.from];
        const Vec<2>& to = polygon_.points[side.to];
        const Vec<2> along = to - from;
        const bool before = along.dot(p - from) < 0.0;
        if (!before && along.dot(p - to) <= 0.0) return {side.by, side.normal, p, true};
        const Vec<2> away = p - (before ? from : to);
        const double apart = away.norm();
        return {apart, away / apart, p, false};
    }

    /// A point inside the polygon, or as good as on a side of it: the side it lies beyond farthest is the
    /// shortest way out.
    [[nodiscard]] Separation<2> point_at_side(double size) const {
        const Beyond& side = beyond_[0];
        Separation<2> result;
        result.cores_meet = side.by <= tolerance::cores_meet * size;
        result.gap = side.by - segment_.radius - polygon_.radius;
        result.normal = side.normal;
        result.on_a = ends_[0] - segment_.radius * side.normal;
        result.on_b = ends_[0] - (side.by - polygon_.radius) * side.normal;
        return result;
    }

    /// Completes what is nearest to a segment; false if nothing parts it from the polygon by more than
    /// rounding.
    bool add_segment_sides(Nearest& nearest, double size) const {
        const Vec<2> along = ends_[1] - ends_[0];
        const double length = along.norm();
        if (!(length > 0.0)) return false;
        const Vec<2> n(-along.y() / length, along.x() / length);
        int low = 0;
        int high = 0;
        double least = infinity;
        double most = -infinity;
        for (int i = 0; i < static_cast<int>(polygon_.points.size()); ++i) {
            const double side = n.dot(polygon_.points[i] - ends_[0]);
            if (side < least) {
                least = side;
                low = i;
            }
            if (side > most) {
                most = side;
                high = i;
            }
        }
        if (!(std::max({farthest_, least, -most}) > 1e-12 * size)) return false;
        for (int end = 0; end < 2; ++end) {
            const Nearest other = from_end(end);
            if (other.apart < nearest.apart) nearest = other;
        }
        const double by = std::max(least, -most);
        if (!(by > 0.0) || by > nearest.apart) return true;
        const Vec<2>& corner = polygon_.points[least > 0.0 ? low : high];
        const double part = along.dot(corner - ends_[0]);
        if (part < 0.0 || part > length * length) return true;
        nearest.apart = by;
        nearest.normal = least > 0.0 ? -n : n;
        nearest.on_segment = corner + by * nearest.normal;
        nearest.over_side = true;
        return true;
    }

    const HullView<2>& segment_;
    const HullView<2>& polygon_;
    int count_;
    std::array<Vec<2>, 2> ends_;
    std::array<Beyond, 2> beyond_;
    double farthest_ = -infinity;
    bool same_side_ = false;
};

}  // namespace hollow_probe
