// Vectors and linear maps against what is known of each coordinate, and against each other.
#include <catch2/catch.hpp>
#include <numbers>

#include "scenes.hpp"

using namespace scenes;

namespace {

template <int D>
Vec<D> any_vec(Random& random) {
    return random.point<D>(3.0);
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("sums, multiples and comparisons are those of each coordinate", "", ((int D), D), 1, 2,
                       3) {
    Random random(1);
    for (int round = 0; round < 50; ++round) {
        Vec<D> a;
        Vec<D> b;
        for (int i = 0; i < D; ++i) {
            a[i] = random.between(-3.0, 3.0);
            b[i] = random.below(4) == 0 ? a[i] : random.between(-3.0, 3.0);
        }
        const double s = random.between(0.5, 2.0);
        double dot = 0.0;
        double sum = 0.0;
        bool same = true;
        bool at_most = true;
        bool below = true;
        double largest = -infinity;
        double smallest = infinity;
        for (int i = 0; i < D; ++i) {
            CHECK((a + b)[i] == a[i] + b[i]);
            CHECK((a - b)[i] == a[i] - b[i]);
            CHECK((-a)[i] == -a[i]);
            CHECK((s * a)[i] == s * a[i]);
            CHECK((a * s)[i] == s * a[i]);
            CHECK((a / s)[i] == a[i] / s);
            CHECK(a.min(b)[i] == std::min(a[i], b[i]));
            CHECK(a.max(b)[i] == std::max(a[i], b[i]));
            CHECK(a.times(b)[i] == a[i] * b[i]);
            CHECK(a.abs()[i] == std::abs(a[i]));
            CHECK(a.template as<float>()[i] == static_cast<float>(a[i]));
            dot += a[i] * b[i];
            sum += a[i];
            same = same && a[i] == b[i];
            at_most = at_most && a[i] <= b[i];
            below = below && a[i] < b[i];
            largest = std::max(largest, a[i]);
            smallest = std::min(smallest, a[i]);
        }
        Vec<D> grown = a;
        grown += b;
        CHECK(grown == a + b);
        grown -= b + b;
        grown *= s;
        grown /= s;
        CHECK((grown - (a - b)).norm() < 1e-14);
        CHECK(a.dot(b) == Approx(dot));
        CHECK(a.sum() == Approx(sum));
        CHECK(a.squared_norm() == Approx(a.norm() * a.norm()));
        CHECK((a == b) == same);
        CHECK(all_at_most(a, b) == at_most);
        CHECK(all_below(a, b) == below);
        CHECK_FALSE(all_below(a, a));
        CHECK(all_at_most(a, a));
        CHECK(a.largest() == largest);
        CHECK(a.smallest() == smallest);
        CHECK(a[a.largest_axis()] == largest);
        CHECK(a[a.smallest_axis()] == smallest);
        CHECK(a.normalized().norm() == Approx(1.0));
        CHECK(a.normalized().dot(a) == Approx(a.norm()));
        CHECK(a.is_finite());
    }
    CHECK(Vec<D>::zero().normalized() == Vec<D>::zero());
    CHECK(Vec<D>::ones().largest_axis() == 0);
    CHECK(Vec<D>::ones().smallest_axis() == 0);
    CHECK(Vec<D>::ones().sum() == D);
    for (int i = 0; i < D; ++i) {
        CHECK(Vec<D>::unit(i).largest_axis() == i);
        CHECK((-Vec<D>::unit(i)).smallest_axis() == i);
        CHECK_FALSE((Vec<D>::zero() + infinity * Vec<D>::unit(i)).is_finite());
        CHECK_FALSE(Vec<D>::unit(i).is_zero(0.999));
        CHECK(Vec<D>::unit(i).is_zero(1.0));
        // No farther apart than so much of the shorter one.
        const Vec<D> longer = 1.25 * Vec<D>::unit(i);
        CHECK(Vec<D>::unit(i).is_close(longer, 0.25));
        CHECK_FALSE(longer.is_close(Vec<D>::unit(i), 0.249));
    }
}

TEMPLATE_TEST_CASE_SIG("a unit vector across is at a right angle, along axes too", "", ((int D), D), 2, 3) {
    Random random(2);
    for (int round = 0; round < 60; ++round) {
        Vec<D> a = any_vec<D>(random);
        if (round < 2 * D) a = (round % 2 == 0 ? 2.0 : -0.5) * Vec<D>::unit(round / 2);
        const Vec<D> across = a.unit_across();
        CHECK(across.norm() == Approx(1.0));
        CHECK(std::abs(across.dot(a)) < 1e-14);
    }
}

TEST_CASE("a product across is at a right angle to both, by the right-hand rule") {
    CHECK(Vec<3>::unit(0).cross(Vec<3>::unit(1)) == Vec<3>::unit(2));
    CHECK(Vec<3>::unit(1).cross(Vec<3>::unit(2)) == Vec<3>::unit(0));
    CHECK(Vec<3>::unit(2).cross(Vec<3>::unit(0)) == Vec<3>::unit(1));
    Random random(3);
    for (int round = 0; round < 50; ++round) {
        const Vec<3> a = any_vec<3>(random);
        const Vec<3> b = any_vec<3>(random);
        const Vec<3> c = a.cross(b);
        CHECK(std::abs(c.dot(a)) < 1e-13);
        CHECK(std::abs(c.dot(b)) < 1e-13);
        // J.-L. Lagrange's identity
        CHECK(c.squared_norm() + a.dot(b) * a.dot(b) == Approx(a.squared_norm() * b.squared_norm()));
    }
}

TEMPLATE_TEST_CASE_SIG("maps are applied one after the other, and turns undone by what they are transposed",
                       "", ((int D), D), 2, 3) {
    Random random(4);
    for (int round = 0; round < 30; ++round) {
        Mat<D> a;
        Mat<D> b;
        for (int i = 0; i < D; ++i) {
            a.column(i) = any_vec<D>(random);
            b.column(i) = any_vec<D>(random);
            CHECK(a * Vec<D>::unit(i) == a.column(i));
        }
        const Vec<D> v = any_vec<D>(random);
        CHECK((a * b * v - a * (b * v)).norm() < 1e-12);
        CHECK((a * (v + b.column(0)) - a * v - a * b.column(0)).norm() < 1e-12);
        CHECK((a * v).dot(b.column(0)) == Approx(v.dot(a.transposed() * b.column(0))));
        CHECK(Mat<D>::identity() * a == a);
        CHECK_FALSE(a == b);
        CHECK((a * b).determinant() == Approx(a.determinant() * b.determinant()));
        Mat<D> mirrored = a;
        mirrored.column(0) = -a.column(0);
        CHECK(mirrored.determinant() == Approx(-a.determinant()));
        const Mat<D> turn = random_turn<D>(random);
        CHECK((turn.transposed() * (turn * v) - v).norm() < 1e-13);
        CHECK(std::abs(turn.determinant()) == Approx(1.0));
    }
    CHECK(Mat<D>::identity().determinant() == 1.0);
}

TEST_CASE("turns go from the first axis towards the second, and about an axis by the right-hand rule") {
    CHECK((turn_by(radians(90.0)) * Vec<2>(1, 0) - Vec<2>(0, 1)).norm() < 1e-15);
    CHECK((turn_by(radians(30.0)) * Vec<2>(2, 0) - Vec<2>(std::sqrt(3.0), 1)).norm() < 1e-15);
    CHECK((turn_about(Vec<3>(1, 1, 1).normalized(), radians(120.0)) * Vec<3>(1, 2, 3) - Vec<3>(3, 1, 2))
              .norm() < 1e-14);
    Random random(5);
    for (int round = 0; round < 50; ++round) {
        const Vec<3> axis = random.direction<3>();
        const double angle = random.between(-3.0, 3.0);
        const Mat<3> turn = turn_about(axis, angle);
        const Vec<3> across = axis.unit_across();
        CHECK((turn * axis - axis).norm() < 1e-14);
        CHECK((turn * across - std::cos(angle) * across - std::sin(angle) * axis.cross(across)).norm() <
              1e-14);
        CHECK(turn.determinant() == Approx(1.0));
    }
}
