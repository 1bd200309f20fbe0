// Probes that start where another one was stopped: against probes put there by hand, closed forms, and
// surveys.
#include <catch2/catch.hpp>

#include "hollow_probe/io/rig_file.hpp"
#include "hollow_probe/rig/debug_lines.hpp"
#include "hollow_probe/rig/touched.hpp"
#include "hollow_probe/study/compare.hpp"
#include "hollow_probe/study/gauge.hpp"
#include "hollow_probe/study/tune.hpp"
#include "hollow_probe/verify/advice.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

template <int D>
RoundedHull<D> box(double left, double bottom, double right, double top) {
    Vec<D> low = Vec<D>::constant(-4.0);
    Vec<D> high = Vec<D>::constant(4.0);
    low[0] = left;
    low[1] = bottom;
    high[0] = right;
    high[1] = top;
    return RoundedHull<D>::box(0.5 * (low + high), high - low);
}

/// A floor at height 0, and a block from 4 to 6 that is 1 high, with a step of 0.4 behind its edge.
template <int D>
Level<D> floor_and_block() {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", box<D>(-10, -1, 4, 0));
    builder.add("block", "m", box<D>(4, -1, 6, 1));
    builder.add("step", "m", box<D>(5, 1, 6, 1.4));
    return builder.build();
}

/// "eyes", a ray ahead from 0.5 above the anchor, and "fingers", which follows it down from 2 above, 0.2 past
/// it.
template <int D>
Rig<D> eyes_and_fingers(double reach = 2.0) {
    Probe<D> eyes = foot_ray<D>(reach);
    eyes.line().from = at<D>(0.0, 0.5);
    eyes.line().along = Vec<D>::unit(0);
    Rig<D> rig = rig_with<D>(eyes, {"m"});
    rig.probes[0].name = "eyes";
    Probe<D> fingers = foot_ray<D>(1.5);
    fingers.name = "fingers";
    fingers.sees = {"m"};
    fingers.line().from = at<D>(0.2, 2.0);
    fingers.follows = "eyes";
    rig.probes.push_back(fingers);
    rig.signals[0].members.any = {"fingers"};
    return rig;
}

template <int D>
std::vector<Reading<D>> readings_at(const Level<D>& level, const Rig<D>& rig, const Vec<D>& anchor) {
    const MountedRig<D> mounted(rig, level, 0, Vec<D>::unit(0));
    std::vector<Reading<D>> readings(rig.probes.size());
    (void)mounted.evaluate(level, anchor, readings);
    return readings;
}

/// A line, a zone or a shift at random, that follows what is given.
template <int D>
Probe<D> random_follower(Random& random, const std::string& follows) {
    Probe<D> probe = foot_ray<D>(random.between(0.2, 2.0));
    probe.sees = {"m"};
    probe.follows = follows;
    const int kind = random.below(4);
    if (kind == 2) {
        probe.of_kind =
            ZoneProbe<D>{RoundedHull<D>::box(Vec<D>::zero(), Vec<D>::constant(random.between(0.1, 0.5)))};
        probe.zone().from = random.point<D>(0.6);
    } else if (kind == 3) {
        probe.of_kind = ShiftProbe<D>{.along = random.direction<D>(), .reach = random.between(0.0, 0.5)};
    } else {
        if (kind == 1) probe.line().shape = RoundedHull<D>::ball(Vec<D>::zero(), random.between(0.05, 0.3));
        probe.line().from = random.point<D>(0.6);
        probe.line().along = random.direction<D>();
        if (random.below(2) == 0) probe.line().take = Take::all;
        if (random.below(2) == 0) probe.line().accept_most_degrees = random.between(30.0, 150.0);
    }
    return probe;
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("a probe starts where the one that it follows was stopped", "", ((int D), D), 2, 3) {
    const Level<D> level = floor_and_block<D>();
    const Rig<D> rig = eyes_and_fingers<D>();
    for (const double x : {2.0, 2.6, 3.3, 3.9}) {
        const auto readings = readings_at<D>(level, rig, at<D>(x, 0.0));
        CHECK(readings[0].hit.distance == Approx(4.0 - x));
        CHECK_FALSE(readings[1].unread);
        CHECK(readings[1].carried.is_close(at<D>(4.0 - x, 0.0), 1e-12));
        CHECK(readings[1].on);
        CHECK(readings[1].hit.point.is_close(at<D>(4.2, 1.0), 1e-12));
        CHECK(readings[1].hit.distance == Approx(1.0));
        // As far past the face it is the step behind that is hit, wherever the body stands.
        Rig<D> farther = rig;
        farther.probes[1].line().from[0] = 1.1;
        CHECK(readings_at<D>(level, farther, at<D>(x, 0.0))[1].hit.distance == Approx(0.6));
    }
    // Out of reach by a hair there is nothing to follow.
    CHECK(readings_at<D>(level, rig, at<D>(2.0 - 1e-9, 0.0))[1].unread);
    CHECK_FALSE(readings_at<D>(level, rig, at<D>(2.0 - 1e-9, 0.0))[1].on);
    CHECK(readings_at<D>(level, rig, at<D>(2.0 + 1e-9, 0.0))[1].on);
    // Nor is there where what was hit is refused.
    Rig<D> refused = rig;
    refused.probes[0].line().accept_most_degrees = 80.0;
    const auto readings = readings_at<D>(level, refused, at<D>(3.0, 0.0));
    CHECK(readings[0].met);
    CHECK_FALSE(readings[0].on);
    CHECK(readings[1].unread);
}

TEMPLATE_TEST_CASE_SIG("whatever follows, and whatever follows that, reads as if put there by hand", "",
                       ((int D), D), 2, 3) {
    Random random(7);
    int on = 0;
    int unread = 0;
    for (int scene = 0; scene < 200; ++scene) {
        LevelBuilder<D> builder({"m"});
        for (int i = 0; i < 12; ++i)
            builder.add("s" + std::to_string(i), "m",
                        random_shape<D>(random, random.point<D>(2.0), random.between(0.5, 1.8)));
        const Level<D> level = builder.build();
        Rig<D> rig = rig_with<D>(foot_ray<D>(1.0), {"m"});
        rig.signals[0].members.any = {"leader"};
        rig.probes[0].name = "leader";
        rig.probes[0].line().along = random.direction<D>();
        rig.probes[0].line().reach = random.between(0.3, 3.0);
        rig.probes[0].line().accept_most_degrees = random.between(90.0, 180.0);
        if (random.below(2) == 0)
            rig.probes[0].line().shape = RoundedHull<D>::ball(Vec<D>::zero(), random.between(0.05, 0.3));
        // The one between is a line of its own, or there is none.
        std::string last = "leader";
        if (random.below(2) == 0) {
            Probe<D> between = random_follower<D>(random, last);
            while (!between.is_line()) between = random_follower<D>(random, last);
            between.name = last = "between";
            rig.probes.push_back(between);
        }
        Probe<D> follower = random_follower<D>(random, last);
        follower.name = "follower";
        rig.probes.push_back(follower);
        const Vec<D> heading = D == 2 ? ((random.below(2) == 0 ? 1.0 : -1.0) * Vec<D>::unit(0))
                                      : level_heading<D>(random.direction<D>(), Vec<D>::unit(1));
        MountedRig<D> mounted(rig, level, 0, heading);
        for (int k = 0; k < 5; ++k) {
            const Vec<D> anchor = random.point<D>(2.0);
            std::vector<Reading<D>> readings(rig.probes.size());
            const SignalSet signals = mounted.evaluate(level, anchor, readings);
            CHECK(signals == mounted.evaluate(level, anchor));
            // By hand: each probe by itself, mounted as if it followed nothing, at the anchor carried so far.
            Vec<D> carried = Vec<D>::zero();
            bool is_on = true;
            for (std::size_t i = 0; i < rig.probes.size(); ++i) {
                INFO("scene " << scene << ", probe " << i);
                CHECK(readings[i].unread == !is_on);
                if (!is_on) {
                    CHECK_FALSE(readings[i].on);
                    ++unread;
                    continue;
                }
                Probe<D> alone = rig.probes[i];
                alone.follows.clear();
                const MountedProbe<D> there(alone, rig, level, 0, Situation<D>{heading});
                const Reading<D> expected = there.read(level, mounted.body, anchor + carried);
                CHECK(readings[i].on == expected.on);
                CHECK(readings[i].met == expected.met);
                if (expected.met) {
                    CHECK(readings[i].hit.distance == Approx(expected.hit.distance).margin(1e-12));
                    CHECK((readings[i].hit.point - expected.hit.point).norm() < 1e-9);
                }
                CHECK((readings[i].carried - carried).norm() < 1e-9);
                is_on = expected.on;
                on += is_on ? 1 : 0;
                if (there.is_line()) carried += expected.hit.distance * there.lines.front().along;
            }
            // A probe mounted by itself with what it follows, and a tick of a game, say the same.
            CHECK(mounted.probes.back().read(level, mounted.body, anchor).on == readings.back().on);
            RigMemory memory = mounted.memory();
            std::vector<Reading<D>> in_game(rig.probes.size());
            (void)mounted.tick(level, {.anchor = anchor, .before = anchor, .seconds = 0.02}, memory, in_game);
            RigMemory other_memory = mounted.memory();
            std::vector<Reading<D>> elsewhere(rig.probes.size());
            (void)mounted.tick(LevelBackEnd<D>(level), {.anchor = anchor, .before = anchor, .seconds = 0.02},
                               other_memory, elsewhere);
            for (std::size_t i = 0; i < rig.probes.size(); ++i) {
                CHECK(in_game[i].on == readings[i].on);
                CHECK(elsewhere[i].on == readings[i].on);
                CHECK(elsewhere[i].unread == readings[i].unread);
            }
        }
        // Turned to another heading and back it is as it was.
        const Vec<D> anchor = random.point<D>(2.0);
        const SignalSet before = mounted.evaluate(level, anchor);
        const Vec<D> other = -heading;
        mounted.aim({other});
        const MountedRig<D> anew(rig, level, 0, other);
        CHECK(mounted.evaluate(level, anchor) == anew.evaluate(level, anchor));
        const auto last_on = [&](const MountedRig<D>& of) {
            return of.probes.back().read(level, of.body, anchor).on;
        };
        CHECK(last_on(mounted) == last_on(anew));
        mounted.aim({heading});
        CHECK(mounted.evaluate(level, anchor) == before);
    }
    CHECK(on > 100);
    CHECK(unread > 100);
}

TEST_CASE("a zone is left by all that was in it where there is nothing to follow") {
    const Level<2> level = floor_and_block<2>();
    Rig<2> rig = eyes_and_fingers<2>();
    rig.probes[1].of_kind = ZoneProbe<2>{RoundedHull<2>::box({0, 0}, {0.2, 0.2}), {0.2, 0.0}};
    rig.probes[1].zone().keeps = Keeps::last_event;
    const MountedRig<2> mounted(rig, level, 0, Vec<2>(1, 0));
    RigMemory memory = mounted.memory();
    const auto on_at = [&](double x) {
        return mounted.tick(level, {.anchor = {x, 0.5}, .before = {x, 0.5}, .seconds = 0.1}, memory).any();
    };
    CHECK_FALSE(on_at(0.0));
    CHECK(on_at(3.0));
    CHECK(on_at(3.5));
    CHECK_FALSE(on_at(0.0));
    CHECK(on_at(2.5));
}

TEST_CASE(
    "a probe put in place of one that is followed is followed, and what follows reaches as far as both") {
    const Level<2> level = floor_and_block<2>();
    const Rig<2> near = eyes_and_fingers<2>(0.5);
    MountedRig<2> mounted(near, level, 0, Vec<2>(1, 0));
    const auto fingers_on = [&] { return mounted.probes[1].read(level, mounted.body, {3.0, 0.0}).on; };
    CHECK(mounted.probes[1].bounds().high[0] == Approx(0.7));
    CHECK_FALSE(fingers_on());
    CHECK_FALSE(mounted.evaluate(level, {3.0, 0.0}).any());
    mounted.replace(
        0, MountedProbe<2>(eyes_and_fingers<2>(2.0).probes[0], near, level, 0, Situation<2>{{1, 0}}));
    CHECK(mounted.probes[1].bounds().high[0] == Approx(2.2));
    CHECK(mounted.probes[1].bounds().low[0] == Approx(0.2));
    CHECK(fingers_on());
    CHECK(mounted.evaluate(level, {3.0, 0.0}).any());
}

TEST_CASE("stances without the probe that is followed, and probes read at another time") {
    const Level<2> level = floor_and_block<2>();
    Rig<2> rig = eyes_and_fingers<2>();
    rig.body.stances.push_back(Stance<2>::box("low", {0.6, 0.8}));
    rig.probes[0].stances = {"upright"};
    CHECK(MountedRig<2>(rig, level, 0, Vec<2>(1, 0)).evaluate(level, {3.0, 0.0}).any());
    const MountedRig<2> low(rig, level, 1, Vec<2>(1, 0));
    CHECK_FALSE(low.probes[1].mounted);
    CHECK_FALSE(low.evaluate(level, {3.0, 0.0}).any());
    // Each is read with what it follows at its own time.
    rig.probes[0].reads = Reads::before_move;
    const MountedRig<2> mounted(rig, level, 0, Vec<2>(1, 0));
    RigMemory memory = mounted.memory();
    std::vector<Reading<2>> readings(2);
    (void)mounted.tick(level, {.anchor = {3.0, 0.0}, .before = {0.0, 0.0}, .seconds = 0.1}, memory, readings);
    CHECK_FALSE(readings[0].on);
    CHECK(readings[1].on);
    CHECK(readings[1].carried.x() == Approx(1.0));
}

TEST_CASE("what cannot be followed is refused, with the reason") {
    const Level<2> level = floor_and_block<2>();
    const auto refused = [&](const std::string& why, const std::function<void(Rig<2>&)>& change) {
        Rig<2> rig = eyes_and_fingers<2>();
        change(rig);
        CHECK_THROWS_WITH(MountedRig<2>(rig, level, 0, Vec<2>(1, 0)), Catch::Contains(why));
    };
    refused("no probe declared before", [](Rig<2>& rig) { rig.probes[1].follows = "nose"; });
    refused("no probe declared before", [](Rig<2>& rig) { rig.probes[1].follows = "fingers"; });
    refused("no probe declared before", [](Rig<2>& rig) { std::swap(rig.probes[0], rig.probes[1]); });
    refused("several lines", [](Rig<2>& rig) { rig.probes[0].line().spread = {SpreadKind::row, 3, 0.4}; });
    refused("no line to follow", [](Rig<2>& rig) {
        rig.probes[0].of_kind = ZoneProbe<2>{RoundedHull<2>::box({0, 0}, {1, 1})};
    });
    refused("starts nowhere", [](Rig<2>& rig) { rig.probes[1].of_kind = ContactProbe{}; });
    refused("the body itself", [](Rig<2>& rig) { rig.probes[1].line().ignores_body = false; });
}

TEST_CASE("files say what a probe follows, and where they are wrong about it") {
    const Level<2> level = floor_and_block<2>();
    const std::string begun = R"(format = "hollow-probe rig 1"
dimensions = 2
[body]
meets = ["m"]
[[body.stance]]
name = "upright"
capsule = { radius = 0.3, height = 1.8 }
[[probe]]
name = "eyes"
kind = "ray"
from = [0.0, 0.5]
along = "forward"
reach = 2.0
sees = ["m"]
[[probe]]
name = "fingers"
kind = "ray"
from = [0.2, 2.0]
reach = 1.5
sees = ["m"]
)";
    const std::string signal = "[[signal]]\nname = \"grounded\"\nclaims = \"ground\"\nany = [\"fingers\"]\n";
    const Rig<2> read = rig_from_toml<2>(begun + "follows = \"eyes\"\n" + signal, "r", level);
    CHECK(read.probes[1].follows == "eyes");
    CHECK(readings_at<2>(level, read, {3.0, 0.0})[1].hit.point.is_close(Vec<2>(4.2, 1.0)));
    const auto refused = [&](const std::string& line, const std::string& why) {
        CHECK_THROWS_WITH(rig_from_toml<2>(begun + line + signal, "r", level), Catch::Contains(why));
    };
    refused("follows = \"eye\"\n", "r:21:");
    refused("follows = \"eye\"\n", "'eyes'");
    refused("follows = \"fingers\"\n", "r:21:");
    refused("follows = 3\n", "r:21:");
}

TEMPLATE_TEST_CASE_SIG("what is drawn of a probe starts where it was read, and nothing where it was not", "",
                       ((int D), D), 2, 3) {
    const Level<D> level = floor_and_block<D>();
    const Rig<D> rig = eyes_and_fingers<D>();
    const MountedRig<D> mounted(rig, level, 0, Vec<D>::unit(0));
    std::vector<Reading<D>> readings(2);
    const auto ways_of_fingers = [&](double x) {
        (void)mounted.evaluate(level, at<D>(x, 0.0), readings);
        std::vector<DebugLine<D>> lines;
        append_debug_lines<D>(mounted, at<D>(x, 0.0), readings, lines);
        std::erase_if(lines,
                      [](const DebugLine<D>& line) { return line.probe != 1 || line.part != LinePart::way; });
        return lines;
    };
    const auto drawn = ways_of_fingers(3.0);
    REQUIRE(drawn.size() == 1);
    CHECK(drawn[0].from.is_close(at<D>(4.2, 2.0), 1e-12));
    CHECK(drawn[0].to.is_close(at<D>(4.2, 1.0), 1e-12));
    CHECK(ways_of_fingers(0.0).empty());
}

TEST_CASE("side by side, and asked what they are about, probes still follow") {
    const Level<2> level = floor_and_block<2>();
    const Rig<2> far = eyes_and_fingers<2>();
    const Rig<2> near = eyes_and_fingers<2>(0.5);
    const Rig<2> both = both_rigs<2>(far, "A", near, "B");
    for (const double x : {1.0, 3.0, 3.7}) {
        const auto of_both = readings_at<2>(level, both, {x, 0.0});
        REQUIRE(of_both.size() == 4);
        CHECK(of_both[1].on == readings_at<2>(level, far, {x, 0.0})[1].on);
        CHECK(of_both[3].on == readings_at<2>(level, near, {x, 0.0})[1].on);
    }
    // The direction that a signal is about is that of what its probes follow.
    Rig<2> rig = far;
    rig.signals[0].claims = Claim::ledge;
    CHECK(toward_of<2>(rig, rig.signals[0]) == Toward::heading);
    rig.probes[0].line().aim = Aim::drive;
    CHECK(toward_of<2>(rig, rig.signals[0]) == Toward::drive);
    // Without a drive there is nothing to follow; nor is the follower aimed.
    const MountedRig<2> idle(rig, level, 0, Situation<2>{{1, 0}});
    CHECK_FALSE(idle.probes[1].aimed);
    CHECK_FALSE(idle.evaluate(level, {3.0, 0.0}).any());
    MountedRig<2> turned(rig, level, 0, {.heading = {1, 0}, .drive = {1, 0}});
    CHECK(turned.probes[1].aimed);
    turned.aim({.heading = {1, 0}});
    CHECK_FALSE(turned.probes[1].aimed);
    turned.aim({.heading = {1, 0}, .drive = {1, 0}});
    CHECK(turned.probes[1].aimed);
    CHECK(
        MountedRig<2>(rig, level, 0, {.heading = {1, 0}, .drive = {1, 0}}).evaluate(level, {3.0, 0.0}).any());
}

TEST_CASE("a reading takes as many casts as there are probes, looked at where they are carried to") {
    const Level<2> level = floor_and_block<2>();
    Pose<2> pose;
    pose.heading = {1, 0};
    pose.anchor = {3.0, 0.0};
    CHECK(cost_of<2>(eyes_and_fingers<2>(), level, pose).casts == 2);
    CHECK(cost_of<2>(eyes_and_fingers<2>(), level, pose).pieces >= 2);
}

namespace {

/// Ledges told exactly: the chest swept ahead, and past where that was stopped a ray down on to the rim and
/// the body let down to where it then has room.
template <int D>
Rig<D> climber(double reach) {
    Rig<D> rig = eyes_and_fingers<D>();
    Vec<D> size = Vec<D>::constant(0.6);
    size[1] = 1.8;
    rig.body.stances = {Stance<D>::box("upright", size)};
    rig.intent.ahead_ledge = 0.4;
    const RoundedHull<D> body = RoundedHull<D>::box(Vec<D>::zero(), size);
    Probe<D>& chest = rig.probes[0];
    chest.name = "chest";
    // From above touch on: what lies flush stops nobody.
    Vec<D> less = size;
    less[1] -= rig.intent.touch;
    chest.line().shape = RoundedHull<D>::box(Vec<D>::zero(), less);
    chest.line().from = at<D>(0.0, 0.9 + 0.5 * rig.intent.touch);
    chest.line().reach = reach;
    chest.line().take = Take::all;
    chest.line().accept_least_degrees = 45.0;
    chest.line().accept_most_degrees = 120.0;
    Probe<D> top = rig.probes[1];
    top.name = "top";
    top.follows = "chest";
    top.line().shape = body;
    top.line().from = at<D>(0.9, 0.9 + 1.5);
    top.line().reach = 1.0;
    top.line().accept_most_degrees = 45.0;
    top.line().if_inside = IfInside::ignore;
    rig.probes[1] = top;
    Probe<D> rim = foot_ray<D>(1.48);
    rim.name = "rim";
    rim.sees = {"m"};
    rim.follows = "chest";
    rim.line().from = at<D>(0.35, 1.5);
    rim.line().accept_most_degrees = 45.0;
    rim.line().if_inside = IfInside::ignore;
    rig.probes.push_back(rim);
    Probe<D> room = rim;
    room.name = "room";
    room.follows = "top";
    const Vec<D> smaller = size - Vec<D>::constant(2.0 * rig.intent.touch);
    room.of_kind = ZoneProbe<D>{RoundedHull<D>::box(Vec<D>::zero(), smaller), top.line().from};
    rig.probes.push_back(room);
    rig.signals[0].name = "ledge";
    rig.signals[0].claims = Claim::ledge;
    rig.signals[0].members.any = {};
    rig.signals[0].members.all = {"top", "rim"};
    rig.signals[0].members.none = {"room"};
    return rig;
}

template <int D>
Level<D> shelves() {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", box<D>(-8, -1, 8, 0));
    builder.add("shelf", "m", box<D>(4, 0, 7, 1));
    builder.add("low", "m", box<D>(-7, 0, -4, 0.3));
    return builder.build();
}

}  // namespace

TEMPLATE_TEST_CASE_SIG(
    "a ledge told by probes that follow is right everywhere; a leader too short is named, and mended", "",
    ((int D), D), 2, 3) {
    const Level<D> level = shelves<D>();
    SurveyOptions options;
    options.budget = D == 2 ? 6000 : 2000;
    const Survey<D> right = survey<D>(level, climber<D>(0.4), options);
    CHECK(right.wrong.contact > 0.0);
    CHECK(right.wrong.poses() == 0);
    const Survey<D> wrong = survey<D>(level, climber<D>(0.15), options);
    CHECK(wrong.wrong.missed_poses > 0);
    CHECK(wrong.wrong.false_poses == 0);
    REQUIRE(!wrong.findings.empty());
    REQUIRE(!wrong.findings[0].causes.empty());
    const CauseReport& cause = wrong.findings[0].causes[0];
    CHECK(cause.cause == CauseKind::reach_short);
    CHECK(cause.probe == "chest");
    CHECK(cause.parameter == "reach");
    CHECK(cause.with.empty());  // alone
    CHECK(cause.cures == wrong.findings[0].count);
    if (D == 3) return;
    // Searched for, it is found, and what tuning takes for right a survey finds right.
    TuneOptions<D> tuning;
    tuning.free = {{"probe.chest.reach", std::array{0.1, 0.8}}};
    tuning.survey = options;
    const TunedRig<D> tuned = tune<D>({&level}, climber<D>(0.15), tuning);
    CHECK(tuned.right());
    CHECK(tuned.rig.probes[0].line().reach == Approx(0.4));
}
