// Gauging in code: the data sheet's line of slopes, and a fixture of one's own: a rung of a ladder below the
// sole. Returns 1 where the rig accepts what it should not.
#include <cstdio>

#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/study/gauge.hpp"
#include "hollow_probe/truth/ground.hpp"

using namespace hollow_probe;

namespace {

/// A ball as round as the body's end; `accept` says how steep it takes footing to be.
Rig<2> keeper(double accept) {
    Probe<2> soles;
    soles.name = "soles";
    soles.line().shape = RoundedHull<2>::ball({0, 0}, 0.3);
    soles.line().from = {0, 0.3};
    soles.line().reach = 0.02;
    soles.sees = {"masonry"};
    soles.line().accept_most_degrees = accept;
    soles.line().take = Take::all;
    Signal grounded;
    grounded.name = "grounded";
    grounded.members.any = {"soles"};
    Rig<2> rig;
    rig.body.meets = {"masonry"};
    rig.body.stances = {Stance<2>::capsule("upright", 0.3, 1.8)};
    rig.probes = {soles};
    rig.signals = {grounded};
    return rig;
}

/// A round rung, `aside` from the body's middle, that the body rests on: is it ground, and what says the rig?
bool agrees_on_rung(const Rig<2>& rig, double aside) {
    constexpr double rung = 0.05;
    const double apart = 0.3 + rung;  // of the middles of rung and sole
    LevelBuilder<2> builder({"masonry"});
    builder.add("rung", "masonry", RoundedHull<2>::ball({aside, 0.0}, rung));
    const Level<2> level = builder.build();
    const Vec<2> anchor(0.0, std::sqrt(apart * apart - aside * aside) - 0.3);
    const MountedRig<2> mounted(rig, level, 0, {1, 0});
    const PlacedBody<2> body{mounted.body.view(), anchor, mounted.meets};
    return mounted.evaluate(level, anchor).has(0) == ground<2>(level, body, rig.intent).on;
}

}  // namespace

int main() {
    bool all_right = true;
    for (const double accept : {40.0, 45.0, 60.0}) {
        const Rig<2> rig = keeper(accept);
        GaugeOptions options;
        options.lines = {"slope up"};
        const DataSheet<2> sheet = gauge<2>(rig, options);
        const SheetRow& slope = sheet.rows.front();
        const ResponseCurve& curve = slope.curves[slope.worst];
        int wrong_rungs = 0;
        for (int i = -29; i <= 29; ++i) wrong_rungs += agrees_on_rung(rig, 0.01 * i) ? 0 : 1;
        std::printf("accept to %g°: footing to %.4f°, meant %.4f°; %d of 59 rungs wrong\n", accept,
                    curve.on.front().to, curve.intended.front().to, wrong_rungs);
        const bool right = curve.wrong() == 0.0 && wrong_rungs == 0;
        all_right = all_right && right == (accept == 45.0);
    }
    return all_right ? 0 : 1;
}
