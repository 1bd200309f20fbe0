// Truth against brute force: bodies as dense rows of points, solids as distance formulas, and the definitions
// written out again. No code is shared with the library but the vectors.
//
// The case tagged [.long] is left out of an ordinary run: ./run long.
#include <catch2/catch.hpp>

#include <algorithm>
#include <numbers>
#include <optional>

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
        const Vec<D> q = (turn.transposed() * (p - center)).abs() - half;
        return q.max(Vec<D>::zero()).norm() + std::min(q.largest(), 0.0) - radius;
    }
    Vec<D> normal(const Vec<D>& p) const {
        constexpr double h = 1e-6;
        Vec<D> n;
        for (int axis = 0; axis < D; ++axis) {
            n[axis] = distance(p + h * Vec<D>::unit(axis)) - distance(p - h * Vec<D>::unit(axis));
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
        return (radius + (height - 2.0 * radius) * i / (count - 1)) * Vec<D>::unit(1);
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

template <int D>
struct Touch {
    std::size_t stone = 0;
    double way = 0.0;
    double angle_from_up = 0.0;   // of the normal, degrees
    double angle_from_way = 0.0;  // … from the direction moved in
    Vec<D> normal;
    Vec<D> point;
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
    std::vector<Touch<D>> touches(const Vec<D>& anchor, const Vec<D>& way, double reach) const {
        std::vector<Touch<D>> result;
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
                if (n.dot(way) < -1e-6) result.push_back({i, t, angle(Vec<D>::unit(1)), angle(way), n, at});
                break;
            }
        }
        return result;
    }

    bool ground(const Vec<D>& anchor) const {
        const auto below = touches(anchor, -Vec<D>::unit(1), intent.touch);
        return std::any_of(below.begin(), below.end(), [&](const Touch<D>& t) { return !is_steep(t); });
    }
    bool ceiling(const Vec<D>& anchor) const {
        const auto above = touches(anchor, Vec<D>::unit(1), intent.touch);
        return std::any_of(above.begin(), above.end(), [&](const Touch<D>& t) {
            return 180.0 - t.angle_from_up <= intent.ceiling_within_degrees;
        });
    }
    /// Footing as steep as it may be is footing; normals are known to some 1e-8 degrees.
    double steepest() const { return intent.steepest_footing_degrees + 1e-4; }
    bool is_steep(const Touch<D>& t) const { return t.angle_from_up > steepest(); }

    /// The highest point of the face, edge or corner touched, as far as the body is wide across its normal.
    double top(const Touch<D>& t, const Vec<D>& anchor) const {
        const Stone<D>& stone = stones[t.stone];
        if (stone.half.is_zero(0.0)) return t.point[1];
        const Vec<D> n = stone.turn.transposed() * t.normal;
        constexpr int parts = 60;
        double highest = t.point[1];
        for (int i = 0; i <= parts; ++i) {
            for (int k = 0; k <= (D == 3 ? parts : 0); ++k) {
                const std::array<double, 2> along = {2.0 * i / parts - 1.0, 2.0 * k / parts - 1.0};
                Vec<D> q;
                std::size_t used = 0;
                for (int axis = 0; axis < D; ++axis) {
                    const bool fixed = std::abs(n[axis]) > 1e-4 || used == D - 1;
                    q[axis] = stone.half[axis] * (fixed ? (n[axis] < 0.0 ? -1.0 : 1.0) : along[used++]);
                }
                const Vec<D> p = stone.center + stone.turn * q;
                // In the plane across the normal, from the body's axis.
                const auto flat = [&](const Vec<D>& v) { return v - v.dot(t.normal) * t.normal; };
                const Vec<D> low = flat(anchor + walker.point(0));
                const Vec<D> axis = flat(walker.point(Walker<D>::count - 1) - walker.point(0));
                const double length = axis.squared_norm();
                const double at = length > 0.0 ? std::clamp(axis.dot(flat(p) - low) / length, 0.0, 1.0) : 0.0;
                if ((low + at * axis - flat(p)).norm() <= walker.radius) highest = std::max(highest, p[1]);
            }
        }
        return highest;
    }
    double rise(const Touch<D>& t, const Vec<D>& anchor, const Vec<D>& heading) const {
        return top(t, anchor + t.way * heading) - anchor[1];
    }
    bool stops(const Touch<D>& t, const Vec<D>& anchor, const Vec<D>& heading) const {
        return is_steep(t) && rise(t, anchor, heading) > intent.touch;
    }

    struct Rest {
        double height = 0.0;
        Touch<D> touch;
    };
    /// On each stone alone, let down from far above.
    std::vector<Rest> rests(const Vec<D>& anchor) const {
        std::vector<Rest> result;
        for (const Touch<D>& t : touches(anchor + 6.0 * Vec<D>::unit(1), -Vec<D>::unit(1), 12.0))
            result.push_back({6.0 - t.way, t});
        std::sort(result.begin(), result.end(),
                  [](const Rest& a, const Rest& b) { return a.height > b.height; });
        return result;
    }
    double ride(double way) const { return way * std::tan(radians(intent.steepest_footing_degrees)); }

    /// How much higher it stands there than here.
    double higher_after(const Vec<D>& anchor, const Vec<D>& heading, double way) const {
        const auto stands = [&](const Vec<D>& at, double spare) {
            for (const Rest& rest : rests(at)) {
                if (!is_steep(rest.touch) && std::abs(rest.height) <= spare) return rest.height;
            }
            return infinity;
        };
        if (way < 1e-9) return 0.0;
        const double most = ride(way) + intent.touch;
        const double now = stands(anchor, intent.touch);
        const double then = stands(anchor + way * heading, most);
        return now < infinity && then < infinity ? then - now : 0.0;
    }
    bool can_be_stepped_on(const Vec<D>& anchor, const Vec<D>& heading, const Touch<D>& riser) const {
        const double stands = higher_after(anchor, heading, riser.way);
        const double high = rise(riser, anchor, heading) - stands;
        if (high < intent.lowest_step || high > intent.tallest_step) return false;
        const Vec<D> lifted = anchor + riser.way * heading + (stands + intent.tallest_step) * Vec<D>::unit(1);
        if (least_gap(lifted) < -intent.touch) return false;
        const auto raised = touches(lifted + intent.touch * Vec<D>::unit(1), heading, walker.radius);
        for (const Touch<D>& t : touches(lifted, heading, walker.radius)) {
            if (stops(t, lifted, heading)) return false;
            // Flush with the feet, but steep above them, too.
            for (const Touch<D>& above : raised) {
                if (is_steep(t) && above.stone == t.stone && is_steep(above)) return false;
            }
        }
        const Vec<D> over = lifted + walker.radius * heading;
        for (const Rest& rest : rests(over)) {
            if (rest.height > (is_steep(rest.touch) ? 0.0 : ride(walker.radius))) continue;
            return rest.height >= -intent.tallest_step - intent.touch && !is_steep(rest.touch) &&
                   least_gap(over + rest.height * Vec<D>::unit(1)) >= -intent.touch;
        }
        return false;
    }
    bool step(const Vec<D>& anchor, const Vec<D>& heading) const {
        const Touch<D>* nearest = nullptr;
        const auto ahead = touches(anchor, heading, intent.ahead_step);
        for (const Touch<D>& t : ahead) {
            if (stops(t, anchor, heading) && (nearest == nullptr || t.way < nearest->way)) nearest = &t;
        }
        return nearest != nullptr && can_be_stepped_on(anchor, heading, *nearest);
    }
    bool is_wall(const Vec<D>& anchor, const Vec<D>& heading, const Touch<D>& t) const {
        return stops(t, anchor, heading) && 180.0 - t.angle_from_up > intent.ceiling_within_degrees &&
               std::cos(radians(t.angle_from_way)) < -0.1 && !can_be_stepped_on(anchor, heading, t);
    }
    bool wall(const Vec<D>& anchor, const Vec<D>& heading) const {
        const auto ahead = touches(anchor, heading, intent.ahead_wall);
        return std::any_of(ahead.begin(), ahead.end(),
                           [&](const Touch<D>& t) { return is_wall(anchor, heading, t); });
    }
    /// Whether a touch is with a side, not an edge or corner.
    bool is_side(const Touch<D>& t) const {
        const Stone<D>& stone = stones[t.stone];
        return stone.half.is_zero(0.0) || (stone.turn.transposed() * t.normal).abs().largest() > 1.0 - 1e-6;
    }
    /// How far below it is and how it falls or rises along the heading; on an edge, as the side ahead does.
    struct Footing {
        double down = 0.0;
        double slope = 0.0;
    };
    /// What the body stands on most squarely: more than one where it stands on several alike.
    std::vector<Footing> footings_here(const Vec<D>& anchor, const Vec<D>& heading) const {
        std::vector<Touch<D>> under = touches(anchor, -Vec<D>::unit(1), intent.touch);
        double flattest = steepest();
        for (const Touch<D>& t : under) flattest = std::min(flattest, t.angle_from_up);
        std::erase_if(under, [&](const Touch<D>& t) { return t.angle_from_up > flattest + 1e-4; });
        std::vector<Footing> footings;
        for (const Touch<D>& t : under) {
            Vec<D> footing = t.normal;
            const Stone<D>& stone = stones[t.stone];
            double farthest = -infinity;
            for (int axis = 0; axis < D && !stone.half.is_zero(0.0); ++axis) {
                for (const double sign : {-1.0, 1.0}) {
                    const Vec<D> side = sign * stone.turn.column(axis);
                    const double depth = stone.half[axis] - side.dot(t.point - stone.center);
                    const bool is_footing = side[1] >= std::cos(radians(steepest()));
                    if (std::abs(depth) > 1e-4 || !is_footing || side.dot(heading) < farthest) continue;
                    farthest = side.dot(heading);
                    footing = side;
                }
            }
            const double slope = -footing.dot(heading) / footing[1];
            if (footings.empty() || std::abs(slope - footings.front().slope) > 1e-4)
                footings.push_back({-t.way, slope});
        }
        return footings;
    }
    /// The footing that the body comes down on there, if it does.
    std::optional<Touch<D>> footing(const Vec<D>& anchor, double highest, double goes_on,
                                    double lowest) const {
        std::vector<std::size_t> steep;
        for (const Rest& rest : rests(anchor)) {
            if (is_steep(rest.touch)) {
                if (rest.height <= goes_on && is_side(rest.touch)) steep.push_back(rest.touch.stone);
                continue;
            }
            const bool hidden = std::any_of(steep.begin(), steep.end(), [&](std::size_t stone) {
                return walker.nearest(stones[stone], anchor + rest.height * Vec<D>::unit(1)).first <
                       -intent.touch;
            });
            if (rest.height > highest || rest.height < lowest || hidden) continue;
            const bool inside = std::any_of(stones.begin(), stones.end(), [&](const Stone<D>& stone) {
                return stone.distance(rest.touch.point) < -intent.touch;
            });
            if (!inside) return rest.touch;
        }
        return std::nullopt;
    }
    bool drop(const Vec<D>& anchor, const Vec<D>& heading) const {
        if (!ground(anchor)) return false;
        const Vec<D> lifted = anchor + intent.tallest_step * Vec<D>::unit(1);
        const double farthest = intent.ahead_drop + walker.radius;
        double free = infinity;
        for (const Touch<D>& t : touches(lifted, heading, farthest)) {
            if (stops(t, lifted, heading)) free = std::min(free, t.way);
        }
        const auto [down, slope] = footings_here(anchor, heading).front();
        double edge = 0.0;
        constexpr int steps = 200;
        for (int i = 0; i <= steps; ++i) {
            const double a = farthest * i / steps;
            if (a > free) break;
            const auto under = footing(anchor + a * heading, intent.tallest_step + ride(a), down + a * slope,
                                       down + a * slope - intent.deepest_drop);
            if (!under) return edge <= intent.ahead_drop;
            edge = heading.dot(under->point - anchor);
        }
        return false;
    }
};

template <int D>
Oracle<D> nothing(double touch) {
    Oracle<D> oracle;
    oracle.intent.touch = touch;
    oracle.intent.ahead_wall = 0.3;
    oracle.intent.ahead_step = 0.3;
    oracle.intent.ahead_drop = 0.6;
    oracle.intent.deepest_drop = 0.4;
    return oracle;
}

template <int D>
Oracle<D> random_scene(Random& random) {
    Oracle<D> oracle = nothing<D>(0.05);
    const auto stone = [&](const Vec<D>& center, const Vec<D>& half, double radius, bool turned) {
        oracle.stones.push_back(
            {turned ? random_turn<D>(random) : Mat<D>(Mat<D>::identity()), center, half, radius});
    };
    // A floor under the feet most of the time, a few things ahead and above.
    Vec<D> wide = Vec<D>::constant(random.between(0.4, 1.2));
    wide[1] = 0.5;
    stone(-0.5 * Vec<D>::unit(1) + random.between(-0.8, 0.6) * Vec<D>::unit(0), wide, 0.0, false);
    const Vec<D> slab = 0.7 * Vec<D>::ones() - 0.4 * Vec<D>::unit(1);
    if (random.below(3) == 0) stone((2.1 + random.between(0.0, 0.2)) * Vec<D>::unit(1), slab, 0.0, false);
    if (random.below(3) == 0) {
        // A kerb.
        const double rise = random.between(0.0, 0.5);
        stone((rise - 0.3) * Vec<D>::unit(1) + random.between(0.9, 1.4) * Vec<D>::unit(0), slab, 0.0, false);
    }
    const int count = random.below(4);
    for (int i = 0; i < count; ++i) {
        Vec<D> center = random.point<D>(0.4);
        center[0] += random.between(0.3, 1.6);
        center[1] = random.between(-0.3, 2.4);
        Vec<D> half;
        for (int axis = 0; axis < D; ++axis) half[axis] = random.between(0.05, 0.5);
        if (random.below(3) == 0) half = Vec<D>::zero();
        stone(center, half, half.is_zero(0.0) ? random.between(0.1, 0.5) : 0.0, random.below(2) == 0);
    }
    return oracle;
}

/// Boxes whose corners lie on a lattice, some of them turned by sixteenths of a turn: flush with one another,
/// edge on edge, as steep as footing may be. No overlap with the body is as deep as touch to rounding.
template <int D>
Oracle<D> lattice_scene(Random& random) {
    Oracle<D> oracle = nothing<D>(0.04);
    const auto eighths = [&](int low, int high) { return 0.125 * (low + random.below(high - low + 1)); };
    const auto turned = [&](double angle) { return scenes::tilt<D>(angle); };
    Vec<D> wide = Vec<D>::constant(2.0 * eighths(2, 4));
    if (random.below(4) == 0) {  // a ridge
        const Mat<D> turn = turned(std::numbers::pi * eighths(0, 4));
        const Vec<D> ridge = turn * at<D>(wide[0], wide[1]);
        oracle.stones.push_back({turn, at<D>(eighths(-2, 2), 0.0) - ridge, wide, 0.0});
    } else {
        wide[1] = 0.5;
        oracle.stones.push_back({turned(0.0), at<D>(2.0 * eighths(-3, 2), -0.5), wide, 0.0});
    }
    for (int i = 1 + random.below(4); i-- > 0;) {
        Vec<D> center = at<D>(eighths(-6, 14), eighths(-5, 19));
        Vec<D> half;
        for (int axis = 0; axis < D; ++axis) half[axis] = eighths(1, 4);
        if (D == 3) center[D - 1] = eighths(-4, 4);
        const Mat<D> turn = turned(random.below(4) == 0 ? std::numbers::pi * eighths(0, 15) : 0.0);
        oracle.stones.push_back({turn, center, half, 0.0});
    }
    return oracle;
}

template <int D>
Level<D> level_of(const Oracle<D>& oracle) {
    LevelBuilder<D> builder({"m"});
    for (std::size_t i = 0; i < oracle.stones.size(); ++i) {
        const Stone<D>& stone = oracle.stones[i];
        const auto shape = stone.half.is_zero(0.0) ? RoundedHull<D>::ball(Vec<D>::zero(), stone.radius)
                                                   : RoundedHull<D>::box(Vec<D>::zero(), 2.0 * stone.half);
        builder.add("stone " + std::to_string(i), "m", shape.placed(stone.turn, stone.center));
    }
    return builder.build();
}

template <int D>
void judge_scenes(int count, std::uint64_t seed, bool on_lattice = false) {
    Random random(seed);
    const auto stance = Stance<D>::capsule("upright", 0.3, 1.8);
    struct Tally {
        int on = 0;
        int off = 0;
        int too_near = 0;
    };
    std::array<Tally, 5> tallies;
    int judged = 0;
    const Vec<D> heading = Vec<D>::unit(0);
    for (int i = 0; i < count; ++i) {
        const Oracle<D> oracle = on_lattice ? lattice_scene<D>(random) : random_scene<D>(random);
        const bool on_floor = on_lattice && random.below(2) == 0;
        const Vec<D> anchor = (on_floor ? 0.0 : random.between(0.0, 0.08)) * Vec<D>::unit(1);
        // Overlaps are judged elsewhere.
        if (oracle.least_gap(anchor) < (on_lattice ? -0.002 : 0.002)) continue;
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
            const bool either_way =
                expected[k].first == Claim::drop && oracle.footings_here(anchor, heading).size() > 1;
            if (truth.margin.distance < resolves || truth.margin.degrees < 0.5 || either_way) {
                ++tallies[k].too_near;
                continue;
            }
            CAPTURE(D, seed, i, name_of(expected[k].first), truth.margin.distance, truth.margin.degrees);
            if (truth.on != expected[k].second) {
                UNSCOPED_INFO("anchor " << anchor);
                for (const auto& s : oracle.stones)
                    UNSCOPED_INFO("stone c " << s.center << " half " << s.half << " r " << s.radius
                                             << " turned to " << s.turn.column(0));
            }
            REQUIRE(truth.on == expected[k].second);
            ++(truth.on ? tallies[k].on : tallies[k].off);
        }
    }
    for (std::size_t k = 0; k < tallies.size(); ++k) {
        CAPTURE(D, k, tallies[k].on, tallies[k].off, tallies[k].too_near);
        CHECK(tallies[k].on * (on_lattice ? 150 : 30) > judged);  // both answers were there to be had
        CHECK(tallies[k].off * 10 > judged);
        CHECK(tallies[k].too_near * 10 < judged);
    }
    CHECK((on_lattice ? 3 : 2) * judged > count);
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("truths agree with brute force over random scenes", "", ((int D), D), 2, 3) {
    judge_scenes<D>(2'000, 41);
}

TEMPLATE_TEST_CASE_SIG("truths agree with brute force over boxes flush with one another", "", ((int D), D), 2,
                       3) {
    judge_scenes<D>(1'000, 43, true);
}

TEMPLATE_TEST_CASE_SIG("truths agree with brute force over a hundred thousand random scenes", "[.long]",
                       ((int D), D), 2, 3) {
    judge_scenes<D>(100'000, 42);
    judge_scenes<D>(30'000, 44, true);
}
