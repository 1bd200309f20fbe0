// A level and a rig built in code, and one reading.
#include <cstdio>

#include "hollow_probe/rig/mount.hpp"

int main() {
    using namespace hollow_probe;

    // A floor whose top is y = 0, from x = -5 to 5.
    LevelBuilder<2> builder({"masonry"});
    builder.add("floor", "masonry", RoundedHull<2>::box({0.0, -0.5}, {10.0, 1.0}));
    const Level<2> level = builder.build();

    // A capsule 1.8 high with one ray down from its middle: 0.4 to the sole, and 0.02 beyond.
    Rig<2> rig;
    rig.body.meets = {"masonry"};
    rig.body.stances = {Stance<2>::capsule("upright", 0.3, 1.8)};
    Probe<2> ray;
    ray.name = "foot ray";
    ray.line().from = {0.0, 0.4};
    ray.line().reach = 0.42;
    ray.sees = {"masonry"};
    rig.probes = {ray};
    Signal grounded;
    grounded.name = "grounded";
    grounded.members.any = {"foot ray"};
    rig.signals = {grounded};

    // Stand it 0.01 above the floor, looking to the right.
    const MountedRig<2> mounted(rig, level, 0, {1.0, 0.0});
    std::vector<Reading<2>> readings(1);
    const bool on = mounted.evaluate(level, {2.0, 0.01}, readings).has(0);
    std::printf("foot ray: hit at distance %.3f, normal (%.0f, %.0f)\n", readings[0].hit.distance,
                readings[0].hit.normal.x(), readings[0].hit.normal.y());
    std::printf("grounded: %s\n", on ? "on" : "off");
    return on ? 0 : 1;
}
