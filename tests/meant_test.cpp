// What the game means: directions, kinds of ground, helpers, backs of surfaces, forgiveness; and what a clean
// survey may say.
#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "hollow_probe/io/allowance.hpp"
#include "hollow_probe/level/text_level.hpp"
#include "hollow_probe/motion/play.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/rig/touched.hpp"
#include "hollow_probe/truth/doubt.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/value.hpp"
#include "hollow_probe/truth/wall.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

template <int D>
RoundedHull<D> block(double x0, double y0, double x1, double y1, double wide = 3.0) {
    Vec<D> size = Vec<D>::constant(2.0 * wide);
    size[0] = x1 - x0;
    size[1] = y1 - y0;
    return RoundedHull<D>::box(at<D>(0.5 * (x0 + x1), 0.5 * (y0 + y1)), size);
}

/// Level ground that ends at 0.
Level<2> pier() {
    LevelBuilder<2> builder({"m"});
    builder.add("pier", "m", block<2>(-6, -1, 0, 0));
    return builder.build();
}

template <int D>
Rig<D> rig_of(std::vector<Probe<D>> probes, std::vector<Signal> signals) {
    Rig<D> rig;
    rig.body.meets = {"m"};
    rig.body.stances = {Stance<D>::capsule("upright", 0.3, 1.2)};
    rig.probes = std::move(probes);
    rig.signals = std::move(signals);
    return rig;
}

template <int D>
Probe<D> contact(Side side, double within) {
    Probe<D> probe;
    probe.name = "contact";
    probe.of_kind = ContactProbe{.side = side, .within_degrees = within};
    probe.sees = {"m"};
    return probe;
}

Signal claim(Claim claims, std::vector<Member> any) {
    Signal signal;
    signal.name = "signal";
    signal.claims = claims;
    signal.members.any = std::move(any);
    return signal;
}

/// The sole of the body, felt from where it is, no farther than touch.
template <int D>
Probe<D> sole(double reach = 0.02) {
    Probe<D> probe;
    probe.name = "sole";
    probe.line().shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.3);
    probe.line().from = 0.3 * Vec<D>::unit(1);
    probe.line().reach = reach;
    probe.sees = {"m"};
    probe.line().take = Take::all;
    probe.line().accept_most_degrees = 45.0;
    return probe;
}

template <int D>
SurveyOptions coarse() {
    SurveyOptions options;
    options.spacing = D == 2 ? 0.15 : 0.4;
    options.headings = 2;
    return options;
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("contacts with limits equal to the intent are clean on slopes, lips and ceilings", "",
                       ((int D), D), 2, 3) {
    for (const double slope : {0.0, 20.0, 44.0, 50.0}) {
        LevelBuilder<D> builder({"m"});
        const Mat<D> turn = scenes::tilt<D>(radians(slope));
        builder.add("ramp", "m", block<D>(-1, -1, 1, 0, 1.0).placed(turn));
        builder.add("roof", "m", block<D>(-2, 2.6, 0.5, 3.0, 1.0).placed(turn));
        const auto level = builder.build();
        CAPTURE(slope);
        const auto below =
            survey<D>(level, rig_of<D>({contact<D>(Side::below, 45.0)}, {claim(Claim::ground, {"contact"})}),
                      coarse<D>());
        CHECK(below.findings.empty());
        CHECK(below.signals[0].put_to_test());
        const auto above =
            survey<D>(level, rig_of<D>({contact<D>(Side::above, 60.0)}, {claim(Claim::ceiling, {"contact"})}),
                      coarse<D>());
        CHECK(above.findings.empty());
        CHECK(above.signals[0].put_to_test());
    }
}

TEMPLATE_TEST_CASE_SIG(
    "a rig that aims by drive is asked along the drive, and judged as one that aims forward", "",
    ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", block<D>(-2, -1, 2, 0, 1.0));
    builder.add("wall", "m", block<D>(1, 0, 1.5, 2, 1.0));
    const auto level = builder.build();
    Probe<D> chest;
    chest.name = "chest";
    chest.line().from = 0.6 * Vec<D>::unit(1);
    chest.line().along = Vec<D>::unit(0);
    chest.line().reach = 0.3 + 0.1;
    chest.sees = {"m"};
    auto rig = rig_of<D>({chest}, {claim(Claim::wall, {"chest"})});
    rig.intent.ahead_wall = 0.05;
    const auto forward = survey<D>(level, rig, coarse<D>());
    CHECK(toward_of<D>(rig, rig.signals[0]) == Toward::heading);
    rig.probes[0].line().aim = Aim::drive;
    CHECK(toward_of<D>(rig, rig.signals[0]) == Toward::drive);
    const auto driven = survey<D>(level, rig, coarse<D>());
    CHECK(driven.facings.size() == forward.facings.size());
    for (std::size_t v = 0; v < verdict_count; ++v) {
        CHECK(driven.signals[0].poses[v] == forward.signals[0].poses[v]);
        CHECK(driven.signals[0].measure[v] == Approx(forward.signals[0].measure[v]).margin(1e-12));
    }
    // A body that can look elsewhere than it goes is asked with other drives, too.
    rig.body.turns = false;
    CHECK(survey<D>(level, rig, coarse<D>()).facings.size() == (D == 2 ? 2 : 4) * forward.facings.size());
}

TEST_CASE("kinds of ground are told apart by layer, and helpers are not judged") {
    LevelBuilder<2> builder({"m", "ice"});
    builder.add("floor", "m", block<2>(-3, -1, 0, 0));
    builder.add("pond", "ice", block<2>(0, -1, 3, 0));
    const auto level = builder.build();
    auto on_ice = sole<2>();
    on_ice.sees = {"ice"};
    auto rig = rig_of<2>({on_ice}, {claim(Claim::ground, {"sole"})});
    rig.body.meets = {"m", "ice"};
    CHECK_FALSE(survey<2>(level, rig, coarse<2>()).findings.empty());
    rig.signals[0].of = {"ice"};
    const auto right = survey<2>(level, rig, coarse<2>());
    CHECK(right.findings.empty());
    CHECK(right.signals[0].put_to_test());
    // A helper says whatever it likes.
    Signal helper;
    helper.name = "slippery";
    helper.claims.reset();
    helper.members.none = {"sole"};
    rig.signals.insert(rig.signals.begin(), helper);
    rig.signals[1].members.any = {};
    rig.signals[1].members.none = {"slippery"};
    const auto helped = survey<2>(level, rig, coarse<2>());
    CHECK(helped.findings.empty());
    CHECK_FALSE(helped.signals[0].claims);
    CHECK(wrong_in<2>(helped).missed == 0);
    rig.signals[0].of = {"ice"};
    CHECK_THROWS_AS(check(rig), InvalidInput);
}

TEST_CASE("one probe may be read before the move while another is read after it") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", block<2>(-3, -1, 0, 0));
    const auto level = builder.build();
    auto scout = sole<2>();
    scout.name = "scout";
    scout.reads = Reads::before_move;
    const auto rig = rig_of<2>({sole<2>(), scout}, {claim(Claim::ground, {"sole"})});
    const MountedRig<2> mounted(rig, level, 0, Vec<2>(1, 0));
    CHECK_FALSE(mounted.reads_before_move());
    CHECK(has_memory(rig));
    RigMemory memory = mounted.memory();
    std::vector<Reading<2>> readings(2);
    mounted.tick(level, Tick<2>{{1.0, 0.0}, {-1.0, 0.0}, 0.02, 0, {}}, memory, readings);
    CHECK_FALSE(readings[0].on);
    CHECK(readings[1].on);
}

TEST_CASE("what a scout says before a move is held against that move") {
    LevelBuilder<2> builder({"m"});
    builder.add("west", "m", block<2>(-6, 0, -5, 6));
    builder.add("east", "m", block<2>(4, 0, 5, 6));
    builder.add("pillar", "m", block<2>(0, 2, 0.3, 6));
    const auto level = builder.build();
    std::mt19937_64 random(13);
    std::uniform_real_distribution<double> any(0.0, 1.0);
    std::uint64_t blocked = 0, missed_when_short = 0;
    for (int round = 0; round < 60; ++round) {
        Drill<2> drill;
        drill.at = Vec<2>(-4.5 + 4.0 * any(random), 0.5 + 3.0 * any(random));
        drill.seconds = 1.5;
        drill.tick_rate = 20.0 + std::floor(80.0 * any(random));
        drill.motion.model = Model::slide;
        drill.motion.top_speed = 2.0 + 10.0 * any(random);
        for (int i = 0; i < 4; ++i) {
            Cue<2> cue;
            cue.at = 0.4 * i;
            cue.drive = Vec<2>(any(random) < 0.5 ? -1 : 1, 0);
            drill.cues.push_back(cue);
        }
        Probe<2> scout = sole<2>();
        scout.name = "scout";
        scout.line().shape = Stance<2>::capsule("", 0.3, 1.2).shape;
        scout.line().from = Vec<2>::zero();
        scout.line().aim = Aim::velocity;
        scout.line().reach = 0.0;
        scout.line().reach_per_speed = 1.0 / drill.tick_rate;
        scout.line().accept_most_degrees = 180.0;
        auto rig = rig_of<2>({scout}, {claim(Claim::blocked, {"scout"})});
        rig.intent.ahead_move_seconds = 1.0 / drill.tick_rate;
        rig.reads = Reads::before_move;
        PlayOptions<2> keep;
        keep.keep_ticks = true;
        const auto sound = play<2>(level, rig, drill, keep);
        CAPTURE(round, drill.at, drill.tick_rate, drill.motion.top_speed);
        CHECK(sound.figures.signals[0].missed_ticks == 0);
        CHECK(sound.figures.signals[0].false_ticks == 0);
        for (const auto& tick : sound.ticks) blocked += tick.truths_on.has(0);
        // A scout that looks half the way is late now and then.
        rig.probes[0].line().reach_per_speed *= 0.5;
        missed_when_short += play<2>(level, rig, drill).figures.signals[0].missed_ticks;
    }
    CHECK(blocked > 20);
    CHECK(missed_when_short > 10);
}

TEST_CASE("a survey asks a scout that is read before the move where it is read") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", block<2>(-3, -1, 3, 0));
    builder.add("wall", "m", block<2>(2, 0, 3, 4));
    const auto level = builder.build();
    Probe<2> scout = sole<2>();
    scout.name = "scout";
    scout.line().shape = Stance<2>::capsule("", 0.3, 1.2).shape;
    scout.line().from = Vec<2>::zero();
    scout.line().aim = Aim::velocity;
    scout.line().reach = 0.0;
    scout.line().reach_per_speed = 1.0 / 60.0;
    scout.line().accept_most_degrees = 180.0;
    auto rig = rig_of<2>({scout}, {claim(Claim::blocked, {"scout"})});
    rig.reads = Reads::before_move;
    auto options = coarse<2>();
    options.speeds = {3.0, 12.0};
    // Sunk into a floor by no more than touch it feels that floor, which stops nobody: known to be false. But
    // nothing is missed, and nothing is put down to when it is read.
    const auto sound = survey<2>(level, rig, options);
    CHECK(sound.signals[0].count(Verdict::missed_contact) == 0);
    CHECK(sound.signals[0].put_to_test());
    for (const auto& finding : sound.findings) {
        REQUIRE_FALSE(finding.causes.empty());
        CHECK(finding.causes[0].cause != CauseKind::stale);
    }
    rig.probes[0].line().reach_per_speed *= 0.5;
    const auto lame = survey<2>(level, rig, options);
    REQUIRE_FALSE(lame.findings.empty());
    CHECK(lame.signals[0].count(Verdict::missed_contact) > 0);
    const auto& causes = lame.findings[0].causes;
    CHECK(std::any_of(causes.begin(), causes.end(),
                      [](const CauseReport& cause) { return cause.cause == CauseKind::reach_short; }));
}

TEST_CASE("the back of a surface is met by those who meet both sides, and by no others") {
    // A sheet whose front looks down: along its way its right side is its front.
    for (const bool front_up : {true, false}) {
        LevelBuilder<2> builder({"m"});
        std::vector<Vec<2>> way = {{-2, 0}, {2, 0}};
        if (front_up) std::swap(way[0], way[1]);
        builder.add_polyline("sheet", "m", way);
        const auto level = builder.build();
        auto rig = rig_of<2>({sole<2>()}, {claim(Claim::ground, {"sole"})});
        CHECK(survey<2>(level, rig, coarse<2>()).findings.empty());
        const auto ray = RoundedHull<2>::ball({0, 0}, 1.0).with_radius(0.0);
        LevelCast<2> cast{ray.view(), {0.5, 1.0}, {0, -1}, 2.0};
        cast.faces = Faces::front;
        CHECK(first_hit<2>(level, cast).has_value() == front_up);
        PlacedBody<2> body{rig.body.stances[0].shape.view(), {0.5, 0.01}, 1};
        CHECK(ground<2>(level, body, rig.intent).on);
        body.front_faces = true;
        CHECK(ground<2>(level, body, rig.intent).on == front_up);
        if (front_up) continue;
        // Only the body falls through: the probe takes it otherwise, and that is said.
        rig.body.faces = Faces::front;
        const auto falls = survey<2>(level, rig, coarse<2>());
        REQUIRE_FALSE(falls.findings.empty());
        CHECK(falls.findings[0].causes[0].cause == CauseKind::back_face);
        rig.probes[0].line().faces = Faces::front;
        CHECK(survey<2>(level, rig, coarse<2>()).findings.empty());
    }
}

TEST_CASE(
    "a grace within what the intent forgives is forgiven, one tick beyond is not: in drills and surveys") {
    const auto level = pier();
    Drill<2> drill;
    drill.at = Vec<2>(-1.0, 0.0);
    drill.seconds = 1.0;
    drill.tick_rate = 50.0;
    drill.motion.gravity = 20.0;
    drill.motion.top_speed = 4.0;
    Cue<2> go;
    go.drive = Vec<2>(1, 0);
    drill.cues = {go};
    auto rig = rig_of<2>({sole<2>()}, {claim(Claim::ground, {"sole"})});
    rig.signals[0].grace = 0.1;  // five ticks
    SurveyOptions options = coarse<2>();
    options.tick_seconds = 0.02;
    options.region = {-0.6, -0.5, 1.0, 0.5};
    const auto played = [&](double late) {
        rig.intent.forgive.late = late;
        return play<2>(level, rig, drill).figures.signals[0];
    };
    CHECK(played(0.0).false_ticks == 5);
    CHECK(played(0.1).false_ticks == 0);
    CHECK(played(0.1).forgiven_ticks == 5);
    CHECK(played(0.08).false_ticks == 1);
    rig.intent.forgive.late = 0.1;
    const auto forgiven = survey<2>(level, rig, options);
    CHECK(forgiven.signals[0].count(Verdict::false_contact) == 0);
    CHECK(forgiven.signals[0].count(Verdict::forgiven) > 0);
    CHECK(forgiven.signals[0].precision() == 1.0);
    rig.intent.forgive.late = 0.08;
    CHECK(survey<2>(level, rig, options).signals[0].count(Verdict::false_contact) > 0);
}

TEST_CASE("what comes before its truth by no more than is forgiven is forgiven") {
    const auto level = pier();
    Random random(41);
    for (int round = 0; round < 20; ++round) {
        Drill<2> drill;
        drill.at = Vec<2>(-1.0, random.between(0.8, 2.0));
        drill.seconds = 2.0;
        drill.tick_rate = 50.0;
        drill.motion.gravity = 10.0;
        auto rig = rig_of<2>({sole<2>(random.between(0.3, 0.6))}, {claim(Claim::ground, {"sole"})});
        const auto played = [&](double early) {
            rig.intent.forgive.early = early;
            return play<2>(level, rig, drill).figures.signals[0];
        };
        const auto strict = played(0.0);
        const double ahead = 0.02 * static_cast<double>(strict.false_ticks);
        CAPTURE(round, drill.at.y(), rig.probes[0].line().reach);
        REQUIRE(strict.false_ticks > 1);
        CHECK(strict.forgiven_ticks == 0);
        CHECK(played(ahead).false_ticks == 0);
        CHECK(played(ahead).forgiven_ticks == strict.false_ticks);
        CHECK(played(ahead - 0.02).false_ticks == 1);
        // What is told and never comes is not excused, however much is: he falls past the pier.
        drill.at.x() = 0.305;
        rig.probes[0].line().shape = RoundedHull<2>::ball(Vec<2>::zero(), 0.32);
        rig.probes[0].line().accept_most_degrees = 90.0;
        drill.seconds = 1.0;
        CHECK(played(0.2).forgiven_ticks == 0);
        CHECK(played(0.2).false_ticks > 0);
    }
}

TEST_CASE(
    "a mute that keeps to what is forgiven after take-off misses nothing in a survey, a longer one does") {
    const auto level = pier();
    auto rig = rig_of<2>({sole<2>(0.5)}, {claim(Claim::ground, {"sole"})});
    rig.intent.touch = 0.5;
    rig.signals[0].mute_after = {"jump", 0.1};
    auto options = coarse<2>();
    options.tick_seconds = 0.02;
    options.region = {-3.0, -0.6, -1.0, 1.0};
    const auto surveyed = [&](double after_take_off) {
        rig.intent.forgive.after_take_off = after_take_off;
        return survey<2>(level, rig, options).signals[0];
    };
    CHECK(surveyed(0.0).count(Verdict::missed_contact) > 0);
    CHECK(surveyed(0.0).count(Verdict::forgiven) == 0);
    CHECK(surveyed(0.1).count(Verdict::missed_contact) == 0);
    CHECK(surveyed(0.1).count(Verdict::forgiven) > 0);
    rig.signals[0].mute_after.seconds = 0.3;
    // The longer is forgiven, the less is missed, tick by tick.
    double last = surveyed(0.0).of(Verdict::missed_contact);
    for (const double seconds : {0.04, 0.08, 0.12}) {
        const double missed = surveyed(seconds).of(Verdict::missed_contact);
        CAPTURE(seconds, missed);
        CHECK(missed > 0.0);
        CHECK(missed < last);
        last = missed;
    }
    CHECK(surveyed(0.1).count(Verdict::missed_contact) > 0);
}

TEST_CASE("a jump within what is forgiven after the edge is earned; the mute after take-off misses nothing") {
    const auto level = pier();
    Drill<2> drill;
    drill.at = Vec<2>(-0.5, 0.0);
    drill.seconds = 0.6;
    drill.tick_rate = 50.0;
    drill.motion.gravity = 20.0;
    drill.motion.top_speed = 4.0;
    drill.motion.jump_speed = 5.0;
    Cue<2> go;
    go.drive = Vec<2>(1, 0);
    Cue<2> jump;
    jump.at = 0.26;  // some ticks past the lip
    jump.press = "jump";
    drill.cues = {go, jump};
    auto rig = rig_of<2>({sole<2>()}, {claim(Claim::ground, {"sole"})});
    rig.signals[0].grace = 0.2;
    Reflex permit;
    permit.on = "signal";
    rig.reflexes = {permit};
    const auto strict = play<2>(level, rig, drill).figures;
    CHECK(strict.jumps == 1);
    CHECK(strict.unearned_jumps == 1);
    rig.intent.forgive.late = 0.2;
    CHECK(play<2>(level, rig, drill).figures.unearned_jumps == 0);
    // Muted right after a jump from the ground, while the body still touches it.
    rig.signals[0].grace = 0.0;
    rig.signals[0].mute_after = {"jump", 0.2};
    rig.intent.forgive = {};
    rig.intent.touch = 0.2;
    rig.probes[0].line().reach = 0.2;
    drill.cues[1].at = 0.0;
    CHECK(play<2>(level, rig, drill).figures.signals[0].missed_ticks > 0);
    rig.intent.forgive.after_take_off = 0.2;
    CHECK(play<2>(level, rig, drill).figures.signals[0].missed_ticks == 0);
}

TEMPLATE_TEST_CASE_SIG("the longer a probe is too long, the lower the precision and the graver the worst", "",
                       ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", block<D>(-1.5, -1, 1.5, 0, 1.0));
    const auto level = builder.build();
    double precision = 1.0;
    double severity = 0.0;
    for (const double reach : {0.05, 0.1, 0.3, 1.0, 2.5, 6.0}) {
        const auto result =
            survey<D>(level, rig_of<D>({sole<D>(reach)}, {claim(Claim::ground, {"sole"})}), coarse<D>());
        REQUIRE_FALSE(result.findings.empty());
        double gravest = 0.0;
        for (const auto& finding : result.findings) gravest = std::max(gravest, finding.severity);
        CAPTURE(reach);
        CHECK(result.signals[0].precision() < precision);
        CHECK(gravest > severity);
        // Over the middle of the floor it stays on so far above contact.
        CHECK(gravest >= reach - 0.02 - 0.001);
        precision = result.signals[0].precision();
        severity = gravest;
    }
}

TEST_CASE("a survey that judges nothing is no clean survey; what was not put to the test is told") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", block<2>(-3, -1, 3, 0));
    const auto level = builder.build();
    auto rig = rig_of<2>({sole<2>()}, {claim(Claim::ground, {"sole"})});
    SurveyOptions options = coarse<2>();
    options.region = {-1.0, 5.0, 1.0, 6.0};  // in the air
    CHECK_THROWS_WITH(survey<2>(level, rig, options), Catch::Contains("no pose to judge"));
    options.region = {-1.0, -0.9, 1.0, -0.5};  // in the floor
    CHECK_THROWS_AS(survey<2>(level, rig, options), InvalidInput);
    Probe<2> crown = sole<2>();
    crown.name = "crown";
    crown.line().along = Vec<2>(0, 1);
    crown.line().accept_least_degrees = 120.0;
    crown.line().accept_most_degrees = 180.0;
    rig.probes.push_back(crown);
    rig.signals.push_back(claim(Claim::ceiling, {"crown"}));
    rig.signals[1].name = "bumped";
    options.region = {-1.0, -0.1, 1.0, 2.0};
    const auto result = survey<2>(level, rig, options);
    CHECK(result.signals[0].put_to_test());
    CHECK_FALSE(result.signals[1].put_to_test());
    CHECK(result.scope.never_on == std::vector<std::string>{"crown"});
    CHECK(result.scope.never_off.empty());
    // The region bounds every pose, and all that each stands for.
    for (const auto& pose : result.poses) {
        CHECK(pose.anchor.y() - pose.down >= -0.1 - 1e-6);
        CHECK(pose.anchor.y() + pose.up <= 2.0 + 1e-6);
    }
}

TEST_CASE("what a shift by rounding flips is in doubt, from whichever side") {
    LevelBuilder<2> builder({"m"});
    builder.add("slab", "m", block<2>(-3, -1, 0, 0));
    const auto level = builder.build();
    const auto stance = Stance<2>::box("boxed", {0.6, 1.8});
    const Intent intent;
    const auto doubt = [&](double x, double y) {
        const TruthQuestion<2> question{{stance.shape.view(), {x, y}, 1}, {1, 0}, stance.shape.view()};
        return in_doubt<2>(Claim::ground, level, question, intent,
                           answer<2>(Claim::ground, level, question, intent).on);
    };
    CHECK_FALSE(doubt(-1.0, 0.0));
    CHECK(doubt(-1.0, 0.02));  // just within touch
    CHECK(doubt(0.3, 0.0));    // its back just on the lip
    CHECK(doubt(0.3 - 1e-10, 0.005));
    CHECK_FALSE(doubt(0.3 - 1e-6, 0.005));
}

TEST_CASE("ground has a height over every point of a surface without thickness") {
    LevelBuilder<3> builder({"m"});
    builder.add_mesh("tile", "m", {{0, 0, 0}, {3, 0.6, 0.2}, {0.4, 0.1, 2.5}}, {{0, 2, 1}});
    const auto level = builder.build();
    const auto stance = Stance<3>::capsule("upright", 0.3, 1.8);
    const Intent intent;
    Random random(8);
    for (int i = 0; i < 5000; ++i) {
        double u = random.between(0.001, 0.998);
        double v = random.between(0.001, 0.998);
        if (u + v > 0.999) continue;
        const Vec<3> p = u * Vec<3>(3, 0.6, 0.2) + v * Vec<3>(0.4, 0.1, 2.5);
        const double above = random.between(-0.3, 0.3);
        const Vec<3> anchor = p + above * Vec<3>::unit(1);
        const auto value =
            true_value<3>(Value::ground_height, Claim::ground, level,
                          {{stance.shape.view(), anchor, 1}, {1, 0, 0}, stance.shape.view()}, intent);
        CAPTURE(i, u, v, above);
        REQUIRE(value);
        CHECK(value->number == Approx(-above).margin(1e-9));
    }
}

TEST_CASE("a flat floor of triangles is no wall for a box, sunk or not; nor is the next slab") {
    Random random(3);
    LevelBuilder<3> builder({"m"});
    std::vector<Vec<3>> vertices;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    for (int x = 0; x <= 6; ++x) {
        for (int z = 0; z <= 6; ++z) vertices.push_back({0.5 * x, 0.0, 0.5 * z});
    }
    for (std::uint32_t x = 0; x < 6; ++x) {
        for (std::uint32_t z = 0; z < 6; ++z) {
            const std::uint32_t a = 7 * x + z;
            triangles.push_back({a, a + 1, a + 8});
            triangles.push_back({a, a + 8, a + 7});
        }
    }
    builder.add_mesh("floor", "m", vertices, triangles);
    const auto level = builder.build();
    const auto stance = Stance<3>::box("boxed", {0.6, 1.8, 0.6});
    const Intent intent;
    for (int i = 0; i < 500; ++i) {
        const double sunk = std::array{0.0, 1e-15, -1e-15, 1e-9, 0.01}[static_cast<std::size_t>(i % 5)];
        const Vec<3> anchor(random.between(0.6, 2.4), -sunk, random.between(0.6, 2.4));
        const double angle = random.between(0.0, 6.28);
        const Vec<3> heading(std::cos(angle), 0.0, std::sin(angle));
        const PlacedBody<3> body{stance.shape.view(), anchor, 1};
        CAPTURE(i, sunk, anchor);
        CHECK(ground<3>(level, body, intent).on);
        CHECK_FALSE(wall<3>(level, body, heading, intent).on);
    }
}

TEST_CASE("a one-way polyline of short segments is no ground for what stands in it") {
    LevelBuilder<2> builder({"m"});
    std::vector<Vec<2>> corners;
    for (int i = 0; i <= 40; ++i) corners.push_back({0.05 * i, 0.2 * std::sin(0.2 * i)});
    builder.add_polyline("arch", "m", corners);
    builder.one_way(Vec<2>(0, 1));
    const auto level = builder.build();
    const auto stance = Stance<2>::capsule("upright", 0.3, 1.2);
    const Intent intent;
    for (double x = 0.35; x < 1.65; x += 0.0037) {
        for (double below = 0.05; below < 1.1; below += 0.11) {
            const double floor = 0.2 * std::sin(4.0 * x);
            CAPTURE(x, below);
            CHECK_FALSE(ground<2>(level, {stance.shape.view(), {x, floor - below}, 1}, intent).on);
        }
    }
    // What the last move touched below knows that as well.
    const auto rig = rig_of<2>({contact<2>(Side::below, 45.0)}, {claim(Claim::ground, {"contact"})});
    const MountedRig<2> mounted(rig, level, 0, Vec<2>(1, 0));
    Random random(29);
    int stood = 0, within = 0;
    for (int i = 0; i < 4000; ++i) {
        const double x = random.between(-0.4, 2.4);
        const double above = random.between(-0.6, 0.25);
        const Vec<2> anchor(x, 0.2 * std::sin(4.0 * x) + above);
        const PlacedBody<2> body{stance.shape.view(), anchor, 1};
        const auto truth = ground<2>(level, body, intent);
        if (!truth.decided || truth.margin.distance < 1e-6) continue;
        const auto felt = touched_by<2>(level, mounted, anchor, intent.touch);
        const bool stands = std::any_of(felt.begin(), felt.end(), [](const MoveContact<2>& at) {
            return at.found_along == Side::below && at.normal.y() >= std::cos(radians(45.0));
        });
        CAPTURE(anchor);
        CHECK(stands == truth.on);
        stood += truth.on;
        within += !truth.on && above < -0.05;
    }
    CHECK(stood > 50);
    CHECK(within > 50);
}

TEST_CASE("in drills, too, what rounding decides is held against no signal") {
    LevelBuilder<2> builder({"m"});
    builder.add("slab", "m", block<2>(-3, -1, 3, 0));
    const auto level = builder.build();
    auto signals = std::vector{claim(Claim::ground, {"sole"}), claim(Claim::ground, {"sole"})};
    signals[1].name = "second";
    const auto rig = rig_of<2>({sole<2>(0.019)}, signals);
    Drill<2> drill;
    drill.motion.model = Model::free;
    drill.seconds = 0.1;
    PlayOptions<2> keep;
    keep.keep_ticks = true;
    for (const double gap : {0.02, 0.0195}) {  // touch is 0.02
        drill.at = Vec<2>(0.0, gap);
        const auto played = play<2>(level, rig, drill, keep);
        REQUIRE(played.ticks.size() == 6);
        for (const auto& tick : played.ticks) CHECK(tick.undecided.bits() == (gap == 0.02 ? 3U : 0U));
        for (const auto& figures : played.figures.signals)
            CHECK(figures.missed_ticks == (gap == 0.02 ? 0U : 6U));
    }
}

TEST_CASE("root finding ends on slivers and at any scale") {
    Random random(77);
    for (const double scale : {1e-6, 1.0, 1e6}) {
        for (int i = 0; i < 300; ++i) {
            LevelBuilder<3> builder({"m"});
            const Vec<3> a = scale * random.point<3>(1.0);
            const Vec<3> along = scale * random.direction<3>();
            const Vec<3> hair = scale * std::pow(10.0, -random.between(4.0, 12.0)) * random.direction<3>();
            builder.add_mesh("sliver", "m", {a - along, a + along, a + hair}, {{0, 1, 2}});
            const auto level = builder.build();
            const auto stance = Stance<3>::capsule("upright", 0.3 * scale, 1.2 * scale);
            Intent intent;
            for (double* length :
                 {&intent.touch, &intent.lowest_step, &intent.tallest_step, &intent.ahead_step,
                  &intent.ahead_wall, &intent.ahead_drop, &intent.deepest_drop, &intent.ahead_ledge,
                  &intent.ledge_between[0], &intent.ledge_between[1]})
                *length *= scale;
            const PlacedBody<3> body{stance.shape.view(), scale * random.point<3>(1.0), 1};
            const TruthQuestion<3> question{body, {1, 0, 0}, stance.shape.view()};
            for (const Claim claim : all_claims) {
                const auto full = answer<3>(claim, level, question, intent);
                CHECK(full.on == answer<3>(claim, level, question, intent, 0.0, Margins::left_out).on);
            }
        }
    }
}

TEST_CASE("allowances are numbers of poses or shares") {
    CHECK(allowance_from("12")->poses == 12);
    CHECK(allowance_from("0.5 %")->share == Approx(0.005));
    CHECK(allowance_from("0.5%")->share == Approx(0.005));
    CHECK(allowance_from("100%")->share == Approx(1.0));
    for (const char* wrong : {"", "%", "-1", "-1 %", "101 %", "1.5", "x", "5 % ", "nan %"}) {
        CAPTURE(wrong);
        CHECK_FALSE(allowance_from(wrong));
    }
    WrongInAll found;
    found.missed = 30;
    found.missed_share = 0.004;
    CHECK(within(found, {*allowance_from("0.4 %"), {}, 0}));
    CHECK_FALSE(within(found, {*allowance_from("0.39 %"), {}, 0}));
    CHECK_FALSE(within(found, {*allowance_from("29"), {}, 0}));
    found.falsely = 1;
    CHECK_FALSE(within(found, {*allowance_from("30"), {}, 0}));
    // Shares are of what is true or signalled, over all signals that claim something.
    Survey<2> survey;
    survey.signals.resize(3);
    const auto set = [&](std::size_t signal, double right, double missed, double falsely) {
        auto& measure = survey.signals[signal].measure;
        measure[static_cast<std::size_t>(Verdict::true_contact)] = right;
        measure[static_cast<std::size_t>(Verdict::missed_contact)] = missed;
        measure[static_cast<std::size_t>(Verdict::false_contact)] = falsely;
        measure[static_cast<std::size_t>(Verdict::true_clear)] = 1000.0;
        survey.signals[signal].claims = Claim::ground;
    };
    set(0, 5.0, 1.0, 2.0);
    set(1, 10.0, 0.0, 2.0);
    set(2, 7.0, 7.0, 7.0);
    survey.signals[2].claims.reset();
    const auto shares = wrong_in<2>(survey);
    CHECK(shares.missed_share == Approx(1.0 / 20.0));
    CHECK(shares.false_share == Approx(4.0 / 20.0));
    CHECK(wrong_in<2>(Survey<2>{}).false_share == 0.0);
    survey.claims.resize(2);
    survey.claims[0].against_geometry = 3;
    survey.claims[0].against_signals = 5;
    survey.claims[1].against_geometry = 2;
    CHECK(wrong_in<2>(survey).claims == 7);
}
