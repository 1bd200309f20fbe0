// Every probe kind and setting against closed forms, at and beside each limit, in both dimensions.
#include <catch2/catch.hpp>

#include "hollow_probe/level/moving_level.hpp"
#include "hollow_probe/level/text_level.hpp"
#include "hollow_probe/rig/touched.hpp"
#include "hollow_probe/rig/value.hpp"
#include "hollow_probe/truth/blocked.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

constexpr double hair = 1e-9;

/// `forward`, `up` and, in 3D, a third number across both.
template <int D>
Vec<D> size(double forward, double up, double right = 1.0) {
    Vec<D> v = right * Vec<D>::ones();
    v[0] = forward;
    v[1] = up;
    return v;
}

template <int D>
RoundedHull<D> box(double left, double bottom, double right, double top) {
    return RoundedHull<D>::box(at<D>(0.5 * (left + right), 0.5 * (bottom + top)),
                               size<D>(right - left, top - bottom, 8.0));
}

/// A floor at height 0 from -10 to 4 and a wall from 4 on, 3 high.
template <int D>
Level<D> floor_and_wall() {
    LevelBuilder<D> builder({"m", "w"});
    builder.add("floor", "m", box<D>(-10, -1, 4, 0));
    builder.add("wall", "w", box<D>(4, -1, 5, 3));
    return builder.build();
}

/// A box body 0.6 wide and 1.8 high with one probe.
template <int D>
Rig<D> boxed(Probe<D> probe, std::vector<std::string> sees) {
    probe.sees = std::move(sees);
    Rig<D> rig = rig_with<D>(probe, {"m"});
    rig.body.meets = probe.sees;
    rig.body.stances = {Stance<D>::box("upright", size<D>(0.6, 1.8, 0.6))};
    return rig;
}

template <int D>
Probe<D> zone(double forward, double up) {
    Probe<D> probe = foot_ray<D>(0.0);
    probe.of_kind = ZoneProbe<D>{RoundedHull<D>::box(Vec<D>::zero(), size<D>(forward, up, 0.4))};
    return probe;
}

template <int D>
Probe<D> shift(const Vec<D>& along, double reach) {
    Probe<D> probe = foot_ray<D>(reach);
    probe.of_kind = ShiftProbe<D>{.along = along.normalized(), .reach = reach};
    return probe;
}

template <int D>
Probe<D> contact(Side side, Match match) {
    Probe<D> probe = foot_ray<D>(0.0);
    probe.of_kind = ContactProbe{side, match};
    return probe;
}

template <int D>
bool reads(const Level<D>& level, const Rig<D>& rig, const Vec<D>& anchor,
           Situation<D> situation = {Vec<D>::unit(0)}) {
    const MountedRig<D> mounted(rig, level, 0, situation);
    const auto touched = touched_by<D>(level, mounted, anchor, rig.intent.touch);
    return mounted.evaluate(level, anchor, {}, touched).any();
}

/// A rig carried from anchor to anchor, a tick of 0.1 seconds each.
template <int D>
class Walk {
  public:
    Walk(const Level<D>& level, const Rig<D>& rig)
        : level_(level), rig_(rig, level, 0, Vec<D>::unit(0)), memory_(rig_.memory()) {}

    bool to(const Vec<D>& anchor, const std::string& event = {}) {
        const std::uint64_t events = event.empty() ? 0 : rig_.event(event);
        const Vec<D> before = first_ ? anchor : last_;
        first_ = false;
        last_ = anchor;
        return rig_.tick(level_, {anchor, before, 0.1, events, {}}, memory_).any();
    }

  private:
    const Level<D>& level_;
    MountedRig<D> rig_;
    RigMemory memory_;
    Vec<D> last_ = Vec<D>::zero();
    bool first_ = true;
};

}  // namespace

TEMPLATE_TEST_CASE_SIG("a zone is on while something is inside; touching is not inside", "", ((int D), D), 2,
                       3) {
    const auto level = floor_and_wall<D>();
    const auto rig = boxed<D>(zone<D>(0.5, 0.2), {"m"});  // its bottom is 0.1 below the anchor
    CHECK(reads<D>(level, rig, at<D>(0, 0.1 - hair)));
    CHECK_FALSE(reads<D>(level, rig, at<D>(0, 0.1)));
    CHECK_FALSE(reads<D>(level, rig, at<D>(0, 0.1 + hair)));
    // Its layers alone count.
    CHECK_FALSE(reads<D>(level, boxed<D>(zone<D>(0.5, 0.2), {"w"}), at<D>(0, 0)));
}

TEMPLATE_TEST_CASE_SIG("what a zone keeps: a set, the last event, or armed until used", "", ((int D), D), 2,
                       3) {
    LevelBuilder<D> builder({"m"});
    builder.add("first slab", "m", box<D>(-4, -1, 0, 0));
    builder.add("second slab", "m", box<D>(0, -1, 4, 0));
    const auto level = builder.build();
    const auto on_ground = [](double x) { return at<D>(x, 0.0); };
    const auto high = at<D>(1.0, 2.0);
    const auto walk = [&](Keeps keeps, std::vector<std::pair<Vec<D>, std::string>> way) {
        Probe<D> probe = zone<D>(0.5, 0.2);
        probe.zone().keeps = keeps;
        Walk<D> walked(level, boxed<D>(probe, {"m"}));
        bool on = false;
        for (const auto& [anchor, event] : way) on = walked.to(anchor, event);
        return on;
    };
    // Over the seam it is in both; then it leaves the first, standing on the second all the while.
    CHECK(walk(Keeps::set, {{on_ground(-1), ""}, {on_ground(0), ""}, {on_ground(1), ""}}));
    CHECK(walk(Keeps::last_event, {{on_ground(-1), ""}, {on_ground(0), ""}}));
    CHECK_FALSE(walk(Keeps::last_event, {{on_ground(-1), ""}, {on_ground(0), ""}, {on_ground(1), ""}}));
    // Entering again sets the flag again.
    CHECK(walk(Keeps::last_event, {{on_ground(0), ""}, {on_ground(1), ""}, {high, ""}, {on_ground(1), ""}}));
    // Armed by the first touch, it stays so in the air until the jump, and until the next touch after it.
    CHECK(walk(Keeps::until_used, {{on_ground(1), ""}, {high, ""}}));
    CHECK_FALSE(walk(Keeps::until_used, {{on_ground(1), ""}, {high, "jump"}}));
    CHECK_FALSE(walk(Keeps::until_used, {{on_ground(1), ""}, {on_ground(1), "jump"}, {on_ground(1.1), ""}}));
    CHECK(walk(Keeps::until_used, {{on_ground(1), ""}, {high, "jump"}, {on_ground(1), ""}}));
    CHECK_FALSE(walk(Keeps::set, {{on_ground(1), ""}, {high, ""}}));
}

TEST_CASE("a zone full of solids loses none: on while any is left") {
    LevelBuilder<2> builder({"m"});
    for (int i = 0; i < 50; ++i) {
        const double x = 0.02 * i;
        builder.add("chip " + std::to_string(i), "m", RoundedHull<2>::box({x, 0.0}, {0.01, 0.01}));
    }
    const auto level = builder.build();
    Walk<2> walked(level, boxed<2>(zone<2>(2.0, 0.2), {"m"}));
    CHECK(walked.to({0.5, 0.0}));
    CHECK(walked.to({1.97, 0.0}));  // only the last is left: it ends at 0.985
    CHECK_FALSE(walked.to({1.99, 0.0}));
}

TEMPLATE_TEST_CASE_SIG("a shift is on where the stance would overlap: reach, inset, axes", "", ((int D), D),
                       2, 3) {
    const auto level = floor_and_wall<D>();
    // The body's face is 0.3 ahead of the anchor, the wall at 4.
    auto probe = shift<D>(Vec<D>::unit(0), 0.25);
    const auto on_at = [&](double x, double y) {
        return reads<D>(level, boxed<D>(probe, {"w"}), at<D>(x, y));
    };
    CHECK_FALSE(on_at(4.0 - 0.3 - 0.25 - hair, 0.0));
    CHECK(on_at(4.0 - 0.3 - 0.25 + hair, 0.0));
    probe.shift().inset = 0.05;
    CHECK_FALSE(on_at(4.0 - 0.3 - 0.25 + 0.05 - hair, 0.0));
    CHECK(on_at(4.0 - 0.3 - 0.25 + 0.05 + hair, 0.0));
    // Beyond the wall there is nothing: a placement test steps over what is thin.
    probe = shift<D>(Vec<D>::unit(0), 1.7);
    CHECK_FALSE(on_at(3.65, 0.0));
    // Down and forward at once meets the floor; across up alone does not.
    probe = shift<D>(at<D>(1, -1), 0.1);
    CHECK(reads<D>(level, boxed<D>(probe, {"m"}), at<D>(0, 0.05)));
    probe.shift().axes = ShiftAxes::across_up;
    CHECK_FALSE(reads<D>(level, boxed<D>(probe, {"m"}), at<D>(0, 0.05)));
    probe.shift().axes = ShiftAxes::along_up;  // 0.1 / √2 of the way is down
    const double part = 0.1 / std::sqrt(2.0);
    CHECK(reads<D>(level, boxed<D>(probe, {"m"}), at<D>(0, part - hair)));
    CHECK_FALSE(reads<D>(level, boxed<D>(probe, {"m"}), at<D>(0, part + hair)));
}

TEMPLATE_TEST_CASE_SIG("a shift along the velocity goes as far as the next tick", "", ((int D), D), 2, 3) {
    const auto level = floor_and_wall<D>();
    auto probe = shift<D>(Vec<D>::unit(0), 0.0);
    probe.shift().aim = Aim::velocity;
    probe.shift().reach_per_speed = 0.1;
    const auto rig = boxed<D>(probe, {"w"});
    const auto on = [&](double speed) {
        return reads<D>(level, rig, at<D>(3.0, 0.0), {Vec<D>::unit(0), speed * Vec<D>::unit(0)});
    };
    CHECK_FALSE(on(7.0 - 1e-6));
    CHECK(on(7.0 + 1e-6));
    CHECK_FALSE(on(0.0));
    CHECK_FALSE(on(-20.0));
}

TEMPLATE_TEST_CASE_SIG("contacts by side, only or among others", "", ((int D), D), 2, 3) {
    const auto level = floor_and_wall<D>();
    const std::vector<std::string> both = {"m", "w"};
    const Vec<D> corner = at<D>(3.69, 0.01);  // touches the floor and the wall
    const Vec<D> middle = at<D>(0.0, 0.01);
    const Vec<D> at_wall = at<D>(3.69, 1.0);
    const auto on = [&](Side side, Match match, const Vec<D>& anchor) {
        return reads<D>(level, boxed<D>(contact<D>(side, match), both), anchor);
    };
    CHECK(on(Side::below, Match::includes, middle));
    CHECK(on(Side::below, Match::only, middle));
    CHECK(on(Side::below, Match::includes, corner));
    CHECK_FALSE(on(Side::below, Match::only, corner));
    CHECK(on(Side::beside, Match::includes, corner));
    CHECK(on(Side::beside, Match::only, at_wall));
    CHECK_FALSE(on(Side::below, Match::includes, at_wall));
    CHECK_FALSE(on(Side::above, Match::includes, corner));
    CHECK_FALSE(on(Side::below, Match::includes, at<D>(0.0, 0.0201)));  // touch is 0.02
}

TEST_CASE("the side of a contact: 45° is below, a hair more is beside") {
    for (const auto& [degrees_up, below] : {std::pair(44.99, true), {45.0, true}, {45.01, false}}) {
        const double rise = std::tan(radians(degrees_up));
        LevelBuilder<2> builder({"m"});
        builder.add_polygon("ramp", "m", {{0, 0}, {10, 0}, {10, 10 * rise}});
        const auto level = builder.build();
        Rig<2> rig = boxed<2>(contact<2>(Side::below, Match::includes), {"m"});
        rig.body.stances = {Stance<2>::ball("ball", 0.3)};
        const Vec<2> normal = Vec<2>(-rise, 1.0).normalized();
        const Vec<2> center = Vec<2>(5, 5 * rise) + 0.301 * normal;
        INFO(degrees_up);
        CHECK(reads<2>(level, rig, center - Vec<2>(0, 0.3)) == below);
        rig.probes[0].contact().side = Side::beside;
        CHECK(reads<2>(level, rig, center - Vec<2>(0, 0.3)) == !below);
    }
}

TEMPLATE_TEST_CASE_SIG("a row stands across its width, and counts its lines", "", ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", box<D>(-10, -1, 0, 0));
    const auto level = builder.build();
    Probe<D> probe = foot_ray<D>(0.42);
    probe.line().spread.kind = SpreadKind::row;
    probe.line().spread.count = 3;
    probe.line().spread.width = 0.5;
    // Lines at -0.25, 0 and 0.25 ahead of the anchor; the floor ends at 0.
    const auto lines_on = [&](double x) {
        const MountedRig<D> mounted(rig_with<D>(probe, {"m"}), level, 0, Vec<D>::unit(0));
        std::vector<Reading<D>> readings(1);
        mounted.evaluate(level, at<D>(x, 0.0), readings);
        return std::popcount(readings[0].lines_on);
    };
    CHECK(lines_on(-0.25 - hair) == 3);
    CHECK(lines_on(-0.25 + hair) == 2);
    CHECK(lines_on(hair) == 1);
    CHECK(lines_on(0.25 + hair) == 0);
    for (int least = 1; least <= 3; ++least) {
        probe.line().spread.least = least;
        CHECK(reads<D>(level, rig_with<D>(probe, {"m"}), at<D>(hair, 0.0)) == (least <= 1));
        CHECK(reads<D>(level, rig_with<D>(probe, {"m"}), at<D>(-0.1, 0.0)) == (least <= 2));
        CHECK(reads<D>(level, rig_with<D>(probe, {"m"}), at<D>(-0.3, 0.0)));
    }
}

TEST_CASE("fans, rings and grids: where the lines start and which way they go") {
    std::vector<ProbeLine<2>> flat;
    Spread fan;
    fan.kind = SpreadKind::fan;
    fan.count = 3;
    fan.degrees = 90.0;
    spread_lines<2>(fan, {0.1, 0.2}, {1.0, 0.0}, flat);
    REQUIRE(flat.size() == 3);
    const double half = std::sqrt(0.5);
    CHECK(flat[0].along.is_close(Vec<2>(half, -half)));
    CHECK(flat[1].along.is_close(Vec<2>(1, 0)));
    CHECK(flat[2].along.is_close(Vec<2>(half, half)));
    CHECK(flat[2].from.is_close(Vec<2>(0.1, 0.2)));
    fan.degrees = 360.0;  // all around, none twice
    fan.count = 4;
    spread_lines<2>(fan, {0, 0}, {1, 0}, flat);
    CHECK(flat[1].along.is_close(Vec<2>(0, 1)));
    CHECK(flat[3].along.is_close(Vec<2>(0, -1)));

    std::vector<ProbeLine<3>> lines;
    fan.count = 3;
    fan.degrees = 60.0;
    spread_lines<3>(fan, {0, 0, 0}, {1, 0, 0}, lines);
    for (const auto& line : lines) CHECK(line.along.y() == Approx(0.0).margin(1e-12));  // around up
    CHECK(lines[0].along.dot(lines[2].along) == Approx(0.5));
    Spread ring;
    ring.kind = SpreadKind::ring;
    ring.count = 6;
    ring.radius = 0.25;
    spread_lines<3>(ring, {0, 0.4, 0}, {0, -1, 0}, lines);
    REQUIRE(lines.size() == 6);
    Vec<3> sum = Vec<3>::zero();
    for (const auto& line : lines) {
        CHECK((line.from - Vec<3>(0, 0.4, 0)).norm() == Approx(0.25));
        CHECK(line.from.y() == Approx(0.4));
        sum += line.from;
    }
    CHECK((sum / 6.0).is_close(Vec<3>(0, 0.4, 0)));
    Spread grid;
    grid.kind = SpreadKind::grid;
    grid.counts = {3, 2};
    grid.size = {0.4, 0.2};
    spread_lines<3>(grid, {0, 0, 0}, {0, -1, 0}, lines);
    REQUIRE(lines.size() == 6);
    double farthest = 0.0;
    for (const auto& line : lines) farthest = std::max(farthest, line.from.norm());
    CHECK(farthest == Approx(std::hypot(0.2, 0.1)));
}

TEMPLATE_TEST_CASE_SIG("reach by what is remembered, and by speed", "", ((int D), D), 2, 3) {
    const auto level = floor_and_wall<D>();
    Probe<D> probe = foot_ray<D>(0.42);
    probe.line().reach_grounded = 0.6;
    const auto by_state = rig_with<D>(probe, {"m"});
    const auto on = [&](const Rig<D>& rig, double height, bool grounded, double speed) {
        return reads<D>(level, rig, at<D>(0, height),
                        {Vec<D>::unit(0), -speed * Vec<D>::unit(1), Vec<D>::zero(), grounded});
    };
    CHECK(on(by_state, 0.02, false, 0));
    CHECK_FALSE(on(by_state, 0.02 + hair, false, 0));
    CHECK(on(by_state, 0.2, true, 0));
    CHECK_FALSE(on(by_state, 0.2 + hair, true, 0));
    probe = foot_ray<D>(0.4);
    probe.line().reach_per_speed = 0.05;
    const auto by_speed = rig_with<D>(probe, {"m"});
    CHECK(on(by_speed, 0.1 - hair, false, 2.0));
    CHECK_FALSE(on(by_speed, 0.1 + hair, false, 2.0));
    CHECK_FALSE(on(by_speed, 0.1 - hair, false, 1.9));
}

TEMPLATE_TEST_CASE_SIG("drive and velocity: the way the body wants to go, the way it goes", "", ((int D), D),
                       2, 3) {
    const auto level = floor_and_wall<D>();
    Probe<D> probe = foot_ray<D>(1.0);
    probe.line().from = at<D>(0, 0.9);
    probe.line().aim = Aim::drive;
    const auto rig = rig_with<D>(probe, {"w"});
    const Vec<D> ahead = Vec<D>::unit(0);
    const Vec<D> none = Vec<D>::zero();
    const Vec<D> before_wall = at<D>(3.0 + hair, 0.0);
    // Whichever way it looks.
    for (const Vec<D>& heading : {ahead, -ahead}) {
        CHECK(reads<D>(level, rig, before_wall, {heading, none, ahead}));
        CHECK_FALSE(reads<D>(level, rig, before_wall, {heading, none, -ahead}));
        CHECK_FALSE(reads<D>(level, rig, before_wall, {heading, ahead, none}));
    }
    CHECK_FALSE(reads<D>(level, rig, at<D>(3.0 - 1e-6, 0.0), {ahead, none, ahead}));
}

TEST_CASE("conditions on a reading, nested groups, signals as members") {
    const auto level = floor_and_wall<2>();
    Rig<2> rig = rig_with<2>(foot_ray<2>(2.0), {"m"});
    rig.body.meets = {"m", "w"};
    rig.probes[0].sees = {"m", "w"};
    Member near("foot");
    near.distance = std::array{0.0, 0.5};
    rig.signals[0].members.any = {near};
    CHECK(reads<2>(level, rig, {0, 0.1}));
    CHECK_FALSE(reads<2>(level, rig, {0, 0.1 + hair}));
    Member flat("foot");
    flat.layers = {"w"};
    rig.signals[0].members.any = {flat};
    CHECK_FALSE(reads<2>(level, rig, {0, 0.1}));
    CHECK(reads<2>(level, rig, {4.5, 3.1}));  // on top of the wall
    Member steep("foot");
    steep.angle_degrees = std::array{30.0, 90.0};
    Member either;
    either.group.push_back({{steep, flat}, {}, {}, {}});
    rig.signals[0].members.any = {either};
    CHECK(reads<2>(level, rig, {4.5, 3.1}));
    CHECK_FALSE(reads<2>(level, rig, {0, 0.1}));
    // A second signal, of the first and of what the first is not.
    Signal second;
    second.name = "second";
    second.members.all = {"foot"};
    second.members.none = {"grounded"};
    rig.signals.push_back(second);
    const MountedRig<2> mounted(rig, level, 0, {1, 0});
    CHECK(mounted.evaluate(level, {4.5, 3.1}).bits() == 0b01);
    CHECK(mounted.evaluate(level, {0.0, 0.1}).bits() == 0b10);
    CHECK(mounted.evaluate(level, {0.0, 5.0}).bits() == 0b00);
    std::swap(rig.signals[0], rig.signals[1]);
    CHECK_THROWS_WITH(check(rig), Catch::Contains("declared later"));
}

TEST_CASE("settle, grace and mute, to the tick") {
    const auto level = floor_and_wall<2>();
    const Vec<2> down(0, 0);
    const Vec<2> up(0, 1);
    const auto timed = [&](double settle, double grace, double mute) {
        Rig<2> rig = rig_with<2>(foot_ray<2>(0.42), {"m"});
        rig.signals[0].settle = settle;
        rig.signals[0].grace = grace;
        if (mute > 0.0) rig.signals[0].mute_after = {"jump", mute};
        return rig;
    };
    // Ticks of 0.1 s. Settling for 0.2 s: on at the third tick that holds.
    Walk<2> settling(level, timed(0.2, 0.0, 0.0));
    CHECK_FALSE(settling.to(down));
    CHECK_FALSE(settling.to(down));
    CHECK(settling.to(down));
    CHECK_FALSE(settling.to(up));
    CHECK_FALSE(settling.to(down));  // anew
    // Grace of 0.2 s: on for two ticks after.
    Walk<2> graceful(level, timed(0.0, 0.2, 0.0));
    CHECK(graceful.to(down));
    CHECK(graceful.to(up));
    CHECK(graceful.to(up));
    CHECK_FALSE(graceful.to(up));
    // Muted for 0.3 s by a jump: off at the tick of the jump and two more, grace or not.
    Walk<2> muted(level, timed(0.0, 0.5, 0.3));
    CHECK(muted.to(down));
    CHECK_FALSE(muted.to(down, "jump"));
    CHECK_FALSE(muted.to(down));
    CHECK_FALSE(muted.to(up));
    CHECK_FALSE(muted.to(up));  // what was before the jump gives no grace
    CHECK(muted.to(down));
}

TEST_CASE("read before the move: a tick late") {
    const auto level = floor_and_wall<2>();
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.42), {"m"});
    rig.reads = Reads::before_move;
    Walk<2> late(level, rig);
    CHECK_FALSE(late.to({0, 1}));
    CHECK_FALSE(late.to({0, 0}));
    CHECK(late.to({0, 0}));
    CHECK(late.to({0, 1}));
    CHECK_FALSE(late.to({0, 1}));
}

TEMPLATE_TEST_CASE_SIG("one-way solids: as a body meets them, always, never", "", ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("hatch", "m", box<D>(-2, 1.0, 2, 1.1));
    builder.one_way(Vec<D>::unit(1));
    const auto level = builder.build();
    Probe<D> up = foot_ray<D>(2.0);
    up.line().along = Vec<D>::unit(1);
    Probe<D> inside = zone<D>(0.2, 0.2);
    Probe<D> rise = shift<D>(Vec<D>::unit(1), 0.5);
    Probe<D> fall = shift<D>(-Vec<D>::unit(1), 0.5);
    const auto on = [&](Probe<D> probe, OneWay one_way, double height) {
        *one_way_of(probe) = one_way;
        return reads<D>(level, boxed<D>(probe, {"m"}), at<D>(0, height));
    };
    CHECK_FALSE(on(up, OneWay::as_body, 0.0));
    CHECK(on(up, OneWay::always, 0.0));
    CHECK_FALSE(on(up, OneWay::never, 0.0));
    CHECK(on(foot_ray<D>(1.0), OneWay::as_body, 1.2));
    CHECK(on(foot_ray<D>(1.0), OneWay::always, 1.2));
    CHECK_FALSE(on(foot_ray<D>(1.0), OneWay::never, 1.2));
    CHECK(on(inside, OneWay::as_body, 1.05));  // a resident volume has no side to arrive from
    CHECK_FALSE(on(inside, OneWay::never, 1.05));
    // The body, 1.8 high, rises through it and falls on to it.
    CHECK_FALSE(on(rise, OneWay::as_body, -1.1));
    CHECK(on(rise, OneWay::always, -1.1));
    CHECK(on(fall, OneWay::as_body, 1.2));
    CHECK_FALSE(on(fall, OneWay::as_body, 1.05));  // it is in it already
    CHECK_FALSE(on(fall, OneWay::as_body, 1.0799));
    CHECK(on(fall, OneWay::as_body, 1.0801));  // sunk by less than touch it stands on it
    CHECK_FALSE(on(rise, OneWay::as_body, 1.09));
}

TEMPLATE_TEST_CASE_SIG("a shift tells of one-way solids what stops the body on its way", "", ((int D), D), 2,
                       3) {
    // Down by no more than the deck is thick, so that what stops the body is there at the end of its way,
    // too.
    Random random(58);
    std::size_t sunk = 0;
    std::size_t off = 0;
    for (int round = 0; round < 40; ++round) {
        LevelBuilder<D> builder({"m"});
        std::vector<RoundedHull<D>> decks;
        for (const double aside : {0.0, 0.5}) {
            const double top = random.below(2) == 0 ? 0.0 : random.between(-0.05, 0.05);
            decks.push_back(box<D>(aside - 0.5, top - 0.4, aside + 0.5, top));
        }
        builder.add_parts("deck", "m", decks).one_way(Vec<D>::unit(1));
        const auto level = builder.build();
        Rig<D> rig = boxed<D>(shift<D>(-Vec<D>::unit(1), 0.2), {"m"});
        const MountedRig<D> mounted(rig, level, 0, Vec<D>::unit(0));
        for (int i = 0; i < 100; ++i) {
            const Vec<D> anchor = at<D>(random.between(-1.2, 1.7), random.between(-0.1, 0.3));
            const PlacedBody<D> body{mounted.body.view(), anchor, mounted.meets};
            const auto truth = blocked<D>(level, body, -Vec<D>::unit(1), 0.2, rig.intent);
            if (!truth.decided) continue;
            CAPTURE(round, anchor);
            CHECK(mounted.evaluate(level, anchor).has(0) == truth.on);
            const double gap = nearest<D>(level, {body.shape, anchor}, 1.0)->gap;
            sunk += truth.on && gap < 0.0 ? 1 : 0;
            off += !truth.on ? 1 : 0;
        }
    }
    CHECK(sunk > 20);
    CHECK(off > 200);
}

TEMPLATE_TEST_CASE_SIG("the body's own shape meets one-way solids as the body does, sunk into them or not",
                       "", ((int D), D), 2, 3) {
    Random random(57);
    std::size_t sunk_and_on = 0;
    std::size_t too_deep = 0;
    for (int round = 0; round < 60; ++round) {
        // A deck of two boxes, the second higher, lower or as high; flat or turned; solid from above or so.
        LevelBuilder<D> builder({"m"});
        const double tilt = round % 3 == 0 ? 0.0 : random.between(-0.6, 0.6);
        const Mat<D> turn = scenes::tilt<D>(tilt);
        const Vec<D> from = round % 2 == 0 ? Vec<D>::unit(1) : turn * Vec<D>::unit(1);
        std::vector<RoundedHull<D>> decks;
        for (const double aside : {0.0, 0.4}) {
            const auto box =
                RoundedHull<D>::box(at<D>(0.0, random.below(2) == 0 ? -0.1 : -0.13), size<D>(0.9, 0.2, 2.0));
            decks.push_back(box.placed(turn, turn * at<D>(aside, 0.0)));
        }
        builder.add_parts("deck", "m", decks).one_way(from);
        const auto level = builder.build();
        Probe<D> own = foot_ray<D>(0.02);
        Rig<D> rig = boxed<D>(own, {"m"});
        if (round % 2 == 0) rig.body.stances = {Stance<D>::capsule("upright", 0.3, 1.8)};
        LineProbe<D>& cast = rig.probes[0].line();
        cast.shape = rig.body.stances[0].shape;
        cast.from = Vec<D>::zero();
        cast.reach = rig.intent.touch;
        cast.take = Take::all;
        cast.accept_most_degrees = rig.intent.steepest_footing_degrees;
        const MountedRig<D> mounted(rig, level, 0, Vec<D>::unit(0));
        for (int i = 0; i < 300; ++i) {
            const Vec<D> anchor = at<D>(random.between(-1.0, 1.4), random.between(-0.3, 0.3));
            const PlacedBody<D> body{mounted.body.view(), anchor, mounted.meets};
            const auto truth = ground<D>(level, body, rig.intent);
            if (!truth.decided) continue;
            CAPTURE(round, anchor, tilt);
            CHECK(mounted.evaluate(level, anchor).has(0) == truth.on);
            const double gap = nearest<D>(level, {body.shape, anchor}, 1.0)->gap;
            if (truth.on && gap < 0.0) ++sunk_and_on;
            if (gap < -rig.intent.touch) ++too_deep;
        }
    }
    CHECK(sunk_and_on > 50);
    CHECK(too_deep > 500);
}

TEMPLATE_TEST_CASE_SIG("a one-way solid that has moved is met as one that was built there", "", ((int D), D),
                       2, 3) {
    Random random(59);
    const auto ball = RoundedHull<D>::ball(Vec<D>::zero(), 0.3);
    std::size_t met = 0;
    std::size_t passed = 0;
    for (int round = 0; round < 40; ++round) {
        // Two parts, not as high as one another: what is deep in one of them stands on neither.
        const Vec<D> offset = random.point<D>(2.0);
        const double step = random.between(-0.05, 0.05);
        const auto built = [&](const Vec<D>& by) {
            const std::vector<RoundedHull<D>> parts = {
                box<D>(-0.5, -0.3, 0.5, 0.0).placed(Mat<D>::identity(), by),
                box<D>(0.0, -0.3, 1.0, step).placed(Mat<D>::identity(), by)};
            LevelBuilder<D> builder({"m"});
            builder.add_parts("deck", "m", parts).one_way(Vec<D>::unit(1));
            return builder.build();
        };
        const Level<D> rest = built(Vec<D>::zero());
        const Level<D> there = built(offset);
        MovingLevel<D> moving(rest, std::vector<std::uint32_t>{0});
        moving.place(0, offset);
        moving.refit();
        for (int i = 0; i < 100; ++i) {
            LevelCast<D> cast{ball.view(),
                              offset + at<D>(random.between(-0.9, 1.4), random.between(0.2, 0.4)),
                              -Vec<D>::unit(1), 0.02};
            cast.sunk = 0.02;
            const auto expected = first_hit<D>(there, cast);
            const auto hit = moving.first_hit(cast);
            REQUIRE(hit.has_value() == expected.has_value());
            if (hit) CHECK(hit->distance == Approx(expected->distance).margin(1e-9));
            ++(hit ? met : passed);
        }
    }
    CHECK(met > 100);
    CHECK(passed > 1000);
}

TEMPLATE_TEST_CASE_SIG("the body itself is met where its layer is seen and it is not ignored", "",
                       ((int D), D), 2, 3) {
    const auto level = floor_and_wall<D>();
    Probe<D> probe = foot_ray<D>(1.0);
    probe.line().from = at<D>(0.5, 0.9);
    probe.line().along = -Vec<D>::unit(0);
    Rig<D> rig = boxed<D>(probe, {"m", "w"});
    rig.body.layer = "w";
    CHECK_FALSE(reads<D>(level, rig, at<D>(0, 0.1)));
    rig.probes[0].line().ignores_body = false;
    const MountedRig<D> mounted(rig, level, 0, Vec<D>::unit(0));
    std::vector<Reading<D>> readings(1);
    CHECK(mounted.evaluate(level, at<D>(0, 0.1), readings).bits() == 1);
    CHECK(readings[0].own_body);
    CHECK(readings[0].hit.distance == Approx(0.2));  // from 0.5 ahead to its face at 0.3
    rig.probes[0].sees = {"m"};
    CHECK_FALSE(reads<D>(level, rig, at<D>(0, 0.1)));
}

TEMPLATE_TEST_CASE_SIG("a role that depends on stance and speed", "", ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", box<D>(-4, -1, 4, 0));
    builder.add("ramp for runners", "m", box<D>(-1, 0, 1, 0.2));
    builder.role(Role::sensed).sensed_when({{"upright"}, 2.0, 8.0});
    const auto level = builder.build();
    Rig<D> rig = boxed<D>(foot_ray<D>(2.0), {"m"});
    rig.body.stances.push_back(Stance<D>::box("crawling", size<D>(1.6, 0.5, 0.6)));
    const auto hits = [&](std::size_t stance, double speed) {
        const MountedRig<D> mounted(rig, level, stance,
                                    Situation<D>{Vec<D>::unit(0), speed * Vec<D>::unit(0)});
        std::vector<Reading<D>> readings(1);
        mounted.evaluate(level, at<D>(0, 0.5), readings);
        return level.solids()[readings[0].hit.solid].name;
    };
    CHECK(hits(0, 2.0 - hair) == "floor");
    CHECK(hits(0, 2.0) == "ramp for runners");
    CHECK(hits(0, 8.0) == "ramp for runners");
    CHECK(hits(0, 8.0 + hair) == "floor");
    CHECK(hits(1, 5.0) == "floor");
}

TEST_CASE("values: height, slope, normal and the distance to an edge") {
    LevelBuilder<2> builder({"m"});
    builder.add_polygon("ramp", "m", {{-4, -2}, {0, -2}, {0, 0}, {-4, -1}});
    const auto level = builder.build();
    Probe<2> probe = foot_ray<2>(2.0);
    probe.line().spread.kind = SpreadKind::row;
    probe.line().spread.count = 9;
    probe.line().spread.width = 0.8;
    const MountedRig<2> mounted(rig_with<2>(probe, {"m"}), level, 0, {1, 0});
    std::vector<Reading<2>> readings(1);
    const Vec<2> anchor(-0.15, 0.5);
    mounted.evaluate(level, anchor, readings);
    const auto value = [&](Value wanted) {
        return *read_value<2>(wanted, mounted.probes[0], readings[0], anchor, {0, 1});
    };
    // Lines every 0.1; the first that is off is 0.2 ahead: at 0.05, beyond the edge.
    CHECK(value(Value::edge_distance).number == Approx(0.2));
    CHECK(value(Value::slope).number == Approx(degrees(std::atan(0.25))));
    CHECK(value(Value::wall_normal).direction.is_close(Vec<2>(-0.25, 1).normalized()));
    // Of the nearest hit, at -0.05, where the ramp is highest beneath the lines.
    CHECK(value(Value::ground_height).number == Approx(-0.0125 - 0.5));
}

TEST_CASE("paths: where a moving solid is at any time") {
    const Path<2> lift{{{12, 0}, {12, 4}, {9, 4}}, 2.0, 0.5};
    CHECK(lift.period() == Approx((4 + 3 + 5) / 2.0 + 1.5));
    CHECK(lift.at(0.0) == Vec<2>(12, 0));
    CHECK(lift.at(0.5) == Vec<2>(12, 0));
    CHECK(lift.at(1.5).is_close(Vec<2>(12, 2)));
    CHECK(lift.at(2.5).is_close(Vec<2>(12, 4)));
    CHECK(lift.at(3.0).is_close(Vec<2>(12, 4)));
    CHECK(lift.at(3.75).is_close(Vec<2>(10.5, 4)));
    CHECK(lift.at(5.0 + 1.25).is_close(Vec<2>(10.5, 2)));  // straight back
    CHECK(lift.at(1.5 + 3 * lift.period()).is_close(lift.at(1.5)));
    CHECK(lift.at(1.5 - 3 * lift.period()).is_close(lift.at(1.5)));
    CHECK(lift.velocity(0.2).is_zero());
    CHECK(lift.velocity(1.0).is_close(Vec<2>(0, 2)));
    // A level shows it where it is.
    LevelBuilder<2> builder({"m"});
    builder.add("deck", "m", RoundedHull<2>::box({0, 0}, {2, 0.2})).path(lift);
    builder.add_polyline("rail", "m", {{20, 0}, {21, 0}});
    const auto level = builder.build();
    CHECK(level.at(1.5).piece(0).points[0].is_close(level.piece(0).points[0] + Vec<2>(12, 2)));
    CHECK(level.at(1.5).piece(1).points[0] == level.piece(1).points[0]);
    const auto hit = first_hit<2>(
        level.at(1.5), {RoundedHull<2>::facet({Vec<2>(0, 0), Vec<2>(0, 0)}).view(), {12, 5}, {0, -1}, 10.0});
    REQUIRE(hit);
    CHECK(hit->distance == Approx(5 - 2.1));
}

TEMPLATE_TEST_CASE_SIG("turned again and again, a rig reads as one mounted anew, on any world", "",
                       ((int D), D), 2, 3) {
    Random random(7);
    LevelBuilder<D> builder({"m", "w"});
    for (int i = 0; i < 60; ++i) {
        builder.add("s" + std::to_string(i), i % 2 == 0 ? "m" : "w",
                    random_shape<D>(random, random.point<D>(4.0), 1.0));
        if (i % 7 == 0) builder.one_way(Vec<D>::unit(1));
    }
    const auto level = builder.build();
    Rig<D> rig = boxed<D>(foot_ray<D>(1.0), {"m", "w"});
    const auto add = [&](Probe<D> probe) {
        probe.name = "probe " + std::to_string(rig.probes.size());
        probe.sees = {"m", "w"};
        rig.probes.push_back(probe);
    };
    Probe<D> probe = foot_ray<D>(1.2);
    probe.line().shape = random_shape<D>(random, Vec<D>::zero(), 0.4);
    probe.line().aim = Aim::velocity;
    probe.line().reach_per_speed = 0.1;
    add(probe);
    probe = foot_ray<D>(0.8);
    probe.line().along = Vec<D>::unit(0);
    probe.line().spread.kind = SpreadKind::fan;
    probe.line().spread.count = 5;
    probe.line().spread.degrees = 120.0;
    probe.line().take = Take::all;
    probe.line().accept_least_degrees = 20.0;
    add(probe);
    add(zone<D>(0.5, 0.7));
    probe = shift<D>(Vec<D>::unit(0), 0.4);
    probe.shift().aim = Aim::drive;
    probe.shift().inset = 0.02;
    add(probe);
    MountedRig<D> turned(rig, level, 0, Vec<D>::unit(0));
    const LevelBackEnd<D> world(level);
    std::size_t on = 0;
    for (int i = 0; i < 400; ++i) {
        Vec<D> heading = random.direction<D>();
        heading[1] = 0.0;
        const Situation<D> situation{heading.normalized(), 3.0 * random.direction<D>(), random.direction<D>(),
                                     i % 2 == 0};
        const Vec<D> anchor = random.point<D>(4.0);
        turned.aim(situation);
        const MountedRig<D> fresh(rig, level, 0, situation);
        std::vector<Reading<D>> a(rig.probes.size());
        std::vector<Reading<D>> b(rig.probes.size());
        std::vector<Reading<D>> c(rig.probes.size());
        turned.evaluate(level, anchor, a);
        fresh.evaluate(level, anchor, b);
        RigMemory memory = turned.memory();
        turned.tick(world, {anchor, anchor, 0.1}, memory, c);
        for (std::size_t k = 0; k < a.size(); ++k) {
            on += a[k].on ? 1U : 0U;
            REQUIRE(a[k].on == b[k].on);
            REQUIRE(a[k].on == c[k].on);
            REQUIRE(a[k].lines_on == b[k].lines_on);
            REQUIRE(a[k].lines_on == c[k].lines_on);
            if (!a[k].met) continue;
            CHECK(a[k].hit.distance == Approx(b[k].hit.distance).margin(1e-12));
            CHECK(a[k].hit.distance == c[k].hit.distance);
            CHECK(a[k].hit.piece == c[k].hit.piece);
        }
    }
    CHECK(on > 150);
}

/// A row, fan, ring or grid at random, some of whose lines are to be on.
template <int D>
Spread random_spread(Random& random) {
    constexpr std::array kinds = {SpreadKind::row, SpreadKind::fan, SpreadKind::ring, SpreadKind::grid};
    Spread spread;
    spread.kind = kinds[random.below(D == 2 ? 2 : 4)];
    spread.count = 2 + random.below(7);
    spread.width = random.between(0.2, 2.0);
    spread.degrees = random.between(20.0, 300.0);
    spread.radius = random.between(0.2, 1.0);
    spread.counts = {2, 3};
    spread.size = {random.between(0.2, 1.5), random.between(0.2, 1.5)};
    if (random.below(3) > 0) spread.least = 1 + random.below(spread.line_count() / 2);
    return spread;
}

TEMPLATE_TEST_CASE_SIG("whether a probe is on is the same when nothing else of it is asked", "", ((int D), D),
                       2, 3) {
    Random random(2611);
    std::size_t on = 0;
    std::size_t some_lines = 0;
    for (int i = 0; i < 60; ++i) {
        LevelBuilder<D> builder({"m", "w"});
        for (int k = 0; k < 40; ++k)
            builder.add("s" + std::to_string(k), k % 2 == 0 ? "m" : "w",
                        random_shape<D>(random, random.point<D>(3.0), D == 2 ? 0.8 : 1.5));
        const auto level = builder.build();
        Probe<D> probe = foot_ray<D>(random.between(0.5, 2.0));
        probe.line().along = random.direction<D>();
        probe.line().spread = random_spread<D>(random);
        probe.line().take = i % 2 == 0 ? Take::all : Take::first;
        probe.line().accept_most_degrees = random.between(60.0, 180.0);
        if (i % 3 == 0) probe.line().shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.15);
        Rig<D> rig = boxed<D>(probe, {"m", "w"});
        Member near("foot");
        near.distance = std::array{0.0, 0.5};
        near.layers = {"w"};
        if (i % 5 < 2) rig.signals[0].members.any = {near};
        const MountedRig<D> mounted(rig, level, 0, Vec<D>::unit(0));
        for (int k = 0; k < 40; ++k) {
            const Vec<D> anchor = random.point<D>(3.0);
            std::vector<Reading<D>> whole(1);
            const ReadingSet bits = mounted.probes_on(level, anchor, whole);
            on += whole[0].on ? 1U : 0U;
            const int lines = std::popcount(whole[0].lines_on);
            some_lines += lines > 0 && lines < probe.line().spread.line_count() ? 1U : 0U;
            REQUIRE(whole[0].on == (lines >= probe.line().spread.least));
            REQUIRE(mounted.probes_on(level, anchor) == bits);
            REQUIRE(mounted.bits_at(0, level, anchor) == bits);
            const auto& alone = mounted.probes[0];
            REQUIRE(alone.read(level, mounted.body, anchor, {}, Wanted::on).on == whole[0].on);
            const Reading<D> if_on = alone.read(level, mounted.body, anchor, {}, Wanted::if_on);
            REQUIRE(if_on.on == whole[0].on);
            if (whole[0].on) CHECK(if_on.hit.distance == whole[0].hit.distance);
        }
    }
    CHECK(on > 400);
    CHECK(some_lines > 400);
}

TEMPLATE_TEST_CASE_SIG("a probe that starts elsewhere reads as one made so", "", ((int D), D), 2, 3) {
    Random random(417);
    const Level<D> level = floor_and_wall<D>();
    std::size_t on = 0;
    for (int i = 0; i < 300; ++i) {
        Probe<D> probe = i % 3 == 0 ? zone<D>(0.5, 0.3) : foot_ray<D>(random.between(0.2, 2.0));
        if (i % 3 == 1) probe.line().shape = random_shape<D>(random, Vec<D>::zero(), 0.3);
        if (probe.is_line() && i % 4 == 1) probe.line().along = random.direction<D>();
        if (i % 6 == 2) probe.line().spread = {.kind = SpreadKind::row, .count = 3, .width = 0.5};
        Rig<D> rig = boxed<D>(probe, {"m", "w"});
        const RoundedHull<D>& stance = rig.body.stances[0].shape;
        Vec<D> heading = random.direction<D>();
        heading[1] = 0.0;
        const Situation<D> situation{heading.normalized()};
        MountedProbe<D> moved(rig.probes[0], rig, level, 0, situation);
        const Vec<D> from = random.point<D>(0.8);
        moved.start_at(from);
        moved.aim(situation, level.up());
        *from_of(rig.probes[0]) = from;
        const MountedProbe<D> made(rig.probes[0], rig, level, 0, situation);
        CHECK(*from_of(moved.probe()) == from);
        for (int k = 0; k < 4; ++k) {
            const Vec<D> anchor = at<D>(4.0, 0.5) + random.point<D>(1.5);
            const Reading<D> a = moved.read(level, stance, anchor);
            const Reading<D> b = made.read(level, stance, anchor);
            on += a.on ? 1U : 0U;
            REQUIRE(a.on == b.on);
            REQUIRE(a.lines_on == b.lines_on);
            REQUIRE(a.solids == b.solids);
            if (a.met) CHECK(a.hit.distance == b.hit.distance);
        }
    }
    CHECK(on > 300);
    CHECK(on < 1100);
}
