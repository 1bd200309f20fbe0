// A drill as a test of a game's rig: the jump must not be refused anywhere on the ramp, and a hunt must find
// no way up the bank. Returns 1 where it is.
#include <cstdio>

#include "hollow_probe/motion/hunt.hpp"

using namespace hollow_probe;

namespace {

Level<2> yard() {
    LevelBuilder<2> builder({"masonry"});
    builder.add("quay", "masonry", RoundedHull<2>::box({0, -0.5}, {20, 1}));
    builder.add_polygon("ramp", "masonry", {{4, 0}, {8, 2}, {8, 0}});
    builder.add_polygon("bank", "masonry", {{-4, 0}, {-8, 6}, {-8, 0}});  // 56°: too steep to walk
    builder.add("loft", "masonry", RoundedHull<2>::box({-9, 5.9}, {2, 0.2}));
    builder.area("on the loft", {{-10.0, 5.9}, {-8.0, 8.0}});
    return builder.build();
}

/// Soles as round as the body's end, and a hand that feels what is too steep ahead and presses the body down.
Rig<2> keeper() {
    Probe<2> soles;
    soles.name = "soles";
    soles.line().shape = RoundedHull<2>::ball({0, 0}, 0.3);
    soles.line().from = {0, 0.4};
    soles.line().reach = 0.12;
    soles.sees = {"masonry"};
    soles.line().accept_most_degrees = 45.0;
    soles.line().take = Take::all;
    Probe<2> flank;
    flank.name = "flank";
    flank.of_kind = ContactProbe{Side::beside};
    flank.sees = {"masonry"};
    Rig<2> rig;
    rig.body.meets = {"masonry"};
    rig.body.stances = {Stance<2>::capsule("upright", 0.3, 1.8)};
    rig.probes = {soles, flank};
    Signal grounded;
    grounded.name = "grounded";
    grounded.claims = Claim::ground;
    grounded.members.any = {"soles"};
    Signal steep;
    steep.name = "steep";
    steep.claims = Claim::wall;
    steep.members.any = {"flank"};
    rig.signals = {grounded, steep};
    Reflex press{"steep", ReflexKind::press_down};
    press.speed = 4.0;
    rig.reflexes = {{"grounded", ReflexKind::permit_jump}, press};
    return rig;
}

}  // namespace

int main() {
    const Level<2> level = yard();
    const Rig<2> rig = keeper();
    Drill<2> drill;
    drill.at = {2.0, 0.01};
    drill.seconds = 4.0;
    drill.motion.gravity = 20.0;
    drill.motion.jump_speed = 5.0;
    drill.motion.top_speed = 4.0;
    Cue<2> run;
    run.drive = Vec<2>(1, 0);
    Cue<2> jump;
    jump.at = 1.0;
    jump.press = "jump";
    drill.cues = {run, jump};
    drill.expectations = {{Expectation::Kind::most, "refused_jumps", "", 0.0, ""},
                          {Expectation::Kind::never_reaches, "", "", 0.0, "on the loft"}};

    const DrillRecord<2> record = play<2>(level, rig, drill);
    std::printf("%zu ticks, %zu jumps, %zu refused, %zu ticks with the ground missed\n", record.figures.ticks,
                record.figures.jumps, record.figures.refused_jumps, record.figures.signals[0].missed_ticks);

    HuntOptions options;
    options.most_ticks = 500'000;
    const HuntResult<2> prey = hunt<2>(level, rig, drill, options);
    std::printf("a hunt of %zu drills: %s\n", prey.drills, prey.found ? "it breaks" : "nothing breaks it");
    return record.kept() && !prey.found ? 0 : 1;
}
