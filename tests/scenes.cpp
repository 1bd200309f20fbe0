#include "scenes.hpp"

#include <numbers>

namespace scenes {

template <int D>
RoundedHull<D> random_shape(Random& random, const Vec<D>& center, double size) {
    const auto corner = [&] { return center + random.point<D>(0.5 * size); };
    switch (random.below(5)) {
        case 0:
            return RoundedHull<D>::ball(center, random.between(0.1, 0.5) * size);
        case 1:
            return RoundedHull<D>::capsule(corner(), corner(), random.between(0.05, 0.3) * size);
        case 2: {
            Vec<D> sides;
            for (int axis = 0; axis < D; ++axis) sides[axis] = random.between(0.1, 1.0) * size;
            const Mat<D> turn = random_turn<D>(random);
            return RoundedHull<D>::box(Vec<D>::zero(), sides).placed(turn, center);
        }
        case 3: {
            std::array<Vec<D>, D> corners;
            for (Vec<D>& c : corners) c = corner();
            return RoundedHull<D>::facet(corners);
        }
        default: {
            // A simplex is convex whatever its corners.
            std::vector<Vec<D>> corners;
            for (int i = 0; i <= D; ++i) corners.push_back(center + 0.5 * size * random.direction<D>());
            try {
                return RoundedHull<D>::hull(corners,
                                            random.below(2) == 0 ? 0.0 : random.between(0.05, 0.3) * size);
            } catch (const InvalidInput&) {
                return RoundedHull<D>::ball(center, 0.4 * size);  // too flat a simplex
            }
        }
    }
}

template <int D>
Vec<D> lattice_point(Random& random) {
    Vec<D> p;
    for (int axis = 0; axis < D; ++axis) p[axis] = 0.5 * random.below(4) - 0.75;
    return p;
}

template <int D>
RoundedHull<D> lattice_shape(Random& random) {
    const auto corner = [&] { return lattice_point<D>(random); };
    const double radius = random.below(2) == 0 ? 0.0 : 0.25;
    switch (random.below(6)) {
        case 0:
            return RoundedHull<D>::ball(corner(), 1.0).with_radius(radius);
        case 1:
            return RoundedHull<D>::capsule(corner(), corner(), 1.0).with_radius(radius);
        case 2: {
            Vec<D> sides;
            for (int axis = 0; axis < D; ++axis) sides[axis] = 0.5 * (1 + random.below(3));
            return RoundedHull<D>::box(corner(), sides).with_radius(radius);
        }
        case 3: {
            std::array<Vec<D>, D> corners;
            for (Vec<D>& c : corners) c = corner();
            return RoundedHull<D>::facet(corners);
        }
        case 4: {
            const Mat<D> turn = tilt<D>(0.25 * std::numbers::pi * random.below(8));
            return RoundedHull<D>::box(Vec<D>::zero(), Vec<D>::constant(0.7)).placed(turn, corner());
        }
        default:
            for (;;) {
                std::vector<Vec<D>> corners;
                for (int i = D + 1 + random.below(6); i-- > 0;) corners.push_back(corner());
                try {
                    return RoundedHull<D>::hull(corners, radius);
                } catch (const InvalidInput&) {
                    continue;  // flat, or with a point inside
                }
            }
    }
}

template <int D>
Mat<D> random_turn(Random& random) {
    // The mirrors that bring random directions to an upper triangle (A. S. Householder, "Unitary
    // Triangularization of a Nonsymmetric Matrix", 1958).
    Mat<D> rest;
    for (int k = 0; k < D; ++k) rest.column(k) = random.direction<D>();
    Mat<D> turn = Mat<D>::identity();
    for (int k = 0; k + 1 < D; ++k) {
        Vec<D> normal = rest.column(k);
        for (int before = 0; before < k; ++before) normal[before] = 0.0;
        normal[k] += std::copysign(normal.norm(), normal[k]);
        normal.normalize();
        Mat<D> mirror;
        for (int axis = 0; axis < D; ++axis)
            mirror.column(axis) = Vec<D>::unit(axis) - 2.0 * normal[axis] * normal;
        rest = mirror * rest;
        turn = turn * mirror;
    }
    return turn;
}

template <int D>
Rig<D> rig_with(Probe<D> probe, const std::vector<std::string>& layers) {
    Rig<D> rig;
    rig.body.meets = layers;
    rig.body.stances = {Stance<D>::capsule("upright", 0.3, 1.8)};
    probe.name = "foot";
    if (probe.sees.empty()) probe.sees = layers;
    rig.probes = {probe};
    Signal signal;
    signal.name = "grounded";
    signal.members.any = {"foot"};
    rig.signals = {signal};
    return rig;
}

template <int D>
Probe<D> foot_ray(double reach) {
    Probe<D> probe;
    probe.line().from = 0.4 * Vec<D>::unit(1);
    probe.line().reach = reach;
    return probe;
}

template RoundedHull<2> random_shape<2>(Random&, const Vec<2>&, double);
template RoundedHull<3> random_shape<3>(Random&, const Vec<3>&, double);
template Vec<2> lattice_point<2>(Random&);
template Vec<3> lattice_point<3>(Random&);
template RoundedHull<2> lattice_shape<2>(Random&);
template RoundedHull<3> lattice_shape<3>(Random&);
template Mat<2> random_turn<2>(Random&);
template Mat<3> random_turn<3>(Random&);
template Rig<2> rig_with<2>(Probe<2>, const std::vector<std::string>&);
template Rig<3> rig_with<3>(Probe<3>, const std::vector<std::string>&);
template Probe<2> foot_ray<2>(double);
template Probe<3> foot_ray<3>(double);

}  // namespace scenes
