// Figures against values known by hand: what is forgiven, refused, lost and bumped over, to the tick.
#include <catch2/catch.hpp>

#include <map>

#include "drill_scenes.hpp"
#include "hollow_probe/motion/play.hpp"
#include "yard.hpp"

using namespace scenes;

namespace {

Level<2> floor_until(double edge) {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-20, edge, 0));
    return builder.build();
}

Drill<2> drill_of(const Vec<2>& from, double seconds) {
    Drill<2> drill = walk(seconds);
    drill.at = from;
    return drill;
}

SignalFigures grounded(const Level<2>& level, const Rig<2>& rig, const Drill<2>& drill) {
    return play<2>(level, rig, drill).figures.signals.front();
}

}  // namespace

TEST_CASE("what is missed or false for no longer than the intent lets it be late is forgiven, to the tick") {
    const auto level = floor_until(4.0);
    for (const double rate : {30.0, 60.0, 240.0}) {
        for (const bool missed : {true, false}) {
            Rig<2> rig = walker();
            (missed ? rig.signals[0].settle : rig.signals[0].grace) = 0.2;
            // It falls on to the floor, or walks off it.
            Drill<2> drill = drill_of(missed ? Vec<2>(0, 2) : Vec<2>(2, 0.002), 2.0);
            drill.tick_rate = rate;
            if (!missed) drill.cues = {drive<2>(0.0, Vec<2>::unit(0))};
            const auto wrong = [missed](const SignalFigures& its) {
                return missed ? its.missed_ticks : its.false_ticks;
            };
            const std::size_t all = wrong(grounded(level, rig, drill));
            REQUIRE(static_cast<double>(all) >= 0.15 * rate);
            for (const double late : {0.05, 0.1, 0.15, 1.0}) {
                CAPTURE(rate, missed, late);
                rig.intent.forgive.late = late;
                const SignalFigures its = grounded(level, rig, drill);
                const auto within = static_cast<std::size_t>(std::floor(late * rate + 1e-9));
                CHECK(its.forgiven_ticks == std::min(all, within));
                CHECK(wrong(its) + its.forgiven_ticks == all);
            }
        }
    }
}

TEST_CASE("what is said before it is true is forgiven if truth follows in time, and only then") {
    const auto level = floor_until(4.0);
    Rig<2> rig = walker();
    rig.probes[0].line().reach = 1.0;  // feels the ground 0.9 below the body
    const Drill<2> falls = drill_of(Vec<2>(0, 3), 1.5);
    const std::size_t all = grounded(level, rig, falls).false_ticks;
    REQUIRE(all > 4);
    for (const double early : {0.02, 0.05, 1.0}) {
        CAPTURE(early);
        rig.intent.forgive.early = early;
        const SignalFigures its = grounded(level, rig, falls);
        CHECK(its.forgiven_ticks == std::min(all, static_cast<std::size_t>(early * 60.0 + 1e-9)));
        CHECK(its.false_ticks + its.forgiven_ticks == all);
    }
    // It jumps off, and truth does not follow before the drill ends: nothing is forgiven.
    Drill<2> rises = drill_of(Vec<2>(0, 0.002), 0.1);
    rises.cues = {press<2>(0.0)};
    const SignalFigures its = grounded(level, rig, rises);
    CHECK(its.forgiven_ticks == 0);
    CHECK(its.false_ticks >= 5);
}

TEST_CASE(
    "after a take-off ground need not be told, and a jump not be given, for as long as the intent says") {
    const auto level = floor_until(20.0);
    Rig<2> rig = walker();
    rig.signals[0].mute_after = {"jump", 0.4};
    Drill<2> drill = drill_of(Vec<2>(0, 0.002), 2.0);
    drill.motion.jump_speed = 1.0;  // back on the ground within 0.1 s
    drill.cues = {press<2>(0.5), press<2>(0.75)};
    const auto played = [&](double forgiven) {
        rig.intent.forgive.after_take_off = forgiven;
        return play<2>(level, rig, drill).figures;
    };
    const DrillFigures strict = played(0.0);
    REQUIRE(strict.jumps == 1);
    CHECK(strict.refused_jumps == 1);
    REQUIRE(strict.signals[0].missed_ticks > 10);
    CHECK(played(0.2).refused_jumps == 1);  // asked 0.25 s after the take-off
    CHECK(played(0.3).refused_jumps == 0);
    const DrillFigures half = played(0.2);
    CHECK(half.signals[0].missed_ticks < strict.signals[0].missed_ticks);
    CHECK(half.signals[0].missed_ticks + half.signals[0].forgiven_ticks == strict.signals[0].missed_ticks);
    CHECK(played(0.5).signals[0].missed_ticks == 0);
    // It is mute for 24 ticks, the last of them 23 after the take-off: inclusive.
    CHECK(played(23.0 / 60.0).signals[0].missed_ticks == 0);
    CHECK(played(22.0 / 60.0).signals[0].missed_ticks == 1);
    CHECK(played(21.0 / 60.0).signals[0].missed_ticks == 2);
}

TEST_CASE("a take-off slower than what gravity takes in two ticks is not lost") {
    const auto level = floor_until(20.0);
    Drill<2> drill = drill_of(Vec<2>(0, 0.002), 1.0);
    drill.cues = {press<2>(0.5)};
    for (const double speed : {0.2, 0.5, 0.66, 0.7, 3.0}) {
        drill.motion.jump_speed = speed;
        CAPTURE(speed);
        const auto figures = play<2>(level, walker(), drill).figures;
        CHECK(figures.jumps == 1);
        CHECK(figures.lost_take_offs == 0);
    }
}

TEST_CASE("who stands when a drill begins has stood for long, who falls has not") {
    // The signal never tells ground, so that every jump asked for is refused.
    const auto level = floor_until(50.0);
    Rig<2> rig = walker();
    rig.probes[0].line().reach = 0.01;
    rig.reflexes = {{"grounded", ReflexKind::permit_jump}};
    rig.intent.forgive.late = 0.2;
    const auto refused = [&](double height, double asked) {
        Drill<2> drill = drill_of({0.0, height}, 1.0);
        drill.cues = {press<2>(asked)};
        return play<2>(level, rig, drill).figures.refused_jumps;
    };
    CHECK(refused(0.002, 0.0) == 1);
    CHECK(refused(0.002, 0.5) == 1);
    // It lands within a tenth of a second; what is asked within a fifth after that is forgiven.
    CHECK(refused(0.05, 0.2) == 0);
    CHECK(refused(0.05, 0.5) == 1);
}

TEST_CASE("a signal that is wrong by rounding alone is not counted, whichever of the rig's it is") {
    // A box whose back edge is just over the floor's lip stands there or not by the last digit.
    const auto level = floor_until(4.0);
    for (const double reach : {0.1, 0.5}) {
        Rig<2> rig = walker();
        rig.body.stances = {Stance<2>::box("boxed", {0.6, 1.8})};
        rig.probes[0].line().shape.reset();
        rig.probes[0].line().from = {-0.4, 0.4};
        rig.probes[0].line().reach = reach;
        Signal crown;
        crown.name = "crown";
        crown.claims = Claim::ceiling;
        crown.members.none = {"foot"};
        crown.members.all = {"foot"};
        rig.signals.insert(rig.signals.begin(), crown);
        Drill<2> drill = drill_of({4.3, 0.0}, 0.1);
        drill.motion.gravity = 0.0;
        const auto figures = play<2>(level, rig, drill).figures;
        CAPTURE(reach);
        CHECK(figures.signals[1].name == "grounded");
        CHECK(figures.signals[1].missed_ticks == 0);
        CHECK(figures.signals[1].false_ticks == 0);
        // A hair's breadth to either side it is sure, and one of the two rigs is wrong.
        drill.at = {4.3 + (reach > 0.4 ? 1e-4 : -1e-4), 0.0};
        const auto sure = play<2>(level, rig, drill).figures.signals[1];
        CHECK(sure.missed_ticks + sure.false_ticks == 6);
    }
}

TEST_CASE("a rise is stopped with a kickback, and what does not rise is not thrown down") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-50, 50, -5));
    builder.add("roof", "m", slab<2>(-50, 50, 3, 0.95));
    const auto level = builder.build();
    Rig<2> rig = walker();
    rig.probes[0].line().along = {0.0, 1.0};
    rig.probes[0].line().from = {0.0, 1.4};
    rig.probes[0].line().accept_most_degrees = 180.0;
    rig.probes[0].line().reach = 0.2;
    rig.signals[0].claims = Claim::ceiling;
    Reflex stop{"grounded", ReflexKind::stop_rise};
    stop.speed = 1.0;
    rig.reflexes = {stop};
    Drill<2> drill = drill_of({0.0, 0.2}, 1.0);
    drill.motion.gravity = 0.0;
    drill.motion.top_speed = 2.0;
    drill.cues = {drive<2>(0.0, Vec<2>::unit(0))};
    const auto along = play<2>(level, rig, drill);
    CHECK(along.last.signals_on.has(0));
    CHECK(along.last.anchor[1] == Approx(0.2).margin(0.005));
    CHECK(along.last.anchor[0] == Approx(2.0).margin(0.05));
}

TEST_CASE("bumpiness of a free fall is gravity at any rate") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-20, 20, -500));
    const auto level = builder.build();
    for (const double rate : {5.0, 10.0, 14.0, 29.0, 60.0, 1000.0}) {
        Drill<2> drill = drill_of(Vec<2>(0, 0), 3.0);
        drill.tick_rate = rate;
        CAPTURE(rate);
        CHECK(play<2>(level, walker(), drill).figures.bumpiness == Approx(20.0).epsilon(1e-6));
    }
}

TEST_CASE("of three stances only the one that a reflex names is refused") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-20, 20, 0));
    builder.add("beam", "m", slab<2>(-20, 20, 3.2, 2.0));  // its underside 1.2 above the floor
    const auto level = builder.build();
    Rig<2> rig = walker();
    rig.body.stances.push_back(Stance<2>::ball("curled", 0.4));
    rig.body.stances.push_back(Stance<2>::ball("low", 0.3));
    refuse_to_stand(rig);
    Drill<2> drill = drill_of(Vec<2>(0, 0.01), 1.5);
    drill.stance = "curled";
    Cue<2> stand;
    stand.at = 0.5;
    stand.stance = "upright";
    Cue<2> lie;
    lie.at = 1.0;
    lie.stance = "low";
    drill.cues = {stand, lie};
    const auto record = play<2>(level, rig, drill);
    for (const auto& now : record.ticks) {
        CAPTURE(now.seconds);
        CHECK(now.stance == (now.seconds <= 1.0 + 1e-9 ? 1U : 2U));
    }
    CHECK(record.figures.deepest_clip <= rig.intent.touch);
}

TEST_CASE("among three planes a ball goes on along a crease wherever one leads on") {
    // Brute force: of the speed itself, its part along each plane and along each crease, those that lead into
    // none of the three; a body is stuck only where none is left.
    Random random(77);
    int creases = 0;
    for (int i = 0; i < 400; ++i) {
        constexpr double radius = 0.5;
        constexpr double gap = 0.004;
        const Vec<3> center(0, radius, 0);
        std::vector<Vec<3>> normals;
        LevelBuilder<3> builder({"m"});
        for (int k = 0; k < 3; ++k) {
            const Vec<3> n = random.direction<3>();
            normals.push_back(n);
            // A face through center - n·(radius + gap).
            Mat<3> turn;
            turn.column(1) = n;
            turn.column(0) = n.unit_across();
            turn.column(2) = turn.column(0).cross(n);
            builder.add("plane " + std::to_string(k), "m",
                        RoundedHull<3>::box(Vec<3>::zero(), Vec<3>::constant(40.0))
                            .placed(turn, center - (radius + gap + 20.0) * n));
        }
        const auto level = builder.build();
        Rig<3> rig = rig_with<3>(foot_ray<3>(0.6), {"m"});
        rig.body.stances.front() = Stance<3>::ball("upright", radius);
        Drill<3> drill;
        drill.seconds = 0.5;
        drill.motion.top_speed = 1.0;
        const Vec<3> v = random.direction<3>();
        drill.cues = {drive<3>(0.0, v)};
        const auto leads_on = [&](const Vec<3>& way) {
            return std::all_of(normals.begin(), normals.end(),
                               [&](const Vec<3>& n) { return way.dot(n) >= -1e-9; });
        };
        double flat = leads_on(v) ? 1.0 : 0.0;
        for (const Vec<3>& n : normals) {
            const Vec<3> along = v - v.dot(n) * n;
            if (v.dot(n) < 0.0 && leads_on(along)) flat = std::max(flat, along.norm());
        }
        double best = flat;
        for (int a = 0; a < 3; ++a) {
            for (int b = 0; b < a; ++b) {
                const Vec<3> crease = normals[a].cross(normals[b]).normalized();
                const Vec<3> along = crease * crease.dot(v);
                if (leads_on(along)) best = std::max(best, along.norm());
            }
        }
        creases += flat < 0.05 && best > 0.1 ? 1 : 0;
        if (best < 0.1) continue;
        const auto record = play<3>(level, rig, drill);
        const Vec<3> went = record.last.anchor - record.ticks[10].anchor;
        const double seconds = record.last.seconds - record.ticks[10].seconds;
        CAPTURE(i, v, best, flat);
        CHECK(went.norm() > 0.5 * best * seconds);
        CHECK(record.figures.deepest_clip == 0.0);
    }
    CHECK(creases >= 10);
}

TEST_CASE("what only grows never is less in the longer of two drills that begin alike, and does grow") {
    // Whoever is played longer has missed no less, hung no shorter, erred no less in a value.
    Random random(91);
    static const std::vector<std::string> may_fall = {"bumpiness", "headway"};
    std::map<std::string, int> grown;
    for (int number = 0; number < 40; ++number) {
        LevelBuilder<2> builder({"m"});
        builder.add("floor", "m", slab<2>(-50, 50, 0));
        builder.add("low roof", "m", slab<2>(-9, -5, 3.2, 1));
        for (int i = 0; i < 12; ++i) {
            Vec<2> center = random.point<2>(8.0);
            center[1] = 0.3 * std::abs(center[1]);
            if (center.norm() < 3.0) center[0] += center[0] < 0 ? -3.0 : 3.0;
            builder.add("stone " + std::to_string(i), "m",
                        random_shape<2>(random, center, random.between(0.3, 2.0)));
        }
        const auto level = builder.build();
        Rig<2> rig = walker();
        rig.probes[0].line().reach = random.between(0.05, 0.6);
        rig.probes[0].line().accept_most_degrees = 45.0;
        rig.signals[0].settle = random.between(0.0, 0.1);
        rig.signals[0].gives = Value::slope;
        rig.signals[0].gives_from = rig.probes[0].name;
        Drill<2> drill = drill_of(Vec<2>(0, 0.01), 6.0);
        drill.motion.friction = random.below(2) == 0 ? 0.0 : 3.0;
        for (int i = 0; i < 24; ++i) {
            drill.cues.push_back(
                drive<2>(random.between(0.0, 6.0), (random.below(2) ? 1.0 : -1.0) * Vec<2>::unit(0)));
            drill.cues.push_back(press<2>(random.between(0.0, 6.0)));
        }
        Drill<2> half = drill;
        half.seconds = 3.0;
        const auto shorter = play<2>(level, rig, half).figures;
        const auto longer = play<2>(level, rig, drill).figures;
        for (const char* name : figure_names()) {
            if (std::find(may_fall.begin(), may_fall.end(), name) != may_fall.end()) continue;
            const std::string signal = is_of_signals(name) ? "grounded" : "";
            CAPTURE(number, name);
            const double before = figure(shorter, name, signal);
            const double after = figure(longer, name, signal);
            CHECK(before >= 0.0);
            CHECK(after >= before);
            grown[name] += after > before ? 1 : 0;
        }
    }
    for (const char* name :
         {"missed_ticks", "false_ticks", "onset_latency", "release_latency", "flicker", "changes",
          "value_error", "jumps", "refused_jumps", "unearned_jumps", "stuck_time"}) {
        CAPTURE(name);
        CHECK(grown[name] > 0);
    }
}

TEST_CASE("the errors of a signal's value are its own, whatever signals stand before it") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-20, 2, 0));
    builder.add_polygon("ramp", "m", {{2, -1}, {2, 0}, {6, 2}, {6, -1}});
    const auto level = builder.build();
    // The ground's height is read by a ball, its slope by a ray from the heel.
    Rig<2> rig = walker();
    rig.probes[0].line().accept_most_degrees = 45.0;
    Probe<2> heel = foot_ray<2>(0.8);
    heel.name = "heel";
    heel.line().from = {-0.25, 0.4};
    heel.sees = {"m"};
    rig.probes.push_back(heel);
    Signal height = rig.signals[0];
    height.name = "height";
    height.gives = Value::ground_height;
    height.gives_from = rig.probes[0].name;
    Signal slope = rig.signals[0];
    slope.name = "slope";
    slope.gives = Value::slope;
    slope.gives_from = "heel";
    Drill<2> drill = drill_of(Vec<2>(0, 0.002), 1.5);
    drill.cues = {drive<2>(0.0, Vec<2>::unit(0))};
    const auto errors = [&](std::vector<Signal> signals) {
        rig.signals = std::move(signals);
        std::map<std::string, double> all;
        for (const SignalFigures& its : play<2>(level, rig, drill).figures.signals)
            all[its.name] = its.value_error;
        return all;
    };
    const Signal plain = rig.signals[0];
    const double of_height = errors({plain, height})["height"];
    const double of_slope = errors({plain, slope})["slope"];
    // The heel is still on the flat when the body stands on the ramp of atan(1/2).
    CHECK(of_slope == Approx(degrees(std::atan(0.5))).epsilon(1e-6));
    for (auto signals : {std::vector{plain, height, slope}, {slope, plain, height}, {height, slope, plain}}) {
        auto all = errors(signals);
        CHECK(all["height"] == of_height);
        CHECK(all["slope"] == of_slope);
        CHECK(all["grounded"] == 0.0);
    }
}
