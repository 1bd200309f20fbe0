// The distance of a point or segment from a triangle in space, without searching.
#pragma once

#include <Eigen/Geometry>
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
          count_(segment.points.size()) {
        for (std::size_t i = 0; i < count_; ++i) ends_[i] = segment.points[i] + shift;
    }

    /// Nothing where the cores meet, or are so near each other that the general search tells more surely, and
    /// for needles.
    [[nodiscard]] std::optional<Separation<3>> find() {
        const double longest = std::max(to_second_.squaredNorm(), to_third_.squaredNorm());
        const double stretch = normal_.squaredNorm();
        if (stretch <= tolerance::side * longest * longest) return std::nullopt;
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
                if (in_triangle(Vec<3>(ends_[0] + part * along)).inside) return std::nullopt;  // they meet
            }
            // No point of the triangle is nearer to an end than its plane.
            const std::size_t other = 1 - lower;
            if (height[other] * height[other] < squared_ * stretch) try_end(other);
            for (int side = 0; side < 3; ++side) try_side(along, side);
        }
        Vec<3> normal = between_;
        double length = 0.0;
        // A face's normal, or that of the plane of segment and side, is known better than the way between two
        // points that are near each other.
        if (over_face_)
            normal = normal_;
        else if (beside_ >= 0)
            normal = (ends_[1] - ends_[0]).cross(side(beside_));
        length = normal.norm();
        const double size = std::sqrt(longest) + ends_[0].cwiseAbs().maxCoeff();
        const bool sharp = over_face_ || beside_ >= 0;
        if (!(squared_ > (sharp ? 1e-18 : 1e-8) * size * size) || !(length > 0.0)) return std::nullopt;
        normal /= normal.dot(between_) < 0.0 ? -length : length;
        const double apart = normal.dot(between_);
        Separation<3> result;
        result.gap = apart - segment_.radius - triangle_.radius;
        result.normal = normal;
        result.on_a = on_segment_ - segment_.radius * normal;
        result.on_b = on_segment_ - (apart - triangle_.radius) * normal;
        return result;
    }

  private:
    struct InTriangle {
        Vec<3> nearest;
        bool inside = false;  // of all sides
    };

    [[nodiscard]] Vec<3> side(int i) const {
        return triangle_.points[i < 2 ? i + 1 : 0] - triangle_.points[i];
    }

    /// The point of the triangle nearest to p.
    [[nodiscard]] InTriangle in_triangle(const Vec<3>& p) const {
        const Vec<3> from_first = p - first_;
        const double d1 = to_second_.dot(from_first);
        const double d2 = to_third_.dot(from_first);
        if (d1 <= 0.0 && d2 <= 0.0) return {first_};
        const Vec<3> from_second = p - triangle_.points[1];
        const double d3 = to_second_.dot(from_second);
        const double d4 = to_third_.dot(from_second);
        if (d3 >= 0.0 && d4 <= d3) return {triangle_.points[1]};
        const double vc = d1 * d4 - d3 * d2;
        if (vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0) return {first_ + d1 / (d1 - d3) * to_second_};
        const Vec<3> from_third = p - triangle_.points[2];
        const double d5 = to_second_.dot(from_third);
        const double d6 = to_third_.dot(from_third);
        if (d6 >= 0.0 && d5 <= d6) return {triangle_.points[2]};
        const double vb = d5 * d2 - d1 * d6;
        if (vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0) return {first_ + d2 / (d2 - d6) * to_third_};
        const double va = d3 * d6 - d5 * d4;
        if (va <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0) {
            const double part = (d4 - d3) / ((d4 - d3) + (d5 - d6));
            return {triangle_.points[1] + part * (triangle_.points[2] - triangle_.points[1])};
        }
        const double sum = va + vb + vc;
        return {first_ + vb / sum * to_second_ + vc / sum * to_third_, va > 0.0 && vb > 0.0 && vc > 0.0};
    }

    void try_end(std::size_t end) {
        const InTriangle at = in_triangle(ends_[end]);
        const Vec<3> between = ends_[end] - at.nearest;
        const double squared = between.squaredNorm();
        if (squared >= squared_) return;
        squared_ = squared;
        between_ = between;
        on_segment_ = ends_[end];
        over_face_ = at.inside;
    }

    /// The nearest points of the segment and a side, where neither end of the segment is one.
    void try_side(const Vec<3>& along, int number) {
        const Vec<3> edge = side(number);
        const Vec<3> from = ends_[0] - triangle_.points[number];
        const double aa = along.squaredNorm();
        const double ee = edge.squaredNorm();
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
        const Vec<3> between = from + s * along - u * edge;
        const double squared = between.squaredNorm();
        if (squared >= squared_) return;
        squared_ = squared;
        between_ = between;
        on_segment_ = ends_[0] + s * along;
        over_face_ = false;
        beside_ = u > 0.0 && u < 1.0 ? number : -1;
    }

    const HullView<3>& segment_;
    const HullView<3>& triangle_;
    const Vec<3> first_;
    const Vec<3> to_second_;
    const Vec<3> to_third_;
    const Vec<3> normal_;
    std::size_t count_;
    std::array<Vec<3>, 2> ends_;
    // What is nearest so far.
    double squared_ = infinity;
    Vec<3> between_ = Vec<3>::Zero();  // from the triangle to the segment
    Vec<3> on_segment_ = Vec<3>::Zero();
    bool over_face_ = false;
    int beside_ = -1;  // the side between whose corners the segment is nearest, neither end of it
};

}  // namespace hollow_probe
