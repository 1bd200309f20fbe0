// What a game embeds: a tick of a rig allocates nothing and cannot throw.
#include <catch2/catch.hpp>

#include "allocations.hpp"
#include "hollow_probe/level/shifting_level.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "scenes.hpp"

using namespace scenes;
using hollow_probe::tool::allocations;

namespace {

/// Ten solids to run into, and a rig with a probe of every kind.
template <int D>
struct Scene {
    Scene() : level(make_level()), rig(make_rig()) {}

    static Level<D> make_level() {
        Random random(3);
        LevelBuilder<D> builder({"m"});
        for (int i = 0; i < 10; ++i)
            builder.add("s" + std::to_string(i), "m", random_shape<D>(random, random.point<D>(2.0), 1.0));
        return builder.build();
    }

    static Rig<D> make_rig() {
        Probe<D> probe = foot_ray<D>(1.0);
        probe.line().spread.kind = SpreadKind::row;
        probe.line().spread.count = 4;
        probe.line().spread.width = 0.5;
        Rig<D> rig = rig_with<D>(probe, {"m"});
        const auto add = [&](const std::string& name, auto of_kind) {
            rig.probes.push_back({.name = name, .sees = {"m"}, .of_kind = of_kind});
        };
        LineProbe<D> cast = foot_ray<D>(0.5).line();
        cast.shape = RoundedHull<D>::box(Vec<D>::zero(), 0.3 * Vec<D>::ones());
        cast.aim = Aim::velocity;
        add("cast", cast);
        add("zone", ZoneProbe<D>{.shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.5),
                                 .from = cast.from,
                                 .keeps = Keeps::last_event});
        add("shift", ShiftProbe<D>{.along = cast.along, .aim = Aim::drive, .reach = 0.5});
        add("contact", ContactProbe{});
        rig.signals[0].members.any = {"foot", "cast", "zone", "shift", "contact"};
        rig.signals[0].settle = 0.05;
        rig.signals[0].grace = 0.1;
        rig.signals[0].mute_after = {"jump", 0.1};
        return rig;
    }

    Level<D> level;
    Rig<D> rig;
};

}  // namespace

TEMPLATE_TEST_CASE_SIG("turning a rig and reading it allocates nothing", "", ((int D), D), 2, 3) {
    const Scene<D> scene;
    MountedRig<D> mounted(scene.rig, scene.level, 0, Vec<D>::unit(0));
    RigMemory memory = mounted.memory();
    std::vector<Reading<D>> readings(mounted.probes.size());
    const std::vector<MoveContact<D>> contacts = {{Vec<D>::unit(1), Vec<D>::zero(), 1, 0, 0}};
    const LevelBackEnd<D> world(scene.level);
    Neighbourhood<D> around;
    Random random(5);
    std::size_t on = 0;
    const std::size_t before = allocations();
    for (int i = 0; i < 300; ++i) {
        Vec<D> heading = random.direction<D>();
        heading[1] = 0.0;
        const Vec<D> anchor = random.point<D>(2.0);
        mounted.aim({heading.normalized(), random.direction<D>(), random.direction<D>(), memory.grounded});
        const Tick<D> tick{anchor, anchor, 1.0 / 60.0, i % 20 == 0 ? mounted.event("jump") : 0, contacts};
        on += mounted.tick(scene.level, tick, memory, readings).bits();
        on += mounted.tick(world, tick, memory, readings).bits();
        on += mounted.tick(scene.level, tick, memory, around, readings).bits();
    }
    CHECK(allocations() == before);
    CHECK(on > 100);
    CHECK(allocations() > 0);  // it does count
    const Situation<D> situation;
    const Tick<D> tick;
    const std::span<Reading<D>> read(readings);
    static_assert(noexcept(mounted.aim(situation)));
    static_assert(noexcept(mounted.tick(scene.level, tick, memory, read)));
    static_assert(noexcept(mounted.tick(world, tick, memory, read)));
    static_assert(noexcept(mounted.tick(scene.level, tick, memory, around, read)));
}

TEMPLATE_TEST_CASE_SIG("probes that are read together say what each says alone", "", ((int D), D), 2, 3) {
    Random random(91);
    for (int round = 0; round < 20; ++round) {
        // Open surfaces and solids, some around the body.
        LevelBuilder<D> builder({"m"});
        for (int i = 0; i < 30; ++i)
            builder.add("s" + std::to_string(i), "m",
                        random_shape<D>(random, random.point<D>(1.2), random.between(0.1, 0.8)));
        const auto level = builder.build();
        Rig<D> rig = rig_with<D>(foot_ray<D>(0.6), {"m"});
        for (int i = 0; i < 6; ++i) {
            LineProbe<D> line{.from = random.point<D>(0.4) + 0.8 * Vec<D>::unit(1),
                              .along = random.direction<D>(),
                              .reach = random.between(0.2, 1.2)};
            if (i == 2) line.shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.1);
            if (i == 5) line.shape = RoundedHull<D>::box(Vec<D>::zero(), 0.2 * Vec<D>::ones());
            if (i % 2 == 1) line.take = Take::all;
            line.accept_most_degrees = i % 2 == 1 ? 100.0 : 180.0;
            if (i % 3 == 0) line.accept_most_incidence_degrees = 50.0;
            rig.probes.push_back({.name = "p" + std::to_string(i), .sees = {"m"}, .of_kind = line});
        }
        const MountedRig<D> mounted(rig, level, 0, Vec<D>::unit(0));
        std::vector<Reading<D>> together(rig.probes.size());
        for (int i = 0; i < 40; ++i) {
            const Vec<D> anchor = random.point<D>(0.8);
            const SignalSet signals = mounted.evaluate(level, anchor, together);
            // Where readings are not wanted less is looked for, and the same said.
            CHECK(mounted.evaluate(level, anchor) == signals);
            const ReadingSet on = mounted.probes_on(level, anchor);
            for (std::size_t k = 0; k < together.size(); ++k) {
                const Reading<D> alone = mounted.probes[k].read(level, mounted.body, anchor);
                CAPTURE(round, i, k);
                REQUIRE(together[k].on == alone.on);
                CHECK(on.has(k) == alone.on);
                CHECK(mounted.bits_at(k, level, anchor).has(k) == alone.on);
                CHECK((mounted.bits_at(k, level, anchor) & ~ReadingSet::of(k)).none());
                REQUIRE(together[k].met == alone.met);
                if (!alone.met) continue;
                CHECK(together[k].hit.distance == Approx(alone.hit.distance).margin(1e-12));
                CHECK(together[k].hit.began_inside == alone.hit.began_inside);
                CHECK(together[k].hit.depth == Approx(alone.hit.depth).margin(1e-12));
                CHECK(together[k].hit.piece == alone.hit.piece);
                CHECK((together[k].hit.normal - alone.hit.normal).norm() < 1e-9);
            }
        }
    }
}

namespace {

/// Rays and a ball all around a body, some of which take any hit or refuse what is steep.
template <int D>
Rig<D> feelers(Random& random, const std::vector<std::string>& layers) {
    Rig<D> rig = rig_with<D>(foot_ray<D>(0.6), layers);
    for (int i = 0; i < 6; ++i) {
        LineProbe<D> line{.from = random.point<D>(0.4) + 0.8 * Vec<D>::unit(1),
                          .along = random.direction<D>(),
                          .reach = random.between(0.2, 0.9)};
        if (i == 2) line.shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.1);
        if (i == 3) line.take = Take::all;
        line.accept_most_degrees = i % 2 == 1 ? 80.0 : 180.0;
        rig.probes.push_back({.name = "p" + std::to_string(i), .sees = layers, .of_kind = line});
    }
    return rig;
}

template <int D>
void check_same(const MountedRig<D>& mounted, const Level<D>& level, const Vec<D>& anchor,
                Neighbourhood<D>& around) {
    std::vector<Reading<D>> kept(mounted.probes.size());
    std::vector<Reading<D>> fresh(mounted.probes.size());
    const SignalSet signals = mounted.evaluate(level, anchor, fresh);
    CHECK(mounted.evaluate(level, anchor, around, kept) == signals);
    for (std::size_t k = 0; k < kept.size(); ++k) {
        CHECK(kept[k].on == fresh[k].on);
        REQUIRE(kept[k].met == fresh[k].met);
        if (!kept[k].met) continue;
        CHECK(kept[k].hit.piece == fresh[k].hit.piece);
        CHECK(kept[k].hit.distance == fresh[k].hit.distance);
        CHECK(kept[k].hit.normal == fresh[k].hit.normal);
        CHECK(kept[k].hit.point == fresh[k].hit.point);
    }
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("what is kept around a body is read the same as the whole level", "", ((int D), D), 2,
                       3) {
    Random random(17);
    std::size_t walked = 0;
    std::size_t gathered = 0;
    for (int round = 0; round < 12; ++round) {
        LevelBuilder<D> builder({"m", "n"});
        // At times more than can be kept.
        const int count = round % 4 == 3 ? 900 : 60;
        for (int i = 0; i < count; ++i)
            builder.add("s" + std::to_string(i), i % 2 == 0 ? "m" : "n",
                        random_shape<D>(random, random.point<D>(2.0), random.between(0.05, 0.4)));
        const Level<D> level = builder.build();
        ShiftingLevel<D> shifting(level);
        MountedRig<D> mounted(feelers<D>(random, {"m"}), level, 0, Vec<D>::unit(0));
        const MountedRig<D> other(feelers<D>(random, {"m", "n"}), level, 0, Vec<D>::unit(0));
        Neighbourhood<D> around(random.below(3) == 0 ? 0.0 : random.between(0.0, 0.5));
        Vec<D> anchor = random.point<D>(1.0);
        for (int i = 0; i < 60; ++i) {
            CAPTURE(round, i);
            anchor += 0.03 * random.direction<D>();
            if (i % 20 == 10) anchor = random.point<D>(1.5);
            if (i % 7 == 3) mounted.aim({.heading = (i % 2 == 0 ? 1.0 : -1.0) * Vec<D>::unit(0)});
            const std::size_t before = around.times_gathered();
            check_same<D>(mounted, shifting.level(), anchor, around);
            gathered += around.times_gathered() - before;
            ++walked;
            // A rig that sees more, at the same place; and a solid that is put to where the body is.
            if (i % 9 == 4) check_same<D>(other, shifting.level(), anchor, around);
            if (i % 5 == 2) {
                const auto solid = static_cast<std::uint32_t>(random.below(count));
                const Bounds<D> box = level.piece(level.solids()[solid].first_piece).points.empty()
                                          ? Bounds<D>{}
                                          : bounds_of(level.piece(level.solids()[solid].first_piece));
                shifting.place(solid, anchor - box.center());
                shifting.refit();
            }
            if (i % 15 == 7) check_same<D>(mounted, level, anchor, around);  // the same, at rest
        }
    }
    CHECK(gathered < walked);
    CHECK(gathered > 0);
}

TEST_CASE("a body that stays where it is has its surroundings gathered once") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {20, 1}));
    const Level<2> level = builder.build();
    Random random(1);
    const MountedRig<2> mounted(feelers<2>(random, {"m"}), level, 0, Vec<2>(1, 0));
    Neighbourhood<2> around;
    for (int i = 0; i < 10; ++i) check_same<2>(mounted, level, {1.0, 0.01}, around);
    CHECK(around.times_gathered() == 1);
    // Within the margin nothing is gathered anew, beyond it once.
    for (int i = 0; i < 10; ++i) check_same<2>(mounted, level, {1.0 + 0.005 * i, 0.01}, around);
    CHECK(around.times_gathered() == 1);
    for (int i = 0; i < 10; ++i) check_same<2>(mounted, level, {3.0, 0.01}, around);
    CHECK(around.times_gathered() == 2);
    // Another level in the same place.
    around.forget();
    check_same<2>(mounted, level, {3.0, 0.01}, around);
    CHECK(around.times_gathered() == 3);
}

TEST_CASE("of pieces met at one distance the first is told, read together too") {
    for (const bool other_way : {false, true}) {
        LevelBuilder<2> builder({"m"});
        // The same stretch of floor over and over, drawn from either end.
        for (int i = 0; i < 12; ++i) {
            const bool turned = (i % 2 == 0) == other_way;
            builder.add("floor " + std::to_string(i), "m",
                        RoundedHull<2>::facet({Vec<2>(turned ? 3 : -3, 0), Vec<2>(turned ? -3 : 3, 0)}));
        }
        const Level<2> level = builder.build();
        Random random(2);
        const MountedRig<2> mounted(feelers<2>(random, {"m"}), level, 0, Vec<2>(1, 0));
        std::vector<Reading<2>> together(mounted.probes.size());
        for (int i = 0; i < 20; ++i) {
            const Vec<2> anchor(random.between(-2.0, 2.0), 0.01);
            (void)mounted.evaluate(level, anchor, together);
            REQUIRE(together[0].met);
            CHECK(together[0].hit.piece == 0);
            for (std::size_t k = 0; k < together.size(); ++k) {
                const Reading<2> alone = mounted.probes[k].read(level, mounted.body, anchor);
                CHECK(together[k].met == alone.met);
                if (alone.met) CHECK(together[k].hit.piece == alone.hit.piece);
            }
        }
    }
}

TEMPLATE_TEST_CASE_SIG("a ray at an edge that pieces share meets one of them, read together too", "",
                       ((int D), D), 2, 3) {
    // A floor of pieces that share a corner, in 3D a fan of triangles, somewhat off round numbers.
    for (const double off : {0.0, 0.1, 1.0 / 3.0}) {
        LevelBuilder<D> builder({"m"});
        const Vec<D> middle = off * Vec<D>::unit(0);
        if constexpr (D == 2) {
            builder.add("left", "m", RoundedHull<2>::facet({Vec<2>(off - 3, 0.1), middle}));
            builder.add("right", "m", RoundedHull<2>::facet({middle, Vec<2>(off + 3, -0.2)}));
        } else {
            for (int i = 0; i < 7; ++i) {
                const auto rim = [&](int k) {
                    return middle +
                           Vec<3>(3.0 * std::cos(0.9 * k), k % 2 == 0 ? 0.1 : -0.1, 3.0 * std::sin(0.9 * k));
                };
                builder.add("t" + std::to_string(i), "m",
                            RoundedHull<3>::facet({middle, rim(i), i == 6 ? rim(0) : rim(i + 1)}));
            }
        }
        const Level<D> level = builder.build();
        Random random(4);
        const MountedRig<D> mounted(feelers<D>(random, {"m"}), level, 0, Vec<D>::unit(0));
        const Vec<D> foot = mounted.probes[0].lines[0].from;
        std::vector<Reading<D>> together(mounted.probes.size());
        for (const double beside : {0.0, 1e-17, 1e-16, -1e-16, 1e-15, -1e-14, 1e-12}) {
            CAPTURE(off, beside);
            Vec<D> anchor = middle + 0.01 * Vec<D>::unit(1);
            anchor[0] += beside - foot[0];
            (void)mounted.evaluate(level, anchor, together);
            CHECK(together[0].met);
            const Reading<D> alone = mounted.probes[0].read(level, mounted.body, anchor);
            REQUIRE(alone.met);
            CHECK(together[0].hit.distance == Approx(alone.hit.distance).margin(1e-12));
        }
    }
}
