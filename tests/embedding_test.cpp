// What a game embeds: a tick of a rig allocates nothing and cannot throw.
#include <catch2/catch.hpp>

#include "allocations.hpp"
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
        cast.shape = RoundedHull<D>::box(Vec<D>::Zero(), 0.3 * Vec<D>::Ones());
        cast.aim = Aim::velocity;
        add("cast", cast);
        add("zone", ZoneProbe<D>{.shape = RoundedHull<D>::ball(Vec<D>::Zero(), 0.5),
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
    MountedRig<D> mounted(scene.rig, scene.level, 0, Vec<D>::Unit(0));
    RigMemory memory = mounted.memory();
    std::vector<Reading<D>> readings(mounted.probes.size());
    const std::vector<MoveContact<D>> contacts = {{Vec<D>::Unit(1), Vec<D>::Zero(), 1, 0, 0}};
    const LevelBackEnd<D> world(scene.level);
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
            LineProbe<D> line{.from = random.point<D>(0.4) + 0.8 * Vec<D>::Unit(1),
                              .along = random.direction<D>(),
                              .reach = random.between(0.2, 1.2)};
            if (i == 2) line.shape = RoundedHull<D>::ball(Vec<D>::Zero(), 0.1);
            if (i == 5) line.shape = RoundedHull<D>::box(Vec<D>::Zero(), 0.2 * Vec<D>::Ones());
            if (i % 2 == 1) line.take = Take::all;
            line.accept_most_degrees = i % 2 == 1 ? 100.0 : 180.0;
            if (i % 3 == 0) line.accept_most_incidence_degrees = 50.0;
            rig.probes.push_back({.name = "p" + std::to_string(i), .sees = {"m"}, .of_kind = line});
        }
        const MountedRig<D> mounted(rig, level, 0, Vec<D>::Unit(0));
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
