// The truths about what lies overhead and ahead, against closed forms, at and beside each limit.
#include <catch2/catch.hpp>

#include "hollow_probe/truth/answer.hpp"
#include "hollow_probe/truth/blocked.hpp"
#include "hollow_probe/truth/doubt.hpp"
#include "hollow_probe/truth/drop.hpp"
#include "hollow_probe/truth/fit.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/ledge.hpp"
#include "hollow_probe/truth/rest.hpp"
#include "hollow_probe/truth/wall.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

constexpr double hair = 1e-6;

/// A box from x0, y0 to x1, y1, wide in 3D.
template <int D>
RoundedHull<D> block(double x0, double y0, double x1, double y1) {
    Vec<D> size = 20.0 * Vec<D>::ones();
    size[0] = x1 - x0;
    size[1] = y1 - y0;
    return RoundedHull<D>::box(at<D>(0.5 * (x0 + x1), 0.5 * (y0 + y1)), size);
}

template <int D>
Level<D> level_of(const std::vector<RoundedHull<D>>& blocks) {
    LevelBuilder<D> builder({"m"});
    for (std::size_t i = 0; i < blocks.size(); ++i) {
        builder.add("block " + std::to_string(i + 1), "m", blocks[i]);
    }
    return builder.build();
}

/// What lies under a slope that begins at `from` and falls by `angle`.
template <int D>
RoundedHull<D> falling(const Vec<D>& from, double angle) {
    std::vector<Vec<D>> corners;
    const double fall = 3.0 * std::tan(radians(angle));
    for (const double z : {-10.0, 10.0}) {
        for (const Vec<D>& p :
             {from, from - at<D>(0.0, fall + 1.0), from + at<D>(3.0, -fall - 1.0), from + at<D>(3.0, -fall)})
            corners.push_back(p + (D == 3 ? z : 0.0) * Vec<D>::unit(D - 1));
        if (D == 2) break;
    }
    return RoundedHull<D>::hull(corners);
}

/// A half space whose face goes through `through`, at `degrees_from_floor`: 90 is a wall met when going
/// ahead.
template <int D>
RoundedHull<D> slope(const Vec<D>& through, double degrees_from_floor) {
    const Mat<D> turn = scenes::tilt<D>(radians(degrees_from_floor));
    Vec<D> size = 20.0 * Vec<D>::ones();
    size[1] = 2.0;
    return RoundedHull<D>::box(-Vec<D>::unit(1), size).placed(turn).placed(Mat<D>::identity(), through);
}

/// A surface over a line of points, wide in 3D.
template <int D>
Level<D> ground_over(const std::vector<Vec<2>>& profile, bool stones = false) {
    LevelBuilder<D> builder({"m"});
    for (int i = 0; stones && i < 8; ++i)
        builder.add("stone " + std::to_string(i), "m", RoundedHull<D>::ball(at<D>(i - 4.0, -1.5), 0.05));
    if constexpr (D == 2) {
        builder.add_polyline("ground", "m", profile);
    } else {
        std::vector<Vec<3>> corners;
        std::vector<std::array<std::uint32_t, 3>> triangles;
        for (const Vec<2>& p : profile) {
            for (const double z : {-2.0, 2.0}) corners.emplace_back(p.x(), p.y(), z);
        }
        for (std::uint32_t i = 0; i + 3 < corners.size(); i += 2) {
            triangles.push_back({i, i + 1, i + 2});
            triangles.push_back({i + 1, i + 3, i + 2});
        }
        builder.add_mesh("ground", "m", corners, triangles);
    }
    return builder.build();
}

template <int D>
struct Bodies {
    Stance<D> capsule = Stance<D>::capsule("upright", 0.3, 1.8);
    Stance<D> box = Stance<D>::box("boxed", box_size());

    static Vec<D> box_size() {
        Vec<D> size = 0.6 * Vec<D>::ones();
        size[1] = 1.8;
        return size;
    }
    const Stance<D>& get(bool round) const { return round ? capsule : box; }
};

template <int D>
PlacedBody<D> placed(const Stance<D>& stance, const Vec<D>& anchor) {
    return {stance.shape.view(), anchor, 1};
}

template <int D>
Vec<D> forward() {
    return Vec<D>::unit(0);
}

}  // namespace

TEST_CASE("answers combine as yes and no do, and so do their margins") {
    const Noise noise{1e-9, 1e-6};
    const Decision near = at_most(1.0, 1.25, noise);
    const Decision far = at_most(3.0, 1.0, noise);
    const Decision flat = angle_at_most(30.0, 45.0, noise);
    const Decision steep = angle_at_most(50.0, 45.0, noise);
    CHECK(both(near, flat).on);
    CHECK(both(near, flat).margin.distance == 0.25);
    CHECK(both(near, flat).margin.degrees == Approx(15.0));
    // Off because of one thing: that one must change. Because of two of a kind: both must.
    CHECK(both(far, flat).margin.distance == 2.0);
    CHECK(both(far, flat).margin.degrees == infinity);
    CHECK(both(far, at_most(4.0, 1.0, noise)).margin.distance == 3.0);
    CHECK(both(far, steep).margin.distance == infinity);
    CHECK(either(far, near).on);
    CHECK(either(far, near).margin.distance == 0.25);
    CHECK(either(near, at_most(1.0, 2.0, noise)).margin.distance == 1.0);
    CHECK(either(far, at_most(1.5, 1.0, noise)).margin.distance == 0.5);
    CHECK_FALSE(at_most(1.0, 1.0, noise).decided);
    CHECK(both(far, at_most(1.0, 1.0, noise)).decided);
    CHECK_FALSE(both(near, at_most(1.0, 1.0, noise)).decided);
    CHECK(either(near, at_most(1.0, 1.0, noise)).decided);
}

TEMPLATE_TEST_CASE_SIG("a ceiling counts within touch and within its angle, both inclusive", "", ((int D), D),
                       2, 3) {
    const Bodies<D> bodies;
    const Intent intent;
    for (const bool round : {true, false}) {
        const auto over = [&](double gap) {
            const auto level = level_of<D>({block<D>(-5, 1.8 + gap, 5, 3)});
            return ceiling<D>(level, placed<D>(bodies.get(round), at<D>(0, 0)), intent, 1.0);
        };
        CHECK(over(0.02 - hair).on);
        CHECK_FALSE(over(0.02 + hair).on);
        CHECK(over(0.5).margin.distance == Approx(0.48).margin(1e-9));
        CHECK(over(-0.01).on);
    }
    // A round head under a slope touches where its normal says.
    for (const double angle : {10.0, 59.99, 60.01, 80.0}) {
        const auto level = level_of<D>({slope<D>(at<D>(0, 2.0), 180.0 - angle)});
        const double rise = 2.0 - 1.5 - 0.3 / std::cos(radians(angle));
        const auto truth = ceiling<D>(level, placed<D>(bodies.capsule, at<D>(0, rise - 0.001)), intent);
        CHECK(truth.on == (angle <= 60.0));
        CHECK(truth.margin.degrees == Approx(std::abs(60.0 - angle)).margin(1e-6));
    }
}

TEMPLATE_TEST_CASE_SIG("a wall counts within ahead_wall, steeper than footing and no ceiling", "",
                       ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    Intent intent;
    intent.ahead_wall = 0.1;
    for (const bool round : {true, false}) {
        const auto before = [&](double gap) {
            const auto level = level_of<D>({block<D>(-5, -1, 5, 0), block<D>(0.3 + gap, 0, 2, 3)});
            return wall<D>(level, placed<D>(bodies.get(round), at<D>(0, 0.001)), forward<D>(), intent);
        };
        CHECK(before(0.1 - hair).on);
        CHECK_FALSE(before(0.1 + hair).on);
        CHECK(before(0.04).margin.distance == Approx(0.06).margin(1e-9));
        CHECK(before(0.11).margin.distance == Approx(0.01).margin(1e-9));
        CHECK(before(0.04).contact->gap == Approx(0.04).margin(1e-9));
        // Behind is not ahead.
        const auto level = level_of<D>({block<D>(0.31, 0, 2, 3)});
        CHECK_FALSE(wall<D>(level, placed<D>(bodies.get(round), at<D>(0, 0)), -forward<D>(), intent).on);
    }
    // Slopes, met by the round sole a little above the ground.
    for (const double angle : {30.0, 44.99, 45.01, 60.0, 89.0, 91.0, 119.9, 120.1, 150.0}) {
        const double c = std::cos(radians(angle));
        const double s = std::sin(radians(angle));
        // The face touches the ball of the sole (or of the head, where it leans over) at distance 0.05 ahead.
        const double middle = angle <= 90.0 ? 0.3 : 1.5;
        const Vec<D> through = at<D>(0.05 + 0.3 * s, middle - 0.3 * c);
        const auto level = level_of<D>({slope<D>(through, angle)});
        const auto truth = wall<D>(level, placed<D>(bodies.capsule, at<D>(0, 0)), forward<D>(), intent);
        CAPTURE(angle);
        CHECK(truth.on == (angle > 45.0 && angle < 120.0));
        CHECK(truth.decided);
    }
}

TEST_CASE("a wall passed at a glance is none: the normal must be 0.1 against the heading") {
    const Bodies<3> bodies;
    Intent intent;
    intent.ahead_wall = 1.0;
    const auto level = level_of<3>({block<3>(0.35, 0, 2, 3)});
    for (const double off : {0.0, 60.0, 84.25, 84.27, 89.0}) {
        const Vec<3> heading(std::cos(radians(off)), 0.0, std::sin(radians(off)));
        CHECK(wall<3>(level, placed<3>(bodies.capsule, at<3>(0, 0)), heading, intent).on ==
              (std::cos(radians(off)) > 0.1 && 0.05 / std::cos(radians(off)) <= 1.0));
    }
}

TEMPLATE_TEST_CASE_SIG("stairs: a rise from lowest_step to tallest_step is a step, else a wall", "",
                       ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    Intent intent;
    for (const bool round : {true, false}) {
        for (const double rise : {0.03, 0.05 - 1e-4, 0.05 + 1e-4, 0.2, 0.35 - 1e-4, 0.35 + 1e-4, 0.6, 1.0}) {
            // Where a round sole meets the nose it is that far from its side.
            const double in = round && rise < 0.3 ? 0.3 - std::sqrt(0.09 - (0.3 - rise) * (0.3 - rise)) : 0.0;
            const double nose = 0.3 - in + 0.01;
            const auto level = level_of<D>({block<D>(-5, -1, 5, 0), block<D>(nose, 0, nose + 0.5, rise),
                                            block<D>(nose + 0.5, 0, 5, 2.0 * rise)});
            const auto body = placed<D>(bodies.get(round), at<D>(0, 0));
            const auto is_step = step<D>(level, body, forward<D>(), intent);
            const bool expected = rise > 0.05 && rise < 0.35;
            CAPTURE(round, rise);
            // A low nose meets the round sole where it is flat enough to be footing: neither step nor wall.
            const double slope_of_nose = round && rise < 0.3 ? degrees(std::acos((0.3 - rise) / 0.3)) : 90.0;
            CHECK(is_step.on == (expected && slope_of_nose > 45.0));
            CHECK(wall<D>(level, body, forward<D>(), intent).on == (!expected && slope_of_nose > 45.0));
            if (!is_step.on) continue;
            CHECK(is_step.rise == Approx(rise).margin(1e-9));
            CHECK(is_step.riser->gap == Approx(0.01).margin(1e-9));
            CHECK(is_step.margin.distance == Approx(std::min({rise - 0.05, 0.35 - rise, 0.01})).margin(1e-6));
        }
    }
}

TEMPLATE_TEST_CASE_SIG("a step needs room above, a way on and footing to come to", "", ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    const Intent intent;
    const auto floor = block<D>(-5, -1, 5, 0);
    const auto kerb = block<D>(0.31, 0, 5, 0.25);
    const auto is_step = [&](std::vector<RoundedHull<D>> blocks) {
        return step<D>(level_of<D>(blocks), placed<D>(bodies.box, at<D>(0, 0)), forward<D>(), intent).on;
    };
    CHECK(is_step({floor, kerb}));
    // Lifted by 0.35 the head is at 2.15; touch is 0.02.
    CHECK(is_step({floor, kerb, block<D>(-5, 2.15 - 0.019, 0.2, 3)}));
    CHECK_FALSE(is_step({floor, kerb, block<D>(-5, 2.15 - 0.021, 0.2, 3)}));
    // On by 0.01 and half its width, 0.3.
    CHECK(is_step({floor, kerb, block<D>(0.61 + hair, 0.25, 5, 3)}));
    CHECK_FALSE(is_step({floor, kerb, block<D>(0.61 - hair, 0.25, 5, 3)}));
    // A thin fence is stepped over on to the ground behind it; a fence with nothing behind it is not.
    CHECK(is_step({floor, block<D>(0.31, 0, 0.315, 0.25)}));
    Intent far = intent;
    far.tread = 0.7;
    const auto edge = level_of<D>({block<D>(-5, -1, 0.31, 0), block<D>(0.31, -1, 0.32, 0.25)});
    CHECK_FALSE(step<D>(edge, placed<D>(bodies.box, at<D>(0, 0)), forward<D>(), far).on);
}

TEMPLATE_TEST_CASE_SIG("a box is stopped by the whole face of a kerb: its rise is the kerb's upper edge", "",
                       ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    const auto level = level_of<D>({block<D>(0.3, -1, 2, 0.2)});
    const auto body = placed<D>(bodies.box, at<D>(0, 0));
    Contact<D> contact;
    contact.piece = 0;
    contact.normal = -forward<D>();
    contact.point = at<D>(0.3, 0.0);
    CHECK(highest_of_contact<D>(level, body, contact)[1] == Approx(0.2).margin(1e-9));
    // A wall taller than the body: as high as the body reaches. In 3D edges cross where no corner is.
    const auto tall = level_of<D>({block<D>(0.3, -1, 2, 5)});
    CHECK(highest_of_contact<D>(tall, body, contact)[1] == Approx(1.8).margin(1e-9));
}

TEST_CASE("where two faces share a part without corners of either, the highest crossing counts") {
    const Bodies<3> bodies;
    // A plank across the body's front, tilted: its upper edge crosses the front's sides at different heights.
    const double tilt = radians(20.0);
    Mat<3> turn = Mat<3>::identity();
    turn(1, 1) = std::cos(tilt);
    turn(1, 2) = -std::sin(tilt);
    turn(2, 1) = std::sin(tilt);
    turn(2, 2) = std::cos(tilt);
    const auto plank = RoundedHull<3>::box(Vec<3>::zero(), {0.2, 0.4, 9.0})
                           .placed(turn)
                           .placed(Mat<3>::identity(), Vec<3>(0.4, 0.9, 0.0));
    const auto level = level_of<3>({plank});
    Contact<3> contact;
    contact.normal = -forward<3>();
    contact.point = Vec<3>(0.3, 0.9, 0.0);
    const Vec<3> highest = highest_of_contact<3>(level, placed<3>(bodies.box, at<3>(0, 0)), contact);
    CHECK(highest.y() == Approx(0.9 + 0.2 / std::cos(tilt) + 0.3 * std::tan(tilt)).margin(1e-9));
}

TEMPLATE_TEST_CASE_SIG("a drop: gaps wider than what the sole bridges, edges within ahead_drop", "",
                       ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    Intent intent;
    intent.ahead_drop = 0.5;
    for (const bool round : {true, false}) {
        // A box stands until its back leaves the lip; a round sole until its slope is 45°.
        const double overhang = round ? 0.3 * std::sin(radians(45.0)) : 0.3;
        const auto body = placed<D>(bodies.get(round), at<D>(0, 0.001));
        for (const double width : {2.0 * overhang - 1e-5, 2.0 * overhang + 1e-5}) {
            const auto level = level_of<D>({block<D>(-5, -1, 0.4, 0), block<D>(0.4 + width, -1, 9, 0)});
            const auto truth = drop<D>(level, body, forward<D>(), intent);
            CAPTURE(round, width);
            CHECK(truth.on == (width > 2.0 * overhang));
            if (!truth.on) continue;
            CHECK(truth.ahead == Approx(0.4 + overhang).margin(1e-7));
            CHECK(truth.edge_distance == Approx(0.4).margin(1e-7));
            CHECK((truth.edge - at<D>(0.4, 0.0)).norm() < 0.31);  // in 3D anywhere along the lip
        }
        // It is the lip that counts, not where the body falls; also one that the body already hangs over.
        for (const double lip : {-0.15, 0.0, 0.5 - 1e-5, 0.5 + 1e-5}) {
            const auto level = level_of<D>({block<D>(-5, -1, lip, 0)});
            if (round && lip < 0.0) continue;  // it has slid off
            CAPTURE(round, lip);
            CHECK(drop<D>(level, body, forward<D>(), intent).on == (lip <= 0.5));
            CHECK_FALSE(drop<D>(level, body, -forward<D>(), intent).on);
            if (lip < 0.4) continue;
            CHECK(drop<D>(level, body, forward<D>(), intent, 1.0).margin.distance ==
                  Approx(1e-5).margin(1e-7));
        }
    }
    // Lower ground: down to 0.6 below the present footing counts as ground, wherever the body hovers.
    for (const double depth : {0.6 - hair, 0.6 + hair}) {
        const auto level = level_of<D>({block<D>(-5, -1, 0.4, 0), block<D>(0.4, -2, 9, -depth)});
        for (const double hover : {0.0, 0.01}) {
            CHECK(drop<D>(level, placed<D>(bodies.box, at<D>(0, hover)), forward<D>(), intent).on ==
                  (depth > 0.6));
        }
    }
    // Not before one stands; not behind a railing too tall to step over.
    const auto lip = block<D>(-5, -1, 0.4, 0);
    CHECK_FALSE(drop<D>(level_of<D>({lip}), placed<D>(bodies.box, at<D>(0, 0.5)), forward<D>(), intent).on);
    CHECK_FALSE(drop<D>(level_of<D>({lip, block<D>(0.41, 0, 0.45, 1)}), placed<D>(bodies.box, at<D>(0, 0)),
                        forward<D>(), intent)
                    .on);
    CHECK(drop<D>(level_of<D>({lip, block<D>(0.41, 0, 0.45, 0.3)}), placed<D>(bodies.box, at<D>(0, 0)),
                  forward<D>(), intent)
              .on);
}

TEST_CASE("the footing on a post is its own top, whatever slope lies below it") {
    const Bodies<2> bodies;
    Intent intent;
    intent.deepest_drop = 0.3;
    // One in two down to the right, 0.1 below the post's top; it is walked on to 0.3 below that.
    const auto slope = RoundedHull<2>::hull({at<2>(-2, 0.9), at<2>(2, -1.1), at<2>(-2, -1.1)});
    const Level<2> level = level_of<2>({block<2>(-0.05, -1, 0.05, 0), slope});
    const auto truth = drop<2>(level, placed<2>(bodies.capsule, at<2>(0.06, 0)), forward<2>(), intent);
    CHECK(truth.on);
    CHECK(truth.edge_distance == Approx(0.277).margin(1e-3));
}

TEMPLATE_TEST_CASE_SIG("from a ridge either slope is walked down, in whatever order it is given", "",
                       ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    const auto low = [](double x, double degrees) {
        return at<D>(x, -std::abs(x) * std::tan(radians(degrees)));
    };
    const auto prism = [](std::vector<Vec<D>> corners) {
        const std::size_t count = corners.size();
        for (std::size_t i = 0; D == 3 && i < count; ++i) {
            corners.push_back(corners[i] + 5.0 * Vec<D>::unit(D - 1));
            corners[i] -= 5.0 * Vec<D>::unit(D - 1);
        }
        return corners;
    };
    for (const double other : {44.0, 30.0, 10.0}) {
        const Vec<D> top = Vec<D>::zero();
        const Vec<D> left = low(-3.0, other);
        const Vec<D> right = low(3.0, 44.0);
        std::vector<Level<D>> levels;
        // One piece, its corners in any order; two, either of them first.
        std::vector<Vec<D>> roof = {left, right, top};
        for (std::size_t first = 0; first < roof.size(); ++first) {
            std::rotate(roof.begin(), roof.begin() + 1, roof.end());
            if constexpr (D == 2) {
                levels.push_back(LevelBuilder<2>({"m"}).add_polygon("roof", "m", roof).build());
            } else {
                levels.push_back(level_of<D>({RoundedHull<D>::hull(prism(roof))}));
            }
        }
        const auto half = [&](const Vec<D>& end) {
            return RoundedHull<D>::hull(prism({top, end, at<D>(0.0, end[1])}));
        };
        levels.push_back(level_of<D>({half(left), half(right)}));
        levels.push_back(level_of<D>({half(right), half(left)}));
        for (std::size_t i = 0; i < levels.size(); ++i) {
            for (const double way : {1.0, -1.0}) {
                CAPTURE(other, i, way);
                const auto body = placed<D>(bodies.capsule, at<D>(0, 0));
                CHECK_FALSE(drop<D>(levels[i], body, way * forward<D>(), Intent()).on);
            }
        }
    }
}

TEMPLATE_TEST_CASE_SIG("a walkable slope is no drop, what is steeper is one", "", ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    const Intent intent;
    for (const double angle : {-44.0, -20.0, 20.0, 44.0}) {
        // Standing in the middle of a long slope.
        const auto level = level_of<D>({slope<D>(at<D>(0, 0), angle)});
        const double float_height = 0.3 / std::cos(radians(angle)) - 0.3;
        CAPTURE(angle);
        CHECK_FALSE(
            drop<D>(level, placed<D>(bodies.capsule, at<D>(0, float_height)), forward<D>(), intent).on);
    }
    // A flat that goes over into a slope down.
    for (const double angle : {44.0, 46.0, 70.0}) {
        const auto level = level_of<D>({block<D>(-5, -1, 0.2, 0), falling<D>(at<D>(0.2, 0), angle)});
        CAPTURE(angle);
        const auto truth = drop<D>(level, placed<D>(bodies.capsule, at<D>(0, 0)), forward<D>(), intent);
        CHECK(truth.on == (angle > 45.0));
        if (truth.on) CHECK(truth.edge_distance == Approx(0.2).margin(1e-7));
    }
    // The floor below goes on inside a steep bank: what is met first counts.
    const auto bank = level_of<D>(
        {block<D>(-5, -1, 0.2, 0), falling<D>(at<D>(0.2, -0.01), 60.0), block<D>(0.2, -2, 9, -0.55)});
    CHECK(drop<D>(bank, placed<D>(bodies.capsule, at<D>(0, 0)), forward<D>(), intent).on);
    // Down a stair one step after the other.
    std::vector<RoundedHull<D>> stair;
    for (int i = 0; i < 8; ++i) stair.push_back(block<D>(0.3 * i, -4, 0.3 * i + 0.3, -0.2 * i));
    stair.push_back(block<D>(-5, -4, 0.0, 0.2));
    for (const double along : {-0.3, 0.05, 0.15}) {
        CAPTURE(along);
        const double height = along < 0.0 ? 0.2 : along + 0.2 > 0.2 && along < 0.25 ? 0.2 : 0.0;
        const auto body = placed<D>(bodies.box, at<D>(along, height));
        CHECK_FALSE(drop<D>(level_of<D>(stair), body, forward<D>(), intent).on);
    }
}

TEMPLATE_TEST_CASE_SIG("ground that is nowhere steep is left nowhere, whatever lies below it", "",
                       ((int D), D), 2, 3) {
    Random random(77);
    Intent intent;
    intent.deepest_drop = 3.0;
    for (int round = 0; round < (D == 2 ? 100 : 16); ++round) {
        std::vector<Vec<2>> profile = {{-6.0, 0.0}};
        while (profile.back().x() < 6.0) {
            const double step = random.between(0.08, 0.6);
            profile.emplace_back(profile.back() + Vec<2>(step, step * random.between(-0.35, 0.35)));
        }
        const auto level = ground_over<D>(profile, true);
        const auto stance = round % 2 == 0
                                ? Stance<D>::capsule("upright", random.between(0.1, 0.4), 1.6)
                                : Stance<D>::box("boxed", random.between(0.3, 1.2) * Bodies<D>::box_size());
        for (int i = 0; i < 60; ++i) {
            const Vec<D> column = at<D>(random.between(-3.0, 3.0), 0.0);
            std::vector<double> heights;
            find_rests<D>(level, placed<D>(stance, column), intent, heights);
            REQUIRE(!heights.empty());
            const Vec<D> anchor = column + heights.back() * Vec<D>::unit(1);
            CAPTURE(round, i, column.x());
            const auto truth = drop<D>(level, placed<D>(stance, anchor), forward<D>(), intent);
            CHECK_FALSE(truth.on);
        }
    }
}

TEMPLATE_TEST_CASE_SIG("a ditch in the side of a wall is no footing for what walks off a board beside it", "",
                       ((int D), D), 2, 3) {
    // Beyond the board's end the body leans into the wall by less than touch, as it did before: the top of
    // the wall's lower course, which the upper one covers, is nothing to stand on.
    Vec<D> size = 1.2 * Vec<D>::ones();
    const Intent intent;
    for (const bool covered : {true, false}) {
        LevelBuilder<D> builder({"m"});
        std::vector<RoundedHull<D>> courses = {block<D>(-5, -3, 9, 0)};
        if (covered) courses.push_back(block<D>(-5, 0, 9, 3));
        // The wall lies to the side in 3D; in 2D the course is the floor itself.
        if constexpr (D == 3) {
            for (RoundedHull<D>& course : courses)
                course = course.placed(Mat<D>::identity(), Vec<D>(0.0, 0.0, -10.59));
        } else if (covered) {
            continue;
        }
        builder.add_parts("wall", "m", courses);
        builder.add("board", "m", block<D>(-3, -0.1, 0.2, 0));
        const auto level = builder.build();
        size[1] = 1.8;
        const auto stance = Stance<D>::box("boxed", size);
        CAPTURE(covered);
        CHECK(drop<D>(level, placed<D>(stance, at<D>(0, 0)), forward<D>(), intent).on == covered);
    }
}

TEMPLATE_TEST_CASE_SIG(
    "ground is lost before a steep rise from where the body would be in it, however narrowly", "",
    ((int D), D), 2, 3) {
    // From a flat down a ramp to a steep rise. Down on the ramp the body would be in the rise deeper than
    // touch, until the rise carries it as high as the flat goes on: from there on it is in the way, and
    // nothing is lost.
    Random random(5);
    Intent intent;
    intent.ahead_drop = 3.0;
    intent.tallest_step = 0.06;  // the rise stops the lifted body before it is past the ramp
    int found = 0;
    int none = 0;
    for (int round = 0; round < 400; ++round) {
        const double r = random.between(0.15, 0.4);
        const double down = radians(random.between(10.0, 40.0));
        const double rise = radians(random.between(50.0, 75.0));
        const double begin = random.between(0.1, 0.5);
        const double foot = begin + random.between(0.05, 0.6);
        const double low = -(foot - begin) * std::tan(down);
        const auto level = ground_over<D>({{-3.0, 0.0},
                                           {begin, 0.0},
                                           {foot, low},
                                           {foot + 2.0, low + 2.0 * std::tan(rise)},
                                           {foot + 3.0, low + 2.0 * std::tan(rise)}});
        // Of the body's center over the ramp, how far it is from the rise; and the anchor when it rests on
        // that.
        const auto over_ramp = [&](double x) { return r / std::cos(down) - (x - begin) * std::tan(down); };
        const auto depth = [&](double x) {
            return r + std::sin(rise) * (x - foot) - std::cos(rise) * (over_ramp(x) - low);
        };
        const double slope = (depth(1.0) - depth(0.0));
        const double in_it = (intent.touch - depth(0.0)) / slope;
        const double level_again = foot + (r - r / std::cos(rise) - low) / std::tan(rise);
        // On the ramp's face itself, when it gets there.
        if (in_it - r * std::sin(down) < begin + 1e-3) continue;
        const double width = level_again - in_it;
        if (std::abs(width) < 1e-5) continue;
        CAPTURE(round, r, begin, foot, degrees(down), degrees(rise), width);
        const auto stance = Stance<D>::ball("ball", r);
        const auto truth = drop<D>(level, placed<D>(stance, at<D>(0.0, 0.0)), forward<D>(), intent);
        REQUIRE(truth.on == (width > 0.0));
        if (truth.on) CHECK(truth.ahead == Approx(in_it).margin(1e-6));
        ++(truth.on ? found : none);
    }
    CHECK(found > 50);
    CHECK(none > 20);
}

TEMPLATE_TEST_CASE_SIG("a round bar is left where it turns steep, though the floor is near", "", ((int D), D),
                       2, 3) {
    // Between there and where the body comes down beside the bar it would come down on its side: a gap a
    // few hundredths long.
    const Bodies<D> bodies;
    Intent intent;
    intent.ahead_drop = 0.5;
    for (const double radius : {0.1, 0.2}) {
        const auto bar = RoundedHull<D>::capsule(at<D>(-3, 0.5 - radius), at<D>(0, 0.5 - radius), radius);
        const auto level = level_of<D>({block<D>(-5, -1, 5, 0), bar});
        const double edge = radius * std::sin(radians(45.0));
        for (int i = -30; i < 20; ++i) {
            const double x = edge + 0.0137 * i;
            const double back = std::max(x - 0.3, 0.0);
            const double rest = 0.5 - radius + std::sqrt(radius * radius - back * back);
            CAPTURE(radius, x);
            const auto truth = drop<D>(level, placed<D>(bodies.box, at<D>(x, rest)), forward<D>(), intent);
            REQUIRE(truth.on);
            CHECK(truth.edge_distance == Approx(edge - x).margin(1e-6));
            CHECK(truth.ahead == Approx(edge + 0.3 - x).margin(1e-6));
        }
    }
}

TEMPLATE_TEST_CASE_SIG("a kerb is as tall on a ramp as on the flat", "", ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    Intent intent;
    intent.lowest_step = 0.05;
    for (const double angle : {0.0, 10.0, 20.0}) {
        for (const double rise : {0.35 - 1e-4, 0.35 + 1e-4}) {
            const double c = std::cos(radians(angle));
            const double t = std::tan(radians(angle));
            // The body stands at the riser: the capsule's side, at its anchor's height on the ramp.
            const double anchor = 0.3 / c - 0.3;
            const double x = 0.3 + 0.01;
            // A kerb with an upright face, its top parallel to the ramp, rising so much above the anchor.
            const double top = anchor + 0.01 * t + rise;
            std::vector<Vec<D>> corners;
            for (const double z : {-10.0, 10.0}) {
                for (const auto& [px, py] : {std::pair{x, top},
                                             {x + 5.0, top + 5.0 * t},
                                             {x, top - 3.0},
                                             {x + 5.0, top + 5.0 * t - 3.0}}) {
                    Vec<D> p = at<D>(px, py);
                    if (D == 3) p[D - 1] = z;
                    corners.push_back(p);
                }
                if (D == 2) break;
            }
            if (D == 2) std::swap(corners[2], corners[3]);
            const auto level = level_of<D>({slope<D>(at<D>(0, 0), angle), RoundedHull<D>::hull(corners)});
            const auto body = placed<D>(bodies.capsule, at<D>(0, anchor));
            CAPTURE(angle, rise);
            CHECK(step<D>(level, body, forward<D>(), intent).on == (rise < 0.35));
            CHECK(wall<D>(level, body, forward<D>(), intent).on == (rise > 0.35));
        }
    }
}

TEMPLATE_TEST_CASE_SIG("a floor laid of slabs hides no ledge that one slab shows", "", ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    Intent intent;
    intent.ledge_between = {0.8, 1.6};
    intent.ahead_ledge = 0.4;
    const auto shelf = block<D>(0.6, 0, 5, 1.2);
    const auto whole = level_of<D>({block<D>(-5, -1, 5, 0), shelf});
    for (const Stance<D>& stance : {bodies.capsule, bodies.box}) {
        for (const double anchor : {0.0, -0.004, -0.015, 0.002, 0.015}) {
            const auto asked = [&](const Level<D>& level) {
                return ledge<D>(level, placed<D>(stance, at<D>(0, anchor)), stance.shape.view(), forward<D>(),
                                intent);
            };
            REQUIRE(asked(whole).on);
            // Seams behind, beneath and ahead of the body; the farther slab flush, or within touch of it.
            for (const double seam : {-0.2, 0.0, 0.05, 0.2, 0.4}) {
                for (const double rise : {0.0, -0.01, 0.01}) {
                    CAPTURE(anchor, seam, rise);
                    const double top = std::min(rise, anchor + 0.015);
                    const auto laid =
                        asked(level_of<D>({block<D>(-5, -1, seam, 0), block<D>(seam, -1, 5, top), shelf}));
                    CHECK(laid.on);
                    CHECK(laid.height == Approx(1.2 - anchor).margin(1e-9));
                }
            }
            // What rises more is met first, and hides it: a low fence.
            const auto fence = block<D>(0.45, -1, 0.46, 0.2);
            CHECK_FALSE(asked(level_of<D>({block<D>(-5, -1, 5, 0), fence, shelf})).on);
        }
    }
}

TEMPLATE_TEST_CASE_SIG("a ledge: edge at both ends of ledge_between, near enough, with room", "",
                       ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    Intent intent;
    intent.ledge_between = {0.8, 1.6};
    intent.ahead_ledge = 0.4;
    const auto crouched = Stance<D>::capsule("crouched", 0.3, 1.0);
    const auto asked = [&](const Level<D>& level, const Stance<D>& stance) {
        return ledge<D>(level, placed<D>(bodies.capsule, at<D>(0, 0.001)), stance.shape.view(), forward<D>(),
                        intent);
    };
    const auto look = [&](double top, double gap, double roof) {
        return asked(level_of<D>({block<D>(-5, -1, 5, 0), block<D>(0.3 + gap, 0, 5, top),
                                  block<D>(0.3 + gap, roof, 5, roof + 1.0)}),
                     crouched);
    };
    for (const double top : {0.801 - hair, 0.801 + hair, 1.2, 1.601 - hair, 1.601 + hair}) {
        const auto truth = look(top, 0.2, 9.0);
        CAPTURE(top);
        CHECK(truth.on == (top > 0.801 && top < 1.601));
        if (!truth.on) continue;
        CHECK(truth.height == Approx(top - 0.001).margin(1e-9));
        CHECK((truth.edge - at<D>(0.5, top)).norm() <= 1e-6);
    }
    CHECK(look(1.2, 0.4 - hair, 9.0).on);
    CHECK_FALSE(look(1.2, 0.4 + hair, 9.0).on);
    // A millimetre to spare and to lack, over touch.
    CHECK(look(1.2, 0.2, 2.2 - 0.019).on);
    CHECK_FALSE(look(1.2, 0.2, 2.2 - 0.021).on);
    // A top too steep to walk is none.
    CHECK_FALSE(asked(level_of<D>({block<D>(-5, -1, 5, 0), slope<D>(at<D>(0.6, 1.2), 50.0),
                                   block<D>(0.5, 0, 0.6, 1.2)}),
                      crouched)
                    .on);
    // Taller climbers than the ledge is high find the same edge.
    for (const double height : {1.0, 1.31, 1.8, 2.5}) {
        const auto truth = asked(level_of<D>({block<D>(-5, -1, 5, 0), block<D>(0.5, 0, 5, 1.2)}),
                                 Stance<D>::capsule("climber", 0.3, height));
        CAPTURE(height);
        REQUIRE(truth.on);
        CHECK((truth.edge - at<D>(0.5, 1.2)).norm() <= 1e-6);
    }
    // Nothing is seen through a fence, tall or low; nor beyond a kerb.
    const auto floor = block<D>(-5, -1, 5, 0);
    const auto top = block<D>(0.6, 0, 5, 1.2);
    CHECK(asked(level_of<D>({floor, top}), crouched).on);
    CHECK_FALSE(asked(level_of<D>({floor, top, block<D>(0.45, 0, 0.46, 2.5)}), crouched).on);
    CHECK_FALSE(asked(level_of<D>({floor, top, block<D>(0.45, 0, 0.46, 0.2)}), crouched).on);
    // The highest rest has no room: a lower one that has counts.
    const auto shelf = block<D>(0.5, 1.55, 5, 1.58);
    const auto crawling =
        Stance<D>::box("crawling", at<D>(0.6, 0.3) + (at<D>(0.6, 0.6) - at<D>(0.6, 0.6)) +
                                       (D == 3 ? 0.6 * Vec<D>::unit(D - 1) : Vec<D>::zero()));
    const auto niche =
        asked(level_of<D>({floor, block<D>(0.5, 0, 5, 1.2), shelf, block<D>(0.5, 1.7, 5, 3)}), crawling);
    REQUIRE(niche.on);
    CHECK(niche.height == Approx(1.199).margin(1e-9));
    // A sloped top counts by its edge, not by where the climber would stand.
    std::vector<Vec<D>> wedge;
    for (const double z : {-10.0, 10.0}) {
        for (const auto& p : {at<D>(0.5, 0.0), at<D>(5.0, 0.0),
                              at<D>(5.0, 1.55 + 4.5 * std::tan(radians(30.0))), at<D>(0.5, 1.55)})
            wedge.push_back(p + (D == 3 ? z : 0.0) * Vec<D>::unit(D - 1));
        if (D == 2) break;
    }
    const auto sloped = asked(level_of<D>({floor, RoundedHull<D>::hull(wedge)}), crouched);
    REQUIRE(sloped.on);
    CHECK((sloped.edge - at<D>(0.5, 1.55)).norm() <= 1e-6);
}

TEMPLATE_TEST_CASE_SIG(
    "a bar is no step for who meets it flush with the lifted feet, and would be in it further on", "",
    ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    Intent intent;
    intent.ahead_step = 0.3;
    intent.ahead_wall = 0.3;
    for (int i = 0; i <= 40; ++i) {
        // Its widest part, where a box runs against it, is as high as its radius; its top twice that.
        const double radius = 0.2 + 0.005 * i;
        const auto level =
            level_of<D>({block<D>(-5, -1, 9, 0),
                         RoundedHull<D>::capsule(at<D>(0.4 + radius, radius), at<D>(4.0, radius), radius)});
        const auto body = placed<D>(bodies.box, at<D>(0, 0));
        CAPTURE(radius);
        // Lifted by 0.35 a body clears what turns flatter than 45 degrees no more than touch above that.
        const double flat_from = radius + radius * std::cos(radians(45.0));
        const bool clears = flat_from < intent.tallest_step + intent.touch;
        const auto truth = step<D>(level, body, forward<D>(), intent);
        if (truth.decided) CHECK(truth.on == clears);
        CHECK(wall<D>(level, body, forward<D>(), intent).on == !truth.on);
    }
    // The side of a slab that is flush with the lifted feet is none.
    for (const double top : {0.3, 0.35}) {
        const auto kerb = level_of<D>({block<D>(-5, -1, 9, 0), block<D>(0.4, 0, 9, top)});
        CHECK(step<D>(kerb, placed<D>(bodies.box, at<D>(0, 0)), forward<D>(), intent).on);
    }
}

TEMPLATE_TEST_CASE_SIG("the edge of a round ledge is where its top turns steep", "", ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    Random random(31);
    for (int i = 0; i < 60; ++i) {
        const double radius = random.between(0.4, 0.6);  // too tall for a step
        const double face = random.between(0.35, 0.6);
        Intent intent;
        intent.ahead_ledge = 0.5;
        intent.ledge_between = {0.3, 1.5};
        intent.steepest_footing_degrees = random.between(30.0, 60.0);
        const double steepest = radians(intent.steepest_footing_degrees);
        const auto bar =
            RoundedHull<D>::capsule(at<D>(face + radius, radius), at<D>(face + radius + 3.0, radius), radius);
        const auto level = level_of<D>({block<D>(-5, -1, 9, 0), bar});
        const auto body = placed<D>(bodies.box, at<D>(0, 0));
        const auto truth = ledge<D>(level, body, bodies.capsule.shape.view(), forward<D>(), intent);
        CAPTURE(radius, face, intent.steepest_footing_degrees);
        REQUIRE(truth.on);
        const double along = face + radius - radius * std::sin(steepest);
        CHECK((truth.edge - at<D>(along, radius + radius * std::cos(steepest))).norm() < 1e-6);
        CHECK(truth.height == Approx(radius + radius * std::cos(steepest)).margin(1e-6));
    }
}

TEMPLATE_TEST_CASE_SIG("headroom: a stance fits with a millimetre to spare and not with one to lack", "",
                       ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    const Intent intent;
    for (const double roof : {1.781, 1.779, 1.9}) {
        const auto level = level_of<D>({block<D>(-5, -1, 5, 0), block<D>(-5, roof, 5, 3)});
        const auto truth =
            headroom<D>(level, placed<D>(bodies.box, at<D>(0, 0)), bodies.box.shape.view(), intent, 1.0);
        CHECK(truth.on == (roof > 1.78));
        // On the floor touch is all there is to spare.
        CHECK(truth.margin.distance ==
              Approx(std::min(std::abs(roof - 1.78), 0.02)).margin(1e-9).epsilon(0.0));
        CHECK(truth.piece.has_value() == (roof < 1.78));
    }
}

TEMPLATE_TEST_CASE_SIG("headroom minds one-way solids that standing up runs against", "", ((int D), D), 2,
                       3) {
    const Bodies<D> bodies;
    const Intent intent;
    const auto low = Stance<D>::capsule("crouched", 0.3, 0.8);
    for (const double side : {-1.0, 1.0}) {
        LevelBuilder<D> builder({"m"});
        builder.add("plate", "m", block<D>(-5, 1.2, 5, 1.3));
        builder.one_way(side * Vec<D>::unit(1));
        const auto level = builder.build();
        // Solid to what comes from below; passed by what comes from there, or stands in it already.
        CHECK(headroom<D>(level, placed<D>(low, at<D>(0, 0)), bodies.capsule.shape.view(), intent).on ==
              (side > 0.0));
        CHECK(headroom<D>(level, placed<D>(low, at<D>(0, 0.6)), bodies.capsule.shape.view(), intent).on);
    }
}

TEMPLATE_TEST_CASE_SIG("blocked: the planned move meets something, but nothing flush with the feet", "",
                       ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    const Intent intent;
    for (const bool round : {true, false}) {
        const auto level =
            level_of<D>({block<D>(-5, -1, 0.31, 0), block<D>(0.31, -1, 5, 0.0), block<D>(0.5, 0, 1, 3)});
        for (const double sunk : {0.0, 1e-15, 0.01}) {
            const auto body = placed<D>(bodies.get(round), at<D>(0, -sunk));
            CAPTURE(round, sunk);
            CHECK(blocked<D>(level, body, forward<D>(), 0.2 + hair, intent).on);
            CHECK_FALSE(blocked<D>(level, body, forward<D>(), 0.2 - hair, intent).on);
            CHECK_FALSE(blocked<D>(level, body, -forward<D>(), 2.0, intent).on);
            CHECK(blocked<D>(level, body, -Vec<D>::unit(1), 0.0, intent).on);
        }
    }
}

TEMPLATE_TEST_CASE_SIG("however a solid is cut into pieces, walls and steps are the same", "", ((int D), D),
                       2, 3) {
    // A stair and a wall of boxes as one solid, and the same cut into tiles, over many places and rises.
    const Bodies<D> bodies;
    Intent intent;
    intent.ahead_wall = 0.1;
    intent.ahead_step = 0.1;
    Random random(5);
    int steps = 0;
    int walls = 0;
    for (int i = 0; i < 100; ++i) {
        const double rise = random.between(0.03, 0.5);
        const double top = random.below(2) == 0 ? rise : random.between(0.5, 2.5);
        const double tile = random.between(0.06, 0.4);
        std::vector<RoundedHull<D>> tiles;
        const int across = D == 3 ? 6 : 1;
        const int rows = static_cast<int>(std::ceil(top / tile));
        for (int row = 0; row < rows; ++row) {
            for (int column = 0; column < 4; ++column) {
                for (int k = 0; k < across; ++k) {
                    const double low = top - (row + 1) * tile;
                    Vec<D> size = Vec<D>::constant(tile);
                    size[0] = 0.4;
                    if (D == 3) size[D - 1] = 0.5;
                    Vec<D> center = at<D>(0.3 + 0.2 + 0.4 * column, low + 0.5 * tile);
                    if (D == 3) center[D - 1] = 0.5 * k - 1.25 + 0.1;
                    tiles.push_back(RoundedHull<D>::box(center, size));
                }
            }
        }
        Vec<D> size = at<D>(1.6, rows * tile);
        Vec<D> center = at<D>(0.3 + 0.8, top - 0.5 * rows * tile);
        if (D == 3) {
            size[D - 1] = 3.0;
            center[D - 1] = 0.1;
        }
        const auto build = [&](const std::vector<RoundedHull<D>>& parts) {
            LevelBuilder<D> builder({"m"});
            builder.add("floor", "m", block<D>(-5, -9, 5, 0));
            builder.add_parts("block", "m", parts);
            return builder.build();
        };
        const auto cut = build(tiles);
        const auto whole = build({RoundedHull<D>::box(center, size)});
        const double gap = random.below(3) == 0 ? -random.between(0.0, 0.02) : random.between(0.0, 0.1);
        Vec<D> anchor = at<D>(-gap, random.between(-0.01, 0.02));
        if (D == 3) anchor[D - 1] = random.between(-0.5, 0.5);
        for (const bool round : {true, false}) {
            const auto body = placed<D>(bodies.get(round), anchor);
            const auto a = step<D>(cut, body, forward<D>(), intent);
            const auto b = step<D>(whole, body, forward<D>(), intent);
            const auto c = wall<D>(cut, body, forward<D>(), intent);
            const auto d = wall<D>(whole, body, forward<D>(), intent);
            CAPTURE(i, round, rise, top, tile, gap, anchor, a.rise, b.rise);
            CHECK(a.on == b.on);
            CHECK(c.on == d.on);
            CHECK_FALSE((a.on && c.on));
            if (a.on && b.on) CHECK(a.rise == Approx(b.rise).margin(1e-7));
            steps += b.on ? 1 : 0;
            walls += d.on ? 1 : 0;
            const bool under = ground<D>(cut, body, intent).on;
            CHECK(under == ground<D>(whole, body, intent).on);
        }
    }
    CHECK(steps > 25);
    CHECK(walls > 50);
}

TEMPLATE_TEST_CASE_SIG("a tunnel is what both ends of a move do not see", "", ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    const Intent intent;
    const auto body = placed<D>(bodies.capsule, at<D>(0, 0));
    LevelBuilder<D> builder({"m"});
    builder.add("gate", "m", block<D>(1.0, -1, 1.05, 3));
    builder.add("hatch", "m", block<D>(-3, 4.0, 3, 4.1));
    builder.one_way(Vec<D>::unit(1));
    const auto level = builder.build();
    const auto through = tunnel<D>(level, body, at<D>(2.0, 0.0), intent);
    CHECK(through.on);
    CHECK(through.piece == 0U);
    // Deepest with its middle in the gate's: half of 0.6 and of 0.05 to get out.
    CHECK(through.depth == Approx(0.325).margin(1e-8));
    CHECK_FALSE(tunnel<D>(level, body, at<D>(0.7, 0.0), intent).on);
    CHECK_FALSE(tunnel<D>(level, body, at<D>(1.0, 0.0), intent).on);  // that is a clip
    CHECK_FALSE(tunnel<D>(level, body, at<D>(0.0, 0.0), intent).on);
    // Up through a hatch that is solid from above is as meant; down through it is not.
    CHECK_FALSE(tunnel<D>(level, placed<D>(bodies.capsule, at<D>(0, 2.0)), at<D>(0.0, 5.0), intent).on);
    CHECK(tunnel<D>(level, placed<D>(bodies.capsule, at<D>(0, 5.0)), at<D>(0.0, -4.0), intent).on);
    // A corner clipped by less than touch is none.
    const auto corner = level_of<D>({block<D>(0.5, -3, 0.6, 0.0 + 0.01)});
    CHECK_FALSE(tunnel<D>(corner, body, at<D>(3.0, 0.0), intent).on);
}

TEMPLATE_TEST_CASE_SIG("a ledge that ends where its wall stands higher than its top says how near that is",
                       "", ((int D), D), 2, 3) {
    // The lip of an overhanging wedge, from which its top falls: lower down on its face the body meets it
    // farther on, where the top is lower than the lip.
    Random random(611);
    const Stance<D> stance = Stance<D>::capsule("upright", 0.35, 0.7001);
    int flips = 0;
    for (int round = 0; round < 8; ++round) {
        const double lip = random.between(0.5, 0.7);
        const double overhang = random.between(0.9, 1.1);
        std::vector<Vec<D>> corners;
        for (const double z : D == 2 ? std::vector<double>{0.0} : std::vector<double>{-5.0, 5.0}) {
            for (const Vec<D>& p : {at<D>(lip, 0.75), at<D>(lip + overhang, -0.75),
                                    at<D>(lip + overhang, random.between(0.25, 0.35))})
                corners.push_back(p + z * Vec<D>::unit(D - 1));
        }
        const Level<D> level = level_of<D>({RoundedHull<D>::hull(corners)});
        Intent intent;
        intent.touch = 0.04;
        intent.ceiling_within_degrees = 40.0;
        intent.ahead_ledge = 0.8;
        intent.ledge_between = {0.3, 2.0};
        const auto truth_at = [&](double height) {
            return ledge<D>(level, placed<D>(stance, at<D>(0.0, height)), stance.shape.view(), forward<D>(),
                            intent);
        };
        constexpr double apart = 0.0005;
        std::vector<double> changes;
        for (double height = -0.6; height < 0.5; height += apart) {
            if (truth_at(height).on != truth_at(height + apart).on) changes.push_back(height + 0.5 * apart);
        }
        flips += static_cast<int>(changes.size());
        for (double height = -0.29; height < 0.19; height += 0.0071) {
            double nearest = infinity;
            for (const double change : changes) nearest = std::min(nearest, std::abs(change - height));
            const double margin = truth_at(height).margin.distance;
            CAPTURE(D, round, height, nearest, margin);
            CHECK(margin <= nearest + apart);
            // Nor is it told to be much nearer than it is.
            CHECK(margin >= 0.2 * (std::min(nearest, intent.touch) - apart));
        }
    }
    CHECK(flips > 8);
}

TEMPLATE_TEST_CASE_SIG("a top behind a shoulder of the wall is its ledge, one behind a trench is not", "",
                       ((int D), D), 2, 3) {
    const Bodies<D> bodies;
    Intent intent;
    intent.ledge_between = {0.8, 1.6};
    intent.ahead_ledge = 0.6;
    const auto truth_on = [&](const Level<D>& level) {
        return ledge<D>(level, placed<D>(bodies.capsule, at<D>(0, 0.001)), bodies.capsule.shape.view(),
                        forward<D>(), intent);
    };
    // On the wall's own top, from 0.02 behind its face on, lies what rises steeply and then is walked on.
    const double rise = 0.1 * std::tan(radians(60.0));
    std::vector<Vec<D>> corners;
    for (const double z : D == 2 ? std::vector<double>{0.0} : std::vector<double>{-10.0, 10.0}) {
        for (const Vec<D>& p :
             {at<D>(0.52, 0.9), at<D>(0.62, 0.9 + rise), at<D>(9.0, 0.9 + rise), at<D>(9.0, 0.9)})
            corners.push_back(p + z * Vec<D>::unit(D - 1));
    }
    const auto behind_shoulder =
        truth_on(level_of<D>({block<D>(0.5, -1.0, 9.0, 0.9), RoundedHull<D>::hull(corners)}));
    REQUIRE(behind_shoulder.on);
    CHECK(behind_shoulder.decided);
    CHECK((behind_shoulder.edge - at<D>(0.62, 0.9 + rise)).norm() < 1e-6);

    const auto behind_trench =
        truth_on(level_of<D>({block<D>(0.5, -1.0, 0.55, 1.0), block<D>(0.75, -1.0, 9.0, 1.0)}));
    CHECK_FALSE(behind_trench.on);
    CHECK(behind_trench.decided);
}

TEST_CASE("what lies inside of a hollow wall is no ledge of it") {
    const Bodies<2> bodies;
    for (const double top : {2.5, 3.5}) {
        // A shed of lines, with a floor to climb on if its wall were not in the way.
        const std::vector<Vec<2>> shed = {
            {0.5, 0.8}, {4.0, 0.8}, {4.0, top + 0.2}, {0.5, top + 0.2}, {0.5, 0.8}};
        const auto level = LevelBuilder<2>({"m"})
                               .add("floor", "m", block<2>(-9, -1, 9, 0))
                               .add_polyline("shed", "m", shed)
                               .build();
        for (const bool round : {true, false}) {
            const auto& stance = bodies.get(round);
            CAPTURE(top, round);
            CHECK_FALSE(
                ledge<2>(level, placed<2>(stance, {0, 0}), stance.shape.view(), forward<2>(), Intent()).on);
        }
    }
    // Without its front wall it has one.
    const auto open = LevelBuilder<2>({"m"})
                          .add("floor", "m", block<2>(-9, -1, 9, 0))
                          .add_polyline("shed", "m", {{0.5, 0.8}, {4.0, 0.8}, {4.0, 3.5}})
                          .add_polyline("riser", "m", {{0.5, 0.0}, {0.5, 0.8}})
                          .build();
    CHECK(ledge<2>(open, placed<2>(bodies.box, {0, 0}), bodies.box.shape.view(), forward<2>(), Intent()).on);
}

namespace {

/// Some thin things over a floor, made by add_thin(builder, name, one end, the other).
template <int D, class AddThin>
Level<D> floor_with_thin_things(std::uint64_t scene, AddThin add_thin) {
    Random random(scene);
    LevelBuilder<D> builder({"m"});
    const Vec<D> floor = random.between(-0.6, 0.0) * Vec<D>::unit(0) - 0.5 * Vec<D>::unit(1);
    builder.add("floor", "m", RoundedHull<D>::box(floor, Vec<D>::constant(1.0)));
    for (int i = 0; i < 4; ++i) {
        Vec<D> from = random.point<D>(0.8);
        from[1] = random.between(-0.2, 1.2);
        const Vec<D> to = from + random.point<D>(0.4);
        add_thin(builder, "thin " + std::to_string(i), from, to);
    }
    return builder.build();
}

/// Whether two levels say the same of a claim, wherever a body stands in the first; returns how often it
/// holds.
template <int D>
int count_alike(Claim claim, const Level<D>& level, const Level<D>& other, std::uint64_t seed) {
    Intent intent;
    intent.ahead_ledge = 0.3;
    Random random(seed);
    const auto stance = random.below(2) == 0 ? Stance<D>::capsule("upright", 0.3, 1.2)
                                             : Stance<D>::box("upright", 0.6 * Vec<D>::ones());
    int on = 0;
    for (int i = 0; i < 60; ++i) {
        Vec<D> foot = random.point<D>(0.8);
        std::vector<double> heights;
        find_rests<D>(level, {stance.shape.view(), foot, 1}, intent, heights);
        if (heights.empty()) continue;
        foot[1] = heights[static_cast<std::size_t>(random.below(static_cast<int>(heights.size())))];
        const TruthQuestion<D> question{{stance.shape.view(), foot, 1}, Vec<D>::unit(0), stance.shape.view()};
        const auto a = answer<D>(claim, level, question, intent);
        const auto b = answer<D>(claim, other, question, intent);
        INFO(name_of(claim) << ", seed " << seed << ", at " << foot);
        if (a.decided && b.decided && a.on != b.on) CHECK(in_doubt<D>(claim, other, question, intent, b.on));
        on += a.on ? 1 : 0;
    }
    return on;
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("a point or a needle is as a ball or a rod that is hardly thicker", "", ((int D), D),
                       2, 3) {
    const auto thin = [](std::uint64_t scene, double radius) {
        return floor_with_thin_things<D>(
            scene, [&](auto& builder, const std::string& name, const Vec<D>& from, const Vec<D>& to) {
                const bool is_point = name.back() % 2 == 0;
                const auto shape =
                    is_point ? RoundedHull<D>::ball(from, 1.0) : RoundedHull<D>::capsule(from, to, 1.0);
                builder.add(name, "m", shape.with_radius(radius));
            });
    };
    for (const Claim claim : {Claim::ground, Claim::wall, Claim::step, Claim::ledge}) {
        int on = 0;
        for (std::uint64_t scene = 0; scene < 40; ++scene)
            on += count_alike<D>(claim, thin(scene, 0.0), thin(scene, 1e-9), scene + 100);
        CAPTURE(name_of(claim));
        if (claim != Claim::ledge) CHECK(on > 5);
    }
}

TEST_CASE("a needle in the plane is as a line of one segment") {
    for (const Claim claim : {Claim::ground, Claim::wall, Claim::step, Claim::drop}) {
        int on = 0;
        for (std::uint64_t scene = 0; scene < 40; ++scene) {
            const auto needles = floor_with_thin_things<2>(
                scene, [](auto& builder, const std::string& name, const Vec<2>& from, const Vec<2>& to) {
                    builder.add(name, "m", RoundedHull<2>::capsule(from, to, 1.0).with_radius(0.0));
                });
            const auto lines = floor_with_thin_things<2>(
                scene, [](auto& builder, const std::string& name, const Vec<2>& from, const Vec<2>& to) {
                    builder.add_polyline(name, "m", {from, to});
                });
            on += count_alike<2>(claim, needles, lines, scene + 100);
        }
        CAPTURE(name_of(claim));
        CHECK(on > 10);
    }
}
