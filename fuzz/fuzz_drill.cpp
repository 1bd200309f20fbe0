// A drill file is refused with its place or can be played, and written with its own cues is the same drill.
#include "fuzz.hpp"
#include "hollow_probe/io/drill_file.hpp"
#include "hollow_probe/motion/play.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    using namespace hollow_probe;
    static const Level<2> level = LevelBuilder<2>({"masonry"})
                                      .add("floor", "masonry", RoundedHull<2>::box({0.0, -0.5}, {20.0, 1.0}))
                                      .add("crate", "masonry", RoundedHull<2>::box({3.0, 0.5}, {0.9, 0.9}))
                                      .area("loft", {{4.0, 1.0}, {6.0, 3.0}})
                                      .start("gate", {0.0, 0.01}, {1.0, 0.0})
                                      .build();
    static const Rig<2> rig = [] {
        Rig<2> made;
        made.body.meets = {"masonry"};
        made.body.stances = {Stance<2>::capsule("upright", 0.3, 1.8)};
        Probe<2> foot;
        foot.name = "foot";
        foot.from = {0.0, 0.4};
        foot.reach = 0.42;
        foot.sees = {"masonry"};
        made.probes = {foot};
        Signal grounded;
        grounded.name = "grounded";
        grounded.any = {"foot"};
        made.signals = {grounded};
        made.reflexes = {{"grounded", ReflexKind::permit_jump}};
        return made;
    }();
    return fuzz::run(data, size, [](std::string_view bytes) {
        const std::string text(bytes);
        Drill<2> drill = drill_from_toml<2>(text, "nowhere/fuzz.drill.toml", level, rig);
        const std::string written =
            with_cues<2>(text, "nowhere/fuzz.drill.toml", "nowhere", drill, "# as it was\n");
        const Drill<2> again = drill_from_toml<2>(written, "nowhere/fuzz.drill.toml", level, rig);
        if (again.cues.size() != drill.cues.size() || again.seconds != drill.seconds) std::abort();
        drill.tick_rate = std::min(drill.tick_rate, 100.0);
        drill.seconds = std::min(drill.seconds, 0.5);
        (void)play<2>(level, rig, drill);
    });
}
