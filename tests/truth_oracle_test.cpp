// Truth against brute force: bodies as dense rows of points, solids as distance formulas, and the definitions
// written out again. No code is shared with the library but the vectors.
//
// The case tagged [.long] is left out of an ordinary run: ./run long.
#include <catch2/catch.hpp>

#include "hollow_probe/truth/answer.hpp"
#include "hollow_probe/truth/drop.hpp"
#include "hollow_probe/truth/fit.hpp"
#include "hollow_probe/truth/wall.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

/// A turned box, rounded; a ball if it has no size.
template <int D>
struct Stone {
    Mat<D> turn;
    Vec<D> center;
    Vec<D> half;
    double radius = 0.0;

    double distance(const Vec<D>& p) const {
        const Vec<D> q = (turn.transpose() * (p - center)).cwiseAbs() - half;
        return q.cwiseMax(0.0).norm() + std::min(q.maxCoeff(), 0.0) - radius;
    }
    Vec<D> normal(const Vec<D>& p) const {
        constexpr double h = 1e-6;
        Vec<D> n;
        for (int axis = 0; axis < D; ++axis) {
            n[axis] = distance(p + h * Vec<D>::Unit(axis)) - distance(p - h * Vec<D>::Unit(axis));
        }
        return n.normalized();
    }
};

/// An upright capsule, as points along its axis.
template <int D>
struct Walker {
    static constexpr int count = 81;
    double radius = 0.3;
    double height = 1.8;

    Vec<D> point(int i) const {
        return (radius + (height - 2.0 * radius) * i / (count - 1)) * Vec<D>::Unit(1);
    }
    std::pair<double, Vec<D>> nearest(const Stone<D>& stone, const Vec<D>& anchor) const {
        double least = infinity;
        Vec<D> where = anchor;
        for (int i = 0; i < count; ++i) {
            const Vec<D> p = anchor + point(i);
            const double d = stone.distance(p) - radius;
            // Of equally near ones the highest: the last.
            if (d < least + 1e-9) {
                least = std::min(least, d);
                where = p;
            }
        }
        return {least, where};
    }
};

struct Touch {
    std::size_t stone = 0;
    double way = 0.0;
    double angle_from_up = 0.0;   // of the normal, degrees
    double angle_from_way = 0.0;  // … from the direction moved in
    double height = 0.0;          // of the point of touch
};

template <int D>
struct Oracle {
    std::vector<Stone<D>> stones;
    Walker<D> walker;
    Intent intent;

    double least_gap(const Vec<D>& anchor) const {
        double least = infinity;
        for (const Stone<D>& stone : stones) least = std::min(least, walker.nearest(stone, anchor).first);
        return least;
    }

    /// Going by the gap each time never passes a touch. What is overlapped deeper than touch at the start
    /// does not count.
    std::vector<Touch> touches(const Vec<D>& anchor, const Vec<D>& way, double reach) const {
        std::vector<Touch> result;
        for (std::size_t i = 0; i < stones.size(); ++i) {
            double t = 0.0;
            if (walker.nearest(stones[i], anchor).first < -intent.touch) continue;
            for (int round = 0; round < 400 && t <= reach; ++round) {
                const auto [gap, where] = walker.nearest(stones[i], anchor + t * way);
                if (gap > 1e-6) {
                    t += gap;
                    continue;
                }
                const Vec<D> n = stones[i].normal(where);
                const auto angle = [&](const Vec<D>& axis) {
                    return degrees(std::acos(std::clamp(n.dot(axis), -1.0, 1.0)));
                };
                const Vec<D> at = where - walker.radius * n;
                if (n.dot(way) < -1e-6) result.push_back({i, t, angle(Vec<D>::Unit(1)), angle(way), at[1]});
                break;
            }
        }
        return result;
    }

    bool ground(const Vec<D>& anchor) const {
        const auto below = touches(anchor, Vec<D>(-Vec<D>::Unit(1)), intent.touch);
        return std::any_of(below.begin(), below.end(), [&](const Touch& t) {
            return t.angle_from_up <= intent.steepest_footing_degrees;
        });
    }
    bool ceiling(const Vec<D>& anchor) const {
        const auto above = touches(anchor, Vec<D>::Unit(1), intent.touch);
        return std::any_of(above.begin(), above.end(), [&](const Touch& t) {
            return 180.0 - t.angle_from_up <= intent.ceiling_within_degrees;
        });
    }
    bool can_be_stepped_on(const Vec<D>& anchor, const Vec<D>& heading, const Touch& riser) const {
        const double rise = riser.height - anchor[1];
        if (rise < intent.lowest_step || rise > intent.tallest_step) return false;
        const Vec<D> lifted = anchor + intent.tallest_step * Vec<D>::Unit(1);
        if (least_gap(lifted) < -intent.touch) return false;
        const double way = riser.way + walker.radius;
        if (!touches(lifted, heading, way).empty()) return false;
        const Vec<D> over = lifted + way * heading;
        double fall = infinity;
        for (const Touch& t : touches(over, Vec<D>(-Vec<D>::Unit(1)), intent.tallest_step + intent.touch)) {
            fall = std::min(fall, t.way);
        }
        return fall < infinity && ground(over - (fall - 1e-5) * Vec<D>::Unit(1));
    }
    bool step(const Vec<D>& anchor, const Vec<D>& heading) const {
        const auto ahead = touches(anchor, heading, intent.ahead_step);
        return std::any_of(ahead.begin(), ahead.end(), [&](const Touch& t) {
            return t.angle_from_up > intent.steepest_footing_degrees && can_be_stepped_on(anchor, heading, t);
        });
    }
    bool wall(const Vec<D>& anchor, const Vec<D>& heading) const {
        const auto ahead = touches(anchor, heading, intent.ahead_wall);
        return std::any_of(ahead.begin(), ahead.end(), [&](const Touch& t) {
            return t.angle_from_up > intent.steepest_footing_degrees &&
                   180.0 - t.angle_from_up > intent.ceiling_within_degrees &&
                   std::cos(radians(t.angle_from_way)) < -0.1 && !can_be_stepped_on(anchor, heading, t);
        });
    }
    bool drop(const Vec<D>& anchor, const Vec<D>& heading) const {
        if (!ground(anchor)) return false;
        const Vec<D> lifted = anchor + intent.tallest_step * Vec<D>::Unit(1);
        double free = intent.ahead_drop;
        for (const Touch& t : touches(lifted, heading, free)) free = std::min(free, t.way);
        for (int i = 0; i <= 50; ++i) {
            const double a = intent.ahead_drop * i / 50.0;
            if (a > free) break;
            const auto below = touches(lifted + a * heading, Vec<D>(-Vec<D>::Unit(1)),
                                       intent.tallest_step + intent.deepest_drop);
            if (std::none_of(below.begin(), below.end(), [&](const Touch& t) {
                    return t.angle_from_up <= intent.steepest_footing_degrees;
                })) {
                return true;
            }
        }
        return false;
    }
};

template <int D>
Oracle<D> random_scene(Random& random) {
    Oracle<D> oracle;
    oracle.intent.touch = 0.05;
    oracle.intent.ahead_wall = 0.3;
    oracle.intent.ahead_step = 0.3;
    oracle.intent.ahead_drop = 0.6;
    oracle.intent.deepest_drop = 0.4;
    const auto stone = [&](const Vec<D>& center, const Vec<D>& half, double radius, bool turned) {
        oracle.stones.push_back(
            {turned ? random_turn<D>(random) : Mat<D>(Mat<D>::Identity()), center, half, radius});
    };
    // A floor under the feet most of the time, a few things ahead and above.
    Vec<D> wide = Vec<D>::Constant(random.between(0.4, 1.2));
    wide[1] = 0.5;
    stone(-0.5 * Vec<D>::Unit(1) + random.between(-0.8, 0.6) * Vec<D>::Unit(0), wide, 0.0, false);
    const Vec<D> slab = 0.7 * Vec<D>::Ones() - 0.4 * Vec<D>::Unit(1);
    if (random.below(3) == 0) stone((2.1 + random.between(0.0, 0.2)) * Vec<D>::Unit(1), slab, 0.0, false);
    if (random.below(3) == 0) {
        // A kerb.
        const double rise = random.between(0.0, 0.5);
        stone((rise - 0.3) * Vec<D>::Unit(1) + random.between(0.9, 1.4) * Vec<D>::Unit(0), slab, 0.0, false);
    }
    const int count = random.below(4);
    for (int i = 0; i < count; ++i) {
        Vec<D> center = random.point<D>(0.4);
        center[0] += random.between(0.3, 1.6);
        center[1] = random.between(-0.3, 2.4);
        Vec<D> half;
        for (int axis = 0; axis < D; ++axis) half[axis] = random.between(0.05, 0.5);
        if (random.below(3) == 0) half.setZero();
        stone(center, half, half.isZero(0.0) ? random.between(0.1, 0.5) : 0.0, random.below(2) == 0);
    }
    return oracle;
}

template <int D>
Level<D> level_of(const Oracle<D>& oracle) {
    LevelBuilder<D> builder({"m"});
    for (std::size_t i = 0; i < oracle.stones.size(); ++i) {
        const Stone<D>& stone = oracle.stones[i];
        const auto shape = stone.half.isZero(0.0)
                               ? RoundedHull<D>::ball(Vec<D>(Vec<D>::Zero()), stone.radius)
                               : RoundedHull<D>::box(Vec<D>(Vec<D>::Zero()), Vec<D>(2.0 * stone.half));
        builder.add("stone " + std::to_string(i), "m", shape.placed(stone.turn, stone.center));
    }
    return builder.build();
}

template <int D>
void judge_scenes(int count, std::uint64_t seed) {
    Random random(seed);
    const auto stance = Stance<D>::capsule("upright", 0.3, 1.8);
    struct Tally {
        int on = 0;
        int off = 0;
        int too_near = 0;
    };
    std::array<Tally, 5> tallies;
    int judged = 0;
    const Vec<D> heading = Vec<D>::Unit(0);
    for (int i = 0; i < count; ++i) {
        const Oracle<D> oracle = random_scene<D>(random);
        const Vec<D> anchor = random.between(0.0, 0.08) * Vec<D>::Unit(1);
        if (oracle.least_gap(anchor) < 0.002) continue;  // overlaps are judged elsewhere
        ++judged;
        const Level<D> level = level_of(oracle);
        const TruthQuestion<D> question{{stance.shape.view(), anchor, 1}, heading, stance.shape.view()};
        const std::array<std::pair<Claim, bool>, 5> expected = {
            {{Claim::ground, oracle.ground(anchor)},
             {Claim::ceiling, oracle.ceiling(anchor)},
             {Claim::wall, oracle.wall(anchor, heading)},
             {Claim::step, oracle.step(anchor, heading)},
             {Claim::drop, oracle.drop(anchor, heading)}}};
        for (std::size_t k = 0; k < expected.size(); ++k) {
            const auto truth = answer<D>(expected[k].first, level, question, oracle.intent, 0.1);
            const auto briefly =
                answer<D>(expected[k].first, level, question, oracle.intent, 0.1, Margins::left_out);
            CHECK(briefly.on == truth.on);
            CHECK(briefly.decided == truth.decided);
            // The oracle's points are 1/66 apart, its drops are looked for every 1/83.
            const double resolves = k < 2 ? 0.002 : 0.016;
            if (truth.margin.distance < resolves || truth.margin.degrees < 0.5) {
                ++tallies[k].too_near;
                continue;
            }
            CAPTURE(D, seed, i, name_of(expected[k].first), truth.margin.distance, truth.margin.degrees);
            REQUIRE(truth.on == expected[k].second);
            ++(truth.on ? tallies[k].on : tallies[k].off);
        }
    }
    for (std::size_t k = 0; k < tallies.size(); ++k) {
        CAPTURE(D, k, tallies[k].on, tallies[k].off, tallies[k].too_near);
        CHECK(tallies[k].on * 30 > judged);  // both answers were there to be had
        CHECK(tallies[k].off * 10 > judged);
        CHECK(tallies[k].too_near * 10 < judged);
    }
    CHECK(2 * judged > count);
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("truths agree with brute force over random scenes", "", ((int D), D), 2, 3) {
    judge_scenes<D>(2'000, 41);
}

TEMPLATE_TEST_CASE_SIG("truths agree with brute force over a hundred thousand random scenes", "[.long]",
                       ((int D), D), 2, 3) {
    judge_scenes<D>(100'000, 42);
}
