// Hunts: what they find breaks what they say, is as short as it can be, and is found again.
#include <catch2/catch.hpp>

#include "hollow_probe/motion/hunt.hpp"
#include "scaled.hpp"
#include "yard.hpp"

using namespace scenes;

namespace {

/// Whether a drill breaks that expectation.
template <int D>
bool breaks(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill, std::size_t expectation) {
    const auto broken = play<D>(level, rig, drill).broken;
    return std::any_of(broken.begin(), broken.end(),
                       [&](const Broken& one) { return one.expectation == expectation; });
}

/// No cue can be left out, no wait and no end cut by a tick: each is tried.
template <int D>
void require_shortest(const Level<D>& level, const Rig<D>& rig, const Drill<D>& found,
                      std::size_t expectation) {
    const double step = 1.0 / found.tick_rate;
    REQUIRE(breaks<D>(level, rig, found, expectation));
    for (std::size_t i = 0; i < found.cues.size(); ++i) {
        CAPTURE(i, found.cues[i].at);
        Drill<D> fewer = found;
        fewer.cues.erase(fewer.cues.begin() + static_cast<std::ptrdiff_t>(i));
        CHECK_FALSE(breaks<D>(level, rig, fewer, expectation));
        const double wait = found.cues[i].at - (i == 0 ? 0.0 : found.cues[i - 1].at);
        if (wait < step) continue;
        Drill<D> sooner = found;
        for (std::size_t k = i; k < sooner.cues.size(); ++k) sooner.cues[k].at -= step;
        sooner.seconds -= step;
        CHECK_FALSE(breaks<D>(level, rig, sooner, expectation));
    }
    Drill<D> shorter = found;
    shorter.seconds -= step;
    std::erase_if(shorter.cues, [&](const Cue<D>& cue) { return cue.at >= shorter.seconds; });
    if (shorter.seconds > 0.5 * step) CHECK_FALSE(breaks<D>(level, rig, shorter, expectation));
}

}  // namespace

TEST_CASE("a hunt finds the way over the block, the same for any number of threads, and cuts it short") {
    const auto level = yard();
    const auto rig = walker();
    Drill<2> drill = walk(6.0);
    drill.expectations = {{Kind::never_reaches, "", "", 0.0, "behind the block"}};
    HuntOptions options;
    options.seed = 3;
    options.threads = 1;
    const auto one = hunt<2>(level, rig, drill, options);
    REQUIRE(one.found);
    options.threads = 2;
    const auto two = hunt<2>(level, rig, drill, options);
    REQUIRE(two.found);
    CHECK(one.drills == two.drills);
    REQUIRE(one.found->cues.size() == two.found->cues.size());
    for (std::size_t i = 0; i < one.found->cues.size(); ++i)
        CHECK(one.found->cues[i].at == two.found->cues[i].at);
    // It replays, needs every cue it has, and not a tick more.
    const auto again = play<2>(level, rig, *one.found);
    REQUIRE(again.broken.size() == 1);
    CHECK(again.broken[0].seconds == Approx(one.found->seconds));
    CHECK(one.found->cues.size() <= 3);  // run, jump, and perhaps once more
    CHECK(one.found->seconds < 4.0);
    for (std::size_t i = 0; i < one.found->cues.size(); ++i) {
        Drill<2> fewer = *one.found;
        fewer.cues.erase(fewer.cues.begin() + static_cast<std::ptrdiff_t>(i));
        CHECK(play<2>(level, rig, fewer).kept());
    }
}

TEST_CASE(
    "a hunt goes on from where few came: a wall that only a second jump in the air gets over, a strip at a "
    "lip") {
    const auto in_air = [] {
        LevelBuilder<2> builder({"m"});
        builder.add("floor", "m", RoundedHull<2>::box({5, -0.5}, {30, 1}));
        builder.add("wall", "m", RoundedHull<2>::box({5.5, 0.95}, {1, 1.9}));
        builder.area("beyond", {{6.5, 0}, {12, 3}});
        return builder.build();
    }();
    // Ground is felt 0.9 below the feet.
    Rig<2> far_felt = rig_with<2>(foot_ray<2>(1.3), {"m"});
    far_felt.reflexes = {{"grounded", ReflexKind::permit_jump}};
    Drill<2> drill;
    drill.at = {0, 0.01};
    drill.seconds = 4.0;
    drill.motion.gravity = 20.0;
    drill.motion.jump_speed = 7.0;
    drill.motion.top_speed = 4.0;
    drill.expectations = {{Expectation::Kind::never_reaches, "", "", 0.0, "beyond"}};
    HuntOptions options;
    options.most_ticks = 1'000'000;
    for (options.seed = 1; options.seed <= 3; ++options.seed) {
        options.threads = 1;
        const auto alone = hunt<2>(in_air, far_felt, drill, options);
        CAPTURE(options.seed, alone.ticks);
        REQUIRE(alone.found);
        // What was written down breaks it.
        CHECK(!play<2>(in_air, far_felt, *alone.found).kept());
        options.threads = 2;
        const auto both = hunt<2>(in_air, far_felt, drill, options);
        CHECK(both.ticks == alone.ticks);
        REQUIRE(both.found->cues.size() == alone.found->cues.size());
        for (std::size_t i = 0; i < both.found->cues.size(); ++i)
            CHECK(both.found->cues[i].at == alone.found->cues[i].at);
    }
    LevelBuilder<2> edge({"m"});
    edge.add("floor", "m", RoundedHull<2>::box({-3.5, -0.5}, {13, 1}));
    edge.add("far below", "m", RoundedHull<2>::box({17.5, -5.5}, {25, 1}));
    const auto level = edge.build();
    Rig<2> centred = rig_with<2>(foot_ray<2>(0.45), {"m"});
    centred.reflexes = {{"grounded", ReflexKind::permit_jump}};
    drill.seconds = 5.0;
    drill.motion.top_speed = 1.0;
    drill.expectations = {{Expectation::Kind::most, "refused_jumps", "", 0.0, ""}};
    options.seed = 4;
    const auto found = hunt<2>(level, centred, drill, options);
    REQUIRE(found.found);
    CHECK(play<2>(level, centred, *found.found).figures.refused_jumps > 0);
}

TEST_CASE("cues that change places while a find is made short are no error") {
    LevelBuilder<2> builder({"m", "n"});
    builder.add("floor", "m", RoundedHull<2>::box({5, -0.5}, {30, 1}));
    builder.add("low", "m", RoundedHull<2>::box({3.6, 0.5}, {1.2, 1}));
    builder.add("high", "n", RoundedHull<2>::box({6.5, 1.75}, {0.6, 0.5}));
    const auto level = builder.build();
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.45), {"m"});
    rig.body.meets = {"m", "n"};
    rig.reflexes = {{"grounded", ReflexKind::permit_jump}};
    Drill<2> drill;
    drill.at = {0, 0.01};
    drill.seconds = 6.0;
    drill.motion.gravity = 20.0;
    drill.motion.jump_speed = 7.0;
    drill.motion.top_speed = 4.0;
    drill.expectations = {{Expectation::Kind::most, "missed_ticks", "", 3.0, ""}};
    HuntOptions options;
    options.most_ticks = 1'000'000;
    for (options.seed = 1; options.seed <= 8; ++options.seed) {
        const auto found = hunt<2>(level, rig, drill, options);
        REQUIRE(found.found);
        CHECK(play<2>(level, rig, *found.found).figures.signals[0].missed_ticks > 3);
    }
}

TEST_CASE("a hunt keeps what is done before a moment, and stops when it is told to") {
    // Behind the block the body comes in 2.5 seconds only if it has run towards it all the while.
    const auto level = yard();
    const auto rig = walker();
    HuntOptions options;
    options.seed = 1;
    options.most_ticks = 200'000;
    const auto hunted = [&](double drive, double kept) {
        Drill<2> drill = walk(2.6);
        drill.cues = {go(0.0, drive), go(1.2, 0.0)};
        drill.expectations = {{Kind::never_reaches, "", "", 0.0, "behind the block"}};
        options.kept_seconds = kept;
        return hunt<2>(level, rig, drill, options);
    };
    const auto ran = hunted(1.0, 1.0);
    REQUIRE(ran.found);
    CHECK(ran.found->cues.front().at == 0.0);
    CHECK((*ran.found->cues.front().drive)[0] > 0.5);
    CHECK_FALSE(play<2>(level, rig, *ran.found).kept());
    CHECK(ran.figures.ticks > 100);
    // Having run the other way for a second it is too late; with nothing kept it is not.
    CHECK_FALSE(hunted(-1.0, 1.0).found);
    CHECK(hunted(-1.0, 0.0).found);
    for (const double kept : {-0.1, 2.6, 9.0, std::nan("")}) CHECK_THROWS_AS(hunted(1.0, kept), InvalidInput);
    int asked = 0;
    options.stop = [&] { return ++asked > 3; };
    const auto stopped = hunted(-1.0, 1.0);
    CHECK_FALSE(stopped.found);
    CHECK(stopped.ticks < 100'000);
}

TEST_CASE("a hunt that finds nothing says how much it tried and how near it came") {
    const auto level = yard();
    Drill<2> drill = walk(2.0);
    drill.expectations = {{Kind::most, "climb", "", 3.0, ""},
                          {Kind::most, "jumps", "", 50.0, ""},
                          {Kind::reaches, "", "", 0.0, "on the block"}};
    HuntOptions options;
    options.most_ticks = 100'000;
    const auto result = hunt<2>(level, walker(), drill, options);
    CHECK_FALSE(result.found);
    CHECK(result.ticks >= 100'000);
    CHECK(result.drills > 800);
    REQUIRE(result.expectations.size() == 2);  // an area that is to be reached is no prey
    CHECK(result.nearest[1] > 0.0);
    CHECK(result.nearest[1] < 1.0);
    drill.expectations = {};
    CHECK_THROWS_AS(hunt<2>(level, walker(), drill, options), InvalidInput);
}

TEST_CASE("areas that are to be reached are sought where nothing else is expected") {
    const auto level = yard();
    Drill<2> drill = walk(4.0);
    drill.phase = 0.5;
    drill.cues = {go(0.0, -1.0)};
    drill.expectations = {{Kind::reaches, "", "", 0.0, "on the block"}};
    HuntOptions options;
    options.most_ticks = 100'000;
    const auto way = hunt<2>(level, walker(), drill, options);
    REQUIRE(way.found);
    CHECK(way.is_goal);
    Drill<2> found = *way.found;
    found.expectations = drill.expectations;
    CHECK(play<2>(level, walker(), found).kept());
    CHECK_FALSE(play<2>(level, walker(), drill).kept());
    // In half a second nobody gets there.
    drill.seconds = 0.5;
    const auto none = hunt<2>(level, walker(), drill, options);
    CHECK(none.is_goal);
    CHECK_FALSE(none.found);
    CHECK(none.nearest.front() < 1.0);
}

TEST_CASE(
    "what a hunt finds breaks the same when it is played from the start: falls, frames, stances, lifts") {
    // Attempts go on from moments that were kept: whatever those left out would show here.
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {12, 1}));
    builder.add("lift", "m", RoundedHull<2>::box({7.1, -0.25}, {2, 0.5}));
    Path<2> path;
    path.stops = {Vec<2>::zero(), Vec<2>(0.0, 3.0)};
    path.pace = 1.5;
    path.wait = 0.3;
    builder.path(path);
    builder.add("deck", "m", RoundedHull<2>::box({10.2, 2.75}, {4, 0.5}));
    builder.area("up", {{9.5, 3.0}, {12.0, 5.0}});
    const auto level = builder.build();
    Rig<2> rig = walker();
    rig.reflexes.push_back({"grounded", ReflexKind::carry_along});
    rig.body.stances.push_back(Stance<2>::ball("low", 0.3));
    for (std::uint64_t seed = 0; seed < 6; ++seed) {
        Drill<2> drill = walk(10.0);
        drill.expectations = {{Kind::never_reaches, "", "", 0.0, "up"}};
        if (seed % 2 == 1) {
            drill.sampled = Sampled::on_frame;
            drill.frame_rate = 75.0;
            drill.frame_jitter = 0.3;
        }
        if (seed == 4) drill.expectations = {{Kind::most, "lost_presses", "", 0.0, ""}};
        if (seed == 4) drill.sampled = Sampled::on_frame;
        if (seed == 4) drill.frame_rate = 120.0;
        HuntOptions options;
        options.seed = seed;
        options.most_ticks = 600'000;
        const auto result = hunt<2>(level, rig, drill, options);
        REQUIRE(result.found);
        const auto record = play<2>(level, rig, *result.found);
        INFO("seed " << seed << ", " << result.found->cues.size() << " cues");
        REQUIRE(record.broken.size() == 1);
        CHECK(record.broken.front().expectation == 0);
        CHECK(record.broken.front().seconds == result.broken.seconds);
        CHECK(record.broken.front().got == result.broken.got);
    }
}

TEST_CASE("what a hunt finds cannot be made shorter by leaving out a cue, or a tick of any wait") {
    const auto level = yard();
    const auto rig = walker();
    const std::vector<Expectation> expectations = {{Kind::never_reaches, "", "", 0.0, "behind the block"},
                                                   {Kind::never_reaches, "", "", 0.0, "on the block"},
                                                   {Kind::most, "stuck_time", "", 0.3, ""},
                                                   {Kind::most, "missed_ticks", "grounded", 1.0, ""},
                                                   {Kind::most, "jumps", "", 1.0, ""},
                                                   {Kind::least, "headway", "", 0.5, ""}};
    for (const Expectation& expectation : expectations) {
        for (std::uint64_t seed = 1; seed <= 3; ++seed) {
            Drill<2> drill = walk(6.0);
            drill.expectations = {expectation};
            HuntOptions options;
            options.seed = seed;
            options.most_ticks = 300'000;
            const auto result = hunt<2>(level, rig, drill, options);
            CAPTURE(expectation.figure, expectation.area, seed);
            if (!result.found) continue;
            require_shortest<2>(level, rig, *result.found, 0);
            // Times have few digits.
            for (const Cue<2>& cue : result.found->cues)
                CHECK(std::abs(cue.at * 1000.0 - std::round(cue.at * 1000.0)) < 1e-6);
        }
    }
}

TEST_CASE("a hunt comes to the same in any unit of length") {
    const auto level = yard();
    Rig<2> rig = walker();
    rig.probes[0].line().reach = 0.2;
    const std::vector<Expectation> expectations = {{Kind::never_reaches, "", "", 0.0, "behind the block"},
                                                   {Kind::most, "false_ticks", "grounded", 12.0, ""},
                                                   {Kind::most, "unearned_jumps", "", 1.0, ""},
                                                   {Kind::most, "wall_gap", "", 0.25, ""},
                                                   {Kind::most, "climb", "", 0.5, ""},
                                                   {Kind::most, "tunnels", "", 0.0, ""}};
    for (const Expectation& expectation : expectations) {
        CAPTURE(expectation.figure, expectation.area);
        Drill<2> drill = walk(3.0);
        drill.expectations = {expectation};
        HuntOptions options;
        options.seed = 5;
        options.most_ticks = 15'000;
        const auto one = hunt<2>(level, rig, drill, options);
        const double by = 64.0;
        Drill<2> large = scaled<2>(drill, by);
        const bool is_length = expectation.figure == "wall_gap" || expectation.figure == "climb";
        if (is_length) large.expectations[0].limit *= by;
        const auto other = hunt<2>(scaled<2>(level, by), scaled<2>(rig, by), large, options);
        CHECK(other.drills == one.drills);
        CHECK(other.ticks == one.ticks);
        CHECK(other.nearest[0] == Approx(one.nearest[0]));
        REQUIRE(other.found.has_value() == one.found.has_value());
        if (!one.found) continue;
        REQUIRE(other.found->cues.size() == one.found->cues.size());
        for (std::size_t i = 0; i < one.found->cues.size(); ++i) {
            CHECK(other.found->cues[i].at == one.found->cues[i].at);
            CHECK(other.found->cues[i].press == one.found->cues[i].press);
            CHECK(other.found->cues[i].drive == one.found->cues[i].drive);
        }
    }
}

TEST_CASE("how near counts came tells those apart that never broke") {
    // Nothing is ever wrong on the floor; the lip of the ditch is where a ray in the middle of the body
    // misses.
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {40, 1}));
    const auto level = builder.build();
    Rig<2> rig = walker();
    Drill<2> drill = walk(2.0);
    drill.expectations = {{Kind::most, "missed_ticks", "grounded", 4.0, ""},
                          {Kind::most, "refused_jumps", "", 0.0, ""},
                          {Kind::most, "jumps", "", 1000.0, ""}};
    HuntOptions options;
    options.most_ticks = 20'000;
    const auto result = hunt<2>(level, rig, drill, options);
    REQUIRE_FALSE(result.found);
    for (const double near : result.nearest) {
        CHECK(near > 0.0);
        CHECK(near < 1.0);
    }
    // One jump of the thousand and one that are too many, for each that was given.
    const double jumps = result.nearest[2] * 1001.0;
    CHECK(jumps == Approx(std::round(jumps)));
    CHECK(jumps >= 2.0);
}

TEST_CASE("how near a tunnel is tells the speed, and an unearned jump what permits it alone") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {400, 1}));
    const auto level = builder.build();
    Drill<2> drill = walk(2.0);
    drill.expectations = {{Kind::most, "tunnels", "", 0.0, ""}};
    HuntOptions options;
    options.most_ticks = 10'000;
    // Nobody is faster than a jump while running; a tick of that is a part of the body's width or height.
    const double fastest = std::hypot(drill.motion.top_speed.grounded, drill.motion.jump_speed);
    const auto slow = hunt<2>(level, walker(), drill, options);
    CHECK(slow.nearest[0] <= fastest * tick / 0.6 + 1e-9);
    CHECK(slow.nearest[0] >= drill.motion.top_speed.grounded * tick / 1.8);

    // Low ground is felt in the air, too, and permits nothing.
    Rig<2> rig = walker();
    Probe<2> low = foot_ray<2>(20.0);
    low.name = "low";
    low.sees = {"m"};
    rig.probes.push_back(low);
    Signal below;
    below.name = "low ground";
    below.members.any = {"low"};
    rig.signals.push_back(below);
    rig.reflexes.push_back({"low ground", ReflexKind::carry_along});
    drill.expectations = {{Kind::most, "unearned_jumps", "", 0.0, ""}};
    const double as_it_is = hunt<2>(level, walker(), drill, options).nearest[0];
    CHECK(hunt<2>(level, rig, drill, options).nearest[0] <= as_it_is + 0.05);
    rig.reflexes.back().kind = ReflexKind::permit_jump;
    CHECK(hunt<2>(level, rig, drill, options).found);
}

TEST_CASE(
    "where jumps are permitted as they should be none is nearly refused, whichever signal permits them") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {400, 1}));
    const auto level = builder.build();
    Rig<2> upside_down = walker();
    Signal airborne;
    airborne.name = "airborne";
    airborne.members.none = {"foot"};
    upside_down.signals.push_back(airborne);
    upside_down.reflexes = {{"airborne", ReflexKind::permit_jump, true}};
    Drill<2> drill = walk(2.0);
    HuntOptions options;
    options.most_ticks = 10'000;
    for (const char* figure : {"refused_jumps", "unearned_jumps"}) {
        CAPTURE(figure);
        drill.expectations = {{Kind::most, figure, "", 0.0, ""}};
        const double near = hunt<2>(level, walker(), drill, options).nearest[0];
        CHECK(near > 0.0);
        CHECK(near < 0.4);  // where both say the same everywhere, only the margin of the ground counts
        CHECK(hunt<2>(level, upside_down, drill, options).nearest[0] == Approx(near));
    }
    // A ray in the middle misses the ground at a lip, and is on over a slot that the body does not fall into.
    LevelBuilder<2> with_lip({"m"});
    with_lip.add("floor", "m", RoundedHull<2>::box({-100, -0.5}, {200.5, 1}));
    Rig<2> ray = walker();
    ray.probes[0].line().shape.reset();
    ray.probes[0].line().reach = 0.42;
    drill.expectations = {{Kind::most, "refused_jumps", "", 0.0, ""}};
    const auto refused = hunt<2>(with_lip.build(), ray, drill, options);
    CHECK((refused.found || refused.nearest[0] > 0.4));
}

TEST_CASE("what is wrong beside where the body stands makes it near, on either side") {
    // A fifth of a unit from a lip, past which a ray in the middle misses what the body still stands on.
    Rig<2> ray = walker();
    ray.probes[0].line().shape.reset();
    ray.probes[0].line().reach = 0.42;
    Drill<2> drill = walk(0.5);
    drill.motion.top_speed = 0.0;
    drill.motion.jump_speed = 0.0;
    drill.expectations = {{Kind::most, "missed_ticks", "", 0.0, ""}};
    HuntOptions options;
    options.most_ticks = 3'000;
    const auto near_at = [&](double low, double high) {
        LevelBuilder<2> builder({"m"});
        builder.add("floor", "m", RoundedHull<2>::box({0.5 * (low + high), -0.5}, {high - low, 1}));
        const auto found = hunt<2>(builder.build(), ray, drill, options);
        CHECK_FALSE(found.found);
        return found.nearest[0];
    };
    const double x = drill.at[0];
    const double far = near_at(x - 50.0, x + 50.0);
    CHECK(near_at(x - 50.0, x + 0.2) == Approx(near_at(x - 0.2, x + 50.0)));
    CHECK(near_at(x - 50.0, x + 0.2) > far + 0.1);
}

TEST_CASE("a chord that counts to the tick is found by trying every short sequence from what came near") {
    // Two keys within two ticks of one another mute the ground long enough to refuse the jump after them.
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {40, 1}));
    const auto level = builder.build();
    Rig<2> rig = walker();
    rig.signals[0].mute_after = {"roll", 0.05};
    Drill<2> drill = walk(4.0);
    drill.expectations = {{Kind::most, "refused_jumps", "", 0.0, ""}};
    HuntOptions options;
    options.most_ticks = 200'000;
    for (options.seed = 1; options.seed <= 4; ++options.seed) {
        const auto result = hunt<2>(level, rig, drill, options);
        REQUIRE(result.found);
        CHECK(result.found->cues.size() == 2);
        CHECK(result.found->seconds < 0.15);
        require_shortest<2>(level, rig, *result.found, 0);
    }
}

TEST_CASE("what random play finds late or never the search finds in a third of its ticks") {
    struct Fault {
        const char* name;
        Level<2> level;
        Rig<2> rig;
        Drill<2> drill;
    };
    const auto course = [](std::initializer_list<RoundedHull<2>> stones, const Bounds<2>& goal) {
        LevelBuilder<2> builder({"m"});
        int number = 0;
        for (const RoundedHull<2>& stone : stones)
            builder.add("stone " + std::to_string(++number), "m", stone);
        builder.area("goal", goal);
        return builder.build();
    };
    const auto box = [](double x0, double y0, double x1, double y1) {
        return RoundedHull<2>::box({0.5 * (x0 + x1), 0.5 * (y0 + y1)}, {x1 - x0, y1 - y0});
    };
    const auto until = [](double seconds, const Expectation& expected) {
        Drill<2> drill = walk(seconds);
        drill.expectations = {expected};
        return drill;
    };
    const Expectation no_goal{Kind::never_reaches, "", "", 0.0, "goal"};
    std::vector<Fault> faults;
    Rig<2> far_reaching = walker();
    far_reaching.probes[0].line().reach = 0.7;
    faults.push_back({"a second jump in the air",
                      course({box(-10, -1, 12, 0), box(5, 0, 5.4, 2)}, {{6, 0}, {9, 3}}), far_reaching,
                      until(5.0, no_goal)});
    faults.push_back(
        {"three pits",
         course({box(-3, -6, 3, 0), box(3, -6, 5.1, -5), box(5.1, -6, 6.3, 0), box(6.3, -6, 8.4, -5),
                 box(8.4, -6, 9.6, 0), box(9.6, -6, 11.7, -5), box(11.7, -6, 13, 0)},
                {{12.4, 0}, {12.9, 2}}),
         walker(), until(6.0, no_goal)});
    // Ground is told by any of three signals, each muted for two ticks by a key of its own.
    Rig<2> muted = walker();
    muted.reflexes.clear();
    const Signal told = muted.signals[0];
    muted.signals.clear();
    Signal any = told;
    any.members.any.clear();
    for (int i = 0; i < 3; ++i) {
        Signal part = told;
        part.name = "part " + std::to_string(i);
        part.claims.reset();
        part.mute_after = {"key " + std::to_string(i), 0.034};
        muted.signals.push_back(part);
        any.members.any.emplace_back(part.name);
    }
    muted.signals.push_back(any);
    const auto flat = course({box(-10, -1, 10, 0)}, {{8, 3}, {9, 4}});
    faults.push_back({"three keys within two ticks", flat, muted,
                      until(3.0, {Kind::most, "missed_ticks", "grounded", 0.0, ""})});
    Drill<2> frames = until(2.0, {Kind::most, "lost_presses", "", 0.0, ""});
    frames.sampled = Sampled::on_frame;
    frames.frame_rate = 120.0;
    faults.push_back({"a press that is lost between ticks", flat, walker(), frames});
    for (const Fault& fault : faults) {
        CAPTURE(fault.name);
        HuntOptions options;
        options.threads = 1;
        options.most_ticks = 60'000;
        std::array<double, 2> ticks{};
        for (options.seed = 0; options.seed < 6; ++options.seed) {
            for (const bool at_random : {false, true}) {
                options.at_random = at_random;
                ticks[at_random ? 1 : 0] +=
                    static_cast<double>(hunt<2>(fault.level, fault.rig, fault.drill, options).ticks);
            }
        }
        CAPTURE(ticks[0], ticks[1]);
        CHECK(3.0 * ticks[0] < ticks[1]);
    }
}

TEST_CASE("whatever the rate, what is found is cut short and played again") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {40, 1}));
    const auto level = builder.build();
    Rig<2> rig = walker();
    rig.signals[0].mute_after = {"jump", 0.4};
    for (const double rate : {30.0, 60.0, 77.0, 100.0, 144.0}) {
        for (std::uint64_t seed = 0; seed < 8; ++seed) {
            Drill<2> drill = walk(3.0);
            drill.tick_rate = rate;
            drill.motion.jump_speed = 1.0;
            drill.expectations = {{Kind::most, "refused_jumps", "", 1.0, ""}};
            HuntOptions options;
            options.seed = seed;
            options.most_ticks = 100'000;
            const auto result = hunt<2>(level, rig, drill, options);
            CAPTURE(rate, seed);
            REQUIRE(result.found);
            // A jump, and two that are refused after it, landed, and not yet told so.
            CHECK(result.found->cues.size() == 3);
            require_shortest<2>(level, rig, *result.found, 0);
        }
    }
}

TEST_CASE("what shows only at the end is found in a drill of one tick") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {40, 1}));
    const auto level = builder.build();
    for (const auto& [rate, ticks] : {std::pair{30.0, 90.0}, {60.0, 4.0}, {144.0, 3.0}}) {
        Drill<2> drill = walk(ticks / rate);
        drill.tick_rate = rate;
        drill.expectations = {{Kind::least, "jumps", "", 1.0, ""}};
        HuntOptions options;
        options.most_ticks = 20'000;
        const auto result = hunt<2>(level, walker(), drill, options);
        CAPTURE(rate);
        REQUIRE(result.found);
        CHECK(result.found->seconds == Approx(1.0 / rate).epsilon(1e-6));
        CHECK(result.found->cues.empty());
    }
}

TEST_CASE("the keys of a rig are jump and each event that mutes a signal, once") {
    Rig<2> rig = walker();
    CHECK(keys_of<2>(rig) == std::vector<std::string>{"jump"});
    const Signal plain = rig.signals[0];
    for (const char* event : {"land", "jump", "land", "", "dash"}) {
        Signal muted = plain;
        muted.mute_after = {event, 0.1};
        rig.signals.push_back(muted);
    }
    CHECK(keys_of<2>(rig) == std::vector<std::string>{"jump", "land", "dash"});
}
