// Small scenes and random shapes that several tests use.
#pragma once

#include <ostream>
#include <random>

#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe {

/// For what tests say of a point.
template <int D, class Number>
std::ostream& operator<<(std::ostream& out, const VecOf<D, Number>& vec) {
    for (int axis = 0; axis < D; ++axis) out << (axis == 0 ? "(" : ", ") << vec[axis];
    return out << ')';
}

}  // namespace hollow_probe

namespace scenes {

using namespace hollow_probe;

/// Uniform numbers that are the same on every machine.
class Random {
  public:
    explicit Random(std::uint64_t seed) : engine_(seed) {}
    double between(double low, double high) {
        return low + (high - low) * (static_cast<double>(engine_() >> 11U) * 0x1p-53);
    }
    int below(int count) { return static_cast<int>(engine_() % static_cast<std::uint64_t>(count)); }
    template <int D>
    Vec<D> point(double extent) {
        Vec<D> p;
        for (int axis = 0; axis < D; ++axis) p[axis] = between(-extent, extent);
        return p;
    }
    template <int D>
    Vec<D> direction() {
        for (;;) {
            const Vec<D> p = point<D>(1.0);
            if (p.norm() > 0.1 && p.norm() < 1.0) return p.normalized();
        }
    }

  private:
    std::mt19937_64 engine_;
};

/// `along` the first axis and `up` the second.
template <int D>
Vec<D> at(double along, double up) {
    return along * Vec<D>::unit(0) + up * Vec<D>::unit(1);
}

/// The turn by an angle in radians from the first axis towards the second.
template <int D>
Mat<D> tilt(double angle) {
    if constexpr (D == 2)
        return turn_by(angle);
    else
        return turn_about(Vec<3>::unit(2), angle);
}

inline Mat<2> by_rows(const Vec<2>& first, const Vec<2>& second) {
    Mat<2> result;
    for (int axis = 0; axis < 2; ++axis) result.column(axis) = {first[axis], second[axis]};
    return result;
}
inline Mat<3> by_rows(const Vec<3>& first, const Vec<3>& second, const Vec<3>& third) {
    Mat<3> result;
    for (int axis = 0; axis < 3; ++axis) result.column(axis) = {first[axis], second[axis], third[axis]};
    return result;
}

/// A ball, capsule, box, hull or (radius 0) segment or triangle, about `size` large, around `center`.
template <int D>
RoundedHull<D> random_shape(Random& random, const Vec<D>& center, double size);

/// One of the points 0.5 apart around the origin, up to 0.75 away along each axis.
template <int D>
Vec<D> lattice_point(Random& random);

/// … a ball, capsule, box, hull or (radius 0) segment or triangle with its corners there, or a box turned by
/// eighths of a turn: what touches often does so along a side, at an edge or in a corner, to rounding.
template <int D>
RoundedHull<D> lattice_shape(Random& random);

/// A random turn, mirrored half of the time.
template <int D>
Mat<D> random_turn(Random& random);

/// A rig with one probe "foot" and one signal "grounded" that is on when the probe is; an upright capsule of
/// radius 0.3 and height 1.8 that meets the layers given, which the probe sees too.
template <int D>
Rig<D> rig_with(Probe<D> probe, const std::vector<std::string>& layers);

/// A ray straight down from 0.4 above the anchor.
template <int D>
Probe<D> foot_ray(double reach);

}  // namespace scenes
