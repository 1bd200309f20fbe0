// What is found out by a shorter way is what the longer way finds out.
#include <catch2/catch.hpp>
#include <iomanip>
#include <map>

#include "hollow_probe/geometry/cast.hpp"
#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/truth/answer.hpp"
#include "hollow_probe/truth/doubt.hpp"
#include "hollow_probe/truth/drop.hpp"
#include "hollow_probe/truth/fit.hpp"
#include "hollow_probe/truth/ledge.hpp"
#include "hollow_probe/truth/rest.hpp"
#include "hollow_probe/truth/wall.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

using Long = VecOf<2, long double>;

Long exact(const Vec<2>& p) {
    return p.as<long double>();
}

long double from_segment(const Long& p, const Long& a, const Long& b) {
    const Long along = b - a;
    const long double length = along.squared_norm();
    const long double part =
        length > 0 ? std::clamp<long double>(along.dot(p - a) / length, 0.0L, 1.0L) : 0.0L;
    return (p - a - part * along).norm();
}

long double turn(const Long& a, const Long& b) {
    return a.x() * b.y() - a.y() * b.x();
}

bool cross(const Long& a, const Long& b, const Long& c, const Long& d) {
    const auto side = [](const Long& p, const Long& q, const Long& r) { return turn(q - p, r - p); };
    return side(a, b, c) * side(a, b, d) <= 0 && side(c, d, a) * side(c, d, b) <= 0;
}

/// Every end against every side, every corner against the segment; nothing if the cores meet.
std::optional<long double> brute_distance(const std::vector<Vec<2>>& ends,
                                          const std::vector<Vec<2>>& corners) {
    long double least = std::numeric_limits<long double>::infinity();
    const std::size_t sides = corners.size() == 2 ? 1 : corners.size();
    bool inside = corners.size() > 2;
    long double winding = 0;
    for (std::size_t i = 0; i < sides; ++i) {
        const Long a = exact(corners[i]);
        const Long b = exact(corners[(i + 1) % corners.size()]);
        for (const Vec<2>& end : ends) least = std::min(least, from_segment(exact(end), a, b));
        if (ends.size() == 2) {
            if (cross(exact(ends[0]), exact(ends[1]), a, b)) return std::nullopt;
            least = std::min(least, from_segment(a, exact(ends[0]), exact(ends[1])));
            least = std::min(least, from_segment(b, exact(ends[0]), exact(ends[1])));
        }
        const long double side = turn(b - a, exact(ends[0]) - a);
        if (winding == 0) winding = side;
        inside = inside && side * winding > 0;
    }
    if (inside) return std::nullopt;
    return least;
}

/// A ball's or capsule's core: some of them upright, some lying flush with what is level.
RoundedHull<2> random_round(Random& random) {
    const double radius = random.between(0.01, 0.5);
    const Vec<2> a = random.point<2>(2.0);
    switch (random.below(4)) {
        case 0:
            return RoundedHull<2>::ball(a, radius);
        case 1:
            return RoundedHull<2>::capsule(a, a + Vec<2>(0.0, random.between(0.1, 2.0)), radius);
        case 2:
            return RoundedHull<2>::capsule(a, a + Vec<2>(random.between(0.1, 2.0), 0.0), radius);
        default:
            return RoundedHull<2>::capsule(a, a + random.point<2>(2.0), radius);
    }
}

RoundedHull<2> random_solid(Random& random) {
    const Vec<2> center = random.point<2>(2.0);
    if (random.below(3) == 0)
        return RoundedHull<2>::box(center, {random.between(0.05, 3.0), random.between(0.05, 3.0)});
    return random_shape<2>(random, center, random.between(0.1, 2.0));
}

}  // namespace

TEST_CASE("rounds and polygons are as far apart as their nearest ends, corners and sides") {
    Random random(20261125);
    int compared = 0;
    for (int i = 0; i < 30'000; ++i) {
        const RoundedHull<2> round = random_round(random);
        const RoundedHull<2> solid = random_solid(random);
        const auto cores = brute_distance(round.points(), solid.points());
        if (!cores || *cores < 1e-6L) continue;
        if (solid.points().size() == 1) continue;
        ++compared;
        const Separation<2> apart = separation<2>(round.view(), solid.view());
        INFO("pair " << i);
        const auto gap = static_cast<double>(*cores) - round.radius() - solid.radius();
        REQUIRE(std::abs(apart.gap - gap) < 1e-13 * 10.0);
        REQUIRE(std::abs(apart.normal.norm() - 1.0) < 1e-12);
        REQUIRE_FALSE(apart.cores_meet);
        // The nearest points are that far apart, along the normal, and each is on its own surface.
        REQUIRE((apart.on_a - apart.on_b - apart.gap * apart.normal).norm() < 1e-12);
        const auto off = [](const RoundedHull<2>& hull, const Vec<2>& p) {
            const auto from_core = brute_distance({p}, hull.points());
            return std::abs((from_core ? static_cast<double>(*from_core) : 0.0) - hull.radius());
        };
        if (round.points().size() > 1) REQUIRE(off(round, apart.on_a) < 1e-11);
        REQUIRE(off(solid, apart.on_b) < 1e-11);
    }
    CHECK(compared > 15'000);
}

TEST_CASE("a ray meets a polygon at the first of its sides that it runs against") {
    Random random(77);
    const auto dot = RoundedHull<2>::ball({0, 0}, 1.0).with_radius(0.0);
    int hits = 0;
    int misses = 0;
    int inside = 0;
    for (int i = 0; i < 30'000; ++i) {
        const RoundedHull<2> solid = random_solid(random);
        if (solid.points().size() < 3 || solid.radius() > 0.0) continue;
        const Vec<2> origin = random.point<2>(4.0);
        const Vec<2> direction = random.direction<2>();
        const double reach = random.between(0.5, 8.0);
        const auto hit = cast<2>(dot.view(), origin, direction, reach, solid.view());
        if (!brute_distance({origin}, solid.points())) {
            ++inside;
            REQUIRE(hit);
            REQUIRE(hit->began_inside);
            continue;
        }
        // The nearest crossing with any side; near corners and at grazing angles either answer will do.
        long double nearest = std::numeric_limits<long double>::infinity();
        bool doubtful = *brute_distance({origin}, solid.points()) < 1e-9L;
        const auto& corners = solid.points();
        for (std::size_t k = 0; k < corners.size(); ++k) {
            const Long a = exact(corners[k]) - exact(origin);
            const Long along = exact(corners[(k + 1) % corners.size()]) - exact(corners[k]);
            const long double across = turn(exact(direction), along);
            if (std::abs(across) < 1e-9L * along.norm()) continue;
            const long double t = turn(a, along) / across;
            const long double part = turn(a, exact(direction)) / across;
            doubtful = doubtful || std::abs(part) < 1e-7L || std::abs(part - 1) < 1e-7L ||
                       std::abs(t - reach) < 1e-9L;
            if (t >= 0 && part >= 0 && part <= 1) nearest = std::min(nearest, t);
        }
        if (doubtful) continue;
        INFO("ray " << i);
        if (nearest > reach) {
            ++misses;
            REQUIRE_FALSE(hit);
            continue;
        }
        ++hits;
        REQUIRE(hit);
        REQUIRE_FALSE(hit->began_inside);
        REQUIRE(std::abs(hit->distance - static_cast<double>(nearest)) < 1e-11);
        REQUIRE(hit->normal.dot(direction) < 0.0);
        REQUIRE(hit->point_known);
        REQUIRE((hit->point - origin - hit->distance * direction).norm() < 1e-12);
    }
    CHECK(hits > 500);
    CHECK(misses > 2'000);
    CHECK(inside > 300);
}

namespace {

void same(const Decision& a, const Decision& b) {
    CHECK(a.on == b.on);
    CHECK(a.decided == b.decided);
    CHECK(
        (a.margin.distance == b.margin.distance || std::abs(a.margin.distance - b.margin.distance) < 1e-12));
    CHECK((a.margin.degrees == b.margin.degrees || std::abs(a.margin.degrees - b.margin.degrees) < 1e-9));
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("a truth that is told what was found out answers the same", "", ((int D), D), 2, 3) {
    Random random(4 + D);
    const Stance<D> stance = Stance<D>::capsule("upright", 0.3, 1.8);
    Intent intent;
    intent.ahead_wall = 0.1;
    intent.ahead_step = 0.15;
    int walls = 0;
    int drops = 0;
    for (int scene = 0; scene < 250; ++scene) {
        LevelBuilder<D> builder({"m"});
        Vec<D> size = Vec<D>::constant(6.0);
        size[1] = 1.0;
        builder.add("floor", "m", RoundedHull<D>::box(at<D>(-2.0, -0.5), size));
        for (int i = 0; i < 5; ++i) {
            const Vec<D> center = random.point<D>(2.0);
            builder.add("thing " + std::to_string(i), "m", random_shape<D>(random, center, 0.8));
        }
        const Level<D> level = builder.build();
        for (int i = 0; i < 6; ++i) {
            Vec<D> anchor = random.point<D>(1.5);
            anchor[1] = random.between(0.0, 0.03);
            const Vec<D> heading = (i % 2 == 0 ? 1.0 : -1.0) * Vec<D>::unit(0);
            const PlacedBody<D> body{stance.shape.view(), anchor, 1};
            Known<D> known;
            known.ground = ground<D>(level, body, intent);
            look_ahead<D>(level, body, heading, intent, known);
            const HullView<D> climber = stance.shape.view();
            const auto told = Margins::told;
            const auto wall_here = wall<D>(level, body, heading, intent);
            same(wall_here, wall<D>(level, body, heading, intent, told, &known));
            same(step<D>(level, body, heading, intent), step<D>(level, body, heading, intent, told, &known));
            same(ledge<D>(level, body, climber, heading, intent),
                 ledge<D>(level, body, climber, heading, intent, told, &known));
            const auto drop_here = drop<D>(level, body, heading, intent);
            const auto drop_told = drop<D>(level, body, heading, intent, 0.0, told, &known);
            same(drop_here, drop_told);
            CHECK(drop_here.ahead == drop_told.ahead);
            // Left out, margins are not sure; whether it is on is.
            const auto quick = drop<D>(level, body, heading, intent, 0.0, Margins::left_out, &known);
            CHECK(quick.on == drop_here.on);
            CHECK(quick.decided == drop_here.decided);
            walls += wall_here.on ? 1 : 0;
            drops += drop_here.on ? 1 : 0;
        }
    }
    CHECK(walls > 15);
    CHECK(drops > 20);
}

TEMPLATE_TEST_CASE_SIG("what a probe is aimed by decides whether two situations aim it alike", "",
                       ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", RoundedHull<D>::box(at<D>(0, -0.5), Vec<D>::constant(1.0)));
    const Level<D> level = builder.build();
    const Vec<D> forward = Vec<D>::unit(0);
    const Situation<D> still{forward};
    Situation<D> fast = still;
    fast.velocity = 3.0 * forward;
    Situation<D> driven = still;
    driven.drive = forward;
    Situation<D> grounded = still;
    grounded.grounded = true;
    Situation<D> turned = still;
    turned.heading = -forward;
    const auto alike = [&](const Probe<D>& probe, const Situation<D>& other) {
        const MountedRig<D> rig(rig_with<D>(probe, {"m"}), level, 0, still);
        return rig.aims_alike(still, other);
    };
    const Probe<D> plain = foot_ray<D>(0.42);
    for (const Situation<D>& other : {still, fast, driven, grounded}) CHECK(alike(plain, other));
    CHECK_FALSE(alike(plain, turned));
    Probe<D> probe = plain;
    probe.line().reach_per_speed = 0.1;
    CHECK_FALSE(alike(probe, fast));
    CHECK(alike(probe, driven));
    probe = plain;
    probe.line().reach_grounded = 0.6;
    CHECK_FALSE(alike(probe, grounded));
    CHECK(alike(probe, fast));
    probe = plain;
    probe.line().aim = Aim::drive;
    CHECK_FALSE(alike(probe, driven));
    CHECK(alike(probe, fast));
    probe.line().aim = Aim::velocity;
    CHECK_FALSE(alike(probe, fast));
    CHECK(alike(probe, driven));
}

TEMPLATE_TEST_CASE_SIG("a tunnel is told by the deepest place on the way, whatever the way", "", ((int D), D),
                       2, 3) {
    // A gate so thin that neither end of the way shows it; touch is 0.02.
    LevelBuilder<D> builder({"m"});
    Vec<D> size = Vec<D>::constant(4.0);
    size[0] = 0.05;
    builder.add("gate", "m", RoundedHull<D>::box(at<D>(1.0, 1.0), size));
    Vec<D> floor_size = Vec<D>::constant(20.0);
    floor_size[1] = 1.0;
    builder.add("floor", "m", RoundedHull<D>::box(at<D>(0.0, -0.5), floor_size));
    const Level<D> level = builder.build();
    const Stance<D> stance = Stance<D>::capsule("upright", 0.3, 1.8);
    const Intent intent;
    const auto crossed = [&](double from, double way, double height) {
        const PlacedBody<D> body{stance.shape.view(), at<D>(from, height), 1};
        return tunnel<D>(level, body, way * Vec<D>::unit(0), intent);
    };
    CHECK(crossed(0.5, 1.0, 0.0).on);
    CHECK(crossed(1.5, -1.0, 0.0).on);
    // Through, the core in the gate's plane: as deep as half its thickness and the radius.
    CHECK(crossed(0.5, 1.0, 0.0).depth == Approx(0.325).margin(1e-6));
    CHECK_FALSE(crossed(0.5, 0.1, 0.0).on);
    CHECK_FALSE(crossed(0.5, 1.0, 4.0).on);
    // Sunk into the floor by less than touch all along is no tunnel.
    CHECK_FALSE(crossed(-3.0, 2.0, -0.015).on);
}

TEMPLATE_TEST_CASE_SIG("truths are the same wherever the level lies", "", ((int D), D), 2, 3) {
    const Stance<D> stance = Stance<D>::capsule("upright", 0.3, 1.4);
    Intent intent;
    intent.ahead_wall = 0.2;
    intent.ahead_step = 0.2;
    intent.ahead_ledge = 0.6;
    intent.ledge_between = {0.2, 1.6};
    std::map<Claim, int> on;
    for (std::uint64_t scene = 0; scene < 400; ++scene) {
        Vec<D> offset = 30.0 * Vec<D>::unit(0) - 17.0 * Vec<D>::unit(D - 1);
        offset[1] = 8.0;
        const auto built = [&](const Vec<D>& by) {
            Random random(scene);
            LevelBuilder<D> builder({"m"});
            Vec<D> size = Vec<D>::constant(2.0);
            size[1] = 0.5;
            for (int i = 0; i < 3; ++i) {
                Vec<D> center = random.point<D>(1.5);
                center[1] = random.between(-0.35, 0.0) - 0.25;
                builder.add("slab " + std::to_string(i), "m", RoundedHull<D>::box(center + by, size));
            }
            Vec<D> block = random.point<D>(1.5);
            block[1] = 0.2;
            builder.add("block", "m", RoundedHull<D>::box(block + by, Vec<D>::constant(1.4)));
            for (int i = 0; i < 2; ++i) {
                const Vec<D> center = random.point<D>(1.5);
                builder.add("thing " + std::to_string(i), "m", random_shape<D>(random, center + by, 0.8));
            }
            return builder.build();
        };
        const Level<D> here = built(Vec<D>::zero());
        const Level<D> there = built(offset);
        Random random(scene + 1'000);
        for (int i = 0; i < 4; ++i) {
            Vec<D> heading = random.direction<D>();
            heading[1] = 0.0;
            heading.normalize();
            Vec<D> foot = random.point<D>(1.5);
            foot[1] = 0.0;
            std::vector<double> heights;
            find_rests<D>(here, {stance.shape.view(), foot, 1}, intent, heights);
            for (const double height : heights) {
                const Vec<D> anchor = foot + height * Vec<D>::unit(1);
                for (const Claim claim :
                     {Claim::ground, Claim::wall, Claim::step, Claim::drop, Claim::ledge}) {
                    const auto asked = [&](const Level<D>& level, const Vec<D>& at) {
                        const TruthQuestion<D> question{
                            {stance.shape.view(), at, 1}, heading, stance.shape.view()};
                        return answer<D>(claim, level, question, intent);
                    };
                    const auto a = asked(here, anchor);
                    const auto b = asked(there, anchor + offset);
                    // Farther from the origin there is more noise.
                    if (!a.decided || !b.decided ||
                        in_doubt<D>(claim, there,
                                    {{stance.shape.view(), anchor + offset, 1}, heading, stance.shape.view()},
                                    intent, b.on))
                        continue;
                    INFO(name_of(claim) << " in scene " << scene << " at " << anchor);
                    REQUIRE(a.on == b.on);
                    if (!a.on) continue;
                    ++on[claim];
                    REQUIRE((b.point - offset - a.point).norm() < 1e-6);
                }
            }
        }
    }
    for (const Claim claim : {Claim::ground, Claim::wall, Claim::step, Claim::drop, Claim::ledge}) {
        INFO(name_of(claim));
        CHECK(on[claim] > 20);
    }
}

namespace {

/// A surface over a lattice of places, a few steps of this height up and down: level seams, ridges and
/// valleys.
void add_bumpy_surface(LevelBuilder<2>& builder, Random& random, double step) {
    std::vector<Vec<2>> points;
    for (int i = 8; i >= -8; --i) points.emplace_back(0.2 * i, step * random.below(3));
    builder.add_polyline("surface", "m", points);
}
void add_bumpy_surface(LevelBuilder<3>& builder, Random& random, double step) {
    constexpr int side = 9;
    std::vector<Vec<3>> points;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    for (int i = 0; i < side * side; ++i)
        points.emplace_back(0.4 * (i / side - side / 2), step * random.below(3), 0.4 * (i % side - side / 2));
    for (int i = 0; i < side * (side - 1); ++i) {
        if (i % side == side - 1) continue;
        const auto at = static_cast<std::uint32_t>(i);
        triangles.push_back({at, at + 1, at + side});
        triangles.push_back({at + 1, at + side + 1, at + side});
    }
    builder.add_mesh("surface", "m", points, triangles);
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("what is beyond doubt no shift by rounding flips", "", ((int D), D), 2, 3) {
    Intent intent;
    intent.steepest_footing_degrees = 45.0;
    const Vec<D> sideways = Vec<D>::unit(0);
    int sure = 0;
    int sure_beside_borders = 0;
    int in_question = 0;
    int sure_on_surfaces = 0;
    for (std::uint64_t scene = 0; scene < 60; ++scene) {
        Random random(scene + 40);
        LevelBuilder<D> builder({"m", "other"});
        for (int i = 0; i < 6; ++i) {
            const std::string name = "thing " + std::to_string(i);
            RoundedHull<D> shape = lattice_shape<D>(random);
            if (random.below(3) == 0) shape = random_shape<D>(random, random.point<D>(0.75), 0.6);
            const char* const layer = random.below(2) == 0 ? "other" : "m";
            if (random.below(3) == 0) {
                const std::array parts = {shape, lattice_shape<D>(random), lattice_shape<D>(random)};
                builder.add_parts(name, layer, parts);
            } else {
                builder.add(name, layer, shape);
            }
            if (random.below(6) == 0) builder.one_way(Vec<D>::unit(1));
        }
        const double step = scene % 2 == 0 ? 0.1 : std::pow(10.0, random.between(-9.0, -5.0));
        if (scene % 3 == 0) add_bumpy_surface(builder, random, step);
        const Level<D> level = builder.build();
        const double radius =
            random.below(3) == 0 ? 0.01 + 0.01 * random.below(4) : 0.1 + 0.05 * random.below(5);
        const auto stance = random.below(3) == 0 ? Stance<D>::ball("round", radius)
                                                 : Stance<D>::capsule("upright", radius, 0.9);
        const LayerSet meets = random.below(4) == 0 ? 1 : 3;
        const LayerSet of = random.below(2) == 0 ? LayerSet{1} : all_layers;
        const Claim claim = random.below(3) == 0 ? Claim::ceiling : Claim::ground;
        const auto question = [&](const Vec<D>& anchor) {
            return TruthQuestion<D>{{stance.shape.view(), anchor, meets, of}, sideways, stance.shape.view()};
        };
        const auto on = [&](const Vec<D>& anchor, const Intent& by) {
            return answer<D>(claim, level, question(anchor), by).on;
        };
        const double shift = 1e-9 * level.bounds().size().norm();
        std::vector<Vec<D>> anchors;
        std::vector<Vec<D>> yes;
        std::vector<Vec<D>> no;
        for (int i = 0; i < 300; ++i) {
            Vec<D> anchor = random.point<D>(1.4);
            std::vector<double> heights;
            find_rests<D>(level, {stance.shape.view(), anchor, meets}, intent, heights);
            if (!heights.empty() && claim == Claim::ground)
                anchor[1] =
                    heights[static_cast<std::size_t>(random.below(static_cast<int>(heights.size())))] +
                    random.between(-0.03, 0.03);
            anchors.push_back(anchor);
            (on(anchor, intent) ? yes : no).push_back(anchor);
        }
        const std::size_t apart_from_borders = anchors.size();
        for (std::size_t i = 0; i < 60 && !yes.empty() && !no.empty(); ++i) {
            Vec<D> with = yes[i % yes.size()];
            Vec<D> without = no[(7 * i) % no.size()];
            while ((with - without).norm() > 1e-13) {
                const Vec<D> middle = 0.5 * (with + without);
                if (middle == with || middle == without) break;
                (on(middle, intent) ? with : without) = middle;
            }
            for (const double shifts : {0.1, 0.7, 1.5, 8.0, 40.0, 200.0, 3'000.0})
                anchors.push_back(with + shifts * shift * random.direction<D>());
        }
        for (std::size_t i = 0; i < anchors.size(); ++i) {
            const Vec<D>& anchor = anchors[i];
            if (!beyond_doubt<D>(claim, level, question(anchor), intent)) {
                ++in_question;
                continue;
            }
            ++(i < apart_from_borders ? sure : sure_beside_borders);
            const bool now = on(anchor, intent);
            if (now && scene % 3 == 0) ++sure_on_surfaces;
            INFO(name_of(claim) << " in scene " << scene << " at " << std::setprecision(17) << anchor);
            for (int k = 0; k < 12; ++k) {
                Vec<D> by = shift * random.point<D>(1.0);
                if (k < 8) {
                    for (int axis = 0; axis < D; ++axis) by[axis] = random.below(2) == 0 ? -shift : shift;
                }
                REQUIRE(on(anchor + by, intent) == now);
            }
            for (const double by : {-shift, shift}) {
                Intent changed = intent;
                changed.touch += by;
                REQUIRE(on(anchor, changed) == now);
            }
        }
    }
    CAPTURE(sure, sure_beside_borders, in_question, sure_on_surfaces);
    CHECK(sure_on_surfaces > 300);
    CHECK(sure > 5'000);
    CHECK(sure_beside_borders > 500);
    CHECK(in_question > 500);
}
