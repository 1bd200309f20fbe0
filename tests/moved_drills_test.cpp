// A drill is the same wherever its level lies, whichever way that is turned and whichever way is up.
#include <catch2/catch.hpp>

#include "drill_scenes.hpp"
#include "hollow_probe/motion/play.hpp"
#include "scaled.hpp"

using namespace scenes;

namespace {

/// Where a level is put, and how it is turned there.
template <int D>
struct Place {
    Mat<D> turn = Mat<D>::identity();
    Vec<D> at = Vec<D>::zero();

    [[nodiscard]] Vec<D> of(const Vec<D>& p) const { return turn * p + at; }
};

std::vector<Place<2>> places_2d() {
    Place<2> aside;
    aside.at = {16.0, -8.0};
    Place<2> mirrored = aside;
    mirrored.turn = scenes::by_rows({-1, 0}, {0, 1});
    Place<2> picture;  // y goes down
    picture.turn = scenes::by_rows({1, 0}, {0, -1});
    picture.at = {-4.0, 32.0};
    Place<2> on_its_side;
    on_its_side.turn = scenes::by_rows({0, -1}, {1, 0});
    on_its_side.at = {2.0, 64.0};
    return {aside, mirrored, picture, on_its_side};
}

std::vector<Place<3>> places_3d() {
    Place<3> aside;
    aside.at = {16.0, -8.0, 32.0};
    Place<3> about = aside;
    about.turn = scenes::by_rows({0, 0, -1}, {0, 1, 0}, {1, 0, 0});
    Place<3> z_up;
    z_up.turn = scenes::by_rows({1, 0, 0}, {0, 0, -1}, {0, 1, 0});
    z_up.at = {-4.0, 8.0, 64.0};
    return {aside, about, z_up};
}

template <int D>
std::vector<Place<D>> places() {
    if constexpr (D == 2) {
        return places_2d();
    } else {
        return places_3d();
    }
}

/// A floor with a kerb and a beam over it, a crate, a ramp up to a deck, a lift from there to a tower.
template <int D>
Level<D> course(const Place<D>& place) {
    LevelBuilder<D> builder({"m"}, place.turn * Vec<D>::unit(1));
    const auto add = [&](const char* name, const RoundedHull<D>& shape) {
        builder.add(name, "m", shape.placed(place.turn, place.at));
    };
    add("floor", slab<D>(-6, 4, 0));
    add("wall", slab<D>(-6.5, -5.5, 5, 6));
    add("beam", slab<D>(-1.5, 1.0, 2.5, 0.3));
    add("kerb", slab<D>(2, 3, 0.25, 0.5));
    std::vector<Vec<D>> wedge;
    for (const double z : {-20.0, 20.0}) {
        for (const Vec<D>& p : {at<D>(4, 0), at<D>(6, 1), at<D>(6, -1), at<D>(4, -1)})
            wedge.push_back(p + (D == 3 ? z : 0.0) * Vec<D>::unit(D - 1));
        if (D == 2) break;
    }
    add("ramp", RoundedHull<D>::hull(wedge));
    add("deck", slab<D>(6, 8, 1));
    add("lift", slab<D>(8.1, 10, 1, 0.3));
    builder.path({{Vec<D>::zero(), place.turn * at<D>(0, 2)}, 1.2, 0.5});
    add("tower", slab<D>(10.1, 14, 3, 0.5));
    add("crate", slab<D>(-3.2, -2.5, 0.7, 0.7));
    return builder.build();
}

template <int D>
Rig<D> feeling_rig() {
    Probe<D> sole = foot_ray<D>(0.16);
    sole.line().shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.3);
    Rig<D> rig = rig_with<D>(sole, {"m"});
    const auto add = [&](const char* name, const Vec<D>& from, const Vec<D>& along, double reach,
                         std::optional<Claim> claims) {
        Probe<D> probe = foot_ray<D>(reach);
        probe.name = name;
        probe.line().from = from;
        probe.line().along = along;
        probe.sees = {"m"};
        rig.probes.push_back(probe);
        Signal signal;
        signal.name = std::string(name) + " on";
        signal.claims = claims;
        signal.members.any = {name};
        rig.signals.push_back(signal);
    };
    add("crown", at<D>(0, 1.5), at<D>(0, 1), 0.5, Claim::ceiling);
    add("shin", at<D>(0, 0.15), at<D>(1, 0), 0.45, Claim::step);
    add("chest", at<D>(0, 1.0), at<D>(1, 0), 0.4, Claim::wall);
    add("toe", at<D>(0.4, 0.3), at<D>(0, -1), 0.6, std::nullopt);
    return rig;
}

Reflex reflex(const char* on, ReflexKind kind, double by = 0.0, double speed = 0.0, bool when_off = false) {
    Reflex result{on, kind};
    result.by = by;
    result.speed = speed;
    result.when_off = when_off;
    return result;
}

std::vector<std::vector<Reflex>> reflex_sets() {
    return {
        {reflex("grounded", ReflexKind::permit_jump), reflex("shin on", ReflexKind::lift_over, 0.35),
         reflex("chest on", ReflexKind::cancel_drive), reflex("crown on", ReflexKind::stop_rise, 0.0, 0.7),
         reflex("grounded", ReflexKind::carry_along), reflex("grounded", ReflexKind::hug_ground, 0.25)},
        {reflex("grounded", ReflexKind::zero_fall), reflex("chest on", ReflexKind::hold_height),
         reflex("toe on", ReflexKind::turn_back, 0.0, 0.0, true)},
        {reflex("chest on", ReflexKind::cancel_axis), reflex("grounded", ReflexKind::press_down, 0.0, 1.5),
         reflex("crown on", ReflexKind::stop_rise)}};
}

template <int D>
Drill<D> through_it(const Place<D>& place, Model model) {
    Drill<D> drill;
    drill.at = place.of(at<D>(-4.3, 0.013));
    drill.heading = place.turn * Vec<D>::unit(0);
    drill.seconds = 10.0;
    drill.motion.model = model;
    drill.motion.gravity = 19.3;
    drill.motion.jump_speed = 6.1;
    drill.motion.top_speed = {3.1, 2.6};
    drill.motion.acceleration = {24.0, 9.0};
    drill.motion.force = 2400.0;
    drill.motion.friction = 0.3;
    if (model == Model::loose) drill.loose = {{"crate", 30.0, 0.4}};
    const auto add = [&](double seconds, double drive, const char* key = "") {
        Cue<D> cue;
        cue.at = seconds;
        if (*key == 0) cue.drive = place.turn * (drive * Vec<D>::unit(0));
        cue.press = key;
        drill.cues.push_back(cue);
    };
    add(0.0, 1.0);
    add(0.1, 0.0, "jump");
    add(1.35, 0.0, "jump");
    add(1.9, -0.4);
    add(2.1, 1.0);
    add(5.1, 0.0);
    add(7.3, 0.8);
    add(7.6, 0.0, "jump");
    add(9.0, -1.0);
    return drill;
}

/// Plays the course with each set of reflexes in each model, here and as `elsewhere` plays it.
template <int D, class Elsewhere>
void for_each_play(Elsewhere elsewhere) {
    const Place<D> home;
    const auto there = course<D>(home);
    for (const Model model : {Model::slide, Model::push_out, Model::loose, Model::free}) {
        const auto sets = reflex_sets();
        for (std::size_t set = 0; set < sets.size(); ++set) {
            CAPTURE(name_of(model), set);
            Rig<D> rig = feeling_rig<D>();
            rig.reflexes = sets[set];
            const Drill<D> drill = through_it<D>(home, model);
            elsewhere(play<D>(there, rig, drill), there, rig, drill);
        }
    }
}

/// What is said of one drill tick by tick is said of the other: `of` tells where a place is there, `turned`
/// what a velocity is, and `signals` which are on.
template <int D, class Of, class Turned, class Signals>
void require_same_ticks(const DrillRecord<D>& first, const DrillRecord<D>& second, double size, Of of,
                        Turned turned, Signals signals) {
    REQUIRE(second.ticks.size() == first.ticks.size());
    for (std::size_t t = 0; t < first.ticks.size(); ++t) {
        const TickRecord<D>& one = first.ticks[t];
        const TickRecord<D>& other = second.ticks[t];
        CAPTURE(t, one.anchor, other.anchor);
        REQUIRE((other.anchor - of(one.anchor)).norm() < 1e-6 * size);
        REQUIRE((other.velocity - turned(one.velocity)).norm() < 1e-4 * size);
        REQUIRE(other.signals_on == signals(one.signals_on));
        REQUIRE(other.truths_on == signals(one.truths_on));
        REQUIRE(other.jumped == one.jumped);
        REQUIRE(other.on_ground == one.on_ground);
    }
}

/// What a figure is so many times as large as where lengths are.
double unit_of(const std::string& figure, double length) {
    for (const char* const name :
         {"wall_gap", "deepest_clip", "climb", "carried_drift", "idle_drift", "value_error", "bumpiness"}) {
        if (figure == name) return length;
    }
    return 1.0;
}

/// The same solids, the last first, behind a lift and a crate that are far away.
template <int D>
Level<D> the_other_way_round(const Level<D>& level) {
    LevelBuilder<D> builder(level.layers(), level.up());
    builder.add("far lift", "m", slab<D>(900, 910, 0));
    builder.path({{Vec<D>::zero(), at<D>(3, 2)}, 1.7, 0.1});
    builder.add("far crate", "m", slab<D>(905, 906, 900, 0.7));
    for (std::size_t i = level.solids().size(); i-- > 0;) {
        const Solid<D>& solid = level.solids()[i];
        builder.add(solid.name, "m", scaled_shape<D>(level.piece(solid.first_piece), 1.0));
        if (solid.path) builder.path(*solid.path);
    }
    return builder.build();
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("a drill is the same wherever its level lies, however that is turned", "",
                       ((int D), D), 2, 3) {
    SignalSet ever_on;
    SignalSet ever_off;
    std::size_t jumps = 0;
    double highest = 0.0;
    for_each_play<D>(
        [&](const DrillRecord<D>& first, const Level<D>&, const Rig<D>& rig, const Drill<D>& drill) {
            REQUIRE(first.figures.ticks == 600);
            for (const auto& tick : first.ticks) {
                ever_on |= tick.signals_on;
                ever_off |= ~tick.signals_on;
                highest = std::max(highest, tick.anchor[1]);
            }
            jumps += first.figures.jumps;
            for (const Place<D>& place : places<D>()) {
                CAPTURE(place.at);
                const auto moved = course<D>(place);
                const auto second = play<D>(moved, rig, through_it<D>(place, drill.motion.model));
                require_same_ticks<D>(
                    first, second, 1.0, [&](const Vec<D>& p) { return place.of(p); },
                    [&](const Vec<D>& v) { return place.turn * v; }, [](SignalSet on) { return on; });
                for (const char* const name : figure_names()) {
                    CAPTURE(name);
                    CHECK(figure(second.figures, name) == Approx(figure(first.figures, name)).margin(1e-4));
                }
            }
        });
    // They jump, bump, meet the kerb and the wall, leave the ground, and ride up the lift.
    for (std::size_t signal = 0; signal < 5; ++signal) {
        CAPTURE(signal);
        CHECK(ever_on.has(signal));
        CHECK(ever_off.has(signal));
    }
    CHECK(jumps > 20);
    CHECK(highest > 3.0);
}

TEMPLATE_TEST_CASE_SIG("a drill is the same in any unit of length", "", ((int D), D), 2, 3) {
    for_each_play<D>(
        [&](const DrillRecord<D>& first, const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill) {
            for (const double by : {64.0, 0.03125}) {
                CAPTURE(by);
                const auto large = scaled<D>(level, by);
                const auto second = play<D>(large, scaled<D>(rig, by), scaled<D>(drill, by));
                const auto times = [&](const Vec<D>& v) { return by * v; };
                require_same_ticks<D>(first, second, by, times, times, [](SignalSet on) { return on; });
                for (const char* const name : figure_names()) {
                    const double unit = unit_of(name, by);
                    CAPTURE(name);
                    CHECK(figure(second.figures, name) / unit ==
                          Approx(figure(first.figures, name)).margin(1e-4));
                }
            }
        });
}

TEMPLATE_TEST_CASE_SIG("a drill is the same whatever is named first", "", ((int D), D), 2, 3) {
    for_each_play<D>(
        [&](const DrillRecord<D>& first, const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill) {
            // Pushed out it is of one piece after the other, in the order in which they are named.
            if (drill.motion.model == Model::push_out) return;
            Rig<D> reversed = rig;
            std::reverse(reversed.probes.begin(), reversed.probes.end());
            std::reverse(reversed.signals.begin(), reversed.signals.end());
            Drill<D> longer = drill;
            if (drill.motion.model == Model::loose)
                longer.loose.insert(longer.loose.begin(), {"far crate", 3.0, 0.4});
            const auto second = play<D>(the_other_way_round<D>(level), reversed, longer);
            const std::size_t count = rig.signals.size();
            const auto same = [](const Vec<D>& v) { return v; };
            require_same_ticks<D>(first, second, 1.0, same, same, [&](SignalSet on) {
                SignalSet result;
                for (std::size_t i = 0; i < count; ++i) result.put(count - 1 - i, on.has(i));
                return result;
            });
            for (const char* const name : figure_names()) {
                CAPTURE(name);
                CHECK(figure(second.figures, name) == Approx(figure(first.figures, name)).margin(1e-4));
            }
        });
}
