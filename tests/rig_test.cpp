// Probes and signals: what each setting does.
#include <catch2/catch.hpp>

#include "hollow_probe/level/text_level.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

/// A floor at height 0, a 60° slope standing on it over x in [2, 3], and a shelf on layer "b" at height 3.
Level<2> yard() {
    LevelBuilder<2> builder({"a", "b"});
    builder.add("floor", "a", RoundedHull<2>::box({0, -0.5}, {20, 1}));
    builder.add_polygon("slope", "a", {{2, 0}, {3, 0}, {3, std::tan(radians(60.0))}});
    builder.add("shelf", "b", RoundedHull<2>::box({-5, 3.05}, {4, 0.1}));
    return builder.build();
}

Reading<2> read(const Probe<2>& probe, const Vec<2>& anchor, const Vec<2>& heading = {1, 0}) {
    static const Level<2> level = yard();
    const MountedRig<2> mounted(rig_with<2>(probe, {"a"}), level, 0, heading);
    std::vector<Reading<2>> readings(1);
    mounted.evaluate(level, anchor, readings);
    return readings[0];
}

}  // namespace

TEST_CASE("reach is inclusive for a ray") {
    CHECK(read(foot_ray<2>(0.41), {0, 0.01}).on);
    CHECK_FALSE(read(foot_ray<2>(0.41 - 1e-9), {0, 0.01}).on);
}

TEST_CASE("directions are the body's: forward follows the heading, mirrored in 2D") {
    Probe<2> probe = foot_ray<2>(5.0);
    probe.line().from = {0.3, 0.5};
    probe.line().along = {1, 0};
    CHECK(read(probe, {0, 0}, {1, 0}).hit.distance == Approx(2.0 + 0.5 / std::tan(radians(60.0)) - 0.3));
    CHECK_FALSE(read(probe, {0, 0}, {-1, 0}).met);
    CHECK(read(probe, {6, 0}, {-1, 0}).hit.distance == Approx(6.0 - 3.0 - 0.3));
}

TEST_CASE("in 3D right is right of forward") {
    LevelBuilder<3> builder({"a"});
    builder.add("post", "a", RoundedHull<3>::box({0, 1, 5}, {1, 2, 1}));
    const auto level = builder.build();
    Probe<3> probe = foot_ray<3>(10.0);
    probe.line().along = Vec<3>::unit(2);
    const auto on = [&](const Vec<3>& heading) {
        return MountedRig<3>(rig_with<3>(probe, {"a"}), level, 0, heading)
            .evaluate(level, Vec<3>::zero())
            .any();
    };
    // Facing +x with +y up, the right hand points to +z.
    CHECK(on({1, 0, 0}));
    CHECK_FALSE(on({-1, 0, 0}));
    CHECK_FALSE(on({0, 0, 1}));
}

TEST_CASE("a layer not seen is not there") {
    Probe<2> probe = foot_ray<2>(5.0);
    probe.line().along = {0, 1};
    CHECK_FALSE(read(probe, {-5, 0}).met);
    probe.sees = {"b"};
    CHECK(read(probe, {-5, 0}).hit.distance == Approx(2.6));
}

TEST_CASE("angles are refused outside accept, both ends inclusive") {
    Probe<2> probe = foot_ray<2>(5.0);
    const Vec<2> above_slope(2.5, 2.0);
    CHECK(read(probe, above_slope).on);
    probe.line().accept_most_degrees = 60.0;
    CHECK(read(probe, above_slope).on);
    probe.line().accept_most_degrees = 59.9999;
    CHECK_FALSE(read(probe, above_slope).on);
    CHECK(read(probe, above_slope).met);
    probe.line().accept_most_degrees = 180.0;
    probe.line().accept_least_degrees = 60.0001;
    CHECK_FALSE(read(probe, above_slope).on);
}

TEST_CASE("take: a refused first hit hides the floor, all passes it over") {
    Probe<2> probe = foot_ray<2>(5.0);
    probe.line().accept_most_degrees = 45.0;
    CHECK_FALSE(read(probe, {2.5, 2.0}).on);
    probe.line().take = Take::all;
    const auto reading = read(probe, {2.5, 2.0});
    CHECK(reading.on);
    // Through the slope: its underside faces down and is no hit at all, the floor below it is.
    CHECK(reading.hit.point.is_close(Vec<2>(2.5, 0.0)));
}

TEST_CASE("if_inside: a solid the probe starts in is reported or passed over") {
    Probe<2> probe = foot_ray<2>(2.0);
    const Vec<2> sunk(0.0, -0.6);  // the ray starts 0.2 below the floor's surface
    const auto reported = read(probe, sunk);
    CHECK(reported.on);
    CHECK(reported.hit.began_inside);
    CHECK(reported.hit.distance == 0.0);
    CHECK(reported.hit.depth == Approx(0.2));
    probe.line().if_inside = IfInside::ignore;
    CHECK_FALSE(read(probe, sunk).met);
    // Downwards it runs further in; upwards, and along the surface, it leads out or nowhere.
    probe.line().if_inside = IfInside::against;
    CHECK(read(probe, sunk).hit.depth == Approx(0.2));
    for (const Vec<2>& along : {Vec<2>(0.0, 1.0), Vec<2>(1.0, 0.0), Vec<2>(0.6, 0.8)}) {
        probe.line().along = along;
        CHECK_FALSE(read(probe, sunk).met);
    }
}

TEST_CASE("signals: any, all and none must all hold") {
    const auto level = yard();
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.41), {"a"});
    Probe<2> up = foot_ray<2>(5.0);
    up.name = "up";
    up.line().along = {0, 1};
    up.sees = {"b"};
    rig.probes.push_back(up);
    const auto value = [&](std::vector<Member> any, std::vector<Member> all, std::vector<Member> none,
                           double x) {
        rig.signals[0] = {"s", Claim::ground, {std::move(any), std::move(all), std::move(none), {}}};
        return MountedRig<2>(rig, level, 0, {1, 0}).evaluate(level, {x, 0.0}).bits() == 1;
    };
    // At x = -5 both are on, at 0 only the foot.
    CHECK(value({"foot", "up"}, {}, {}, 0.0));
    CHECK_FALSE(value({}, {"foot", "up"}, {}, 0.0));
    CHECK(value({}, {"foot", "up"}, {}, -5.0));
    CHECK(value({"foot"}, {}, {"up"}, 0.0));
    CHECK_FALSE(value({"foot"}, {}, {"up"}, -5.0));
    CHECK_FALSE(value({}, {}, {"foot"}, 0.0));
}

TEST_CASE("at_least: so many of the probes named are on, no fewer") {
    const auto level = level_from_text("......\n######");
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.42), {"solid"});
    for (int i = 0; i < 3; ++i) {
        Probe<2> probe = rig.probes[0];
        probe.name = "ray " + std::to_string(i);
        // The second and third stand out over the lip when the body is near it.
        probe.line().from += i * Vec<2>::unit(0);
        rig.probes.push_back(probe);
    }
    rig.signals[0].members.any.clear();
    rig.signals[0].members.at_least.of = {"ray 0", "ray 1", "ray 2"};
    const auto on_at = [&](std::size_t count, double x) {
        rig.signals[0].members.at_least.count = count;
        return MountedRig<2>(rig, level, 0, {1.0, 0.0}).evaluate(level, {x, 1.0}).any();
    };
    const double right = level.bounds().high[0];
    for (std::size_t count = 1; count <= 3; ++count) {
        CHECK(on_at(count, right - 2.5));  // three on
        CHECK(on_at(count, right - 1.5) == (count <= 2));
        CHECK(on_at(count, right - 0.5) == (count <= 1));
        CHECK_FALSE(on_at(count, right + 0.5));
    }
    rig.signals[0].members.at_least.count = 4;
    CHECK_THROWS_AS(check(rig), InvalidInput);
    rig.signals[0].members.at_least.count = 0;
    CHECK_THROWS_AS(check(rig), InvalidInput);
}

TEST_CASE("a probe not mounted in the stance is left out of every group") {
    const auto level = yard();
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.41), {"a"});
    rig.body.stances.push_back(Stance<2>::box("crawling", {1.6, 0.5}));
    Probe<2> high = foot_ray<2>(0.01);
    high.name = "high";
    high.stances = {"crawling"};
    rig.probes.push_back(high);
    rig.signals[0].members.any.clear();
    rig.signals[0].members.all = {"foot", "high"};
    CHECK(MountedRig<2>(rig, level, 0, {1, 0}).evaluate(level, {0, 0}).bits() == 1);
    CHECK(MountedRig<2>(rig, level, 1, {1, 0}).evaluate(level, {0, 0}).bits() == 0);
}

TEST_CASE("readings that are used again say nothing of before") {
    // Of two stances each has a probe of its own; both are read into the same memory.
    const auto level = yard();
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.5), {"a"});
    rig.body.stances.push_back(Stance<2>::box("crawling", {1.6, 0.5}));
    rig.probes[0].stances = {"upright"};
    Probe<2> low = foot_ray<2>(0.5);
    low.name = "low";
    low.stances = {"crawling"};
    low.sees = {"a"};
    Probe<2> far = foot_ray<2>(0.5);  // looks where nothing is
    far.name = "far";
    far.sees = {"a"};
    far.line().from = {0.0, 1.0};
    far.line().along = {0.0, 1.0};
    rig.probes.push_back(low);
    rig.probes.push_back(far);
    rig.signals[0].members.any = {"foot", "low", "far"};
    for (const std::size_t stance : {std::size_t{0}, std::size_t{1}}) {
        std::vector<Reading<2>> readings(3);
        for (Reading<2>& reading : readings) reading.on = reading.met = true;
        MountedRig<2>(rig, level, stance, {1, 0}).evaluate(level, {0, 0.01}, readings);
        CHECK(readings[0].on == (stance == 0));
        CHECK(readings[1].on == (stance == 1));
        CHECK(readings[0].met == (stance == 0));
        CHECK(readings[1].met == (stance == 1));
        CHECK_FALSE(readings[2].met);
    }
}

TEST_CASE("a probe has what its kind has, and no more") {
    const Probe<2> ray = foot_ray<2>(0.4);
    CHECK(ray.kind() == ProbeKind::ray);
    CHECK(shape_of(ray) == nullptr);
    CHECK(*reach_of(ray) == 0.4);
    Probe<2> cast = ray;
    cast.line().shape = RoundedHull<2>::ball({0, 0}, 0.2);
    CHECK(cast.kind() == ProbeKind::cast);
    CHECK(shape_of(cast)->radius() == 0.2);
    const Probe<2> zone{.name = "z", .of_kind = ZoneProbe<2>{RoundedHull<2>::ball({0, 0}, 0.3), {1, 2}}};
    CHECK(zone.kind() == ProbeKind::zone);
    CHECK(*from_of(zone) == Vec<2>(1, 2));
    CHECK(reach_of(zone) == nullptr);
    CHECK(aim_of(zone) == nullptr);
    CHECK_THROWS_AS(zone.line(), std::bad_variant_access);
    const Probe<2> shift{.name = "s", .of_kind = ShiftProbe<2>{.reach = 0.1}};
    CHECK(shift.kind() == ProbeKind::shift);
    CHECK(from_of(shift) == nullptr);
    CHECK(*along_of(shift) == Vec<2>(1, 0));
    const Probe<2> contact{.name = "c", .of_kind = ContactProbe{Side::above}};
    CHECK(contact.kind() == ProbeKind::contact);
    CHECK(along_of(contact) == nullptr);
    CHECK(one_way_of(contact) == nullptr);
}

TEST_CASE("a rig without sense is refused, saying why") {
    const auto level = yard();
    const auto refuses = [&](auto change, const char* why) {
        Rig<2> rig = rig_with<2>(foot_ray<2>(0.4), {"a"});
        change(rig);
        CHECK_THROWS_WITH((MountedRig<2>(rig, level, 0, {1, 0})), Catch::Contains(why));
    };
    refuses([](Rig<2>& r) { r.signals[0].members.any = {"nose"}; }, "there is no probe 'nose'");
    refuses([](Rig<2>& r) { r.signals[0].members.any.clear(); }, "has no members");
    refuses([](Rig<2>& r) { r.probes.push_back(r.probes[0]); }, "probe 'foot' is named twice");
    refuses([](Rig<2>& r) { r.probes[0].line().reach = 0.0; }, "reach must be more than 0");
    refuses([](Rig<2>& r) { r.probes[0].sees = {"c"}; }, "layer 'c' is not declared");
    refuses([](Rig<2>& r) { r.probes[0].stances = {"flying"}; }, "there is no stance 'flying'");
    refuses([](Rig<2>& r) { r.probes[0].line().along = {0, 0}; }, "along is not of unit length");
    refuses([](Rig<2>& r) { r.intent.touch = 0.0; }, "touch must be more than 0");
    refuses([](Rig<2>& r) { r.intent.steepest_footing_degrees = 91.0; }, "steepest_footing");
}
