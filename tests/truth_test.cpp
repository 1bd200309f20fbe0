// Truth against closed forms, at and beside each limit.
#include <catch2/catch.hpp>

#include "hollow_probe/geometry/cast.hpp"
#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/level/text_level.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/rest.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

/// A slab 10 wide whose top is at height 0, its right lip at `lip`.
template <int D>
Level<D> slab(double lip = 5.0) {
    LevelBuilder<D> builder({"m"});
    Vec<D> size = 10.0 * Vec<D>::ones();
    size[1] = 1.0;
    builder.add("slab", "m", RoundedHull<D>::box(at<D>(lip - 5.0, -0.5), size));
    return builder.build();
}

template <int D>
Level<D> ramp(double angle_degrees) {
    LevelBuilder<D> builder({"m"});
    const Mat<D> turn = scenes::tilt<D>(radians(angle_degrees));
    Vec<D> size = 20.0 * Vec<D>::ones();
    size[1] = 2.0;
    // Its upper face goes through the origin.
    builder.add("ramp", "m", RoundedHull<D>::box(-Vec<D>::unit(1), size).placed(turn));
    return builder.build();
}

template <int D>
const Stance<D>& capsule() {
    static const auto stance = Stance<D>::capsule("upright", 0.3, 1.8);
    return stance;
}

template <int D>
PlacedBody<D> body_at(const Vec<D>& anchor) {
    return {capsule<D>().shape.view(), anchor, 1};
}

constexpr Intent intent{0.02, 45.0};

}  // namespace

TEMPLATE_TEST_CASE_SIG("a body clips that is in deeper than touch, and not one that is in as deep", "",
                       ((int D), D), 2, 3) {
    const auto level = slab<D>();
    const auto box = Stance<D>::box("box", Vec<D>::ones());
    Intent deep = intent;
    deep.touch = 0.25;  // numbers without rounding
    const auto in = [&](double depth) {
        return clip<D>(level, {box.shape.view(), at<D>(0, -depth), 1}, deep);
    };
    CHECK(in(0.25).depth == 0.25);
    CHECK_FALSE(in(0.25).on);
    CHECK_FALSE(in(0.25).decided);
    CHECK(in(0.2500001).on);
    CHECK_FALSE(in(0.2499999).on);
}

TEMPLATE_TEST_CASE_SIG("ground and ceiling tell of a body that clips what clip() tells of it", "",
                       ((int D), D), 2, 3) {
    std::array<int, 2> told{};
    int from_behind = 0;
    for (std::uint64_t scene = 0; scene < 150; ++scene) {
        Random random(scene + 900);
        LevelBuilder<D> builder({"m", "other"});
        for (int i = 0; i < 4; ++i) {
            const std::string name = "thing " + std::to_string(i);
            const char* const layer = random.below(3) == 0 ? "other" : "m";
            builder.add(name, layer,
                        random.below(2) == 0 ? lattice_shape<D>(random)
                                             : random_shape<D>(random, random.point<D>(1.0), 0.8));
            if (random.below(4) == 0) builder.one_way(random.direction<D>());
        }
        std::vector<Vec<D>> facet;
        for (int i = 0; i < D; ++i) facet.push_back(random.point<D>(1.0));
        if constexpr (D == 2) {
            builder.add_polyline("surface", "m", facet);
        } else {
            builder.add_mesh("surface", "m", facet, {{0, 1, 2}});
        }
        const Level<D> level = builder.build();
        const auto stance = random.below(2) == 0 ? random_shape<D>(random, Vec<D>::zero(), 0.5)
                                                 : RoundedHull<D>::ball(Vec<D>::zero(), 0.3);
        for (int i = 0; i < 60; ++i) {
            PlacedBody<D> body{stance.view(), random.point<D>(1.5)};
            body.meets = random.below(3) == 0 ? 1 : 3;
            body.of = random.below(3) == 0 ? 2 : all_layers;
            const bool expected = clip<D>(level, body, intent).on;
            body.front_faces = random.below(2) == 0;
            const bool clips = clip<D>(level, body, intent).on;
            if (clips != expected) ++from_behind;
            ++told[clips ? 1 : 0];
            INFO("scene " << scene << ", pose " << i);
            REQUIRE(ground<D>(level, body, intent).clips == clips);
            REQUIRE(ceiling<D>(level, body, intent, 0.5).clips == clips);
        }
    }
    CAPTURE(told, from_behind);
    CHECK(std::min(told[0], told[1]) > 500);
    CHECK(from_behind > 10);
}

TEMPLATE_TEST_CASE_SIG("ground is on up to touch, inclusive, and says how far it is from flipping", "",
                       ((int D), D), 2, 3) {
    const auto level = slab<D>();
    const auto near = ground<D>(level, body_at<D>(at<D>(0, 0.005)), intent);
    CHECK(near.on);
    CHECK(near.decided);
    CHECK(near.margin.distance == Approx(0.015).margin(1e-12));
    CHECK(near.margin.degrees == Approx(45.0));
    CHECK(ground<D>(level, body_at<D>(at<D>(0, 0.02 - 1e-6)), intent).on);
    const auto above = ground<D>(level, body_at<D>(at<D>(0, 0.02 + 1e-6)), intent, 1.0);
    CHECK_FALSE(above.on);
    CHECK(above.decided);
    CHECK(above.margin.distance == Approx(1e-6).margin(1e-11));
    CHECK(ground<D>(level, body_at<D>(at<D>(0, 0.5)), intent, 1.0).margin.distance ==
          Approx(0.48).margin(1e-12));
    // At the limit itself the answer is within noise of flipping, and says so.
    CHECK_FALSE(ground<D>(level, body_at<D>(at<D>(0, 0.02)), intent).decided);
}

TEMPLATE_TEST_CASE_SIG("a body sunk by no more than touch is still on the ground", "", ((int D), D), 2, 3) {
    const auto level = slab<D>();
    CHECK(ground<D>(level, body_at<D>(at<D>(0, -0.019)), intent).on);
    CHECK_FALSE(ground<D>(level, body_at<D>(at<D>(0, -0.021)), intent).on);
    CHECK_FALSE(clip<D>(level, body_at<D>(at<D>(0, -0.019)), intent).on);
    const auto clipped = clip<D>(level, body_at<D>(at<D>(0, -0.05)), intent);
    CHECK(clipped.on);
    CHECK(clipped.depth == Approx(0.05).margin(1e-12));
    CHECK(clipped.margin == Approx(0.03).margin(1e-12));
}

TEMPLATE_TEST_CASE_SIG("a slope is footing up to steepest_footing", "", ((int D), D), 2, 3) {
    for (const double angle : {10.0, 44.99, 45.0, 45.01, 50.0, 80.0}) {
        const auto level = ramp<D>(angle);
        // A capsule's round end rests where the slope is r / cos(angle) below its centre.
        const double rest = 0.3 / std::cos(radians(angle)) - 0.3;
        const auto truth = ground<D>(level, body_at<D>(at<D>(0, rest + 0.001)), intent);
        CHECK(truth.on == (angle <= 45.0));
        CHECK(truth.margin.degrees == Approx(std::abs(45.0 - angle)).margin(2e-7));
        CHECK(truth.decided == (std::abs(45.0 - angle) > 1e-3));
    }
}

TEMPLATE_TEST_CASE_SIG("over a lip the round sole tilts: r sin(steepest) beyond it footing ends", "",
                       ((int D), D), 2, 3) {
    const auto level = slab<D>(0.0);
    const double limit = 0.3 * std::sin(radians(45.0));
    for (const double beyond : {0.1, limit - 1e-6, limit + 1e-6, 0.29}) {
        const double rest = std::sqrt(0.09 - beyond * beyond) - 0.3;
        CHECK(ground<D>(level, body_at<D>(at<D>(beyond, rest + 1e-4)), intent).on == (beyond < limit));
    }
}

TEMPLATE_TEST_CASE_SIG("a wall beside the body is no ground, touching, apart or overlapped by touch", "",
                       ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("wall", "m",
                RoundedHull<D>::box(at<D>(1.3, 0.0), 2.0 * Vec<D>::ones() + 8.0 * Vec<D>::unit(1)));
    const auto level = builder.build();
    for (const double x : {-0.1, -1e-9, 0.0, 1e-9, 0.01, 0.019}) {
        CHECK_FALSE(ground<D>(level, body_at<D>(at<D>(x, 0.0)), intent).on);
        CHECK_FALSE(clip<D>(level, body_at<D>(at<D>(x, 0.0)), intent).on);
    }
    CHECK(clip<D>(level, body_at<D>(at<D>(0.021, 0.0)), intent).on);
}

TEMPLATE_TEST_CASE_SIG("only layers the body meets count", "", ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"solid", "ghost"});
    builder.add("floor", "ghost", RoundedHull<D>::box(at<D>(0, -0.5), Vec<D>::ones()));
    const auto level = builder.build();
    CHECK_FALSE(ground<D>(level, {capsule<D>().shape.view(), at<D>(0, 0.0), 1}, intent).on);
    CHECK(ground<D>(level, {capsule<D>().shape.view(), at<D>(0, 0.0), 2}, intent).on);
    CHECK_FALSE(clip<D>(level, {capsule<D>().shape.view(), at<D>(0, -0.2), 1}, intent).on);
}

TEMPLATE_TEST_CASE_SIG("a wall laid of courses is no ground to what leans into it by less than touch", "",
                       ((int D), D), 2, 3) {
    const auto course = [](double low, double high) {
        Vec<D> size = 4.0 * Vec<D>::ones();
        size[0] = 1.0;
        size[1] = high - low;
        return RoundedHull<D>::box(at<D>(0.5, 0.5 * (low + high)), size);
    };
    const std::vector<RoundedHull<D>> courses = {course(0.0, 1.0), course(1.0, 2.5)};
    Vec<D> size = 0.6 * Vec<D>::ones();
    size[1] = 1.0;
    const auto stance = Stance<D>::box("boxed", size);
    Random random(9);
    for (int i = 0; i < 60; ++i) {
        const double deep = random.between(1e-4, 0.019);
        const double over = random.between(0.0, 0.019);
        const PlacedBody<D> body{stance.shape.view(), at<D>(deep - 0.3, 1.0 + over), 1};
        CAPTURE(deep, over);
        // Of one solid, whichever part comes first; of the lower course alone; of two solids, each by itself.
        for (const bool upside_down : {false, true}) {
            LevelBuilder<D> whole({"m"});
            const std::vector<RoundedHull<D>> turned = {courses[1], courses[0]};
            whole.add_parts("wall", "m", upside_down ? turned : courses);
            CHECK_FALSE(ground<D>(whole.build(), body, intent).on);
        }
        LevelBuilder<D> lower({"m"});
        lower.add("lower", "m", courses[0]);
        CHECK(ground<D>(lower.build(), body, intent).on);
        LevelBuilder<D> two({"m"});
        two.add("lower", "m", courses[0]);
        two.add("upper", "m", courses[1]);
        CHECK(ground<D>(two.build(), body, intent).on);
    }
}

TEMPLATE_TEST_CASE_SIG(
    "what stands exactly on a surface without thickness, or lies against it from below, touches it", "",
    ((int D), D), 2, 3) {
    for (const double height : {0.0, 0.1, 1.0 / 3.0, 7.7, -12.3}) {
        LevelBuilder<D> builder({"m"});
        if constexpr (D == 2) {
            builder.add_polyline("surface", "m", {{-3.0, height}, {3.0, height}});
        } else {
            builder.add_mesh("surface", "m", {{-3.0, height, -4.0}, {5.0, height, -4.0}, {-3.0, height, 5.0}},
                             {{0, 1, 2}});
        }
        const Level<D> level = builder.build();
        for (const auto& stance : {Stance<D>::box("box", Vec<D>::ones()), Stance<D>::ball("ball", 0.3)}) {
            const PlacedBody<D> above{stance.shape.view(), height * Vec<D>::unit(1), 1};
            const PlacedBody<D> below = above.moved(-stance.shape.bounds().size()[1] * Vec<D>::unit(1));
            INFO(stance.name << " at " << height);
            CHECK(ground<D>(level, above, intent).on);
            CHECK_FALSE(ceiling<D>(level, above, intent).on);
            CHECK(ceiling<D>(level, below, intent).on);
            CHECK_FALSE(ground<D>(level, below, intent).on);
        }
    }
}

TEMPLATE_TEST_CASE_SIG("corners that touch exactly do so the way the body comes", "", ((int D), D), 2, 3) {
    const auto box = Stance<D>::box("box", Vec<D>::ones());
    LevelBuilder<D> builder({"m"});
    builder.add("block", "m", RoundedHull<D>::box(Vec<D>::zero(), 2.0 * Vec<D>::ones()));
    const Level<D> level = builder.build();
    for (const double side : {-1.0, 1.0}) {
        const PlacedBody<D> on_lip{box.shape.view(), at<D>(1.5 * side, 1.0), 1};
        const PlacedBody<D> under_lip{box.shape.view(), at<D>(1.5 * side, -2.0), 1};
        CHECK(ground<D>(level, on_lip, intent).on);
        CHECK_FALSE(ceiling<D>(level, on_lip, intent).on);
        CHECK(ceiling<D>(level, under_lip, intent).on);
        CHECK_FALSE(ground<D>(level, under_lip, intent).on);
        const auto met = [&](const PlacedBody<D>& body) {
            return approach<D>(body, at<D>(-side, 0.0), 0.5, 0.02, level, 0);
        };
        REQUIRE(met(on_lip));
        CHECK(met(on_lip)->normal.dot(at<D>(side, 0.0)) > 0.999);
        REQUIRE(met(under_lip));
    }
}

TEST_CASE("a box body stands on a slab's edge with its flat sole") {
    const auto level = slab<2>(0.0);
    const auto box = Stance<2>::box("crawling", {1.6, 0.5});
    const auto truth = ground<2>(level, {box.shape.view(), {0.79, 0.0}, 1}, intent);
    REQUIRE(truth.on);
    CHECK(truth.contact->normal.is_close(Vec<2>(0, 1)));
    CHECK_FALSE(ground<2>(level, {box.shape.view(), {0.81, 0.0}, 1}, intent).on);
}

TEST_CASE("an approach finds the touch that bisection finds") {
    Random random(23);
    int hits = 0;
    for (int i = 0; i < 2000; ++i) {
        LevelBuilder<3> builder({"m"});
        builder.add("target", "m", random_shape<3>(random, random.point<3>(1.0), 1.0));
        const auto level = builder.build();
        const auto shape = random_shape<3>(random, Vec<3>::zero(), 0.7);
        const Vec<3> start = 3.0 * random.direction<3>();
        const Vec<3> direction = (random.point<3>(0.5) - start).normalized();
        const auto gap = [&](double t) {
            return separation<3>(shape.view(), start + t * direction, level.piece(0)).gap;
        };
        if (gap(0.0) <= 0.0) continue;
        const auto contact = approach<3>({shape.view(), start, 1}, direction, 10.0, 0.0, level, 0);
        // Bisection wants a sign change: look for one on a fine scan.
        double before = 0.0;
        double after = -1.0;
        for (double t = 0.005; t < 10.0 && after < 0.0; t += 0.005) {
            if (gap(t) <= 0.0)
                after = t;
            else
                before = t;
        }
        if (after < 0.0) continue;  // a miss, or a touch too short for the scan
        for (int round = 0; round < 60; ++round) {
            const double middle = 0.5 * (before + after);
            (gap(middle) <= 0.0 ? after : before) = middle;
        }
        REQUIRE(contact);
        REQUIRE(contact->gap == Approx(after).margin(1e-9));
        ++hits;
    }
    CHECK(hits > 400);  // enough that agreement means something
}

TEMPLATE_TEST_CASE_SIG("what a body comes to touch is what a cast of it hits, on a lattice too", "",
                       ((int D), D), 2, 3) {
    Random random(71);
    int hits = 0;
    for (int i = 0; i < (D == 2 ? 40'000 : 8'000); ++i) {
        const auto shape = lattice_shape<D>(random);
        const auto piece = lattice_shape<D>(random);
        LevelBuilder<D> builder({"m"});
        builder.add("piece", "m", piece);
        const Level<D> level = builder.build();
        Vec<D> direction;
        do {
            for (int axis = 0; axis < D; ++axis) direction[axis] = random.below(3) - 1;
        } while (direction.is_zero());
        direction.normalize();
        const PlacedBody<D> body{shape.view(), -2.0 * direction, 1};
        const auto gap = [&](double t) {
            return separation<D>(body.shape, body.anchor + t * direction, piece.view()).gap;
        };
        if (gap(0.0) < 1e-6) continue;
        const auto contact = approach<D>(body, direction, 5.0, 0.0, level, 0);
        const auto hit = cast<D>(body.shape, body.anchor, direction, 5.0, piece.view());
        // What only brushes past is told either way.
        double least = infinity;
        for (int k = 0; k <= 200; ++k) least = std::min(least, gap(0.025 * k));
        if (least > -1e-6) continue;
        REQUIRE(contact);
        REQUIRE(hit);
        REQUIRE(contact->gap == Approx(hit->distance).margin(1e-9));
        REQUIRE(std::abs(gap(contact->gap)) < 1e-9);
        ++hits;
    }
    CHECK(hits > 3'000);
}

TEST_CASE("rests are found on every floor of a column, and low ceilings are counted") {
    const auto level = level_from_text(
        "####..\n"
        ".....#\n"
        "......\n"
        "......\n"
        "######\n");
    std::vector<double> heights;
    std::size_t clipped = 0;
    find_rests<2>(level, {capsule<2>().shape.view(), {1.5, 0}, 1}, intent, heights, &clipped);
    CHECK(heights == std::vector<double>{1.0, 5.0});
    CHECK(clipped == 0);
    // Under the hanging cell there are 2 of room, and on it the row above is open.
    find_rests<2>(level, {capsule<2>().shape.view(), {5.5, 0}, 1}, intent, heights, &clipped);
    CHECK(heights == std::vector<double>{1.0, 4.0});
    const auto low = level_from_text("##\n..\n##\n");
    find_rests<2>(low, {capsule<2>().shape.view(), {1.0, 0}, 1}, intent, heights, &clipped);
    CHECK(heights == std::vector<double>{3.0});
    CHECK(clipped == 1);
}

TEMPLATE_TEST_CASE_SIG("a body between two slopes rests on both, once", "", ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    for (const double side : {-1.0, 1.0}) {
        const Mat<D> turn = scenes::tilt<D>(side * radians(30.0));
        Vec<D> size = 4.0 * Vec<D>::ones();
        size[1] = 1.0;
        builder.add(side < 0 ? "left" : "right", "m",
                    RoundedHull<D>::box(at<D>(2.0 * side, -0.5), size).placed(turn));
    }
    const auto level = builder.build();
    std::vector<double> heights;
    find_rests<D>(level, body_at<D>(Vec<D>::zero()), intent, heights);
    REQUIRE(heights.size() == 1);
    CHECK(heights[0] == Approx(0.3 / std::cos(radians(30.0)) - 0.3).margin(1e-9));
}
