// Points, directions, linear maps and axis-aligned bounds in two and three dimensions.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <numbers>
#include <stdexcept>
#include <string>

namespace hollow_probe {

/// D numbers, D from 1 to 3, with the arithmetic of vectors. Like a number, a vector declared without a value
/// holds anything; `Vec<3>{}` is zero. Example:
///
///     const Vec<3> way = to - from;
///     const Vec<3> foot = from + 0.5 * way - Vec<3>::unit(1);
///     if (way.norm() < 2.0 && all_at_most(foot, to)) …
template <int D, class Number = double>
struct VecOf {
    static_assert(D >= 1 && D <= 3);

    VecOf() = default;
    constexpr explicit VecOf(Number only) requires(D == 1) : numbers{only} {}
    constexpr VecOf(Number first, Number second) requires(D == 2) : numbers{first, second} {}
    constexpr VecOf(Number first, Number second, Number third) requires(D == 3)
        : numbers{first, second, third} {}

    static constexpr VecOf constant(Number number) {
        VecOf result;
        result.numbers[0] = number;
        if constexpr (D > 1) result.numbers[1] = number;
        if constexpr (D > 2) result.numbers[2] = number;
        return result;
    }
    static constexpr VecOf zero() { return constant(0); }
    static constexpr VecOf ones() { return constant(1); }
    /// The direction of an axis, counted from 0.
    static constexpr VecOf unit(std::ptrdiff_t axis) {
        VecOf result = zero();
        result.numbers[axis] = 1;
        return result;
    }

    constexpr Number& operator[](std::ptrdiff_t axis) { return numbers[axis]; }
    constexpr const Number& operator[](std::ptrdiff_t axis) const { return numbers[axis]; }
    constexpr Number& x() { return numbers[0]; }
    constexpr const Number& x() const { return numbers[0]; }
    constexpr Number& y() requires(D > 1) { return numbers[1]; }
    constexpr const Number& y() const requires(D > 1) { return numbers[1]; }
    constexpr Number& z() requires(D > 2) { return numbers[2]; }
    constexpr const Number& z() const requires(D > 2) { return numbers[2]; }
    static constexpr std::ptrdiff_t size() { return D; }
    constexpr Number* data() { return numbers; }
    [[nodiscard]] constexpr const Number* data() const { return numbers; }
    constexpr Number* begin() { return numbers; }
    constexpr Number* end() { return numbers + D; }
    [[nodiscard]] constexpr const Number* begin() const { return numbers; }
    [[nodiscard]] constexpr const Number* end() const { return numbers + D; }

    friend constexpr VecOf operator+(const VecOf& a, const VecOf& b) {
        VecOf result;
        result.numbers[0] = a.numbers[0] + b.numbers[0];
        if constexpr (D > 1) result.numbers[1] = a.numbers[1] + b.numbers[1];
        if constexpr (D > 2) result.numbers[2] = a.numbers[2] + b.numbers[2];
        return result;
    }
    friend constexpr VecOf operator-(const VecOf& a, const VecOf& b) {
        VecOf result;
        result.numbers[0] = a.numbers[0] - b.numbers[0];
        if constexpr (D > 1) result.numbers[1] = a.numbers[1] - b.numbers[1];
        if constexpr (D > 2) result.numbers[2] = a.numbers[2] - b.numbers[2];
        return result;
    }
    friend constexpr VecOf operator-(const VecOf& a) {
        VecOf result;
        result.numbers[0] = -a.numbers[0];
        if constexpr (D > 1) result.numbers[1] = -a.numbers[1];
        if constexpr (D > 2) result.numbers[2] = -a.numbers[2];
        return result;
    }
    friend constexpr VecOf operator*(Number factor, const VecOf& a) {
        VecOf result;
        result.numbers[0] = factor * a.numbers[0];
        if constexpr (D > 1) result.numbers[1] = factor * a.numbers[1];
        if constexpr (D > 2) result.numbers[2] = factor * a.numbers[2];
        return result;
    }
    friend constexpr VecOf operator*(const VecOf& a, Number factor) { return factor * a; }
    friend constexpr VecOf operator/(const VecOf& a, Number divisor) {
        VecOf result;
        result.numbers[0] = a.numbers[0] / divisor;
        if constexpr (D > 1) result.numbers[1] = a.numbers[1] / divisor;
        if constexpr (D > 2) result.numbers[2] = a.numbers[2] / divisor;
        return result;
    }
    constexpr VecOf& operator+=(const VecOf& other) { return *this = *this + other; }
    constexpr VecOf& operator-=(const VecOf& other) { return *this = *this - other; }
    constexpr VecOf& operator*=(Number factor) { return *this = factor * *this; }
    constexpr VecOf& operator/=(Number divisor) { return *this = *this / divisor; }

    friend constexpr bool operator==(const VecOf& a, const VecOf& b) {
        for (int i = 0; i < D; ++i)
            if (!(a.numbers[i] == b.numbers[i])) return false;
        return true;
    }
    /// Whether no coordinate of a is above that of b.
    friend constexpr bool all_at_most(const VecOf& a, const VecOf& b) {
        for (int i = 0; i < D; ++i)
            if (!(a.numbers[i] <= b.numbers[i])) return false;
        return true;
    }
    /// Whether each coordinate of a is below that of b.
    friend constexpr bool all_below(const VecOf& a, const VecOf& b) {
        for (int i = 0; i < D; ++i)
            if (!(a.numbers[i] < b.numbers[i])) return false;
        return true;
    }

    [[nodiscard]] constexpr Number dot(const VecOf& other) const {
        Number result = numbers[0] * other.numbers[0];
        if constexpr (D > 1) result += numbers[1] * other.numbers[1];
        if constexpr (D > 2) result += numbers[2] * other.numbers[2];
        return result;
    }
    [[nodiscard]] constexpr VecOf cross(const VecOf& other) const requires(D == 3) {
        return {y() * other.z() - z() * other.y(), z() * other.x() - x() * other.z(),
                x() * other.y() - y() * other.x()};
    }
    [[nodiscard]] constexpr Number squared_norm() const { return dot(*this); }
    [[nodiscard]] Number norm() const { return std::sqrt(squared_norm()); }
    /// Of length 1; zero stays zero.
    [[nodiscard]] VecOf normalized() const {
        const Number squared = squared_norm();
        return squared > 0 ? *this / std::sqrt(squared) : *this;
    }
    void normalize() { *this = normalized(); }
    /// Some unit vector at a right angle to this one, which must not be zero.
    [[nodiscard]] VecOf unit_across() const requires(D > 1) {
        if constexpr (D == 2) {
            return VecOf(-y(), x()).normalized();
        } else {
            const Number hair = std::abs(z()) * Number(1e-12);
            if (std::abs(x()) > hair || std::abs(y()) > hair) {
                const Number scale = 1 / std::sqrt(x() * x() + y() * y());
                return {-y() * scale, x() * scale, 0};
            }
            const Number scale = 1 / std::sqrt(y() * y() + z() * z());
            return {0, -z() * scale, y() * scale};
        }
    }

    /// Coordinate by coordinate, as the next three are.
    [[nodiscard]] constexpr VecOf min(const VecOf& other) const {
        VecOf result;
        result.numbers[0] = std::min(numbers[0], other.numbers[0]);
        if constexpr (D > 1) result.numbers[1] = std::min(numbers[1], other.numbers[1]);
        if constexpr (D > 2) result.numbers[2] = std::min(numbers[2], other.numbers[2]);
        return result;
    }
    [[nodiscard]] constexpr VecOf max(const VecOf& other) const {
        VecOf result;
        result.numbers[0] = std::max(numbers[0], other.numbers[0]);
        if constexpr (D > 1) result.numbers[1] = std::max(numbers[1], other.numbers[1]);
        if constexpr (D > 2) result.numbers[2] = std::max(numbers[2], other.numbers[2]);
        return result;
    }
    [[nodiscard]] constexpr VecOf times(const VecOf& other) const {
        VecOf result;
        result.numbers[0] = numbers[0] * other.numbers[0];
        if constexpr (D > 1) result.numbers[1] = numbers[1] * other.numbers[1];
        if constexpr (D > 2) result.numbers[2] = numbers[2] * other.numbers[2];
        return result;
    }
    [[nodiscard]] VecOf abs() const {
        VecOf result;
        result.numbers[0] = std::abs(numbers[0]);
        if constexpr (D > 1) result.numbers[1] = std::abs(numbers[1]);
        if constexpr (D > 2) result.numbers[2] = std::abs(numbers[2]);
        return result;
    }

    [[nodiscard]] constexpr Number sum() const {
        if constexpr (D == 1) return numbers[0];
        if constexpr (D == 2) return numbers[0] + numbers[1];
        if constexpr (D == 3) return numbers[0] + numbers[1] + numbers[2];
    }
    [[nodiscard]] constexpr Number largest() const {
        Number result = numbers[0];
        if constexpr (D > 1) result = std::max(result, numbers[1]);
        if constexpr (D > 2) result = std::max(result, numbers[2]);
        return result;
    }
    [[nodiscard]] constexpr Number smallest() const {
        Number result = numbers[0];
        if constexpr (D > 1) result = std::min(result, numbers[1]);
        if constexpr (D > 2) result = std::min(result, numbers[2]);
        return result;
    }
    /// The first axis of the largest coordinate.
    [[nodiscard]] constexpr int largest_axis() const {
        int axis = 0;
        for (int i = 1; i < D; ++i)
            if (numbers[i] > numbers[axis]) axis = i;
        return axis;
    }
    [[nodiscard]] constexpr int smallest_axis() const {
        int axis = 0;
        for (int i = 1; i < D; ++i)
            if (numbers[i] < numbers[axis]) axis = i;
        return axis;
    }

    [[nodiscard]] bool is_finite() const {
        for (int i = 0; i < D; ++i)
            if (!(std::isfinite(numbers[i]))) return false;
        return true;
    }
    /// Whether no coordinate is farther from 0 than `within`, inclusive.
    [[nodiscard]] bool is_zero(Number within = Number(1e-12)) const {
        for (int i = 0; i < D; ++i)
            if (!(std::abs(numbers[i]) <= within)) return false;
        return true;
    }
    /// Whether the two are no farther apart than `within` times the length of the shorter one.
    [[nodiscard]] bool is_close(const VecOf& other, Number within = Number(1e-12)) const {
        return (*this - other).squared_norm() <=
               within * within * std::min(squared_norm(), other.squared_norm());
    }

    template <class Other>
    [[nodiscard]] constexpr VecOf<D, Other> as() const {
        return VecOf<D, Other>::each([&](int i) { return static_cast<Other>(numbers[i]); });
    }

    /// The vector of what a function gives for each axis; written out, since compilers leave loops as they
    /// are where they optimise little.
    template <class Function>
    static constexpr VecOf each(Function of) {
        if constexpr (D == 1) return VecOf(of(0));
        if constexpr (D == 2) return {of(0), of(1)};
        if constexpr (D == 3) return {of(0), of(1), of(2)};
    }

  private:
    Number numbers[D];
};

/// A point or direction; D is 2 or 3. Lengths are in the level's unit.
template <int D>
using Vec = VecOf<D, double>;

/// A linear map of D-space; columns are the images of the axes. Without a value it holds anything, as a Vec
/// does.
template <int D>
class Mat {
  public:
    static Mat identity() {
        Mat result;
        for (int axis = 0; axis < D; ++axis) result.column(axis) = Vec<D>::unit(axis);
        return result;
    }

    Vec<D>& column(std::ptrdiff_t axis) { return columns_[axis]; }
    [[nodiscard]] const Vec<D>& column(std::ptrdiff_t axis) const { return columns_[axis]; }
    double& operator()(std::ptrdiff_t row, std::ptrdiff_t column) { return columns_[column][row]; }
    const double& operator()(std::ptrdiff_t row, std::ptrdiff_t column) const {
        return columns_[column][row];
    }

    friend Vec<D> operator*(const Mat& map, const Vec<D>& vec) {
        Vec<D> result = vec[0] * map.columns_[0];
        for (int axis = 1; axis < D; ++axis) result += vec[axis] * map.columns_[axis];
        return result;
    }
    /// First the right one, then the left one.
    friend Mat operator*(const Mat& a, const Mat& b) {
        Mat result;
        for (int axis = 0; axis < D; ++axis) result.column(axis) = a * b.column(axis);
        return result;
    }
    friend bool operator==(const Mat& a, const Mat& b) {
        for (int axis = 0; axis < D; ++axis)
            if (!(a.column(axis) == b.column(axis))) return false;
        return true;
    }
    [[nodiscard]] Mat transposed() const {
        Mat result;
        for (int row = 0; row < D; ++row)
            for (int column = 0; column < D; ++column) result(column, row) = (*this)(row, column);
        return result;
    }
    /// Positive where it keeps what is left and what is right, negative where it mirrors.
    [[nodiscard]] double determinant() const {
        if constexpr (D == 2) return columns_[0].x() * columns_[1].y() - columns_[1].x() * columns_[0].y();
        if constexpr (D == 3) return columns_[0].dot(columns_[1].cross(columns_[2]));
    }

  private:
    Vec<D> columns_[D];
};

/// The turn of the plane by an angle in radians, from the first axis towards the second.
Mat<2> turn_by(double angle);
/// The turn about a unit axis by an angle in radians, by the right-hand rule.
Mat<3> turn_about(const Vec<3>& axis, double angle);

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
    Vec<D> low = Vec<D>::constant(infinity);
    Vec<D> high = Vec<D>::constant(-infinity);

    void grow(const Vec<D>& point) {
        low = low.min(point);
        high = high.max(point);
    }
    void grow(const Bounds& other) {
        low = low.min(other.low);
        high = high.max(other.high);
    }
    [[nodiscard]] Bounds inflated(double by) const {
        return {low - Vec<D>::constant(by), high + Vec<D>::constant(by)};
    }
    [[nodiscard]] Bounds moved(const Vec<D>& by) const { return {low + by, high + by}; }

    /// Inclusive: boxes that share only a face, an edge or a corner overlap.
    [[nodiscard]] bool overlaps(const Bounds& other) const {
        return all_at_most(low, other.high) && all_at_most(other.low, high);
    }
    [[nodiscard]] bool empty() const { return !all_at_most(low, high); }
    [[nodiscard]] Vec<D> center() const { return 0.5 * (low + high); }
    [[nodiscard]] Vec<D> size() const { return high - low; }
};

/// The largest absolute coordinate of a box: what rounding errors of its points scale with.
template <int D>
double magnitude(const Bounds<D>& bounds) {
    return bounds.empty() ? 0.0 : std::max(bounds.low.abs().largest(), bounds.high.abs().largest());
}

}  // namespace hollow_probe
