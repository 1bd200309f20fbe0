// Tuning in code: reach and height of a foot ray searched for on a yard, with a promise of the game's own
// beside it. Returns 1 where what was found is no better.
#include <cstdio>

#include "hollow_probe/study/tune.hpp"

using namespace hollow_probe;

int main() {
    LevelBuilder<2> builder({"masonry"});
    builder.add("quay", "masonry", RoundedHull<2>::box({-4, -0.5}, {16, 1}));
    builder.add_polygon("ramp", "masonry", {{4, 0}, {8, 1}, {8, 0}});
    const Level<2> level = builder.build();

    Rig<2> rig;
    rig.body.meets = {"masonry"};
    rig.body.stances = {Stance<2>::box("crate", {0.6, 1.2})};
    Probe<2> foot;
    foot.name = "foot";
    foot.line().from = {0, 0.2};
    foot.line().reach = 0.6;  // by eye
    foot.sees = {"masonry"};
    rig.probes = {foot};
    Signal grounded;
    grounded.name = "grounded";
    grounded.members.any = {"foot"};
    rig.signals = {grounded};

    TuneOptions<2> options;
    options.free = {{"probe.foot.reach", std::array{0.1, 0.8}}, {"probe.foot.from[1]", std::array{0.1, 0.5}}};
    options.survey.budget = 10000;
    options.missed_weight = 2.0;  // a refused jump is worse than one too many
    // The foot may not start above the knee.
    options.broken = [](const Rig<2>& other) {
        return other.probes[0].line().from[1] > 0.4 ? std::size_t{1} : std::size_t{0};
    };
    const TunedRig<2> tuned = tune<2>({&level}, rig, options);
    for (const TunedSetting& one : tuned.settings)
        std::printf("%s: %s -> %s, alone within %.4f to %.4f\n", one.path.c_str(), one.was.c_str(),
                    one.is.c_str(), one.alone[0], one.alone[1]);
    std::printf("missed %.4f -> %.4f, false %.4f -> %.4f; %zu rigs tried\n", tuned.before.missed,
                tuned.after.missed, tuned.before.falsely, tuned.after.falsely, tuned.tried);
    return tuned.better() && tuned.rig.probes[0].line().from[1] <= 0.4 ? 0 : 1;
}
