// A yard in the plane, and a walker in it: for tests of drills and hunts.
#pragma once

#include "hollow_probe/motion/play.hpp"
#include "scenes.hpp"

namespace scenes {

inline constexpr double tick = 1.0 / 60.0;
using Kind = Expectation::Kind;

/// A floor from -20 to 20, a block 1 high from 5 to 8, a beam 1.2 above the floor from -8 to -5, a ditch
/// at 10.
inline Level<2> yard() {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({-5, -0.5}, {30, 1}));
    builder.add("block", "m", RoundedHull<2>::box({6.5, 0.5}, {3, 1}));
    builder.add("beam", "m", RoundedHull<2>::box({-6.5, 2.2}, {3, 2}));
    builder.area("on the block", {{5.0, 0.9}, {8.0, 3.0}});
    builder.area("behind the block", {{8.3, -0.1}, {9.7, 3.0}});
    builder.start("gate", {0, 0.01}, {-1, 0});
    return builder.build();
}

inline Rig<2> walker() {
    Probe<2> sole = foot_ray<2>(0.12);
    sole.line().shape = RoundedHull<2>::ball({0, 0}, 0.3);
    sole.line().accept_most_degrees = 45.0;
    sole.line().take = Take::all;
    Rig<2> rig = rig_with<2>(sole, {"m"});
    rig.reflexes = {{"grounded", ReflexKind::permit_jump}};
    return rig;
}

inline Drill<2> walk(double seconds) {
    Drill<2> drill;
    drill.at = {0, 0.01};
    drill.seconds = seconds;
    drill.motion.gravity = 20.0;
    drill.motion.jump_speed = 7.0;
    drill.motion.top_speed = 4.0;
    return drill;
}

inline Cue<2> go(double at, double x) {
    Cue<2> cue;
    cue.at = at;
    cue.drive = Vec<2>(x, 0);
    return cue;
}

inline Cue<2> key(double at, const std::string& name) {
    Cue<2> cue;
    cue.at = at;
    cue.press = name;
    return cue;
}

/// Gives a rig whose first stance is upright a zone above the body, a signal that says whether that stance
/// fits, and a reflex that refuses it where it does not.
inline void refuse_to_stand(Rig<2>& rig) {
    Probe<2> room;
    room.name = "room";
    room.of_kind = ZoneProbe<2>{.shape = RoundedHull<2>::box({0, 0}, {0.6, 1.6}), .from = {0, 0.95}};
    room.sees = {"m"};
    rig.probes.push_back(room);
    Signal fits;
    fits.name = "room to stand";
    fits.claims = Claim::headroom;
    fits.stance = "upright";
    fits.members.none = {"room"};
    rig.signals.push_back(fits);
    Reflex refuse{"room to stand", ReflexKind::refuse_stance};
    refuse.stance = "upright";
    refuse.when_off = true;
    rig.reflexes.push_back(refuse);
}

}  // namespace scenes
