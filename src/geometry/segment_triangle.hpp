// The distance of a point or segment from a triangle in space, without searching.
#pragma once

#include <algorithm>
#include <array>
#include <optional>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {

/// A ball's or capsule's core and a triangle, the commonest pair by far. Where they do not meet, an end of
/// the segment is nearest to the triangle, or the segment to a side (C. Ericson, "Real-Time Collision
/// Detection", 2005, sections 5.1.5 and 5.1.9).
class SegmentAndTriangle {
  public:
    SegmentAndTriangle(const HullView<3>& segment, const Vec<3>& shift, const HullView<3>& triangle)
        : segment_(segment),
          triangle_(triangle),
          first_(triangle.points[0]),
          to_second_(triangle.points[1] - first_),
          to_third_(triangle.points[2] - first_),
          normal_(to_second_.cross(to_third_)),
          stretch_(normal_.squared_norm()),
          count_(segment.points.size()) {
        for (std::size_t i = 0; i < count_; ++i) ends_[i] = segment.points[i] + shift;
    }

    /// Nothing where the cores meet, or are so near each other that the general search tells more surely, and
    /// for needles.
    [[nodiscard]] std::optional<Separation<3>> find() {
        const double longest = std::max(to_second_.squared_norm(), to_third_.squared_norm());
        if (stretch_ <= tolerance::side * longest * longest) return std::nullopt;
        std::array<double, 2> height{};
        for (std::size_t i = 0; i < count_; ++i) height[i] = normal_.dot(ends_[i] - first_);
        const std::size_t lower = count_ == 2 && std::abs(height[1]) < std::abs(height[0]) ? 1 : 0;
        try_end(lower);
        const bool crosses = count_ == 2 && height[0] * height[1] <= 0.0;
        // Straight over the face nothing of the segment is nearer than its end nearest to the plane.
        if (count_ == 2 && (crosses || !over_face_)) {
            const Vec<3> along = ends_[1] - ends_[0];
            if (crosses) {
                const double part = height[0] == height[1] ? 0.0 : height[0] / (height[0] - height[1]);
                if (from_triangle(ends_[0] + part * along).inside) return std::nullopt;  // they meet
            }
            // No point of the triangle is nearer to an end than its plane.
            const std::size_t other = 1 - lower;
            if (height[other] * height[other] < squared_ * stretch_) try_end(other);
            for (int side = 0; side < 3; ++side) try_side(along, side);
        }
        // A face's normal is known better than the way between two points that are near each other.
        const double size = std::sqrt(longest) + ends_[0].abs().largest();
        const double apart = std::sqrt(squared_);
        if (!(apart > (over_face_ ? 1e-9 : 1e-4) * size)) return std::nullopt;
        const Vec<3> normal = between_ / apart;
        Separation<3> result;
        result.gap = apart - segment_.radius - triangle_.radius;
        result.normal = normal;
        result.on_a = on_segment_ - segment_.radius * normal;
        result.on_b = on_segment_ - (apart - triangle_.radius) * normal;
        return result;
    }

  private:
    struct FromTriangle {
        Vec<3> way;           // from the nearest point of the triangle
        bool inside = false;  // that lies inside of all sides
    };

    [[nodiscard]] Vec<3> side(int i) const {
        return triangle_.points[i < 2 ? i + 1 : 0] - triangle_.points[i];
    }

    [[nodiscard]] FromTriangle from_triangle(const Vec<3>& p) const {
        const Vec<3> from_first = p - first_;
        const double d1 = to_second_.dot(from_first);
        const double d2 = to_third_.dot(from_first);
        if (d1 <= 0.0 && d2 <= 0.0) return {from_first};
        const Vec<3> from_second = p - triangle_.points[1];
        const double d3 = to_second_.dot(from_second);
        const double d4 = to_third_.dot(from_second);
        if (d3 >= 0.0 && d4 <= d3) return {from_second};
        const double vc = d1 * d4 - d3 * d2;
        if (vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0) return {from_first - d1 / (d1 - d3) * to_second_};
        const Vec<3> from_third = p - triangle_.points[2];
        const double d5 = to_second_.dot(from_third);
        const double d6 = to_third_.dot(from_third);
        if (d6 >= 0.0 && d5 <= d6) return {from_third};
        const double vb = d5 * d2 - d1 * d6;
        if (vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0) return {from_first - d2 / (d2 - d6) * to_third_};
        const double va = d3 * d6 - d5 * d4;
        if (va <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0) {
            const double part = (d4 - d3) / ((d4 - d3) + (d5 - d6));
            return {from_second - part * (to_third_ - to_second_)};
        }
        return {normal_.dot(from_first) / stretch_ * normal_, va > 0.0 && vb > 0.0 && vc > 0.0};
    }

    void try_end(std::size_t end) {
        const FromTriangle at = from_triangle(ends_[end]);
        if (take(at.way, ends_[end])) over_face_ = at.inside;
    }

    /// The nearest points of the segment and a side, where neither end of the segment is one.
    void try_side(const Vec<3>& along, int number) {
        const Vec<3> edge = side(number);
        const Vec<3> from = ends_[0] - triangle_.points[number];
        const double aa = along.squared_norm();
        const double ee = edge.squared_norm();
        const double ae = along.dot(edge);
        const double f = edge.dot(from);
        const double c = along.dot(from);
        const double denominator = aa * ee - ae * ae;
        if (!(denominator > tolerance::side * aa * ee)) return;  // side by side: an end is as near
        double s = (ae * f - c * ee) / denominator;
        double u = std::clamp((ae * s + f) / ee, 0.0, 1.0);
        s = (ae * u - c) / aa;
        if (!(s > 0.0 && s < 1.0)) return;
        u = std::clamp((ae * s + f) / ee, 0.0, 1.0);
        if (take(from + s * along - u * edge, ends_[0] + s * along)) over_face_ = false;
    }

    /// Whether that is nearer than what there was.
    bool take(const Vec<3>& between, const Vec<3>& on_segment) {
        const double squared = between.squared_norm();
        if (squared >= squared_) return false;
        squared_ = squared;
        between_ = between;
        on_segment_ = on_segment;
        return true;
    }

    const HullView<3>& segment_;
    const HullView<3>& triangle_;
    const Vec<3> first_;
    const Vec<3> to_second_;
    const Vec<3> to_third_;
    const Vec<3> normal_;  // as long as twice the triangle's area
    const double stretch_;
    std::size_t count_;
    std::array<Vec<3>, 2> ends_;
    // What is nearest so far.
    double squared_ = infinity;
    Vec<3> between_ = Vec<3>::zero();  // from the triangle to the segment
    Vec<3> on_segment_ = Vec<3>::zero();
    bool over_face_ = false;
};

}  // namespace hollow_probe
