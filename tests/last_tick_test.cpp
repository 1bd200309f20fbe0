// Motion right to the last tick: what stands stands, what is let go falls, what is pushed is pushed once.
#include <catch2/catch.hpp>

#include "drill_scenes.hpp"
#include "hollow_probe/motion/play.hpp"
#include "hollow_probe/truth/ground.hpp"

using namespace scenes;

namespace {

constexpr double tick = 1.0 / 60.0;

/// A ramp through the origin that falls along the first axis.
template <int D>
RoundedHull<D> ramp(double slope_degrees) {
    const Mat<D> turn = scenes::tilt<D>(-radians(slope_degrees));
    return RoundedHull<D>::box(Vec<D>::zero(), 200.0 * Vec<D>::ones()).placed(turn, -100.0 * turn.column(1));
}

enum class Shape { capsule, box, ball };

template <int D>
Rig<D> body_of(Shape shape) {
    Probe<D> sole = foot_ray<D>(0.6);
    Rig<D> rig = rig_with<D>(sole, {"m"});
    Stance<D>& stance = rig.body.stances.front();
    if (shape == Shape::box)
        stance = Stance<D>::box("upright", at<D>(0.6, 1.8) + (D == 3 ? 0.6 : 0.0) * Vec<D>::unit(D - 1));
    if (shape == Shape::ball) stance = Stance<D>::ball("upright", 0.5);
    rig.reflexes = {{"grounded", ReflexKind::permit_jump}};
    return rig;
}

template <int D>
Drill<D> drill_at(const Vec<D>& anchor, double seconds, Model model = Model::slide) {
    Drill<D> drill;
    drill.at = anchor;
    drill.seconds = seconds;
    drill.motion.model = model;
    drill.motion.gravity = 20.0;
    drill.motion.jump_speed = 7.0;
    drill.motion.top_speed = 4.0;
    return drill;
}

/// The anchor that puts the body's lowest point against a ramp through the origin, `gap` from it.
template <int D>
Vec<D> on_ramp(const Rig<D>& rig, double slope_degrees, double gap) {
    const double a = radians(slope_degrees);
    const Vec<D> normal = at<D>(std::sin(a), std::cos(a));
    const auto [low, high] = extent_along(rig.body.stances.front().shape.view(), normal);
    return (gap - low + rig.body.stances.front().shape.radius()) * normal;
}

const char* name_of(Shape shape) {
    return shape == Shape::capsule ? "capsule" : shape == Shape::box ? "box" : "ball";
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("a body that starts a hair deep in something moves, jumps and falls all the same", "",
                       ((int D), D), 2, 3) {
    for (const Shape shape : {Shape::capsule, Shape::box, Shape::ball}) {
        for (const double depth : {0.0, 1e-12, 1e-6, 0.001, 0.0019, 0.0021, 0.015}) {
            CAPTURE(D, name_of(shape), depth);
            LevelBuilder<D> builder({"m"});
            builder.add("floor", "m", slab<D>(-50, 50, 0));
            const auto level = builder.build();
            const Rig<D> rig = body_of<D>(shape);
            Drill<D> drill = drill_at<D>(at<D>(0, -depth), 2.0);
            drill.cues = {drive<D>(0.0, Vec<D>::unit(0)), press<D>(1.0)};
            const auto record = play<D>(level, rig, drill);
            CHECK(record.last.anchor[0] == Approx(8.0).margin(1e-6));
            CHECK(record.figures.jumps == 1);
            CHECK(record.figures.refused_jumps == 0);
            CHECK(record.figures.deepest_clip == 0.0);

            // In the air beside a wall.
            LevelBuilder<D> shaft({"m"});
            shaft.add("wall", "m", slab<D>(0, 3, 50, 100));
            const auto beside = shaft.build();
            const double half = shape == Shape::ball ? 0.5 : 0.3;
            Drill<D> fall = drill_at<D>(at<D>(-half + depth, 20), 1.0);
            const auto fallen = play<D>(beside, rig, fall);
            CHECK(fallen.last.velocity[1] == Approx(-20.0));
            CHECK(fallen.last.anchor[1] == Approx(20.0 - 20.0 * tick * tick * 0.5 * 60 * 61).margin(1e-6));
        }
    }
}

TEMPLATE_TEST_CASE_SIG(
    "a body that starts a hair deep in a one-way deck stands on it, one that starts deeper falls", "",
    ((int D), D), 2, 3) {
    for (const Shape shape : {Shape::capsule, Shape::box, Shape::ball}) {
        for (const double depth : {1e-6, 0.001, 0.015, 0.2, 0.7}) {
            CAPTURE(D, name_of(shape), depth);
            LevelBuilder<D> builder({"m"});
            builder.add("deck", "m", slab<D>(-50, 50, 0)).one_way(Vec<D>::unit(1));
            const auto level = builder.build();
            const Rig<D> rig = body_of<D>(shape);
            const bool stands = depth <= rig.intent.touch;
            Drill<D> drill = drill_at<D>(at<D>(0, -depth), 1.0);
            drill.cues = {drive<D>(0.0, Vec<D>::unit(0)), press<D>(0.5)};
            const auto record = play<D>(level, rig, drill);
            CHECK(record.last.anchor[0] == Approx(4.0).margin(1e-6));
            CHECK(record.figures.jumps == (stands ? 1U : 0U));
            if (!stands) CHECK(record.last.anchor[1] < -5.0);
        }
    }
}

TEMPLATE_TEST_CASE_SIG("without drive a body stands on footing, and slides down what is steeper", "",
                       ((int D), D), 2, 3) {
    for (const Model model : {Model::slide, Model::push_out}) {
        for (const Shape shape : {Shape::capsule, Shape::box, Shape::ball}) {
            for (const double slope : {0.0, 5.0, 30.0, 44.9, 45.1, 60.0}) {
                CAPTURE(D, name_of(model), name_of(shape), slope);
                LevelBuilder<D> builder({"m"});
                builder.add("ramp", "m", ramp<D>(slope));
                const auto level = builder.build();
                const Rig<D> rig = body_of<D>(shape);
                Drill<D> drill = drill_at<D>(on_ramp<D>(rig, slope, 0.002), 3.0, model);
                const auto record = play<D>(level, rig, drill);
                const double gone = (record.last.anchor - drill.at).norm();
                if (slope < 45.0) {
                    CHECK(gone < 0.01);
                    CHECK((record.last.anchor - record.ticks[60].anchor).norm() < 1e-9);
                    CHECK(record.last.velocity.norm() < 1e-9);
                } else {
                    CHECK(gone > 0.1);
                }
            }
        }
    }
}

TEMPLATE_TEST_CASE_SIG("a rising deck carries what stands on it, and throws nobody off", "", ((int D), D), 2,
                       3) {
    for (const double pace : {0.3, 2.0, 6.0}) {
        for (const Shape shape : {Shape::capsule, Shape::box}) {
            CAPTURE(D, pace, name_of(shape));
            LevelBuilder<D> builder({"m"});
            builder.add("deck", "m", slab<D>(-3, 3, 0, 0.4));
            builder.path({{Vec<D>::zero(), at<D>(0, 100)}, pace, 0.0});
            const auto level = builder.build();
            Drill<D> drill = drill_at<D>(at<D>(0, 0.002), 3.0);
            drill.cues = {press<D>(2.0)};
            const auto record = play<D>(level, body_of<D>(shape), drill);
            for (std::size_t i = 0; i < 119; ++i) {
                CAPTURE(i);
                REQUIRE(record.ticks[i].on_ground);
                REQUIRE(record.ticks[i].anchor[1] ==
                        Approx(pace * static_cast<double>(i + 1) * tick).margin(0.003));
                // It has the deck's own speed, but for what gravity takes in a tick.
                if (i > 2) REQUIRE(record.ticks[i].velocity[1] == Approx(pace).margin(20.0 * tick + 1e-9));
            }
            CHECK(record.figures.jumps == 1);
            CHECK(record.figures.refused_jumps == 0);
            CHECK(record.figures.deepest_clip == 0.0);
        }
    }
}

TEST_CASE("turning is a move: a box turns as far as there is room, or aside, and never into a wall") {
    for (const double gap : {0.005, 0.05, 0.2, 0.5}) {
        LevelBuilder<3> builder({"m"});
        builder.add("floor", "m", slab<3>(-50, 50, 0));
        builder.add("wall", "m", slab<3>(0.3 + gap, 4, 5, 6));
        const auto level = builder.build();
        Rig<3> rig = body_of<3>(Shape::box);
        rig.body.stances.front() = Stance<3>::box("upright", Vec<3>(0.4, 1.0, 1.6));
        for (const double angle : {30.0, 45.0, 90.0, 135.0, 180.0}) {
            CAPTURE(gap, angle);
            Drill<3> drill = drill_at<3>(at<3>(0.0, 0.002), 1.0);
            drill.heading = Vec<3>::unit(0);
            drill.motion.turns = false;
            Cue<3> look;
            look.at = 0.5;
            look.heading = Vec<3>(std::cos(radians(angle)), 0.0, std::sin(radians(angle)));
            drill.cues = {look};
            const auto record = play<3>(level, rig, drill);
            CHECK(record.figures.deepest_clip == 0.0);
            CHECK(record.figures.held_turns == 0);  // there is room aside
            CHECK((record.last.heading - *look.heading).norm() < 1e-9);
            for (std::size_t i = 1; i < record.ticks.size(); ++i)
                CHECK((record.ticks[i].anchor - record.ticks[i - 1].anchor).norm() < 0.7);
        }
    }
    // Between two walls there is no room.
    LevelBuilder<3> builder({"m"});
    builder.add("floor", "m", slab<3>(-50, 50, 0));
    builder.add("east", "m", slab<3>(0.5, 4, 5, 6));
    builder.add("west", "m", slab<3>(-4, -0.5, 5, 6));
    const auto level = builder.build();
    Rig<3> rig = body_of<3>(Shape::box);
    rig.body.stances.front() = Stance<3>::box("upright", Vec<3>(0.4, 1.0, 1.6));
    Drill<3> drill = drill_at<3>(at<3>(0.0, 0.002), 1.0);
    drill.heading = Vec<3>::unit(0);
    drill.motion.turns = false;
    Cue<3> look;
    look.at = 0.5;
    look.heading = Vec<3>::unit(2);
    drill.cues = {look};
    const auto record = play<3>(level, rig, drill);
    CHECK(record.figures.held_turns > 0);
    CHECK(record.figures.deepest_clip <= rig.intent.touch);
    // The half width at an angle a is 0.8 sin a + 0.2 cos a: 0.5 at about 22°.
    const double turned = degrees(std::acos(record.last.heading.x()));
    CHECK(turned > 15.0);
    CHECK(turned < 23.0);
}

TEST_CASE("hugging the ground follows it down as fast as the body walks") {
    for (const double slope : {10.0, 31.0, 44.0}) {
        for (const double speed : {1.0, 4.0, 8.0}) {
            CAPTURE(slope, speed);
            LevelBuilder<2> builder({"m"});
            builder.add("ramp", "m", ramp<2>(slope));
            const auto level = builder.build();
            Probe<2> sole = foot_ray<2>(0.6);
            sole.line().shape = RoundedHull<2>::ball(Vec<2>::zero(), 0.3);
            Rig<2> rig = rig_with<2>(sole, {"m"});
            Reflex hug{"grounded", ReflexKind::hug_ground};
            hug.by = 0.4;
            rig.reflexes = {hug};
            Drill<2> drill = drill_at<2>(on_ramp<2>(rig, slope, 0.002), 1.5);
            drill.motion.top_speed = speed;
            drill.cues = {drive<2>(0.0, Vec<2>::unit(0))};
            const auto record = play<2>(level, rig, drill);
            CHECK(record.figures.signals[0].false_ticks == 0);
            CHECK(record.figures.signals[0].missed_ticks == 0);
            CHECK(record.last.anchor[0] == Approx(drill.at[0] + 1.5 * speed).margin(0.05));
        }
    }
}

TEMPLATE_TEST_CASE_SIG("hugging puts the feet on the ground that a ball, a box or a ray feels", "",
                       ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", slab<D>(-50, 50, 0));
    const auto level = builder.build();
    std::vector<std::optional<RoundedHull<D>>> soles = {
        std::nullopt, RoundedHull<D>::ball(Vec<D>::zero(), 0.3),
        RoundedHull<D>::box(Vec<D>::zero(), 0.4 * Vec<D>::ones())};
    for (std::size_t i = 0; i < soles.size(); ++i) {
        Probe<D> sole = foot_ray<D>(0.8);
        sole.line().shape = soles[i];
        Rig<D> rig = rig_with<D>(sole, {"m"});
        Reflex hug{"grounded", ReflexKind::hug_ground};
        hug.by = 0.5;
        rig.reflexes = {hug};
        for (const Model model : {Model::slide, Model::free}) {
            CAPTURE(i, name_of(model));
            const auto record = play<D>(level, rig, drill_at<D>(at<D>(0, 0.15), 0.1, model));
            CHECK(record.last.anchor[1] == Approx(0.0).margin(0.003));
        }
    }
}

TEST_CASE("what is pressed down falls at least so fast, and what falls faster is not held up") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-50, 50, -40));
    const auto level = builder.build();
    Rig<2> rig = rig_with<2>(foot_ray<2>(100.0), {"m"});
    Reflex press_down{"grounded", ReflexKind::press_down};
    press_down.speed = 3.0;
    rig.reflexes = {press_down};
    Drill<2> drill = drill_at<2>({0.0, 0.0}, 1.0);
    drill.motion.gravity = 20.0;
    const auto record = play<2>(level, rig, drill);
    for (std::size_t i = 1; i < record.ticks.size(); ++i) {
        CAPTURE(i);
        // Nothing slower than the pressing at any tick, and gravity goes on from there.
        REQUIRE(record.ticks[i].velocity[1] <= -3.0);
        const double before = record.ticks[i - 1].velocity[1];
        REQUIRE(record.ticks[i].velocity[1] == Approx(std::min(before, -3.0) - 20.0 / 60.0).margin(0.34));
    }
    CHECK(record.last.velocity[1] < -20.0);
}

TEST_CASE("holding height is no way up a face") {
    for (const double slope : {50.0, 55.0, 70.0, 85.0}) {
        CAPTURE(slope);
        LevelBuilder<2> builder({"m"});
        builder.add("floor", "m", slab<2>(-50, 50, 0));
        const double a = radians(slope);
        builder.add(
            "face", "m",
            RoundedHull<2>::hull(
                {Vec<2>(1, -0.5), Vec<2>(1 + 8 * std::cos(a), -0.5 + 8 * std::sin(a)), Vec<2>(12, -0.5)}));
        const auto level = builder.build();
        Probe<2> feeler = foot_ray<2>(1.5);
        feeler.line().along = Vec<2>::unit(0);
        Rig<2> rig = rig_with<2>(feeler, {"m"});
        rig.signals[0].claims = Claim::wall;
        rig.reflexes = {{"grounded", ReflexKind::hold_height}};
        Drill<2> drill = drill_at<2>(at<2>(-1, 0.002), 2.0);
        drill.cues = {drive<2>(0.0, Vec<2>::unit(0))};
        const auto record = play<2>(level, rig, drill);
        CHECK(record.figures.climb < 0.1);
        CHECK(record.last.anchor[1] < 0.1);
    }
}

TEMPLATE_TEST_CASE_SIG("a step up is no tunnel, whichever way it is taken; a wall pushed through is", "",
                       ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", slab<D>(-50, 50, 0));
    builder.add("kerb", "m", slab<D>(1, 4, 0.2, 1));
    const auto level = builder.build();
    {
        Probe<D> feeler = foot_ray<D>(0.6);
        feeler.line().from = at<D>(0, 0.1);
        feeler.line().along = Vec<D>::unit(0);
        Rig<D> rig = rig_with<D>(feeler, {"m"});
        rig.body.stances.front() = body_of<D>(Shape::box).body.stances.front();
        rig.signals[0].claims = Claim::step;
        Reflex lift{"grounded", ReflexKind::lift_over};
        lift.by = 0.35;
        rig.reflexes = {lift};
        for (const double speed : {2.0, 6.0, 20.0}) {
            Drill<D> drill = drill_at<D>(at<D>(0, 0.002), 1.0);
            drill.motion.top_speed = speed;
            drill.cues = {drive<D>(0.0, Vec<D>::unit(0))};
            const auto record = play<D>(level, rig, drill);
            CAPTURE(D, speed);
            CHECK(record.last.anchor[0] > 1.2);
            CHECK(record.figures.tunnels == 0);
        }
    }
    {
        const Rig<D> rig = body_of<D>(Shape::capsule);
        Drill<D> drill = drill_at<D>(at<D>(0, 0.002), 0.7, Model::push_out);
        drill.cues = {drive<D>(0.0, Vec<D>::unit(0))};
        const auto record = play<D>(level, rig, drill);
        CHECK(record.last.anchor[1] > 0.15);
        CHECK(record.figures.tunnels == 0);
    }
    LevelBuilder<D> gate({"m"});
    gate.add("floor", "m", slab<D>(-50, 50, 0));
    gate.add("gate", "m", slab<D>(2, 2.05, 5, 6));
    const auto gated = gate.build();
    for (const double speed : {25.0, 30.0, 60.0}) {
        Drill<D> drill = drill_at<D>(at<D>(0, 0.002), 1.0, Model::push_out);
        drill.motion.top_speed = speed;
        drill.cues = {drive<D>(0.0, Vec<D>::unit(0))};
        const auto record = play<D>(gated, body_of<D>(Shape::capsule), drill);
        CAPTURE(D, speed);
        CHECK((record.figures.tunnels > 0) == (record.last.anchor[0] > 2.3));
    }
}

TEMPLATE_TEST_CASE_SIG("no part of a loose solid may overlap anything at the start", "", ((int D), D), 2, 3) {
    for (const double wall : {1.9, 2.1}) {
        LevelBuilder<D> builder({"m"});
        builder.add("floor", "m", slab<D>(-50, 50, 0));
        builder.add("wall", "m", slab<D>(wall, 4, 3, 3));
        // Its second part reaches to 2.
        const std::vector<RoundedHull<D>> parts = {slab<D>(-1, 0.9, 1, 0.9), slab<D>(1, 2, 1, 0.9)};
        builder.add_parts("crate", "m", parts);
        builder.add("beside", "m", slab<D>(-4, -1.5, 3, 3));
        const auto level = builder.build();
        Drill<D> drill = drill_at<D>(at<D>(0, 1.002), 0.1, Model::loose);
        drill.loose = {{"crate", 40.0, 0.5}};
        const Rig<D> rig = body_of<D>(Shape::capsule);
        if (wall < 2.0) {
            CHECK_THROWS_WITH(play<D>(level, rig, drill), Catch::Contains("'crate' overlaps 'wall'"));
        } else {
            CHECK_NOTHROW(play<D>(level, rig, drill));
        }
    }
}

TEMPLATE_TEST_CASE_SIG("what rests on a loose crate has no falling speed", "", ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", slab<D>(-50, 50, 0));
    builder.add("crate", "m", RoundedHull<D>::box(at<D>(0, 0.502), 2.0 * Vec<D>::ones() - at<D>(0, 1)));
    const auto level = builder.build();
    Drill<D> drill = drill_at<D>(at<D>(0, 1.3), 2.0, Model::loose);
    drill.loose = {{"crate", 40.0, 0.5}};
    const auto record = play<D>(level, body_of<D>(Shape::capsule), drill);
    CHECK(record.last.on_ground);
    CHECK(record.last.velocity.norm() < 0.02);
    CHECK(record.last.anchor[1] == Approx(1.004).margin(0.01));
}

TEMPLATE_TEST_CASE_SIG(
    "what moves on a path takes loose things along, stacked ones too, and pushes them aside", "",
    ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", slab<D>(-50, 50, 0));
    builder.add("deck", "m", slab<D>(9, 13, 0.2, 0.2));
    builder.path({{Vec<D>::zero(), at<D>(0, 30)}, 2.0, 0.0});
    builder.add("ram", "m", slab<D>(-9, -8, 2, 1.9));
    builder.path({{Vec<D>::zero(), at<D>(3, 0)}, 1.0, 0.0});
    const Vec<D> size = Vec<D>::ones();
    builder.add("low", "m", RoundedHull<D>::box(at<D>(11, 0.704), size));
    builder.add("high", "m", RoundedHull<D>::box(at<D>(11, 1.708), size));
    builder.add("pushed", "m", RoundedHull<D>::box(at<D>(-7, 0.503), size));
    const auto level = builder.build();
    Drill<D> drill = drill_at<D>(at<D>(0, 0.002), 2.0, Model::loose);
    drill.loose = {{"low", 40.0, 0.5}, {"high", 40.0, 0.5}, {"pushed", 40.0, 0.5}};
    const auto record = play<D>(level, body_of<D>(Shape::capsule), drill);
    const auto gone = [&](const std::string& name) {
        for (std::size_t i = 0; i < record.moving.size(); ++i) {
            if (level.solids()[record.moving[i]].name == name)
                return record.offsets[record.offsets.size() - record.moving.size() + i];
        }
        throw std::logic_error(name);
    };
    CHECK(gone("low")[1] == Approx(4.0).margin(0.02));
    CHECK(gone("high")[1] == Approx(4.0).margin(0.04));
    CHECK(gone("pushed")[0] == Approx(1.5).margin(0.02));  // 2, less the half that was between them
    // A body on top rises with them.
    drill.at = at<D>(11, 2.21);
    const auto on_top = play<D>(level, body_of<D>(Shape::capsule), drill);
    CHECK(on_top.last.anchor[1] == Approx(2.208 + 4.0).margin(0.05));
    CHECK(on_top.figures.deepest_clip <= 0.02);
}

TEMPLATE_TEST_CASE_SIG("a row of loose crates is pushed on as one, and none of it where a wall bars the last",
                       "", ((int D), D), 2, 3) {
    for (const int count : {1, 2, 3}) {
        for (const bool with_wall : {true, false}) {
            LevelBuilder<D> builder({"m"});
            builder.add("floor", "m", slab<D>(-50, 50, 0));
            Drill<D> drill = drill_at<D>(at<D>(0, 0.002), 2.0, Model::loose);
            constexpr double apart = 1e-4;  // they touch
            const double first = 2.0;
            for (int i = 0; i < count; ++i) {
                const std::string name = "crate " + std::to_string(i);
                builder.add(
                    name, "m",
                    RoundedHull<D>::box(at<D>(first + 0.5 + i * (1.0 + apart), 0.502), Vec<D>::ones()));
                drill.loose.push_back({name, 20.0, 0.0});
            }
            const double end = first + count * (1.0 + apart);
            if (with_wall) builder.add("wall", "m", slab<D>(end, end + 1.0, 5.0, 10.0));
            const auto level = builder.build();
            drill.motion.top_speed = 2.0;
            drill.motion.force = 800.0;
            drill.motion.mass = 80.0;
            drill.cues = {drive<D>(0.0, Vec<D>::unit(0))};
            const auto record = play<D>(level, body_of<D>(Shape::capsule), drill);
            CAPTURE(D, count, with_wall);
            REQUIRE(record.moving.size() == static_cast<std::size_t>(count));
            const std::size_t last = record.offsets.size() - record.moving.size();
            double before = record.last.anchor[0] + 0.3 - first;  // how far what pushes has come
            for (std::size_t i = 0; i < record.moving.size(); ++i) {
                const double gone = record.offsets[last + i][0];
                CHECK(gone >= before - 0.02);  // none is in the one behind it
                if (with_wall) CHECK(std::abs(gone) < 0.02);
                if (!with_wall) CHECK(gone > 0.5);
                before = gone;
            }
            CHECK(record.figures.deepest_clip <= 0.02);
            if (with_wall) CHECK(std::abs(record.last.velocity[0]) < 0.05);
            if (!with_wall) CHECK(record.last.velocity[0] > 1.0);
        }
    }
}

TEST_CASE("who stands on a crate that a moving wall pushes is carried along with it") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-50, 50, 0));
    builder.add("pusher", "m", RoundedHull<2>::box({-2.5, 0.5}, {1, 0.8}));
    builder.path({{{0.0, 0.0}, {30.0, 0.0}}, 1.0, 0.5});
    builder.add("crate", "m", RoundedHull<2>::box({0.0, 0.5}, {3.8, 1.0}));
    const auto level = builder.build();
    Rig<2> rig = body_of<2>(Shape::box);
    rig.reflexes = {{"grounded", ReflexKind::carry_along}};
    Drill<2> drill = drill_at<2>({0.0, 1.002}, 3.0, Model::loose);
    drill.motion.force = 2000.0;
    drill.loose = {{"crate", 30.0, 0.4}};
    const auto record = play<2>(level, rig, drill);
    // The wall moves for two and a half seconds and reaches the crate after a tenth of a length.
    CHECK(record.last.anchor[0] == Approx(2.4).margin(0.05));
    CHECK(record.figures.carried_drift < 0.05);
    CHECK(record.last.anchor[1] == Approx(1.0).margin(0.01));
}

TEST_CASE(
    "what only probes meet pushes no crate, and what pushes a body gives it its speed, if that is "
    "lost") {
    const auto level_with = [](Role role) {
        LevelBuilder<2> builder({"m"});
        builder.add("floor", "m", slab<2>(-50, 50, 0));
        builder.add("pusher", "m", RoundedHull<2>::box({-2.5, 0.5}, {1, 0.8}));
        builder.path({{{0.0, 0.0}, {30.0, 0.0}}, 1.0, 0.5}).role(role);
        builder.add("crate", "m", RoundedHull<2>::box({0.0, 0.5}, {3.8, 1.0}));
        return builder.build();
    };
    Rig<2> rig = body_of<2>(Shape::box);
    rig.reflexes = {{"grounded", ReflexKind::carry_along}};
    Drill<2> drill = drill_at<2>({0.0, 1.002}, 3.0, Model::loose);
    drill.loose = {{"crate", 30.0, 0.4}};
    const auto on_it = [&](Role role) { return play<2>(level_with(role), rig, drill).last.anchor[0]; };
    CHECK(on_it(Role::sensed) == Approx(0.0).margin(1e-6));
    CHECK(on_it(Role::both) > 1.0);

    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-50, 50, 0));
    builder.add("pusher", "m", RoundedHull<2>::box({-1.5, 0.5}, {1, 0.8}));
    builder.path({{{0.0, 0.0}, {30.0, 0.0}}, 2.0, 0.0});
    const auto pushing = builder.build();
    Drill<2> pushed = drill_at<2>({0.0, 0.002}, 2.0, Model::slide);
    pushed.motion.coasts = Coasts::always;
    for (const Stopped stopped : {Stopped::lost, Stopped::kept}) {
        pushed.motion.stopped = stopped;
        const auto record = play<2>(pushing, rig, pushed);
        CHECK(record.last.anchor[0] > 2.5);
        CHECK(record.last.velocity[0] == Approx(stopped == Stopped::lost ? 2.0 : 0.0).margin(1e-6));
    }
}

TEMPLATE_TEST_CASE_SIG("who has a foot on the floor beside a lift stays where the lift goes down", "",
                       ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("lift", "m", slab<D>(0.05, 3, 0, 0.3));
    builder.path({{Vec<D>::zero(), at<D>(0, -4)}, 6.0, 0.2});
    builder.add("floor", "m", slab<D>(-50, 0, 0));
    const auto level = builder.build();
    Rig<D> rig = body_of<D>(Shape::box);
    rig.reflexes.push_back({"grounded", ReflexKind::carry_along});
    const auto record = play<D>(level, rig, drill_at<D>(at<D>(0.1, 0.002), 0.6));
    for (const auto& tick : record.ticks) {
        CAPTURE(tick.seconds);
        REQUIRE((tick.anchor - at<D>(0.1, 0.0)).norm() < 0.005);
    }
    CHECK(record.figures.deepest_clip == 0.0);
}

TEST_CASE("what a signal says of a planned move is held against the truth where it was read") {
    // Walking at a wall: in the last tick before it the move is blocked where it begins, not where it ends.
    LevelBuilder<2> builder({"m"});
    builder.add("wall", "m", slab<2>(2.05, 4, 40, 80));
    const auto level = builder.build();
    for (const Reads reads : {Reads::before_move, Reads::after_move}) {
        Probe<2> ahead;
        ahead.name = "ahead";
        ahead.of_kind = ShiftProbe<2>{.aim = Aim::velocity, .reach_per_speed = tick};
        ahead.sees = {"m"};
        Rig<2> rig = body_of<2>(Shape::capsule);
        rig.probes = {ahead};
        Signal blocked;
        blocked.name = "blocked";
        blocked.claims = Claim::blocked;
        blocked.toward = Toward::velocity;
        blocked.members.any = {"ahead"};
        rig.signals = {blocked};
        rig.reflexes = {};
        rig.reads = reads;
        rig.intent.ahead_move_seconds = tick;
        Drill<2> drill = drill_at<2>(at<2>(0, 0), 1.0, Model::free);
        drill.motion.gravity = 0.0;
        drill.motion.top_speed = 6.0;
        drill.cues = {drive<2>(0.0, Vec<2>::unit(0))};
        const auto record = play<2>(level, rig, drill);
        const bool before = reads == Reads::before_move;
        CAPTURE(before);
        // The wall is met 1.75 from the start, in the 18th tick: read before the move it is told in that one,
        // else in the one before.
        for (std::size_t i = 0; i <= (before ? 17U : 16U); ++i) {
            CAPTURE(i);
            const bool told = i == (before ? 17U : 16U);
            CHECK(record.ticks[i].signals_on.has(0) == told);
            CHECK(record.ticks[i].truths_on.has(0) == told);
        }
    }
}

TEST_CASE("a rig that reads before the move and mutes its ground after a jump can jump") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-50, 50, 0));
    const auto level = builder.build();
    for (const Reads reads : {Reads::before_move, Reads::after_move}) {
        Rig<2> rig = body_of<2>(Shape::capsule);
        rig.reads = reads;
        rig.signals[0].mute_after = {"jump", 0.2};
        Drill<2> drill = drill_at<2>(at<2>(0, 0.002), 3.0);
        drill.cues = {press<2>(0.5), press<2>(0.6), press<2>(2.0)};
        const auto record = play<2>(level, rig, drill);
        CAPTURE(reads == Reads::before_move);
        CHECK(record.figures.jumps == 2);
        CHECK(record.figures.unearned_jumps == 0);
        // Muted for as long as it says, and no longer.
        const std::size_t jumped = 30;
        CHECK(record.ticks[jumped].jumped);
        CHECK(!record.ticks[jumped + 2].signals_on.has(0));
    }
}

TEST_CASE("climb does not count what the integrator adds to a jump's arc") {
    for (const double rate : {30.0, 60.0, 144.0, 1000.0}) {
        // Straight up along a face too steep to stand on.
        LevelBuilder<2> builder({"m"});
        builder.add("floor", "m", slab<2>(-50, 50, 0));
        builder.add("wall", "m", slab<2>(0.31, 4, 9, 10));
        const auto level = builder.build();
        Drill<2> drill = drill_at<2>(at<2>(0, 0.002), 1.5);
        drill.tick_rate = rate;
        drill.cues = {press<2>(0.5)};
        const auto record = play<2>(level, body_of<2>(Shape::capsule), drill);
        CAPTURE(rate);
        CHECK(record.figures.jumps == 1);
        CHECK(record.figures.climb < 0.003);
    }
}

TEST_CASE("climb is what a body rises along a face beyond its jump, tick by tick") {
    for (const double rate : {30.0, 60.0, 144.0}) {
        for (const double pushed : {8.0, 10.0}) {
            LevelBuilder<2> builder({"m"});
            builder.add("floor", "m", slab<2>(-50, 50, 0));
            builder.add("wall", "m", slab<2>(0.31, 4, 19, 20));
            const auto level = builder.build();
            Drill<2> drill = drill_at<2>(at<2>(0, 0.002), 1.5);
            drill.tick_rate = rate;
            drill.cues = {press<2>(0.5)};
            // Something pushes it off faster than a jump does.
            PlayOptions<2> options;
            bool jumped = false;
            options.reflex = [&](ReflexCall<2>& call) {
                if (jumped) call.velocity[1] = pushed;
                jumped = call.jump;
            };
            const auto rise = [&](double speed) {
                double height = 0.0;
                for (double v = speed; v > 0.0; v -= 20.0 / rate) height += v / rate;
                return height;
            };
            const auto record = play<2>(level, body_of<2>(Shape::capsule), drill, options);
            CAPTURE(rate, pushed);
            // One tick of the jump, then the push.
            CHECK(record.figures.climb == Approx(7.0 / rate + rise(pushed) - rise(7.0)).margin(0.004));
        }
    }
}

TEST_CASE("drift is how far a lift left the body behind, not how it trembled on it") {
    for (const double way : {3.0, -3.0}) {
        LevelBuilder<2> builder({"m"});
        builder.add("deck", "m", slab<2>(-9, 9, 0, 0.4));
        builder.path({{Vec<2>(0, 0), Vec<2>(way, 0)}, 1.0, 0.0});
        builder.add("far floor", "m", slab<2>(-60, 60, -30));
        const auto level = builder.build();
        Rig<2> rig = body_of<2>(Shape::capsule);
        Drill<2> drill = drill_at<2>(at<2>(0, 0.002), 2.0);
        CHECK(play<2>(level, rig, drill).figures.carried_drift == Approx(2.0).margin(0.04));
        rig.reflexes.push_back({"grounded", ReflexKind::carry_along});
        CHECK(play<2>(level, rig, drill).figures.carried_drift < 0.02);
    }
    // Up and down: it trembles, but is not left behind.
    LevelBuilder<2> builder({"m"});
    builder.add("deck", "m", slab<2>(-9, 9, 0, 0.4));
    builder.path({{Vec<2>(0, 0), Vec<2>(0, 1)}, 0.5, 0.0});
    const auto level = builder.build();
    Drill<2> drill = drill_at<2>(at<2>(0, 0.002), 20.0);
    CHECK(play<2>(level, body_of<2>(Shape::capsule), drill).figures.carried_drift < 0.05);
}

TEST_CASE("bumpiness is the same at every rate, and jumps are no bumps") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-50, 50, 0));
    for (int i = 0; i < 20; ++i)
        builder.add("hump " + std::to_string(i), "m", RoundedHull<2>::ball(Vec<2>(1.0 + 2.0 * i, -0.9), 1.0));
    const auto level = builder.build();
    std::vector<double> bumps;
    for (const double rate : {60.0, 120.0, 240.0, 960.0}) {
        Drill<2> drill = drill_at<2>(at<2>(0, 0.002), 8.0);
        drill.tick_rate = rate;
        drill.motion.top_speed = 2.0;
        drill.cues = {drive<2>(0.0, Vec<2>::unit(0))};
        bumps.push_back(play<2>(level, body_of<2>(Shape::capsule), drill).figures.bumpiness);
    }
    CAPTURE(bumps);
    CHECK(bumps[0] > 0.5);
    for (const double b : bumps) CHECK(b == Approx(bumps.back()).epsilon(0.1));
    LevelBuilder<2> flat({"m"});
    flat.add("floor", "m", slab<2>(-50, 50, 0));
    Drill<2> drill = drill_at<2>(at<2>(0, 0.002), 4.0);
    drill.cues = {press<2>(0.5), press<2>(2.0)};
    const auto record = play<2>(flat.build(), body_of<2>(Shape::capsule), drill);
    CHECK(record.figures.jumps == 2);
    CHECK(record.figures.bumpiness < 0.5);
}

TEST_CASE("speed, acceleration and drag are one thing on the ground and another in the air") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-50, 50, 0));
    const auto level = builder.build();
    Probe<2> sole = foot_ray<2>(0.45);
    Rig<2> rig = rig_with<2>(sole, {"m"});
    rig.reflexes = {{"grounded", ReflexKind::permit_jump}};
    Drill<2> drill = drill_at<2>(at<2>(0, 0.002), 1.0);
    drill.cues = {drive<2>(0.0, Vec<2>::unit(0)), press<2>(0.5), drive<2>(0.8, Vec<2>::zero())};
    drill.motion.top_speed = {4.0, 1.5};
    auto record = play<2>(level, rig, drill);
    CHECK(record.ticks[20].velocity[0] == Approx(4.0));
    CHECK(record.ticks[40].velocity[0] == Approx(1.5));
    CHECK(record.last.velocity[0] == 0.0);
    drill.motion.coasts = Coasts::airborne;
    CHECK(play<2>(level, rig, drill).last.velocity[0] == Approx(1.5));
    drill.motion.coasts = Coasts::never;
    drill.motion.top_speed = 4.0;
    drill.motion.acceleration = {10.0, 2.0};
    record = play<2>(level, rig, drill);
    CHECK(record.ticks[11].velocity[0] == Approx(10.0 * 12 * tick));
    CHECK(record.ticks[35].velocity[0] == Approx(4.0));
    // Let go at 0.8 s, high up: 12 ticks at 2.
    CHECK(record.last.velocity[0] == Approx(4.0 - 2.0 * 12 * tick));
    // Falling with drag it comes to a speed at which both are alike: g / d.
    Drill<2> fall = drill_at<2>(at<2>(0, 300), 8.0);
    fall.motion.drag = {0.0, 4.0};
    CHECK(play<2>(level, rig, fall).last.velocity[1] == Approx(-20.0 / 4.0).epsilon(1e-6));
}

TEST_CASE("what the ground is of decides how the body goes on it") {
    LevelBuilder<2> builder({"m", "ice", "mud"});
    builder.add("floor", "m", slab<2>(-50, 2, 0));
    builder.add("ice", "ice", slab<2>(2, 20, 0));
    builder.add("mud", "mud", slab<2>(20, 60, 0));
    const auto level = builder.build();
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.45), {"m", "ice", "mud"});
    Drill<2> drill = drill_at<2>(at<2>(0, 0.002), 8.0);
    drill.motion.on = {{"ice", {}, 1.0, 0.0, {}}, {"mud", 1.0, {}, {}, {}}};
    drill.cues = {drive<2>(0.0, Vec<2>::unit(0)), drive<2>(1.0, Vec<2>::zero())};
    const auto record = play<2>(level, rig, drill);
    // Let go on ice at 4: it glides v² / 2a on, less what whole ticks take.
    CHECK(record.ticks[59].anchor[0] == Approx(4.0).margin(0.01));
    CHECK(record.last.anchor[0] == Approx(4.0 + 8.0).margin(0.05));
    CHECK(record.last.velocity.norm() < 1e-9);
    drill.at = at<2>(25, 0.002);
    CHECK(play<2>(level, rig, drill).ticks[30].velocity[0] == Approx(1.0));
    drill.motion.on = {{"snow", {}, {}, {}, {}}};
    CHECK_THROWS_WITH(play<2>(level, rig, drill), Catch::Contains("snow"));
}

TEST_CASE("frames of varying length lose and double presses as their own times say") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-50, 50, 0));
    const auto level = builder.build();
    Rig<2> rig = body_of<2>(Shape::capsule);
    Drill<2> drill = drill_at<2>(at<2>(0, 0.002), 4.0);
    drill.sampled = Sampled::on_frame;
    for (int i = 0; i < 40; ++i) drill.cues.push_back(press<2>(0.05 + 0.09 * i));
    const auto told = [&] {
        const auto record = play<2>(level, rig, drill);
        return std::pair(record.figures.lost_presses, record.figures.double_presses);
    };
    for (const double rate : {25.0, 144.0}) {
        drill.frame_lengths = {};
        drill.frame_rate = rate;
        const auto by_rate = told();
        drill.frame_rate = 0.0;
        drill.frame_lengths = {1.0 / rate};
        CHECK(told() == by_rate);
    }
    // By hand: frames begin at 0, 0.1, 0.11, 0.21, 0.22, …: a press shows for the frame after it, and of
    // those of a hundredth a tick (every sixtieth) asks some and not others.
    drill.frame_lengths = {0.1, 0.01};
    std::size_t lost = 0;
    std::size_t doubled = 0;
    for (const auto& cue : drill.cues) {
        double begin = 0.0;
        int frame = 0;
        while (begin < cue.at - 1e-9) begin += frame++ % 2 == 0 ? 0.1 : 0.01;
        const double end = begin + (frame % 2 == 0 ? 0.1 : 0.01);
        int ticks = 0;
        for (int k = 0; k < 240; ++k) ticks += k * tick >= begin - 1e-9 && k * tick < end - 1e-9 ? 1 : 0;
        lost += ticks == 0 ? 1 : 0;
        doubled += ticks > 1 ? 1 : 0;
    }
    CHECK(lost > 0);
    CHECK(told() == std::pair(lost, doubled));
    drill.frame_lengths = {};
    drill.frame_rate = 90.0;
    // Jitter makes frames as often longer as shorter: of presses that show for 1/90 s at ticks every 1/60 s a
    // third is lost, as without.
    Drill<2> long_one = drill;
    long_one.seconds = 100.0;
    long_one.cues.clear();
    for (int i = 0; i < 1900; ++i) long_one.cues.push_back(press<2>(0.05 + 0.0517 * i));
    for (const double jitter : {0.0, 0.2, 0.45}) {
        CAPTURE(jitter);
        long_one.frame_jitter = jitter;
        const auto record = play<2>(level, rig, long_one);
        CHECK(record.figures.lost_presses == Approx(1900.0 / 3.0).epsilon(0.12));
        CHECK(record.figures.double_presses == 0);
    }
    drill.frame_jitter = 0.9;
    const auto first = told();
    CHECK(told() == first);
    CHECK(first.first > 0);
    bool differs = false;
    for (drill.frame_seed = 1; drill.frame_seed < 6; ++drill.frame_seed) differs = differs || told() != first;
    CHECK(differs);
    drill.frame_rate = 0.0;
    CHECK_THROWS_AS(play<2>(level, rig, drill), InvalidInput);
}

TEST_CASE("hovering, clinging, creeping and take-offs taken back have figures of their own") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-50, 50, 0));
    builder.add("wall", "m", slab<2>(2, 4, 40, 41));
    const auto level = builder.build();
    const auto sound = [&] {
        Drill<2> drill = drill_at<2>(at<2>(0, 0.002), 3.0);
        drill.cues = {press<2>(0.2), drive<2>(1.0, Vec<2>::unit(0)), press<2>(1.4),
                      drive<2>(2.5, Vec<2>::zero())};
        return play<2>(level, body_of<2>(Shape::capsule), drill).figures;
    }();
    CHECK(sound.jumps == 2);
    CHECK(sound.hover_time == 0.0);
    CHECK(sound.cling_time == 0.0);
    CHECK(sound.lost_take_offs == 0);
    CHECK(sound.idle_drift < 1e-9);
    {
        // Ground felt three lengths up stops the fall there.
        Rig<2> rig = rig_with<2>(foot_ray<2>(3.4), {"m"});
        rig.reflexes = {{"grounded", ReflexKind::zero_fall}};
        Drill<2> drill = drill_at<2>(at<2>(0, 4), 3.0);
        drill.cues = {};
        const auto figures = play<2>(level, rig, drill).figures;
        CHECK(figures.hover_time > 2.0);
        CHECK(figures.cling_time == 0.0);
        drill.at = at<2>(0, 0.002);
        drill.cues = {press<2>(0.5), press<2>(1.5)};
        const auto held = play<2>(level, rig, drill).figures;
        CHECK(held.jumps == 2);
        CHECK(held.lost_take_offs == 2);
    }
    {
        // Driven against a wall of much friction.
        Drill<2> drill = drill_at<2>(at<2>(1.5, 10), 2.0);
        drill.motion.friction = 3.0;
        drill.cues = {drive<2>(0.0, Vec<2>::unit(0))};
        const auto figures = play<2>(level, body_of<2>(Shape::capsule), drill).figures;
        CHECK(figures.cling_time > 1.0);
        CHECK(figures.hover_time == 0.0);
    }
    {
        // Too little friction for the slope: it slides though nobody drives it.
        LevelBuilder<2> slope({"m"});
        slope.add("ramp", "m", ramp<2>(30.0));
        const Rig<2> rig = body_of<2>(Shape::capsule);
        Drill<2> drill = drill_at<2>(on_ramp<2>(rig, 30.0, 0.002), 2.0);
        drill.motion.friction = 0.2;
        CHECK(play<2>(slope.build(), rig, drill).figures.idle_drift > 0.05);
    }
}

TEST_CASE("a key that the rig knows nothing of is refused") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", slab<2>(-50, 50, 0));
    const auto level = builder.build();
    Rig<2> rig = body_of<2>(Shape::capsule);
    Drill<2> drill = drill_at<2>(at<2>(0, 0.002), 1.0);
    drill.cues = {press<2>(0.5, "jmup")};
    CHECK_THROWS_WITH(play<2>(level, rig, drill), Catch::Contains("jmup") && Catch::Contains("jump"));
    rig.signals[0].mute_after = {"stagger", 0.2};
    drill.cues = {press<2>(0.5, "stagger")};
    CHECK_NOTHROW(play<2>(level, rig, drill));
}

namespace {

/// The height of the body's middle does not matter: only differences count.
template <int D>
double energy(const TickRecord<D>& now, double gravity) {
    return 0.5 * now.velocity.squared_norm() + gravity * now.anchor[1];
}

/// Bodies thrown among random shapes: no tick adds energy, none freezes, none clips.
template <int D>
void throw_at_random(Random& random, int levels) {
    for (int number = 0; number < levels; ++number) {
        LevelBuilder<D> builder({"m"});
        builder.add("floor", "m", slab<D>(-50, 50, 0));
        for (int i = 0; i < 10; ++i) {
            Vec<D> center = random.point<D>(5.0);
            center[1] = 0.5 * std::abs(center[1]);
            builder.add("stone " + std::to_string(i), "m",
                        random_shape<D>(random, center, random.between(0.5, 2.0)));
        }
        const auto level = builder.build();
        const Shape shape = static_cast<Shape>(random.below(3));
        const Rig<D> rig = body_of<D>(shape);
        Drill<D> drill = drill_at<D>(at<D>(random.between(-4, 4), 8.0), 3.0);
        drill.motion.acceleration = 1e-9;  // it keeps what it has
        Stage<D> stage(level, rig);
        PlayOptions<D> options;
        const Vec<D> thrown = random.between(0.0, 12.0) * random.direction<D>();
        options.reflex = [&](ReflexCall<D>& call) {
            if (call.seconds == 0.0) call.velocity += thrown;
        };
        const auto record = stage.play(drill, options);
        CAPTURE(D, number, name_of(shape));
        CHECK(record.figures.deepest_clip <= rig.intent.touch);
        double before = energy(record.ticks.front(), 20.0);
        for (std::size_t i = 1; i < record.ticks.size(); ++i) {
            const TickRecord<D>& now = record.ticks[i];
            const TickRecord<D>& then = record.ticks[i - 1];
            CAPTURE(i, now.anchor, now.velocity);
            // What a tick's arc differs by from the parabola, going up a slope at constant speed included.
            const double arc = 20.0 * tick * (then.velocity.norm() + 20.0 * tick) + 20.0 * 0.004;
            REQUIRE(energy(now, 20.0) <= before + arc);
            before = energy(now, 20.0);
            // A body that has speed moves.
            const double went = (now.anchor - then.anchor).norm();
            if (now.velocity.norm() > 1.0) REQUIRE(went > 0.0);
        }
    }
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("what is thrown gains no energy, is not held in the air, and clips nothing", "",
                       ((int D), D), 2, 3) {
    Random random(61);
    throw_at_random<D>(random, 150);
}

TEMPLATE_TEST_CASE_SIG("… of many thousands", "[.long]", ((int D), D), 2, 3) {
    Random random(62);
    throw_at_random<D>(random, 10'000);
}
