// Drills: ticks a second with 8 probes and 6 truths, and how a hunt grows with threads.
#include <benchmark/benchmark.h>

#include "hollow_probe/io/level_file.hpp"
#include "hollow_probe/motion/hunt.hpp"
#include "hollow_probe/truth/rest.hpp"
#include "keeper.hpp"
#include "scenes.hpp"

namespace hollow_probe::bench {
namespace {

const Level<2>& culvert() {
    static const AnyLevel level = load_level(DEMO_FOLDER "/culvert.level.toml");
    return std::get<Level<2>>(level);
}

const Level<3>& terrain() {
    static const Level<3> level = level_of(rolling_terrain(1'000'000));
    return level;
}

/// A minute of running to and fro, with a jump now and then.
template <int D>
Drill<D> to_and_fro(const Vec<D>& start) {
    Drill<D> drill;
    drill.at = start;
    drill.seconds = 60.0;
    drill.motion.gravity = 20.0;
    drill.motion.jump_speed = 6.0;
    drill.motion.top_speed = 4.0;
    for (int i = 0; i < 20; ++i) {
        Cue<D> run;
        run.at = 3.0 * i;
        run.drive = (i % 2 == 0 ? 1.0 : -1.0) * Vec<D>::unit(0);
        drill.cues.push_back(run);
        Cue<D> jump;
        jump.at = 3.0 * i + 1.0;
        jump.press = "jump";
        drill.cues.push_back(jump);
    }
    drill.expectations = {{Expectation::Kind::most, "deepest_clip", "", 1.0, ""}};
    return drill;
}

template <int D>
Rig<D> moving_keeper(const Level<D>& level) {
    Rig<D> rig = keeper<D>();
    rig.body.meets = level.layers();
    for (Probe<D>& probe : rig.probes) probe.sees = level.layers();
    rig.reflexes = {{"grounded", ReflexKind::permit_jump}};
    return rig;
}

/// Where the body rests in the column at the level's middle.
template <int D>
Vec<D> resting_place(const Level<D>& level, const Rig<D>& rig, const Vec<D>& column) {
    const MountedRig<D> mounted(rig, level, 0, Vec<D>::unit(0));
    std::vector<double> heights;
    find_rests<D>(level, {mounted.body.view(), column - column[1] * Vec<D>::unit(1), mounted.meets},
                  rig.intent, heights);
    return column + (heights.back() + 0.01 - column[1]) * Vec<D>::unit(1);
}

template <int D>
void drill_rows(benchmark::State& state, const Level<D>& level, const Vec<D>& column) {
    const Rig<D> rig = moving_keeper<D>(level);
    const Drill<D> drill = to_and_fro<D>(resting_place<D>(level, rig, column));
    PlayOptions<D> quick;
    quick.keep_ticks = false;
    Stage<D> stage(level, rig);
    std::size_t ticks = 0;
    for (auto _ : state) ticks += stage.play(drill, quick).figures.ticks;
    state.SetItemsProcessed(static_cast<std::int64_t>(ticks));
}

void hunt_rows(benchmark::State& state, int threads) {
    const Rig<2> rig = moving_keeper<2>(culvert());
    Drill<2> drill = to_and_fro<2>(resting_place<2>(culvert(), rig, {-8.0, 0.0}));
    drill.seconds = 10.0;
    HuntOptions options;
    options.threads = threads;
    options.most_ticks = 500'000;
    std::size_t ticks = 0;
    for (auto _ : state) ticks += hunt<2>(culvert(), rig, drill, options).ticks;
    state.SetItemsProcessed(static_cast<std::int64_t>(ticks));
}

void add_all() {
    benchmark::RegisterBenchmark("drill/culvert_2d", [](benchmark::State& s) {
        drill_rows<2>(s, culvert(), {-8.0, 0.0});
    })->Unit(benchmark::kMillisecond);
    benchmark::RegisterBenchmark("drill/terrain/1M", [](benchmark::State& s) {
        drill_rows<3>(s, terrain(), terrain().bounds().center());
    })->Unit(benchmark::kMillisecond);
    for (const int threads : {1, 2}) {
        benchmark::RegisterBenchmark(("hunt/culvert_2d/threads:" + std::to_string(threads)).c_str(),
                                     [threads](benchmark::State& s) { hunt_rows(s, threads); })
            ->Unit(benchmark::kMillisecond)
            ->UseRealTime();
    }
}

}  // namespace
}  // namespace hollow_probe::bench

int main(int argc, char** argv) {
    hollow_probe::bench::add_all();
    benchmark::Initialize(&argc, argv);
    if (benchmark::ReportUnrecognizedArguments(argc, argv)) return 1;
    benchmark::RunSpecifiedBenchmarks();
    benchmark::Shutdown();
    return 0;
}
