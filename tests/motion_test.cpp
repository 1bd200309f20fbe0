// Drills against closed forms: the integrator, friction, momentum, lifts, gaps, and what is told of a key.
#include <catch2/catch.hpp>

#include "drill_scenes.hpp"
#include "hollow_probe/motion/play.hpp"
#include "hollow_probe/truth/ground.hpp"

using namespace scenes;

namespace {

constexpr double tick = 1.0 / 60.0;

template <int D>
Level<D> floor_level() {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", slab<D>(-50, 50, 0));
    return builder.build();
}

/// A rig whose one signal is the ground that a short cast of the body's own sole feels.
template <int D>
Rig<D> walker(double reach = 0.12) {
    Probe<D> sole = foot_ray<D>(reach);
    sole.line().shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.3);
    return rig_with<D>(sole, {"m"});
}

template <int D>
Drill<D> drill_at(const Vec<D>& anchor, double seconds, Model model = Model::slide) {
    Drill<D> drill;
    drill.at = anchor;
    drill.seconds = seconds;
    drill.motion.model = model;
    return drill;
}

template <int D>
double height(const TickRecord<D>& record) {
    return record.anchor[1];
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("a body falls as the integrator says, in every model", "", ((int D), D), 2, 3) {
    const auto level = floor_level<D>();
    const auto rig = walker<D>();
    for (const Model model : {Model::free, Model::slide, Model::push_out, Model::loose}) {
        Drill<D> drill = drill_at<D>(at<D>(0, 40), 1.0, model);
        drill.motion.gravity = 20.0;
        const auto record = play<D>(level, rig, drill);
        REQUIRE(record.ticks.size() == 60);
        CAPTURE(name_of(model));
        for (std::size_t n = 1; n <= 60; ++n) {
            // The sum of k g dt² over k = 1 … n.
            const double fallen = 20.0 * tick * tick * 0.5 * double(n * (n + 1));
            CHECK(height(record.ticks[n - 1]) == Approx(40.0 - fallen).margin(1e-12));
            CHECK(record.ticks[n - 1].seconds == Approx(double(n) * tick));
        }
        CHECK(record.figures.signals[0].missed_ticks == 0);
        CHECK(record.figures.signals[0].false_ticks == 0);
    }
}

TEMPLATE_TEST_CASE_SIG("a jump's apex, and the tick at which the ground is touched again", "", ((int D), D),
                       2, 3) {
    const auto level = floor_level<D>();
    Rig<D> rig = walker<D>();
    rig.reflexes = {{"grounded", ReflexKind::permit_jump}};
    for (const double jump_speed : {5.0, 7.0}) {
        Drill<D> drill = drill_at<D>(at<D>(0, 0.002), 2.0);
        drill.motion.gravity = 20.0;
        drill.motion.jump_speed = jump_speed;
        drill.cues = {press<D>(0.5)};
        const auto record = play<D>(level, rig, drill);
        REQUIRE(record.figures.jumps == 1);
        CHECK(record.figures.unearned_jumps == 0);
        CHECK(record.ticks[30].jumped);
        // By hand: the speed is jump_speed in the tick of the press, and less by g dt in each after it.
        double h = height(record.ticks[29]);
        const double ground = h;
        double highest = h;
        std::size_t back = 0;
        for (int k = 0; back == 0; ++k) {
            h += (jump_speed - 20.0 * tick * k) * tick;
            highest = std::max(highest, h);
            if (k > 1 && h - ground <= 0.018) back = 30 + static_cast<std::size_t>(k);
        }
        double seen = 0.0;
        for (const auto& record_of_tick : record.ticks) seen = std::max(seen, height(record_of_tick));
        CHECK(seen == Approx(highest).margin(1e-9));
        CHECK(seen - ground < jump_speed * jump_speed / 40.0 + jump_speed * tick);
        std::size_t landed = 31;
        while (!record.ticks[landed].on_ground) ++landed;
        CHECK(landed == back);
        CHECK(record.figures.signals[0].onset_latency == 0);
        CHECK(record.figures.climb == 0.0);
    }
}

TEMPLATE_TEST_CASE_SIG("a body rests on a slope below the friction angle and slides above it", "",
                       ((int D), D), 2, 3) {
    const double friction = std::tan(radians(25.0));
    for (const double slope : {20.0, 24.9, 25.1, 30.0, 40.0}) {
        const Vec<D> down =
            std::cos(radians(slope)) * Vec<D>::unit(0) - std::sin(radians(slope)) * Vec<D>::unit(1);
        const Vec<D> normal =
            std::sin(radians(slope)) * Vec<D>::unit(0) + std::cos(radians(slope)) * Vec<D>::unit(1);
        Mat<D> turn = Mat<D>::identity();
        turn.column(0) = down;
        turn.column(1) = normal;
        LevelBuilder<D> builder({"m"});
        builder.add("ramp", "m",
                    RoundedHull<D>::box(Vec<D>::zero(), 100.0 * Vec<D>::ones()).placed(turn, -50.0 * normal));
        const auto level = builder.build();
        // The capsule's lower ball just over the ramp.
        const Vec<D> anchor = (0.3 + 0.002) * normal - 0.3 * Vec<D>::unit(1);
        for (const Model model : {Model::slide, Model::loose}) {
            Drill<D> drill = drill_at<D>(anchor, 1.0, model);
            drill.motion.gravity = 20.0;
            drill.motion.friction = friction;
            const auto record = play<D>(level, walker<D>(), drill);
            const double slid = (record.last.anchor - anchor).dot(down);
            CAPTURE(slope, name_of(model));
            if (slope < 25.0) {
                CHECK(std::abs(slid) < 1e-9);
                continue;
            }
            CHECK(record.figures.deepest_clip == 0.0);
            if (model == Model::slide) {
                CHECK(slid > 1e-4);  // the drive, being none, stops it across up in every tick
                continue;
            }
            const double pull = 20.0 * (std::sin(radians(slope)) - friction * std::cos(radians(slope)));
            CHECK(slid == Approx(pull * tick * tick * 0.5 * 60 * 61).margin(0.002));  // the skin
        }
    }
}

TEMPLATE_TEST_CASE_SIG("a crate takes its part of the momentum, and what is given back by its bounce", "",
                       ((int D), D), 2, 3) {
    for (const double bounce : {0.0, 0.5, 1.0}) {
        for (const double crate_mass : {20.0, 80.0, 320.0}) {
            LevelBuilder<D> builder({"m"});
            builder.add("crate", "m", RoundedHull<D>::box(at<D>(4, 1), Vec<D>::ones()));
            builder.add("far wall", "m", slab<D>(40, 41, 5, 10));
            const auto level = builder.build();
            Drill<D> drill = drill_at<D>(at<D>(0, 0), 3.0, Model::loose);
            drill.motion.top_speed = 2.0;
            drill.motion.force = 800.0;
            drill.motion.mass = 80.0;
            drill.motion.bounce = bounce;
            drill.loose = {{"crate", crate_mass, 0.0}};
            drill.cues = {drive<D>(0.0, Vec<D>::unit(0)), drive<D>(0.5, Vec<D>::zero())};
            const auto record = play<D>(level, walker<D>(), drill);
            CAPTURE(bounce, crate_mass);
            CHECK(record.ticks[60].velocity[0] == Approx(2.0));
            // E. g. with no bounce both go on together; with a full one equal masses change places.
            const double after = 2.0 * (80.0 - bounce * crate_mass) / (80.0 + crate_mass);
            CHECK(record.last.velocity[0] == Approx(after).margin(1e-9));
            CHECK(record.figures.deepest_clip == 0.0);
        }
    }
}

TEMPLATE_TEST_CASE_SIG("a body is carried as far as the lift goes, up, down and across", "", ((int D), D), 2,
                       3) {
    const std::vector<Vec<D>> ways = {at<D>(0, 9), at<D>(10, 0), at<D>(8, -6), at<D>(-8, 6)};
    for (std::size_t i = 0; i < 2 * ways.size(); ++i) {
        const Vec<D>& way = ways[i / 2];
        const double pace = i < ways.size() ? 1.2 : 5.0;
        LevelBuilder<D> builder({"m"});
        const auto add_floor = [&] { builder.add("far floor", "m", slab<D>(-60, 60, -30)); };
        // Which of them comes first is all one.
        if (i % 2 == 0) add_floor();
        builder.add("deck", "m", slab<D>(-3, 3, 0, 0.4));
        builder.path({{Vec<D>::zero(), way}, pace, 0.5});
        builder.add("another", "m", slab<D>(-60, -50, 0, 0.4));
        builder.path({{Vec<D>::zero(), -way}, 0.7, 0.1});
        if (i % 2 != 0) add_floor();
        const auto level = builder.build();
        Rig<D> rig = walker<D>();
        Drill<D> drill = drill_at<D>(at<D>(0, 0.002), 1.5);
        drill.motion.gravity = 20.0;
        const auto left_behind = play<D>(level, rig, drill);
        rig.reflexes = {{"grounded", ReflexKind::carry_along}};
        const auto record = play<D>(level, rig, drill);
        // A second on the way.
        const Vec<D> carried = pace * way.normalized();
        const double step = pace * tick;
        CAPTURE(pace, way, record.last.anchor);
        CHECK((record.last.anchor - drill.at - carried).norm() < 0.002 + 1e-9);
        CHECK(record.figures.carried_drift < 0.01);
        CHECK(record.figures.signals[0].changes <= 1);  // on at the first tick
        CHECK(record.figures.deepest_clip <= rig.intent.touch);
        // Where the deck does not sink away from under it.
        if (way[0] != 0.0 && pace < 2.0)
            CHECK(left_behind.figures.carried_drift > std::abs(carried[0]) - 2.0 * step);
    }
}

TEST_CASE("the free model stops short by what is left of a move, and creeps to the last grain") {
    // Pixels: 4 a tick, a wall 10 ahead of the body's front, which is 8 wide.
    LevelBuilder<2> builder({"m"});
    builder.add("wall", "m", RoundedHull<2>::box({30, 8}, {20, 40}));
    const auto level = builder.build();
    Rig<2> rig;
    rig.body.meets = {"m"};
    rig.body.stances = {Stance<2>::box("upright", {8, 16})};
    Probe<2> ahead;
    ahead.name = "ahead";
    ahead.of_kind =
        ShiftProbe<2>{.aim = Aim::velocity, .reach_per_speed = tick, .axes = ShiftAxes::across_up};
    ahead.sees = {"m"};
    rig.probes = {foot_ray<2>(0.1), ahead};
    Signal blocked;
    blocked.name = "blocked";
    blocked.claims = Claim::wall;
    blocked.members.any = {"ahead"};
    rig.signals = {blocked};
    rig.reads = Reads::before_move;
    Reflex stop{"blocked", ReflexKind::cancel_axis};
    rig.reflexes = {stop};
    Drill<2> drill = drill_at<2>({6, 0}, 1.0, Model::free);
    drill.motion.top_speed = 240.0;
    drill.motion.grain = 1.0;
    drill.cues = {drive<2>(0.0, {1, 0})};
    const auto cancelled = play<2>(level, rig, drill);
    CHECK(cancelled.last.anchor[0] == 14.0);  // front at 18, the wall at 20
    CHECK(cancelled.figures.wall_gap == Approx(2.0));
    drill.motion.approach = Approach::creep;
    const auto crept = play<2>(level, rig, drill);
    CHECK(crept.last.anchor[0] == 16.0);
    CHECK(crept.figures.wall_gap == Approx(0.0).margin(1e-9));
    CHECK(crept.figures.endless_creeps == 0);
    CHECK(crept.figures.deepest_clip == 0.0);
    // It heeds the shifts of its signal alone, whatever another one overlaps.
    Rig<2> both = rig;
    Probe<2> other = ahead;
    other.name = "in the mist";
    other.sees = {"mist"};
    other.shift() = ShiftProbe<2>{.along = {0, -1}, .reach = 100.0};
    both.probes.insert(both.probes.begin(), other);
    LevelBuilder<2> misty({"m", "mist"});
    misty.add("wall", "m", RoundedHull<2>::box({30, 8}, {20, 40}));
    misty.add("all around", "mist", RoundedHull<2>::box({0, 0}, {80, 100}));
    CHECK(play<2>(misty.build(), both, drill).last.anchor[0] == 16.0);
    // Falling beside the wall it creeps across alone: it falls as it would without.
    Drill<2> falls = drill;
    falls.motion.gravity = 60.0;
    falls.seconds = 0.5;
    const auto beside = play<2>(level, rig, falls);
    falls.cues.clear();
    CHECK(beside.last.anchor[0] == 16.0);
    CHECK(beside.last.anchor[1] == play<2>(level, rig, falls).last.anchor[1]);
    CHECK(beside.last.anchor[1] < -5.0);
    // A shift of fixed reach is on though the body stands: a creep at no speed would not end.
    rig.probes[1].shift().aim = Aim::fixed;
    rig.probes[1].shift().along = {1, 0};
    rig.probes[1].shift().reach = 12.0;
    rig.probes[1].shift().reach_per_speed = 0.0;
    drill.cues = {};
    const auto endless = play<2>(level, rig, drill);
    CHECK(endless.figures.endless_creeps == 60);
    CHECK(endless.last.anchor[0] == 6.0);
}

TEST_CASE("a press between two ticks is told once, unless frames lose it or tell it twice") {
    const auto level = floor_level<2>();
    Drill<2> drill = drill_at<2>({0, 0.002}, 1.0);
    drill.motion.gravity = 20.0;
    drill.motion.jump_speed = 2.0;
    for (int i = 0; i < 9; ++i) drill.cues.push_back(press<2>(0.0401 + 0.1 * i));
    drill.tick_rate = 50.0;
    const Rig<2> rig = walker<2>();
    const auto by_tick = play<2>(level, rig, drill);
    CHECK(by_tick.figures.jumps == 9);
    CHECK(by_tick.figures.lost_presses == 0);
    // Four frames a tick: a press shows for 5 ms, and a tick looks every 20. 0.0401 shows in the frame at
    // 0.045, which no tick asks; a press just before a tick shows in the tick's own frame.
    drill.sampled = Sampled::on_frame;
    drill.frame_rate = 200.0;
    const auto lost = play<2>(level, rig, drill);
    CHECK(lost.figures.jumps == 0);
    CHECK(lost.figures.lost_presses == 9);
    for (auto& cue : drill.cues) cue.at -= 0.001;
    const auto seen = play<2>(level, rig, drill);
    CHECK(seen.figures.jumps == 9);
    CHECK(seen.figures.lost_presses == 0);
    // Half a frame a tick: both its ticks are told.
    drill.frame_rate = 25.0;
    const auto twice = play<2>(level, rig, drill);
    CHECK(twice.figures.double_presses == 9);
    CHECK(twice.figures.jumps == 18);
}

TEMPLATE_TEST_CASE_SIG("a thin gate: passed through when pushed out afterwards, not when swept", "",
                       ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("gate", "m", slab<D>(3.0, 3.05, 5, 10));
    const auto level = builder.build();
    Drill<D> drill = drill_at<D>(at<D>(1.0, 0), 1.0, Model::push_out);
    drill.tick_rate = 30.0;
    drill.motion.top_speed = 30.0;
    drill.cues = {drive<D>(0.0, Vec<D>::unit(0))};
    const auto through = play<D>(level, walker<D>(), drill);
    CHECK(through.figures.tunnels == 1);
    CHECK(through.last.anchor[0] > 20.0);
    drill.motion.model = Model::slide;
    const auto stopped = play<D>(level, walker<D>(), drill);
    CHECK(stopped.figures.tunnels == 0);
    // A tenth of touch before the gate.
    CHECK(stopped.last.anchor[0] == Approx(3.0 - 0.3 - 0.002).margin(1e-6));
    CHECK(stopped.figures.wall_gap == Approx(0.002).margin(1e-6));
    CHECK(stopped.figures.stuck_time == Approx(1.0 - 2.0 / 30.0).margin(1e-9));
}

TEST_CASE("how near a figure came to its limit is a part of the limit, and 1 at it") {
    Drill<2> drill = drill_at<2>(at<2>(0, 10), 0.5);
    drill.motion.gravity = 20.0;
    for (const double limit : {10.0, 20.0, 40.0, 200.0}) {
        drill.expectations = {{Expectation::Kind::most, "bumpiness", "", limit, ""},
                              {Expectation::Kind::least, "bumpiness", "", limit, ""}};
        const auto record = play<2>(floor_level<2>(), walker<2>(), drill);
        const double bumps = record.figures.bumpiness;
        CAPTURE(limit, bumps);
        CHECK(bumps == Approx(20.0).margin(0.5));
        REQUIRE(record.nearness.size() == 2);
        CHECK(record.nearness[0] == Approx(bumps / limit));
        CHECK(record.nearness[1] == Approx(std::max(0.0, 2.0 - bumps / limit)).margin(1e-9));
    }
}

TEST_CASE("expectations tell what was broken, when, where and by how much") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-50, 50, 0));
    builder.area("past the post", {{1.99, -1.0}, {3.0, 2.0}});
    builder.area("far away", {{30.0, -1.0}, {31.0, 2.0}});
    const auto level = builder.build();
    Drill<2> drill = drill_at<2>({0, 0.002}, 1.0);
    drill.motion.gravity = 20.0;
    drill.motion.top_speed = 4.0;
    drill.cues = {drive<2>(0.0, {1, 0})};
    using Kind = Expectation::Kind;
    drill.expectations = {{Kind::never_reaches, "", "", 0.0, "past the post"},
                          {Kind::reaches, "", "", 0.0, "far away"},
                          {Kind::most, "missed_ticks", "grounded", 3.0, ""},
                          {Kind::least, "headway", "", 0.9, ""},
                          {Kind::most, "climb", "", 0.1, ""}};
    // A ray so short that it never feels the ground.
    auto rig = rig_with<2>(foot_ray<2>(0.35), {"m"});
    const auto record = play<2>(level, rig, drill);
    REQUIRE(record.broken.size() == 3);
    CHECK(record.broken[0].expectation == 0);
    CHECK(record.broken[0].seconds == Approx(0.5));  // 2 at a speed of 4
    CHECK(record.broken[0].at[0] == Approx(2.0));
    CHECK(record.broken[1].expectation == 1);
    CHECK(record.broken[1].got == Approx(26.0));  // 30 - 4
    CHECK(record.broken[2].expectation == 2);
    CHECK(record.broken[2].got == 60.0);
    CHECK(record.broken[2].seconds == Approx(4.0 * tick));  // the fourth
    CHECK(record.nearness[2] > 1.0);
    CHECK(record.nearness[4] < 1.0);
    drill.expectations = {{Kind::most, "no such figure", "", 1.0, ""}};
    CHECK_THROWS_AS(play<2>(level, rig, drill), InvalidInput);
    drill.expectations = {{Kind::reaches, "", "", 0.0, "nowhere"}};
    CHECK_THROWS_AS(play<2>(level, rig, drill), InvalidInput);
}

namespace {

/// A floor strewn with random shapes, and some seconds of random input for a body among them.
template <int D>
void play_at_random(Random& random, int levels, double seconds) {
    for (int number = 0; number < levels; ++number) {
        LevelBuilder<D> builder({"m"});
        builder.add("floor", "m", slab<D>(-50, 50, 0));
        for (int i = 0; i < 12; ++i) {
            Vec<D> center = random.point<D>(6.0);
            center[1] = std::abs(center[1]) * 0.5;
            // Room at the start.
            if (center.norm() < 4.0) center[0] += center[0] < 0 ? -4.0 : 4.0;
            builder.add("stone " + std::to_string(i), "m",
                        random_shape<D>(random, center, random.between(0.3, 2.0)));
        }
        // Within walls, or a body without gravity would leave.
        builder.add("west", "m", slab<D>(-13, -12, 20, 40));
        builder.add("east", "m", slab<D>(12, 13, 20, 40));
        const auto level = builder.build();
        Rig<D> rig = walker<D>();
        rig.reflexes = {{"grounded", ReflexKind::permit_jump}};
        if (number % 3 == 1) {
            const double deep = D == 3 ? 0.6 : 0.0;
            rig.body.stances[0] = Stance<D>::box("upright", at<D>(0.6, 1.8) + deep * Vec<D>::unit(D - 1));
        }
        if (number % 3 == 2) rig.body.stances[0] = Stance<D>::ball("upright", 0.5);
        Stage<D> stage(level, rig);
        PlayOptions<D> options;
        options.keep_ticks = false;
        for (const Model model : {Model::free, Model::slide, Model::push_out, Model::loose}) {
            Drill<D> drill = drill_at<D>(at<D>(0, 0.01), seconds, model);
            drill.motion.gravity = random.between(0.0, 30.0);
            drill.motion.jump_speed = random.between(2.0, 12.0);
            drill.motion.top_speed = random.between(1.0, 40.0);
            drill.motion.friction = random.below(2) == 0 ? 0.0 : random.between(0.0, 1.0);
            drill.motion.force = 4000.0;
            for (int i = 0; i < static_cast<int>(4.0 * seconds); ++i) {
                drill.cues.push_back(drive<D>(random.between(0.0, seconds), random.direction<D>()));
                drill.cues.push_back(press<D>(random.between(0.0, seconds)));
            }
            bool finite = true;
            options.reflex = [&](ReflexCall<D>& call) {
                finite = finite && call.anchor.is_finite() && call.velocity.is_finite();
            };
            const auto record = stage.play(drill, options);
            CAPTURE(D, number, name_of(model));
            CHECK(finite);
            CHECK(record.last.anchor.is_finite());
            CHECK(record.figures.ticks == static_cast<std::size_t>(std::llround(seconds * 60.0)));
            if (model != Model::slide && model != Model::loose) continue;
            CHECK(record.figures.deepest_clip <= rig.intent.touch);
        }
    }
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("no input brings the sliding body into a solid, or any model out of bounds of sense",
                       "", ((int D), D), 2, 3) {
    Random random(17);
    play_at_random<D>(random, 12, 10.0);
}

TEMPLATE_TEST_CASE_SIG("… over a million ticks of each model and shape of body", "[.long]", ((int D), D), 2,
                       3) {
    Random random(18);
    play_at_random<D>(random, 834, 60.0);
}

TEMPLATE_TEST_CASE_SIG("energy does not grow: what is let go comes to rest no higher than it began", "",
                       ((int D), D), 2, 3) {
    Random random(19);
    for (int number = 0; number < 20; ++number) {
        LevelBuilder<D> builder({"m"});
        builder.add("floor", "m", slab<D>(-50, 50, 0));
        for (int i = 0; i < 6; ++i) {
            Vec<D> center = random.point<D>(5.0);
            center[1] = 0.3 * std::abs(center[1]);
            builder.add("stone " + std::to_string(i), "m", random_shape<D>(random, center, 1.5));
        }
        const auto level = builder.build();
        Drill<D> drill = drill_at<D>(at<D>(random.between(-4, 4), 8.0), 4.0, Model::loose);
        drill.motion.gravity = 20.0;
        drill.motion.friction = random.between(0.0, 0.5);
        drill.motion.bounce = random.between(0.0, 1.0);
        const auto record = play<D>(level, walker<D>(), drill);
        double before = 20.0 * 8.0;
        for (const auto& now : record.ticks) {
            const double energy = 0.5 * now.velocity.squared_norm() + 20.0 * height(now);
            // The integrator falls half a tick's speed short of the parabola.
            CAPTURE(number, now.seconds);
            REQUIRE(energy <= before + 0.5 * 20.0 * 20.0 * tick * tick + 20.0 * 0.002 + 1e-9);
            before = std::min(before, energy);
        }
    }
}
