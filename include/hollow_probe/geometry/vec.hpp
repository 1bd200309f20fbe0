// Points, directions and axis-aligned bounds in two and three dimensions.
#pragma once

#include <Eigen/Core>
#include <cmath>
#include <limits>
#include <numbers>
#include <stdexcept>
#include <string>

namespace hollow_probe {

/// A point or direction; D is 2 or 3. Lengths are in the level's unit.
template <int D>
using Vec = Eigen::Matrix<double, D, 1>;

/// A linear map of D-space; columns are the images of the axes.
template <int D>
using Mat = Eigen::Matrix<double, D, D>;

inline constexpr double infinity = std::numeric_limits<double>::infinity();

inline constexpr double radians(double degrees) {
    return degrees * (std::numbers::pi / 180.0);
}
inline constexpr double degrees(double radians) {
    return radians * (180.0 / std::numbers::pi);
}

/// The shortest text that reads back as x.
std::string number_text(double x);

/// The angle between two unit vectors in radians, exact to rounding near 0 and pi too, where an arc cosine
/// of the dot product loses half the digits (W. Kahan, "How Futile are Mindless Assessments of Roundoff",
/// 2006).
template <int D>
double angle_between(const Vec<D>& a, const Vec<D>& b) {
    return 2.0 * std::atan2((a - b).norm(), (a + b).norm());
}

/// Thrown when a shape, level, body or rig is given something it cannot be built from. The message names what
/// is wrong and what was expected, in words fit for the person who wrote the input.
struct InvalidInput : std::invalid_argument {
    using std::invalid_argument::invalid_argument;
};

/// A closed axis-aligned box. The default is empty: low above high, so that growing it by a point gives that
/// point.
template <int D>
struct Bounds {
    Vec<D> low = Vec<D>::Constant(infinity);
    Vec<D> high = Vec<D>::Constant(-infinity);

    void grow(const Vec<D>& point) {
        low = low.cwiseMin(point);
        high = high.cwiseMax(point);
    }
    void grow(const Bounds& other) {
        low = low.cwiseMin(other.low);
        high = high.cwiseMax(other.high);
    }
    [[nodiscard]] Bounds inflated(double by) const {
        return {low - Vec<D>::Constant(by), high + Vec<D>::Constant(by)};
    }
    [[nodiscard]] Bounds moved(const Vec<D>& by) const { return {low + by, high + by}; }

    /// Inclusive: boxes that share only a face, an edge or a corner overlap.
    [[nodiscard]] bool overlaps(const Bounds& other) const {
        return (low.array() <= other.high.array()).all() && (other.low.array() <= high.array()).all();
    }
    [[nodiscard]] bool empty() const { return (low.array() > high.array()).any(); }
    [[nodiscard]] Vec<D> center() const { return 0.5 * (low + high); }
    [[nodiscard]] Vec<D> size() const { return high - low; }
};

/// The largest absolute coordinate of a box: what rounding errors of its points scale with.
template <int D>
double magnitude(const Bounds<D>& bounds) {
    return bounds.empty() ? 0.0
                          : std::max(bounds.low.cwiseAbs().maxCoeff(), bounds.high.cwiseAbs().maxCoeff());
}

}  // namespace hollow_probe
