// Distances and casts against closed forms, against each other, and under moves.
#include <rapidcheck.h>

#include <catch2/catch.hpp>
#include <numbers>

#include "hollow_probe/geometry/bounds_tree.hpp"
#include "hollow_probe/geometry/cast.hpp"
#include "hollow_probe/geometry/hull_wire.hpp"
#include "hollow_probe/geometry/polygon.hpp"
#include "hollow_probe/geometry/separation.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

template <int D>
RoundedHull<D> point() {
    return RoundedHull<D>::ball(Vec<D>::zero(), 1.0).with_radius(0.0);
}

/// The gap from points alone: the nearest pair over a dense sampling of both cores by random convex
/// combinations is never nearer than the true distance, and any direction's support gap is never farther.
template <int D>
void require_bracketed(const RoundedHull<D>& a, const RoundedHull<D>& b, Random& random) {
    const Separation<D> s = separation<D>(a.view(), b.view());
    const auto sample = [&](const RoundedHull<D>& hull) {
        Vec<D> p = Vec<D>::zero();
        double sum = 0.0;
        for (const Vec<D>& corner : hull.points()) {
            const double w = -std::log(random.between(1e-9, 1.0)) * (random.below(3) == 0 ? 10.0 : 0.1);
            p += w * corner;
            sum += w;
        }
        return p / sum;
    };
    double nearest = infinity;
    for (int i = 0; i < 400; ++i) nearest = std::min(nearest, (sample(a) - sample(b)).norm());
    const double radii = a.radius() + b.radius();
    if (!s.cores_meet) REQUIRE(s.gap <= nearest - radii + 1e-12);
    // The direction returned separates by exactly the gap: a certificate that nothing is nearer.
    const double apart = extent_along(a.view(), s.normal)[0] - extent_along(b.view(), s.normal)[1] - radii;
    REQUIRE(apart == Approx(s.gap).margin(1e-11));
    // The witnesses lie on the two surfaces, the gap apart: a certificate that it is not farther.
    if (!s.cores_meet) REQUIRE(((s.on_a - s.on_b).norm() == Approx(std::abs(s.gap)).margin(1e-11)));
    const auto is_on = [](const RoundedHull<D>& hull, const Vec<D>& p) {
        bool on = true;
        for_each_normal(hull.view(), [&](const Vec<D>& n) {
            on = on && n.dot(p) <= extent_along(hull.view(), n)[1] + hull.radius() + 1e-9;
        });
        return on;
    };
    if (!s.cores_meet) REQUIRE((is_on(a, s.on_a) && is_on(b, s.on_b)));
    for (int i = 0; i < 200; ++i) {
        const Vec<D> n = random.direction<D>();
        const double along = extent_along(a.view(), n)[0] - extent_along(b.view(), n)[1] - radii;
        REQUIRE(along <=
                s.gap + 1e-11);  // no direction parts them more, so an overlap is no deeper than said
    }
}

template <int D>
void require_cast_agrees_with_distance(Random& random, const Vec<D>& origin, double scale) {
    const auto target = random_shape<D>(random, origin, scale);
    const auto mover = random.below(3) == 0
                           ? point<D>()
                           : random_shape<D>(random, Vec<D>::zero(), scale * random.between(0.1, 1.0));
    const Vec<D> start = origin + random.point<D>(2.0 * scale);
    Vec<D> direction = (origin + random.point<D>(0.7 * scale) - start);
    if (direction.norm() < 1e-3 * scale) direction = Vec<D>::unit(0);
    direction.normalize();
    const double reach = 5.0 * scale;
    const auto gap = [&](double t) {
        return separation<D>(mover.view(), start + t * direction, target.view()).gap;
    };
    const auto hit = cast<D>(mover.view(), start, direction, reach, target.view());
    const double accuracy = 1e-9 * (scale + origin.norm());
    if (hit && hit->began_inside) {
        REQUIRE(gap(0.0) < 0.0);
        REQUIRE(hit->depth == Approx(-gap(0.0)).margin(accuracy));
        return;
    }
    if (hit) {
        REQUIRE(std::abs(gap(hit->distance)) <= accuracy);
        REQUIRE(hit->normal.dot(direction) < 0.0);
        // Nothing was touched before: the gap falls all the way.
        for (int i = 1; i < 20; ++i) REQUIRE(gap(hit->distance * i / 20.0) > -accuracy);
        const auto at_touch =
            separation<D>(mover.view(), start + (hit->distance - 1e-4 * scale) * direction, target.view());
        if (at_touch.gap > 1e-5 * scale && mover.radius() + target.radius() > 0.05 * scale) {
            REQUIRE(angle_between<D>(hit->normal, at_touch.normal) < 0.02);
        }
        return;
    }
    // A miss: the least gap along the way, by ternary search over a convex function, is positive.
    double low = 0.0;
    double high = reach;
    for (int i = 0; i < 200; ++i) {
        const double a = low + (high - low) / 3.0;
        const double b = high - (high - low) / 3.0;
        if (gap(a) < gap(b)) {
            high = b;
        } else {
            low = a;
        }
    }
    REQUIRE(gap(low) > -accuracy);
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("distance between balls is the distance of centers less the radii", "", ((int D), D),
                       2, 3) {
    const auto a = RoundedHull<D>::ball(Vec<D>::zero(), 0.5);
    const auto b = RoundedHull<D>::ball(3.0 * Vec<D>::unit(0), 1.0);
    const auto s = separation<D>(a.view(), b.view());
    CHECK(s.gap == Approx(1.5).margin(1e-15));
    CHECK((s.normal + Vec<D>::unit(0)).norm() < 1e-15);
    CHECK((s.on_a - 0.5 * Vec<D>::unit(0)).norm() < 1e-15);
    CHECK((s.on_b - 2.0 * Vec<D>::unit(0)).norm() < 1e-15);
}

TEMPLATE_TEST_CASE_SIG("concentric balls overlap by the sum of radii", "", ((int D), D), 2, 3) {
    const auto a = RoundedHull<D>::ball(Vec<D>::ones(), 0.5);
    const auto s = separation<D>(a.view(), a.view());
    CHECK(s.gap == Approx(-1.0));
    CHECK(s.normal.norm() == Approx(1.0));
}

TEMPLATE_TEST_CASE_SIG("boxes overlap along the shorter way out", "", ((int D), D), 2, 3) {
    const auto a = RoundedHull<D>::box(Vec<D>::zero(), 2.0 * Vec<D>::ones());
    const auto b = a.placed(Mat<D>::identity(), 1.9 * Vec<D>::unit(1) + 0.3 * Vec<D>::unit(0));
    const auto s = separation<D>(b.view(), a.view());
    CHECK(s.gap == Approx(-0.1));
    CHECK((s.normal - Vec<D>::unit(1)).norm() < 1e-12);
}

TEMPLATE_TEST_CASE_SIG("a box that rests exactly on another has the face's normal", "", ((int D), D), 2, 3) {
    const auto floor = RoundedHull<D>::box(
        -0.5 * Vec<D>::unit(1), Vec<D>::constant(10.0).times(Vec<D>::ones() - 0.9 * Vec<D>::unit(1)));
    const auto box = RoundedHull<D>::box(0.5 * Vec<D>::unit(1), Vec<D>::ones());
    for (const double lift : {0.0, 1e-15, 1e-12, 1e-9, 1e-3}) {
        const auto s = separation<D>(box.view(), lift * Vec<D>::unit(1), floor.view());
        CHECK(s.gap == Approx(lift).margin(1e-15));
        CHECK((s.normal - Vec<D>::unit(1)).norm() < 1e-11);
    }
}

TEMPLATE_TEST_CASE_SIG("the distance of random shapes is certified from both sides", "", ((int D), D), 2, 3) {
    Random random(7);
    for (int i = 0; i < 1500; ++i) {
        const auto a = random_shape<D>(random, random.point<D>(1.0), random.between(0.2, 2.0));
        const auto b = random_shape<D>(random, random.point<D>(1.0), random.between(0.2, 2.0));
        require_bracketed<D>(a, b, random);
    }
}

TEMPLATE_TEST_CASE_SIG("distance is symmetric and follows turns, mirrors and shifts", "", ((int D), D), 2,
                       3) {
    rc::check([](std::uint64_t seed) {
        Random random(seed);
        const auto a = random_shape<D>(random, random.point<D>(1.0), 1.0);
        const auto b = random_shape<D>(random, random.point<D>(1.0), 1.0);
        const auto s = separation<D>(a.view(), b.view());
        const auto other_way = separation<D>(b.view(), a.view());
        RC_ASSERT(std::abs(s.gap - other_way.gap) < 1e-12);
        const Mat<D> turn = random_turn<D>(random);
        const Vec<D> shift = random.point<D>(100.0);
        const auto moved = separation<D>(a.placed(turn, shift).view(), b.placed(turn, shift).view());
        RC_ASSERT(std::abs(moved.gap - s.gap) < 1e-11);
        if (s.gap > 1e-3) RC_ASSERT((moved.normal - turn * s.normal).norm() < 1e-9);
    });
}

TEMPLATE_TEST_CASE_SIG("casts agree with the distance function at every scale and place", "", ((int D), D), 2,
                       3) {
    Random random(11);
    for (const double scale : {1.0, 1e-3, 1e6}) {
        for (int i = 0; i < 1500; ++i) require_cast_agrees_with_distance<D>(random, Vec<D>::zero(), scale);
    }
    for (int i = 0; i < 500; ++i) require_cast_agrees_with_distance<D>(random, 1e6 * Vec<D>::ones(), 1.0);
}

TEMPLATE_TEST_CASE_SIG("a ray meets a ball where algebra says", "", ((int D), D), 2, 3) {
    const auto ball = RoundedHull<D>::ball(5.0 * Vec<D>::unit(0) + 0.6 * Vec<D>::unit(1), 1.0);
    const auto hit = cast<D>(point<D>().view(), Vec<D>::zero(), Vec<D>::unit(0), 10.0, ball.view());
    REQUIRE(hit);
    CHECK(hit->distance == Approx(5.0 - 0.8).margin(1e-14));
    CHECK((hit->normal - (-0.8 * Vec<D>::unit(0) - 0.6 * Vec<D>::unit(1))).norm() < 1e-14);
}

TEMPLATE_TEST_CASE_SIG("reach is inclusive", "", ((int D), D), 2, 3) {
    const auto wall = RoundedHull<D>::box(1.5 * Vec<D>::unit(0), Vec<D>::ones());
    const auto ball = RoundedHull<D>::ball(Vec<D>::zero(), 0.25);
    CHECK(cast<D>(point<D>().view(), Vec<D>::zero(), Vec<D>::unit(0), 1.0, wall.view()));
    CHECK_FALSE(cast<D>(point<D>().view(), Vec<D>::zero(), Vec<D>::unit(0), 1.0 - 1e-9, wall.view()));
    CHECK(cast<D>(ball.view(), Vec<D>::zero(), Vec<D>::unit(0), 0.75, wall.view()));
    CHECK_FALSE(cast<D>(ball.view(), Vec<D>::zero(), Vec<D>::unit(0), 0.75 - 1e-9, wall.view()));
}

TEMPLATE_TEST_CASE_SIG("a cast in touch is hit when it moves in, not when it slides or leaves", "",
                       ((int D), D), 2, 3) {
    const auto floor = RoundedHull<D>::box(-0.5 * Vec<D>::unit(1), Vec<D>::ones());
    for (const auto& mover : {RoundedHull<D>::box(0.25 * Vec<D>::unit(1), 0.5 * Vec<D>::ones()),
                              RoundedHull<D>::ball(0.25 * Vec<D>::unit(1), 0.25)}) {
        const auto down = cast<D>(mover.view(), Vec<D>::zero(), -Vec<D>::unit(1), 1.0, floor.view());
        REQUIRE(down);
        CHECK(down->distance == Approx(0.0).margin(1e-13));
        CHECK_FALSE(down->began_inside);
        CHECK((down->normal - Vec<D>::unit(1)).norm() < 1e-12);
        CHECK_FALSE(cast<D>(mover.view(), Vec<D>::zero(), Vec<D>::unit(0), 1.0, floor.view()));
        CHECK_FALSE(cast<D>(mover.view(), Vec<D>::zero(), Vec<D>::unit(1), 1.0, floor.view()));
    }
}

TEST_CASE("a ray down a seam between two flush slabs meets one of them") {
    const auto left = RoundedHull<2>::box({-0.5, -0.5}, {1, 1});
    const auto right = RoundedHull<2>::box({0.5, -0.5}, {1, 1});
    CHECK((cast<2>(point<2>().view(), {0, 1}, {0, -1}, 2.0, left.view()) ||
           cast<2>(point<2>().view(), {0, 1}, {0, -1}, 2.0, right.view())));
}

TEST_CASE("a hull refuses inner points, flat sets and too few of them") {
    CHECK_THROWS_WITH(RoundedHull<2>::hull({{0, 0}, {2, 0}, {2, 2}, {0, 2}, {1, 1}}),
                      Catch::Contains("point 5 lies inside"));
    CHECK_THROWS_WITH(RoundedHull<2>::hull({{0, 0}, {1, 1}, {2, 2}}), Catch::Contains("flat"));
    CHECK_THROWS_WITH(RoundedHull<2>::hull({{0, 0}, {1, 1}}), Catch::Contains("at least 3"));
    CHECK_THROWS_WITH(RoundedHull<3>::hull({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {1, 1, 0}}),
                      Catch::Contains("flat"));
    CHECK_THROWS_WITH(RoundedHull<3>::hull({{0, 0, 0}, {4, 0, 0}, {0, 4, 0}, {0, 0, 4}, {0.5, 0.5, 0.5}}),
                      Catch::Contains("point 5 lies inside"));
    CHECK_THROWS_AS(RoundedHull<3>::ball({0, 0, 0}, 0.0), InvalidInput);
    CHECK_THROWS_AS(RoundedHull<2>::box({0, 0}, {1, -1}), InvalidInput);
}

TEST_CASE("a 3D hull finds all facets of a box whatever the order of its corners") {
    const auto box = RoundedHull<3>::box({0, 0, 0}, {1, 2, 3});
    auto corners = box.points();
    std::swap(corners[0], corners[5]);
    std::swap(corners[2], corners[7]);
    const auto hull = RoundedHull<3>::hull(corners);
    CHECK(hull.normals().size() == 6);
    CHECK(hull.topology()->edges.size() == 12);
    CHECK(hull.topology()->directions.size() == 3);
}

TEST_CASE("points on the edges and facets of a 3D hull are none of its corners") {
    Random random(61);
    for (int round = 0; round < 200; ++round) {
        const auto box = RoundedHull<3>::box({0, 0, 0}, {1, 2, 3});
        std::vector<Vec<3>> points = box.points();
        for (int extra = random.below(5); extra-- > 0;) {
            // Halfway along an edge, in the middle of a facet or anywhere on one.
            Vec<3> on;
            for (int axis = 0; axis < 3; ++axis)
                on[axis] = 0.5 * (axis + 1) * (random.below(2) == 0 ? 0.0 : random.between(-0.9, 0.9));
            const int side = random.below(3);
            on[side] = 0.5 * (side + 1);
            const int other = (side + 1) % 3;
            if (random.below(3) == 0) on[other] = -0.5 * (other + 1);
            points.insert(points.begin() + random.below(static_cast<int>(points.size())), on);
        }
        const Mat<3> turn = random_turn<3>(random);
        const Vec<3> move = random.point<3>(4.0);
        for (Vec<3>& p : points) p = turn * p + move;
        const auto hull = RoundedHull<3>::hull(points, 0.1);
        REQUIRE(hull.points().size() == 8);
        REQUIRE(hull.normals().size() == 6);
        REQUIRE(hull.topology()->edges.size() == 12);
        const auto ball = RoundedHull<3>::ball(random.point<3>(4.0), 0.2);
        const auto same = box.with_radius(0.1).placed(turn, move);
        REQUIRE(separation<3>(ball.view(), hull.view()).gap ==
                Approx(separation<3>(ball.view(), same.view()).gap).margin(1e-9));
        require_bracketed<3>(ball, hull, random);
    }
}

TEST_CASE("a segment along a side of a turned polygon touches it, however the two are rounded") {
    Random random(63);
    for (int round = 0; round < 2000; ++round) {
        const auto box = RoundedHull<2>::box(random.point<2>(1.0), {0.7, 0.4});
        const auto turned = box.placed(random_turn<2>(random), random.point<2>(1.0));
        const auto& [from, to] = turned.topology()->edges[static_cast<std::size_t>(random.below(4))];
        const Vec<2> a = turned.points()[from];
        const Vec<2> b = turned.points()[to];
        const Vec<2> longer = random.between(0.1, 2.0) * (b - a);
        const auto segment = RoundedHull<2>::facet({a - longer, b + longer});
        const Vec<2> away = random.point<2>(3.0);  // both are moved, by what they are rounded with
        const auto moved = turned.placed(Mat<2>::identity(), -away);
        REQUIRE(std::abs(separation<2>(moved.view(), away, segment.view()).gap) < 1e-12);
        REQUIRE(std::abs(separation<2>(segment.view(), turned.view()).gap) < 1e-12);
    }
}

TEMPLATE_TEST_CASE_SIG("shapes on a lattice are as near and as deep as their points say", "", ((int D), D), 2,
                       3) {
    Random random(62);
    for (int round = 0; round < 2000; ++round) {
        const auto a = lattice_shape<D>(random);
        const auto b = lattice_shape<D>(random);
        for (std::size_t facet = 0; facet < b.topology()->facets.size() && b.points().size() > 3; ++facet) {
            const auto& loop = b.topology()->facets[facet];
            const auto corner = [&](std::size_t i) { return b.points()[loop[i % loop.size()]]; };
            REQUIRE(loop.size() >= 3);
            for (std::size_t i = 0; i < loop.size() && D == 3; ++i) {
                Mat<D> turns;  // an outline is convex
                turns.column(0) = corner(i + 1) - corner(i);
                turns.column(1) = corner(i + 2) - corner(i + 1);
                turns.column(D - 1) = b.normals()[facet];
                REQUIRE(turns.determinant() > 1e-9);
            }
        }
        require_bracketed<D>(a, b, random);
    }
}

namespace {

double area(const std::vector<Vec<2>>& p) {
    double twice = 0.0;
    for (std::size_t i = 0; i < p.size(); ++i) {
        const Vec<2>& a = p[i];
        const Vec<2>& b = p[(i + 1) % p.size()];
        twice += a.x() * b.y() - a.y() * b.x();
    }
    return 0.5 * twice;
}

}  // namespace

TEST_CASE("convex parts have the polygon's area and are convex") {
    rc::check([](std::uint64_t seed) {
        // Star-shaped polygons are simple; radii at random make them far from convex.
        Random random(seed);
        std::vector<Vec<2>> corners;
        const int count = 3 + random.below(random.below(4) == 0 ? 300 : 30);
        for (int i = 0; i < count; ++i) {
            const double angle = 2.0 * std::numbers::pi * i / count;
            corners.push_back(random.between(0.2, 2.0) * Vec<2>(std::cos(angle), std::sin(angle)));
        }
        double sum = 0.0;
        for (const auto& part : convex_parts(corners)) {
            const auto hull = RoundedHull<2>::hull(part);  // throws if a corner lies inside
            RC_ASSERT(area(part) > 0.0);
            sum += area(part);
        }
        RC_ASSERT(std::abs(sum - area(corners)) < 1e-12);
    });
}

TEST_CASE("polygons of very many corners are cut, and round ones are no exception") {
    // A comb, whose teeth all hang on one bar, and a spiral, in which hardly any corner sees another.
    std::vector<Vec<2>> comb = {{0.0, -1.0}};
    const int teeth = 5'000;
    comb.emplace_back(2.0 * teeth, -1.0);
    for (int i = teeth; i-- > 0;) {
        comb.emplace_back(2.0 * i + 2.0, 0.0);
        comb.emplace_back(2.0 * i + 1.5, 3.0);
        comb.emplace_back(2.0 * i + 0.5, 3.0);
    }
    comb.emplace_back(0.0, 0.0);
    std::vector<Vec<2>> spiral;
    const int turns = 2'000;
    for (const double inset : {0.0, 0.3}) {
        for (int k = 0; k <= turns; ++k) {
            const int i = inset == 0.0 ? k : turns - k;
            const double angle = 0.05 * i;
            spiral.push_back((1.0 + 0.2 * angle - inset) * Vec<2>(std::cos(angle), std::sin(angle)));
        }
    }
    std::vector<Vec<2>> round;
    for (int i = 0; i < 1'000; ++i) {
        const double angle = 2.0 * std::numbers::pi * i / 1'000;
        round.emplace_back(std::cos(angle), std::sin(angle));
    }
    for (const auto& corners : {comb, spiral, round}) {
        double sum = 0.0;
        std::size_t most = 0;
        const auto parts = convex_parts(corners);
        for (const auto& part : parts) {
            const auto hull = RoundedHull<2>::hull(part);  // throws if a corner lies inside
            CHECK(area(part) > 0.0);
            sum += area(part);
            most = std::max(most, part.size());
        }
        CHECK(sum == Approx(area(corners)).epsilon(1e-9));
        CHECK(most <= 64);
        CHECK(parts.size() <= corners.size() / 2);
    }
    CHECK(convex_parts(round).size() < 40);
    // An edge of one tooth that crosses the next is found among all of them.
    comb[4] = {2.0 * teeth - 3.0, 3.5};
    CHECK_THROWS_WITH(convex_parts(comb), Catch::Contains("crosses itself"));
}

TEST_CASE("convex parts: either winding, straight corners, few parts, and what is refused") {
    const std::vector<Vec<2>> ell = {{0, 0}, {2, 0}, {2, 1}, {1, 1}, {1, 2}, {0, 2}};
    CHECK(convex_parts(ell).size() == 2);
    CHECK(convex_parts({ell.rbegin(), ell.rend()}).size() == 2);
    CHECK(convex_parts({{0, 0}, {1, 0}, {2, 0}, {2, 2}, {0, 2}, {0, 2}}).size() == 1);
    CHECK_THROWS_WITH(convex_parts({{0, 0}, {2, 2}, {2, 0}, {0, 2}}), Catch::Contains("crosses itself"));
    CHECK_THROWS_WITH(convex_parts({{0, 0}, {1, 0}, {2, 0}}), Catch::Contains("three corners"));
    CHECK_THROWS_WITH(convex_parts({{0, 0}, {4, 0}, {4, 4}, {2, 0}, {0, 4}}),
                      Catch::Contains("crosses itself"));
}

TEMPLATE_TEST_CASE_SIG("the tree finds exactly what brute force finds", "", ((int D), D), 2, 3) {
    Random random(3);
    std::vector<Bounds<D>> boxes;
    for (int i = 0; i < 700; ++i) {
        Bounds<D> box;
        const Vec<D> at = random.point<D>(10.0);
        box.grow(at);
        box.grow(at + random.point<D>(1.0));
        boxes.push_back(box);
    }
    for (int i = 0; i < 50; ++i) boxes.push_back(boxes.front());  // many alike must not exhaust the tree
    const BoundsTree<D> tree(boxes);
    for (int i = 0; i < 200; ++i) {
        Bounds<D> query;
        const Vec<D> at = random.point<D>(10.0);
        query.grow(at);
        query.grow(at + random.point<D>(3.0));
        std::vector<std::uint32_t> found;
        tree.overlapping(query, all_layers, [&](std::uint32_t index) {
            if (boxes[index].overlaps(query)) found.push_back(index);
        });
        std::sort(found.begin(), found.end());
        std::vector<std::uint32_t> expected;
        for (std::uint32_t k = 0; k < boxes.size(); ++k) {
            if (boxes[k].overlaps(query)) expected.push_back(k);
        }
        REQUIRE(found == expected);

        // Everything a moving box meets is visited.
        const Vec<D> direction = random.direction<D>();
        std::vector<bool> visited(boxes.size(), false);
        tree.along(sweep_of<D>(query, direction, 5.0), [&](std::uint32_t index, double limit) {
            visited[index] = true;
            return limit;
        });
        for (int step = 0; step <= 50; ++step) {
            const Bounds<D> moved = query.moved(0.1 * step * direction);
            for (std::size_t k = 0; k < boxes.size(); ++k) {
                if (moved.overlaps(boxes[k])) REQUIRE(visited[k]);
            }
        }
    }
    CHECK(BoundsTree<D>(std::span<const Bounds<D>>()).node_count() == 0);
}

TEMPLATE_TEST_CASE_SIG("a re-fitted tree finds what a new one finds, wherever the boxes went", "",
                       ((int D), D), 2, 3) {
    Random random(21);
    std::vector<Bounds<D>> boxes(150);
    const auto place = [&](double spread) {
        for (Bounds<D>& box : boxes) {
            box = {};
            const Vec<D> at = random.point<D>(spread);
            box.grow(at);
            box.grow(at + random.point<D>(0.5));
        }
    };
    place(5.0);
    BoundsTree<D> tree(boxes);
    for (const double spread : {5.0, 50.0, 0.1, 1e4}) {
        place(spread);
        tree.refit(boxes);
        for (int i = 0; i < 50; ++i) {
            Bounds<D> query;
            query.grow(random.point<D>(spread));
            query = query.inflated(0.2 * spread);
            std::vector<bool> found(boxes.size(), false);
            tree.overlapping(query, all_layers, [&](std::uint32_t item) { found[item] = true; });
            std::vector<bool> near(boxes.size(), false);
            tree.around(query, 0.1 * spread, all_layers, [&](std::uint32_t item, double limit) {
                near[item] = true;
                return limit;
            });
            for (std::size_t k = 0; k < boxes.size(); ++k) {
                if (boxes[k].overlaps(query)) REQUIRE(found[k]);
                if (boxes[k].overlaps(query.inflated(0.05 * spread))) REQUIRE(near[k]);
            }
        }
    }
}

TEST_CASE("an index leaves out layers not asked for, whichever of the 64 they are") {
    HullStore<2> hulls;
    std::vector<std::uint32_t> items;
    std::vector<std::uint8_t> layers;
    for (std::uint32_t i = 0; i < 640; ++i) {
        hulls.add(RoundedHull<2>::box({0.1 * i, 0.0}, {1.0, 1.0}));
        items.push_back(i);
        layers.push_back(static_cast<std::uint8_t>(i % 64));
    }
    const BoundsTree<2> tree(hulls, items, layers);
    for (std::uint32_t layer = 0; layer < 64; ++layer) {
        std::size_t count = 0;
        tree.overlapping({{-10.0, -1.0}, {100.0, 1.0}}, LayerSet{1} << layer, [&](std::uint32_t item) {
            CHECK(item % 64 == layer);
            ++count;
        });
        CHECK(count == 10);
    }
    // A visitor that returns false has seen enough.
    std::size_t seen = 0;
    tree.overlapping({{-10.0, -1.0}, {100.0, 1.0}}, all_layers, [&](std::uint32_t) { return ++seen < 3; });
    CHECK(seen == 3);
    CHECK(tree.bytes() < 64 * 640);
}

TEMPLATE_TEST_CASE_SIG("the deepest points of an overlap are its depth apart, on either surface", "",
                       ((int D), D), 2, 3) {
    Random random(22);
    int overlaps = 0;
    for (int i = 0; i < 400; ++i) {
        const auto a = random_shape<D>(random, random.point<D>(0.5), 1.0);
        const auto b = random_shape<D>(random, random.point<D>(0.5), 1.0);
        const Separation<D> s = separation<D>(a.view(), b.view());
        if (s.gap >= -1e-6) continue;
        ++overlaps;
        REQUIRE((s.on_a - s.on_b - s.gap * s.normal).norm() <= 1e-9);
        // Moved apart by the depth they touch there.
        REQUIRE(separation<D>(a.view(), -s.gap * s.normal, b.view()).gap == Approx(0.0).margin(1e-9));
        const auto dot = point<D>().placed(Mat<D>::identity(), s.on_b);
        REQUIRE(std::abs(separation<D>(dot.view(), b.view()).gap) <= 1e-6);
        REQUIRE(separation<D>(dot.view(), s.gap * s.normal, a.view()).gap <= 1e-6);
    }
    CHECK(overlaps > 50);
}

TEMPLATE_TEST_CASE_SIG("the wires of a shape lie on its surface and span it", "", ((int D), D), 2, 3) {
    Random random(31);
    for (int i = 0; i < 60; ++i) {
        const RoundedHull<D> hull = random_shape<D>(random, random.point<D>(3.0), random.between(0.1, 2.0));
        Bounds<D> spanned;
        for_each_wire<D>(hull.view(), 48, [&](const Vec<D>& a, const Vec<D>& b) {
            for (const Vec<D>& p : {a, b}) {
                const RoundedHull<D> dot = RoundedHull<D>::ball(p, 1.0).with_radius(0.0);
                CHECK(std::abs(separation<D>(dot.view(), hull.view()).gap) < 1e-9);
                spanned.grow(p);
            }
        });
        // Round parts are drawn by corners on the surface: they may fall short by what a chord does.
        const double short_by = hull.radius() * (1.0 - std::cos(2.0 * std::numbers::pi / 48.0)) + 1e-9;
        if (hull.points().size() > 2 && hull.radius() > 0.0) continue;  // outlines alone, not every corner
        // In space the outlines go round the axis a quarter turn apart: between them a cap is seen from
        // askew.
        const double limit = D == 2 ? short_by : short_by + (1.0 - std::sqrt(0.5)) * hull.radius();
        CHECK((hull.bounds().high - spanned.high).abs().largest() <= limit);
        CHECK((hull.bounds().low - spanned.low).abs().largest() <= limit);
    }
}

namespace {

/// Of two polygons, by every corner against every side: how far they are apart; where they overlap, how far
/// the shortest of all ways along a side's normal is, negative.
double apart_by_brute_force(const HullView<2>& a, const Vec<2>& shift, const HullView<2>& b) {
    double nearest = infinity;
    double parted = -infinity;
    const auto look = [&](const HullView<2>& of, const Vec<2>& of_by, const HullView<2>& other,
                          const Vec<2>& by) {
        for (std::size_t i = 0; i < of.topology->edges.size(); ++i) {
            const Vec<2> from = of.points[of.topology->edges[i][0]] + of_by;
            const Vec<2> to = of.points[of.topology->edges[i][1]] + of_by;
            const Vec<2> way = to - from;
            const Vec<2> outwards = Vec<2>(way.y(), -way.x()).normalized();
            double least = infinity;
            for (const Vec<2>& point : other.points) {
                const Vec<2> p = point + by;
                least = std::min(least, outwards.dot(p - from));
                const double part = std::clamp(way.dot(p - from) / way.squared_norm(), 0.0, 1.0);
                nearest = std::min(nearest, (from + part * way - p).norm());
            }
            parted = std::max(parted, least);
        }
    };
    look(b, Vec<2>::zero(), a, shift);
    look(a, shift, b, Vec<2>::zero());
    return parted < 0.0 ? parted : nearest;
}

}  // namespace

TEST_CASE(
    "polygons are apart as every corner against every side tells, far away, flush and slender ones too") {
    Random random(41);
    for (int i = 0; i < 20'000; ++i) {
        const double far = i % 4 == 0 ? 1e5 : 0.0;
        const auto polygon = [&](const Vec<2>& around) {
            if (random.below(3) == 0) {
                const Vec<2> size(random.between(0.01, 2.0),
                                  random.below(4) == 0 ? 0.01 : random.between(0.1, 2.0));
                return RoundedHull<2>::box(around, size);
            }
            // On an ellipse, so that all are corners.
            std::vector<Vec<2>> points;
            const Vec<2> size(random.between(0.1, 1.0), random.between(0.1, 1.0));
            const int corners = 3 + static_cast<int>(random.below(6));
            for (int k = 0; k < corners; ++k) {
                const double angle = 2.0 * std::numbers::pi * (k + random.between(0.0, 0.7)) / corners;
                points.push_back(around + Vec<2>(size.x() * std::cos(angle), size.y() * std::sin(angle)));
            }
            return RoundedHull<2>::hull(points, random.below(2) == 0 ? 0.0 : random.between(0.01, 0.3));
        };
        const auto a = polygon(Vec<2>::zero());
        const auto b = polygon(Vec<2>(far, -far));
        if (a.view().points.size() < 3 || b.view().points.size() < 3) continue;
        Vec<2> shift = Vec<2>(far, -far) + random.point<2>(2.5);
        // Every fifth pair stands flush on one another, to within rounding.
        if (i % 5 == 0)
            shift.y() += extent_along<2>(b.view(), Vec<2>::unit(1))[1] -
                         extent_along<2>(a.view(), Vec<2>::unit(1))[0] - shift.y();
        const double radii = a.radius() + b.radius();
        const Separation<2> s = separation<2>(a.view(), shift, b.view());
        const double accuracy = 1e-9 * (3.0 + far);
        const double apart = apart_by_brute_force(a.view(), shift, b.view()) - radii;
        REQUIRE(std::abs(s.gap - apart) <= accuracy);
        // Parted by the normal exactly that far, and the points said lie on both.
        REQUIRE(extent_along(a.view(), s.normal)[0] + s.normal.dot(shift) -
                    extent_along(b.view(), s.normal)[1] - radii ==
                Approx(s.gap).margin(accuracy));
        REQUIRE((s.on_a - s.on_b - s.gap * s.normal).norm() <= accuracy);
        REQUIRE(std::abs(s.normal.dot(s.on_b) - extent_along(b.view(), s.normal)[1] - b.radius()) <=
                accuracy);
        if (std::abs(apart + radii) > accuracy) REQUIRE(s.cores_meet == (apart + radii < 0.0));
        // From the other's side it is the same.
        const Separation<2> other = separation<2>(b.view(), -shift, a.view());
        REQUIRE(std::abs(other.gap - s.gap) <= accuracy);
        for (const double depth : {0.0, 0.5 * std::abs(s.gap)})
            if (std::abs(s.gap + depth) > accuracy)
                REQUIRE(overlap_by<2>(a.view(), shift, b.view(), depth) == (s.gap < -depth));
    }
}

TEMPLATE_TEST_CASE_SIG("a facet's normal is the first of its normals, and square to all its sides", "",
                       ((int D), D), 2, 3) {
    Random random(12);
    for (int i = 0; i < 5'000; ++i) {
        std::array<Vec<D>, D> corners;
        for (Vec<D>& corner : corners) corner = i % 2 == 0 ? lattice_point<D>(random) : random.point<D>(2.0);
        if (i % 5 == 0) corners.back() = corners.front() + 1e-9 * random.direction<D>();  // a needle
        if (i % 7 == 0) corners.back() = corners.front();
        const Vec<D> normal = facet_normal<D>(corners.data());
        REQUIRE(normal == facet_normals<D>(corners.data()).at[0]);
        REQUIRE(normal.norm() == Approx(1.0));
        if (corners.front() == corners.back() && D == 2) continue;  // a point
        for (std::size_t k = 0; k < D; ++k) {
            const Vec<D> side = corners[(k + 1) % D] - corners[k];
            REQUIRE(std::abs(normal.dot(side)) < 1e-12);
        }
    }
}

TEST_CASE("what stands over a facet is as far from it as from its plane, what lies past its rim farther") {
    Random random(47);
    for (int i = 0; i < 20'000; ++i) {
        const Vec<3> size(random.between(0.1, 2.0), random.between(0.1, 2.0), random.between(0.1, 2.0));
        const auto flat = RoundedHull<3>::box(Vec<3>::zero(), size);
        const Mat<3> turn = random_turn<3>(random);
        const Vec<3> move = random.point<3>(3.0);
        const double radius = random.between(0.0, 0.5);
        // Over the top of the box as it lies: the lower end so high, in or past the rim along x.
        const double height = std::pow(10.0, random.between(-6.0, 0.0));
        const double past = random.below(2) == 0 ? -1.0 : random.between(1e-9, 0.3);
        const Vec<3> low(past < 0.0 ? random.between(-0.5, 0.5) * size[0] : 0.5 * size[0] + past,
                         0.5 * size[1] + height, random.between(-0.5, 0.5) * size[2]);
        const Vec<3> high = low + Vec<3>(past < 0.0 ? random.between(-1.0, 1.0) : random.between(0.0, 1.0),
                                         random.between(1e-3, 1.0), 0.0);
        const bool is_ball = random.below(2) == 0;
        const auto round =
            (is_ball ? RoundedHull<3>::ball(low, 1.0) : RoundedHull<3>::capsule(low, high, 1.0))
                .with_radius(radius)
                .placed(turn, move);
        const Separation<3> s = separation<3>(round.view(), flat.placed(turn, move).view());
        const Vec<3> to_rim(std::max(past, 0.0), height, 0.0);
        CAPTURE(i, height, past, is_ball);
        REQUIRE(s.gap + radius == Approx(to_rim.norm()).margin(1e-11));
        REQUIRE(angle_between<3>(s.normal, turn * to_rim.normalized()) < 1e-6);
        REQUIRE((s.on_b - (turn * (low - to_rim) + move)).norm() < 1e-9);
        REQUIRE((s.on_a - s.on_b - s.gap * s.normal).norm() < 1e-9);
    }
}

namespace {

/// By projecting on the plane and, where that falls beside the triangle, on each side.
double distance_to_triangle(const Vec<3>& p, const std::array<Vec<3>, 3>& t) {
    const Vec<3> n = (t[1] - t[0]).cross(t[2] - t[0]);
    double least = infinity;
    bool inside = true;
    for (int i = 0; i < 3; ++i) {
        const Vec<3> side = t[(i + 1) % 3] - t[i];
        inside = inside && side.cross(p - t[i]).dot(n) >= 0.0;
        const double part = std::clamp(side.dot(p - t[i]) / side.squared_norm(), 0.0, 1.0);
        least = std::min(least, (t[i] + part * side - p).norm());
    }
    return inside ? std::abs(n.dot(p - t[0])) / n.norm() : least;
}

}  // namespace

TEST_CASE("a ball's and a capsule's distance from a triangle is the least of their axis' points") {
    Random random(48);
    std::array<int, 3> seen{};  // balls, capsules level with the triangle or a side, others
    for (int i = 0; i < 20'000; ++i) {
        const std::array<Vec<3>, 3> t = {random.point<3>(1.0), random.point<3>(1.0), random.point<3>(1.0)};
        const Vec<3> n = (t[1] - t[0]).cross(t[2] - t[0]);
        if (n.norm() < 0.05) continue;
        const int kind = random.below(3);
        const double height = std::pow(10.0, random.between(-5.0, 0.0));
        const Vec<3> from = t[0] + random.between(-0.5, 1.2) * (t[1] - t[0]) +
                            random.between(-0.5, 1.2) * (t[2] - t[0]) + height * n.normalized();
        Vec<3> to = from;
        if (kind == 1) to += random.between(0.1, 2.0) * (t[1] - t[0]) + random.below(2) * (t[2] - t[1]);
        if (kind == 2) to += random.point<3>(1.0);
        const auto at = [&](double part) { return distance_to_triangle(from + part * (to - from), t); };
        // The distance from what is convex is a convex function of the way along the axis.
        double low = 0.0;
        double high = 1.0;
        for (int round = 0; round < 120; ++round) {
            const double left = low + 0.45 * (high - low);
            const double right = low + 0.55 * (high - low);
            (at(left) < at(right) ? high : low) = at(left) < at(right) ? right : left;
        }
        const double least = std::min({at(0.0), at(1.0), at(low), at(high)});
        if (least < 1e-6) continue;
        ++seen[static_cast<std::size_t>(kind)];
        const double radius = random.between(0.0, 0.5);
        const auto round =
            (kind == 0 ? RoundedHull<3>::ball(from, 1.0) : RoundedHull<3>::capsule(from, to, 1.0))
                .with_radius(radius);
        const Separation<3> s = separation<3>(round.view(), RoundedHull<3>::facet(t).view());
        CAPTURE(i, kind, height, least);
        REQUIRE(s.gap == Approx(least - radius).margin(1e-11));
        REQUIRE(distance_to_triangle(s.on_b, t) < 1e-9);
        REQUIRE((s.on_a - s.on_b - s.gap * s.normal).norm() < 1e-9);
        // Parted along the normal by what it is apart already, it is twice as far.
        const Separation<3> twice =
            separation<3>(round.view(), least * s.normal, RoundedHull<3>::facet(t).view());
        REQUIRE(twice.gap + radius == Approx(2.0 * least).margin(1e-9));
    }
    for (const int count : seen) CHECK(count > 3000);
}

TEST_CASE("a ball past the rim of a solid is as far from it as from the nearest of its sides' triangles") {
    Random random(51);
    int past = 0;
    for (int i = 0; i < 20'000; ++i) {
        // Boxes, wedges and other hulls, small ones far out among them.
        std::vector<Vec<3>> corners;
        const double size = std::pow(10.0, random.between(-2.0, 0.5));
        const Vec<3> middle = random.point<3>(random.below(4) == 0 ? 100.0 : 1.0);
        const int count = 4 + random.below(6);
        for (int k = 0; k < count; ++k) corners.push_back(middle + size * random.direction<3>());
        const auto hull = i % 3 == 0
                              ? RoundedHull<3>::box(middle, Vec<3>(size, random.between(0.05, 1.0), size))
                              : RoundedHull<3>::hull(corners, i % 5 == 0 ? 0.1 : 0.0);
        const Vec<3> at = middle + random.between(0.3, 4.0) * size * random.direction<3>();
        const HullView<3> view = hull.view();
        double least = infinity;
        bool is_outside = false;
        for (std::size_t facet = 0; facet < hull.topology()->facets.size(); ++facet) {
            const auto& loop = hull.topology()->facets[facet];
            is_outside = is_outside || view.normals[facet].dot(at - view.points[loop[0]]) > 0.0;
            for (std::size_t k = 1; k + 1 < loop.size(); ++k)
                least = std::min(least, distance_to_triangle(at, {view.points[loop[0]], view.points[loop[k]],
                                                                  view.points[loop[k + 1]]}));
        }
        if (!is_outside || least < 1e-3 * size) continue;
        ++past;
        const double radius = random.between(0.0, 0.5);
        const Separation<3> s = separation<3>(RoundedHull<3>::ball(at, 1.0).with_radius(radius).view(), view);
        CAPTURE(i, least, size);
        REQUIRE(s.gap == Approx(least - radius - view.radius).margin(1e-11 * (1.0 + middle.norm())));
        REQUIRE_FALSE(s.cores_meet);
        // Along the normal nothing of the hull is nearer.
        REQUIRE(s.normal.dot(at) - extent_along(view, s.normal)[1] == Approx(least).margin(1e-9));
        REQUIRE((s.on_a - s.on_b - s.gap * s.normal).norm() < 1e-9);
        REQUIRE((s.on_a - at + radius * s.normal).norm() < 1e-9);
    }
    CHECK(past > 12'000);
}

TEST_CASE("an axis through a triangle is in it, and parted from it by as much as is told") {
    Random random(49);
    for (int i = 0; i < 5'000; ++i) {
        const std::array<Vec<3>, 3> t = {random.point<3>(1.0), random.point<3>(1.0), random.point<3>(1.0)};
        const Vec<3> n = (t[1] - t[0]).cross(t[2] - t[0]);
        if (n.norm() < 0.05) continue;
        const double u = random.between(0.02, 0.9);
        const double v = random.between(0.02, 0.97 - u);
        const Vec<3> through = t[0] + u * (t[1] - t[0]) + v * (t[2] - t[0]);
        Vec<3> way = random.direction<3>();
        if (std::abs(way.dot(n.normalized())) < 0.1) continue;
        const auto axis = RoundedHull<3>::capsule(through - random.between(0.0, 1.0) * way,
                                                  through + random.between(0.01, 1.0) * way, 1.0);
        const double radius = random.between(0.0, 0.5);
        const auto round = axis.with_radius(radius);
        const auto triangle = RoundedHull<3>::facet(t);
        const Separation<3> s = separation<3>(round.view(), triangle.view());
        CAPTURE(i);
        REQUIRE(s.gap <= -radius + 1e-12);
        // The shortest way out: along the plane's normal, on the shorter side, or less.
        const double low = std::min(n.dot(axis.view().points[0] - t[0]), n.dot(axis.view().points[1] - t[0]));
        const double high =
            std::max(n.dot(axis.view().points[0] - t[0]), n.dot(axis.view().points[1] - t[0]));
        REQUIRE(-s.gap <= radius + std::min(-low, high) / n.norm() + 1e-9);
        REQUIRE(separation<3>(round.view(), -s.gap * s.normal, triangle.view()).gap ==
                Approx(0.0).margin(1e-9));
    }
}

TEST_CASE("what is round and a polygon are apart alike from either side, their points too") {
    Random random(43);
    for (int i = 0; i < 20'000; ++i) {
        const auto polygon = RoundedHull<2>::box(random.point<2>(1.0),
                                                 Vec<2>(random.between(0.1, 2.0), random.between(0.1, 2.0)));
        const Vec<2> end = random.point<2>(1.0);
        const auto round = random.below(2) == 0
                               ? RoundedHull<2>::ball(end, random.between(0.0, 0.5))
                               : RoundedHull<2>::capsule(end, random.point<2>(1.0), random.between(0.0, 0.5));
        const Vec<2> shift = random.point<2>(3.0);
        const Separation<2> one = separation<2>(polygon.view(), shift, round.view());
        const Separation<2> other = separation<2>(round.view(), -shift, polygon.view());
        REQUIRE(one.gap == Approx(other.gap).margin(1e-11));
        REQUIRE((one.on_a - one.on_b - one.gap * one.normal).norm() < 1e-9);
        REQUIRE(extent_along(polygon.view(), one.normal)[0] + one.normal.dot(shift) -
                    extent_along(round.view(), one.normal)[1] - round.radius() ==
                Approx(one.gap).margin(1e-9));
        // The point said to be on each is as far out on it as any, along the normal.
        REQUIRE(one.normal.dot(one.on_a - shift) ==
                Approx(extent_along(polygon.view(), one.normal)[0]).margin(1e-9));
        REQUIRE(one.normal.dot(one.on_b) ==
                Approx(extent_along(round.view(), one.normal)[1] + round.radius()).margin(1e-9));
    }
}
