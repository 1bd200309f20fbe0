// Drill files, hunts, reflexes and figures: what they promise, through the public interface.
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <sstream>

#include "hollow_probe/io/drill_file.hpp"
#include "hollow_probe/io/drill_json.hpp"
#include "hollow_probe/io/timeline.hpp"
#include "hollow_probe/level/shifting_level.hpp"
#include "hollow_probe/report/drill_text.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "yard.hpp"

using namespace scenes;

namespace {

const std::string head =
    "format = \"hollow-probe drill 1\"\nlevel = \"l.toml\"\nrig = \"r.toml\"\nstart = \"gate\"\nseconds = "
    "2.5\n";

template <class Load>
std::string message_of(Load load) {
    try {
        load();
    } catch (const InputError& error) {
        return error.what();
    }
    return "nothing was refused";
}

}  // namespace

TEST_CASE("every key of a drill file reaches the drill") {
    const auto level = yard();
    const Drill<2> drill = drill_from_toml<2>(head + R"(stance = "upright"
heading = [1, 0]
tick_rate = 50
frame_rate = 144
frame_jitter = 0.25
frame_seed = 7
sampled = "on_frame"
[motion]
model = "loose"
gravity = 19
jump_speed = 6
top_speed = { grounded = 3, airborne = 2 }
coasts = "airborne"
acceleration = 12
friction = 0.25
stopped = "kept"
turns = false
mass = 70
force = 900
drag = 0.5
bounce = 0.75
[[motion.on]]
layer = "m"
friction = 0
top_speed = 1.5
[[cue]]
at = 0.5
drive = [1, 0]
heading = [-1, 0]
press = "jump"
stance = "upright"
[[loose]]
solid = "block"
mass = 30
friction = 0.125
[[expect]]
signal = "grounded"
most = { missed_ticks = 3, climb = 0.5 }
least = { headway = 0.25 }
[[expect]]
reaches = "on the block"
never_reaches = "behind the block"
)",
                                              "a/yard.drill.toml", level, walker());
    CHECK(drill.name == "yard");
    CHECK(drill.at == Vec<2>(0, 0.01));
    CHECK(drill.heading == Vec<2>(1, 0));
    CHECK(drill.stance == "upright");
    CHECK(drill.tick_rate == 50.0);
    CHECK(drill.frame_rate == 144.0);
    CHECK(drill.sampled == Sampled::on_frame);
    CHECK(drill.seconds == 2.5);
    const Motion& motion = drill.motion;
    CHECK(motion.model == Model::loose);
    CHECK(std::array{motion.gravity, motion.jump_speed, motion.friction} == std::array{19.0, 6.0, 0.25});
    CHECK(std::array{motion.mass, motion.force, motion.bounce} == std::array{70.0, 900.0, 0.75});
    CHECK(motion.top_speed == ByFooting(3.0, 2.0));
    CHECK(motion.acceleration == ByFooting(12.0));
    CHECK(motion.drag == ByFooting(0.5));
    CHECK(motion.coasts == Coasts::airborne);
    REQUIRE(motion.on.size() == 1);
    CHECK(motion.on[0].layer == "m");
    CHECK(motion.on[0].friction == 0.0);
    CHECK(motion.on[0].top_speed == 1.5);
    CHECK(!motion.on[0].drag);
    CHECK(drill.frame_jitter == 0.25);
    CHECK(drill.frame_seed == 7);
    CHECK(motion.stopped == Stopped::kept);
    CHECK_FALSE(motion.turns);
    REQUIRE(drill.cues.size() == 1);
    CHECK(*drill.cues[0].drive == Vec<2>(1, 0));
    CHECK(*drill.cues[0].heading == Vec<2>(-1, 0));
    CHECK(drill.cues[0].press == "jump");
    REQUIRE(drill.loose.size() == 1);
    CHECK(drill.loose[0].friction == 0.125);
    REQUIRE(drill.expectations.size() == 5);
    // In the order of the names; a figure of the whole drill is of no signal.
    CHECK(drill.expectations[0].figure == "climb");
    CHECK(drill.expectations[0].signal.empty());
    CHECK(drill.expectations[1].figure == "missed_ticks");
    CHECK(drill.expectations[1].signal == "grounded");
    CHECK(drill.expectations[2].kind == Kind::least);
    CHECK(drill.expectations[3].area == "on the block");
    CHECK(drill.expectations[4].kind == Kind::never_reaches);
    const Drill<2> free = drill_from_toml<2>(
        head + "[motion]\nmodel = \"free\"\ngrain = 0.5\napproach = \"creep\"\n", "f.toml", level, walker());
    CHECK(free.motion.grain == 0.5);
    CHECK(free.motion.approach == Approach::creep);
    CHECK(free.heading == Vec<2>(-1, 0));  // the start's
}

TEST_CASE("a wrong drill file is refused with the place and what was expected") {
    const auto level = yard();
    const std::vector<std::pair<std::string, std::string>> wrong = {
        {"tick_rate = 0\n", "d.toml:6:13: 'tick_rate' is 0"},
        {"sampled = \"sometimes\"\n", "on_tick"},
        {"at = [0, 1]\n", "either 'start'"},
        {"tik_rate = 60\n", "did you mean 'tick_rate'"},
        {"[motion]\nmodel = \"glide\"\n", "d.toml:7:9"},
        {"[motion]\ngravity = -1\n", "expected 0 or more"},
        {"[motion]\nbounce = 2\n", "bounce must be from 0 to 1"},
        {"[motion]\ngrain = 0.5\n", "grain is for the model 'free'"},
        {"[[cue]]\nat = 1\n", "the cue does nothing"},
        {"[motion]\ntop_speed = { grounded = 4, airborn = 2 }\n", "did you mean 'airborne'"},
        {"[motion]\ndrag = { grounded = -1 }\n", "expected 0 or more"},
        {"[[motion.on]]\nlayer = \"snow\"\n", "d.toml:7:9: the level has no layer 'snow'"},
        {"frame_jitter = 0.5\n", "frame_jitter needs a frame_rate"},
        {"frame_rate = 90\nframe_lengths = [0.01]\n", "instead of a frame_rate"},
        {"frame_seed = 0.5\n", "expected a whole number"},
        {"[[cue]]\nat = 1\npress = \"jmup\"\n",
         "d.toml:8:9: the rig knows no key 'jmup', did you mean 'jump'"},
        {"[[cue]]\nat = 1\nstance = \"sitting\"\n", "d.toml:8:10: the body has no stance 'sitting'"},
        {"stance = \"uprigt\"\n", "did you mean 'upright'"},
        {"[[expect]]\nsignal = \"grunded\"\nmost = { flicker = 0 }\n", "did you mean 'grounded'"},
        {"[[cue]]\nat = -1\npress = \"jump\"\n", "d.toml:7:6"},
        {"[[cue]]\nat = 1\ndrive = [1, 0, 0]\n", "d.toml:8:9"},
        {"[[loose]]\nsolid = \"block\"\nmass = 30\n", "in the model 'loose' only"},
        {"[[expect]]\nmost = { climbs = 1 }\n",
         "d.toml:7:19: there is no figure 'climbs', did you mean 'climb'"},
        {"[[expect]]\nmost = { climb = \"low\" }\n", "expected a number"},
        {"[[expect]]\nmost = {}\n", "expected at least one"},
        {"[[expect]]\nreaches = \"on the blok\"\n", "did you mean 'on the block'"},
        {"[[expect]]\nsignal = \"grounded\"\n", "nothing is expected"}};
    for (const auto& [text, expected] : wrong) {
        const std::string message =
            message_of([&, &more = text] { drill_from_toml<2>(head + more, "d.toml", level, walker()); });
        INFO(text << message);
        CHECK_THAT(message, Catch::Contains(expected));
        CHECK_THAT(message, Catch::StartsWith("d.toml:"));
    }
    const auto rig = walker();
    Drill<2> drill = walk(1.0);
    drill.stance = "sitting";
    CHECK_THROWS_AS(play<2>(level, rig, drill), InvalidInput);
    drill = walk(1.0);
    drill.at = {6.0, 0.2};
    CHECK_THROWS_WITH(play<2>(level, rig, drill), Catch::Contains("deep in 'block'"));
}

TEST_CASE("a level that shifts answers as one built at that place") {
    Random random(5);
    LevelBuilder<2> builder({"m"});
    for (int i = 0; i < 40; ++i) {
        builder.add("stone " + std::to_string(i), "m",
                    random_shape<2>(random, random.point<2>(8.0), random.between(0.2, 1.0)));
        if (i % 4 == 0) builder.path({{{0, 0}, random.point<2>(3.0)}, random.between(0.5, 2.0), 0.2});
    }
    builder.add_polyline("chain", "m", {{-9, -9}, {0, -8}, {9, -9}});
    builder.path({{{0, 0}, {0, 3}}, 1.0, 0.0});
    const auto level = builder.build();
    ShiftingLevel<2> shifting(level);
    const auto ball = RoundedHull<2>::ball({0, 0}, 0.2);
    int hits = 0;
    for (int round = 0; round < 60; ++round) {
        const double seconds = random.between(0.0, 10.0);
        const Level<2> there = level.at(seconds);
        shifting.at(seconds);
        shifting.refit();
        for (int i = 0; i < 20; ++i) {
            const LevelCast<2> cast{ball.view(), random.point<2>(10.0), random.direction<2>(), 6.0};
            const auto expected = first_hit<2>(there, cast);
            const auto got = first_hit<2>(shifting.level(), cast);
            REQUIRE(expected.has_value() == got.has_value());
            if (!expected) continue;
            ++hits;
            CHECK(got->distance == Approx(expected->distance).margin(1e-9));
            CHECK(got->solid == expected->solid);
        }
    }
    CHECK(hits > 300);
}

TEST_CASE("latency, flicker and refused jumps are what settle and grace make of them") {
    const auto level = yard();
    Rig<2> rig = walker();
    rig.signals[0].settle = 0.1;
    rig.signals[0].grace = 0.15;
    Drill<2> drill = walk(3.0);
    // One jump while the signal is still settling, one after, and one in the air within grace.
    drill.cues = {key(0.05, "jump"), key(1.0, "jump"), key(1.1, "jump")};
    const auto record = play<2>(level, rig, drill);
    const SignalFigures& grounded = record.figures.signals[0];
    CHECK(record.figures.refused_jumps == 1);
    CHECK(record.figures.jumps == 2);
    CHECK(record.figures.unearned_jumps == 1);
    CHECK(grounded.onset_latency == 6);    // 0.1 s
    CHECK(grounded.release_latency == 9);  // 0.15 s
    CHECK(grounded.flicker == 0);
    // On, off, on again.
    CHECK(grounded.changes == 3);
    // Read at the start, it has settled after five ticks of the six; after landing it takes all six.
    CHECK(grounded.missed_ticks == 5 + 6);
    CHECK(grounded.false_ticks == 9);
}

TEST_CASE("bumpiness of a fall is gravity, headway and stuck time those of a wall run into") {
    const auto level = yard();
    Drill<2> fall = walk(0.5);
    fall.at = {0, 30};
    CHECK(play<2>(level, walker(), fall).figures.bumpiness == Approx(20.0));
    Drill<2> drill = walk(2.0);
    drill.motion.jump_speed = 0.0;
    drill.at = {2.0, 0.002};
    drill.cues = {go(0.0, 1.0)};
    const auto record = play<2>(level, walker(), drill);
    // The block's side is at 5, the body's at 0.3, and a tenth of touch between: 2.698 of 8.
    CHECK(record.figures.headway == Approx(2.698 / 8.0).margin(1e-3));
    CHECK(record.figures.stuck_time == Approx(2.0 - 41 * tick).margin(1.5 * tick));
    CHECK(record.figures.wall_gap == Approx(0.002).margin(1e-6));
    CHECK(record.figures.climb == 0.0);
}

TEST_CASE("turn_back keeps a watchman on the floor; without it he falls") {
    const auto level = yard();
    Rig<2> rig = walker();
    Probe<2> edge = foot_ray<2>(0.8);
    edge.name = "edge";
    edge.line().from = {0.5, 0.4};
    edge.sees = {"m"};
    rig.probes.push_back(edge);
    Signal brink;
    brink.name = "brink";
    brink.claims = Claim::drop;
    brink.members.all = {"grounded"};
    brink.members.none = {"edge"};
    rig.signals.push_back(brink);
    Drill<2> drill = walk(20.0);
    drill.at = {-12.0, 0.01};
    drill.cues = {go(0.0, -0.9)};
    const auto falls = play<2>(level, rig, drill);
    CHECK(falls.last.anchor[1] < -5.0);
    rig.reflexes.push_back({"brink", ReflexKind::turn_back});
    const auto stays = play<2>(level, rig, drill);
    CHECK(stays.last.anchor[1] == Approx(0.0).margin(0.02));
    double leftmost = 0.0;
    for (const auto& now : stays.ticks) leftmost = std::min(leftmost, now.anchor[0]);
    CHECK(leftmost > -20.0);
    CHECK(leftmost < -19.3);  // half a body before the edge, less the probe's lead and a tick's way
}

TEST_CASE("a stance is refused where it does not fit, and taken where it does") {
    const auto level = yard();
    Rig<2> rig = walker();
    rig.body.stances.push_back(Stance<2>::ball("curled", 0.4));
    refuse_to_stand(rig);
    Drill<2> drill = walk(6.0);
    drill.at = {-2.0, 0.01};
    drill.stance = "curled";
    Cue<2> stand;
    stand.at = 1.2;  // well under the beam, which ends at -8
    stand.stance = "upright";
    drill.cues = {go(0.0, -1.0), stand};
    const auto record = play<2>(level, rig, drill);
    CHECK(record.figures.deepest_clip <= rig.intent.touch);
    bool stood = false;
    for (const auto& now : record.ticks) {
        if (now.stance != 0) continue;
        if (!stood) CHECK(now.anchor[0] == Approx(-8.3).margin(0.1));  // as soon as it is out
        stood = true;
    }
    CHECK(stood);
}

TEST_CASE("stop_rise turns a rise into its kickback; without it the game's own speed hangs on") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {40, 1}));
    builder.add("pipe", "m", RoundedHull<2>::box({0, 2.8}, {6, 1}));
    const auto level = builder.build();
    Rig<2> rig = walker();
    Probe<2> crown = *rig.probes.begin();
    crown.name = "crown";
    crown.line().from = {0.0, 1.4};
    crown.line().along = {0.0, 1.0};
    crown.line().accept_most_degrees = 180.0;
    rig.probes.push_back(crown);
    Signal bumped;
    bumped.name = "bumped";
    bumped.claims = Claim::ceiling;
    bumped.members.any = {"crown"};
    rig.signals.push_back(bumped);
    Drill<2> drill = walk(1.5);
    drill.motion.stopped = Stopped::kept;
    drill.cues = {key(0.1, "jump")};
    const auto hangs = play<2>(level, rig, drill);
    // From 7, at 20 a second less: a third of a second less the way up of 0.49.
    CHECK(hangs.figures.hang_time > 0.2);
    Reflex stop{"bumped", ReflexKind::stop_rise};
    stop.speed = 0.75;
    rig.reflexes.push_back(stop);
    const auto record = play<2>(level, rig, drill);
    CHECK(record.figures.hang_time <= 2.5 * tick);
    std::size_t met = 0;
    while (!record.ticks[met].signals_on.has(1U)) ++met;
    CHECK(record.ticks[met + 1].velocity[1] == Approx(-0.75));
    CHECK(record.ticks[met + 2].velocity[1] == Approx(-0.75 - 20.0 * tick));
}

TEST_CASE("lift_over takes a box over a kerb that stops it") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {40, 1}));
    builder.add("kerb", "m", RoundedHull<2>::box({8, 0.1}, {8, 0.4}));  // 0.3 high, from 4
    const auto level = builder.build();
    Rig<2> rig = walker();
    rig.body.stances = {Stance<2>::box("upright", {0.6, 1.8})};
    Probe<2> shin = foot_ray<2>(0.36);
    shin.name = "shin";
    shin.line().from = {0.0, 0.15};
    shin.line().along = {1.0, 0.0};
    shin.sees = {"m"};
    rig.probes.push_back(shin);
    Signal kerb;
    kerb.name = "kerb ahead";
    kerb.claims = Claim::step;
    kerb.members.any = {"shin"};
    rig.signals.push_back(kerb);
    Drill<2> drill = walk(2.5);
    drill.cues = {go(0.0, 1.0)};
    CHECK(play<2>(level, rig, drill).last.anchor[0] == Approx(4.0 - 0.3 - 0.002).margin(1e-6));
    Reflex lift{"kerb ahead", ReflexKind::lift_over};
    lift.by = 0.35;
    rig.reflexes.push_back(lift);
    const auto over = play<2>(level, rig, drill);
    CHECK(over.last.anchor[0] > 8.0);
    CHECK(over.last.anchor[1] == Approx(0.3).margin(0.01));
    CHECK(over.figures.deepest_clip <= rig.intent.touch);
    // Not over what is higher than it lifts.
    rig.reflexes.back().by = 0.25;
    CHECK(play<2>(level, rig, drill).last.anchor[0] < 4.0);
}

TEST_CASE("cancel_drive takes away what leads into the wall and leaves the rest") {
    LevelBuilder<3> builder({"m"});
    builder.add("floor", "m", RoundedHull<3>::box({0, -0.5, 0}, {40, 1, 40}));
    builder.add("wall", "m", RoundedHull<3>::box({4, 2, 0}, {2, 4, 40}));
    const auto level = builder.build();
    Probe<3> chest = foot_ray<3>(0.8);
    chest.name = "chest";
    chest.line().from = {0.0, 1.0, 0.0};
    chest.line().aim = Aim::drive;
    Rig<3> rig = rig_with<3>(chest, {"m"});
    rig.signals[0].claims = Claim::wall;
    rig.reflexes = {{rig.signals[0].name, ReflexKind::cancel_drive}};
    Drill<3> drill;
    drill.seconds = 2.0;
    drill.at = {0, 0.002, 0};
    drill.motion.gravity = 20.0;
    drill.motion.top_speed = 4.0;
    Cue<3> slant;
    slant.drive = Vec<3>(std::sqrt(0.5), 0.0, std::sqrt(0.5));
    drill.cues = {slant};
    const auto record = play<3>(level, rig, drill);
    CHECK(record.last.velocity[0] == Approx(0.0).margin(1e-9));
    CHECK(record.last.velocity[2] == Approx(4.0 * std::sqrt(0.5)));
    // The ray of 0.8 along the slant feels the wall 0.8·√½ before it.
    CHECK(record.last.anchor[0] == Approx(3.0 - 0.8 * std::sqrt(0.5)).margin(4.0 * tick));
}

TEST_CASE("a lift under a beam that leaves no room is told as crushing, and ends") {
    LevelBuilder<2> builder({"m"});
    builder.add("deck", "m", RoundedHull<2>::box({0, -0.1}, {4, 0.2}));
    builder.path({{{0, 0}, {0, 2}}, 1.0, 0.0});
    builder.add("beam", "m", RoundedHull<2>::box({0, 3.0}, {40, 1}));
    const auto level = builder.build();
    const auto record = play<2>(level, walker(), walk(3.0));
    CHECK(record.figures.crushed_ticks > 0);
    CHECK(record.last.anchor.is_finite());
    // There is 2.5 under the beam and 1.8 of body: until 0.7 it is carried up without harm.
    for (const auto& now : record.ticks) {
        if (now.seconds < 0.65) CHECK(now.clip <= 0.02);
    }
}

TEST_CASE("every figure has a name and a number, and no other name has") {
    const auto record = play<2>(yard(), walker(), walk(0.2));
    std::size_t of_signals = 0;
    for (const char* name : figure_names()) {
        CHECK(std::isfinite(figure(record.figures, name)));
        of_signals += is_of_signals(name) ? 1 : 0;
    }
    CHECK(of_signals == 9);
    CHECK(std::isnan(figure(record.figures, "height")));
    CHECK(std::isnan(figure(record.figures, "flicker", "nobody")));
}

TEST_CASE("a reflex of the game's own sees each tick and may change the move") {
    const auto level = yard();
    PlayOptions<2> options;
    int calls = 0;
    options.reflex = [&](ReflexCall<2>& call) {
        CHECK(call.seconds == Approx(calls * tick));
        ++calls;
        CHECK(call.readings.size() == 1);
        if (call.anchor[0] > 2.0) call.velocity[0] = 0.0;
    };
    Drill<2> drill = walk(2.0);
    drill.cues = {go(0.0, 1.0)};
    const auto record = play<2>(level, walker(), drill, options);
    CHECK(calls == 120);
    CHECK(record.last.anchor[0] == Approx(2.0 + 4.0 * tick).margin(4.0 * tick));
}

TEST_CASE("drills played on one stage do not know of each other") {
    const auto level = yard();
    const auto rig = walker();
    Drill<2> push = walk(4.0);
    push.motion.model = Model::loose;
    push.motion.force = 2000.0;
    push.loose = {{"block", 20.0, 0.1}};
    push.cues = {go(0.0, 1.0)};
    // The block stands on the floor: a hair above it is free.
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {60, 1}));
    builder.add("block", "m", RoundedHull<2>::box({6.5, 0.502}, {1, 1}));
    const auto open = builder.build();
    Stage<2> stage(open, rig);
    const auto first = stage.play(push);
    CHECK(first.last.anchor[0] > 7.0);  // where the block was
    Drill<2> run = walk(4.0);
    run.cues = {go(0.0, 1.0)};
    const auto stopped = stage.play(run);
    CHECK(stopped.last.anchor[0] == Approx(6.0 - 0.3 - 0.002).margin(1e-3));
    CHECK(stage.play(push).last.anchor == first.last.anchor);
}

TEST_CASE("the timeline has a row for every tick and a name for every column") {
    const auto level = yard();
    const auto rig = walker();
    Drill<2> drill = walk(0.5);
    drill.cues = {go(0.0, 1.0), key(0.1, "jump")};
    PlayOptions<2> options;
    options.keep_readings = true;
    const auto record = play<2>(level, rig, drill, options);
    std::istringstream csv(timeline_csv<2>(rig, record));
    std::string line;
    std::size_t rows = 0;
    std::size_t columns = 0;
    while (std::getline(csv, line)) {
        const auto cells = static_cast<std::size_t>(std::count(line.begin(), line.end(), ',')) + 1;
        if (rows == 0) columns = cells;
        CHECK(cells == columns);
        ++rows;
    }
    CHECK(rows == 31);
    std::istringstream lines(timeline_json_lines<2>(rig, record));
    rows = 0;
    while (std::getline(lines, line)) {
        const auto json = nlohmann::json::parse(line);
        CHECK(json["anchor"][0].get<double>() == Approx(record.ticks[rows].anchor[0]));
        CHECK(json["jumped"] == (rows == 6));
        CHECK(json["signals"]["grounded"]["verdict"] == (rows < 6 ? "true_contact" : "true_clear"));
        ++rows;
    }
    CHECK(rows == 30);
}

TEST_CASE("with other cues a drill file keeps every other letter of its author's") {
    const auto level = yard();
    std::string commented = head;
    commented.replace(commented.find("seconds = 2.5"), 13, "seconds = 2.5   # enough");
    commented.replace(commented.find("\"l.toml\""), 8, "\"l.toml\"  # the yard");
    const std::string text =
        commented +
        "\n# how we run\n[motion]\ngravity = 20   # as on earth, twice\n\n[[cue]]\nat = 0.0 # go\n"
        "drive = [1, 0]\n\n[[expect]]\nmost = { climb = 0.1 } # none\n";
    Drill<2> drill = drill_from_toml<2>(text, "yard/d.toml", level, walker());
    drill.seconds = 1.25;
    drill.cues = {key(0.5, "jump"), go(0.75, -1.0)};
    const std::string written = with_cues<2>(text, "yard/d.toml", "yard", drill, "# found\n");
    CHECK_THAT(written, Catch::Contains("# how we run\n[motion]\ngravity = 20   # as on earth, twice\n"));
    CHECK_THAT(written, Catch::Contains("most = { climb = 0.1 } # none\n"));
    CHECK_THAT(written, !Catch::Contains("# go"));
    CHECK_THAT(written, Catch::Contains("level = \"l.toml\"  # the yard\n"));
    CHECK_THAT(written, Catch::Contains("seconds = 1.25   # enough\n"));
    const Drill<2> again = drill_from_toml<2>(written, "yard/d.toml", level, walker());
    CHECK(again.seconds == 1.25);
    REQUIRE(again.cues.size() == 2);
    CHECK(again.cues[0].press == "jump");
    CHECK(*again.cues[1].drive == Vec<2>(-1, 0));
    CHECK(again.motion.gravity == 20.0);
    CHECK(again.expectations.size() == 1);
    // Kept elsewhere it still names the same files.
    CHECK_THAT(with_cues<2>(text, "yard/d.toml", "yard/found", drill, ""),
               Catch::Contains("level = \"../l.toml\""));
}

TEST_CASE("a drill made in code is refused for numbers below zero or without end, too") {
    LevelBuilder<2> builder({"stone"});
    builder.add("floor", "stone", RoundedHull<2>::box({0.0, -0.5}, {4.0, 1.0}));
    const Level<2> level = builder.build();
    Rig<2> rig;
    rig.body.meets = {"stone"};
    rig.body.stances = {Stance<2>::capsule("upright", 0.3, 1.8)};
    for (const double wrong : {-1.0, infinity, std::numeric_limits<double>::quiet_NaN()}) {
        for (double Motion::*number :
             {&Motion::gravity, &Motion::jump_speed, &Motion::grain, &Motion::force}) {
            Drill<2> drill;
            drill.at = {1.0, 1.0};
            drill.seconds = 0.1;
            drill.motion.*number = wrong;
            CAPTURE(wrong);
            CHECK_THROWS_AS(play<2>(level, rig, drill), InvalidInput);
        }
    }
}

TEST_CASE("broken expectations are told in words that hold the numbers") {
    DrillOutcome outcome;
    outcome.name = "run";
    outcome.seconds = 5.0;
    outcome.expectations = {{Kind::most, "climb", "", 0.1, ""}, {Kind::reaches, "", "", 0.0, "loft"}};
    const std::string climb = broken_sentence(outcome, {0, 0.35, 1.5, {3.0, 1.0}});
    for (const char* part : {"climb 0.35 (limit 0.1)", "1.5 s", "(3, 1)"})
        CHECK_THAT(climb, Catch::Contains(part));
    // Of signals the one that is worst is named, or the one the expectation names.
    DrillOutcome heard;
    heard.seconds = 5.0;
    for (const auto& [name, missed] : {std::pair{"sole", 3}, {"grounded", 76}, {"brow", 0}}) {
        SignalFigures& signal = heard.figures.signals.emplace_back();
        signal.name = name;
        signal.missed_ticks = static_cast<std::size_t>(missed);
    }
    heard.expectations = {{Kind::most, "missed_ticks", "", 0.0, ""},
                          {Kind::most, "missed_ticks", "sole", 2.0, ""}};
    CHECK_THAT(broken_sentence(heard, {0, 76.0, 1.617, {3.0, 1.0}}),
               Catch::StartsWith("grounded: 76 missed ticks (limit 0), over it first at 1.617 s"));
    CHECK_THAT(broken_sentence(heard, {1, 3.0, 1.0, {3.0, 1.0}}),
               Catch::StartsWith("sole: 3 missed ticks (limit 2)"));
    heard.figures.signals.clear();
    CHECK_THAT(broken_sentence(heard, {0, 1.0, 1.0, {3.0, 1.0}}),
               Catch::StartsWith("the worst signal: 1 missed tick (limit 0)"));
    const std::string loft = broken_sentence(outcome, {1, 0.7, 2.0, {3.0, 1.0}});
    for (const char* part : {"never comes to \"loft\"", "0.7 away", "2 s"})
        CHECK_THAT(loft, Catch::Contains(part));
    outcome.broken = {{0, 0.35, 1.5, {3.0, 1.0}}};
    const auto json = nlohmann::json::parse(drill_json({outcome}));
    CHECK(json["drills"][0]["kept"] == false);
    CHECK(json["drills"][0]["broken"][0]["figure"] == "climb");
    CHECK(json["drills"][0]["broken"][0]["limit"] == 0.1);
}
