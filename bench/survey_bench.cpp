// Surveys: 8 probes and 6 truths held against each other, in judged poses a second; and how soon they answer.
#include <benchmark/benchmark.h>

#include <chrono>

#include "hollow_probe/io/level_file.hpp"
#include "hollow_probe/io/rig_file.hpp"
#include "hollow_probe/verify/survey.hpp"
#include "keeper.hpp"
#include "scenes.hpp"

namespace hollow_probe::bench {
namespace {

const Level<3>& terrain() {
    static const Level<3> level = level_of(rolling_terrain(1'000'000));
    return level;
}

const Level<2>& passages() {
    static const Level<2> level = cave(1'000'000);
    return level;
}

/// Anchors in the middle of a level, in a region so wide and so tall.
template <int D>
SurveyOptions in_the_middle(const Level<D>& level, double side, double tall, int threads) {
    SurveyOptions options;
    options.threads = threads;
    options.headings = 2;
    options.spacing = 0.15;
    const Vec<D> middle = level.bounds().center();
    for (const double sign : {-0.5, 0.5}) {
        for (int axis = 0; axis < D; ++axis)
            options.region.push_back(axis == 1 ? middle[1] + sign * tall : middle[axis] + sign * side);
    }
    return options;
}

enum class What {
    judge,    // findings are not explained: the sampling alone
    explain,  // … they are, and changes are tried
    again,  // as the first, of a rig with one probe changed so that columns move, what was found having been
            // kept
    in_place,  // … so that they stay
};

/// Poses asked, and columns decided.
template <int D>
void survey_rows(benchmark::State& state, const Level<D>& level, SurveyOptions options, What what) {
    Rig<D> rig = keeper<D>();
    options.explain = what == What::explain;
    KeptTruths<D> kept;
    // Each time by a little, which hardly makes it more wrong.
    const auto change = [&] {
        for (Probe<D>& probe : rig.probes) {
            if (probe.name != "brow") continue;
            if (what == What::again) probe.line().reach += 0.05;
            if (what == What::in_place) probe.line().accept_most_degrees -= 0.05;
        }
    };
    const bool keeps = what == What::again || what == What::in_place;
    if (keeps) survey<D>(level, rig, options, kept);
    if (what == What::in_place) {
        change();  // away from the angle that is the intent's, too
        survey<D>(level, rig, options, kept);
    }
    std::size_t poses = 0;
    std::size_t columns = 0;
    for (auto _ : state) {
        change();
        const Survey<D> result =
            keeps ? survey<D>(level, rig, options, kept) : survey<D>(level, rig, options);
        poses += result.asked;
        columns += result.scope.grid_columns + result.scope.border_columns + result.scope.corner_columns;
    }
    state.SetItemsProcessed(static_cast<std::int64_t>(poses));
    state.counters["poses"] = static_cast<double>(poses) / static_cast<double>(state.iterations());
    state.counters["columns"] = static_cast<double>(columns) / static_cast<double>(state.iterations());
    state.counters["columns_per_second"] =
        benchmark::Counter(static_cast<double>(columns), benchmark::Counter::kIsRate);
}

/// The time until the first round is told, on two threads.
template <int D>
void first_round(benchmark::State& state, const Level<D>& level, const Rig<D>& rig) {
    using Clock = std::chrono::steady_clock;
    SurveyOptions options;
    options.threads = 2;
    for (auto _ : state) {
        const Clock::time_point begin = Clock::now();
        std::optional<Clock::time_point> told;
        options.stop = [&] { return told.has_value(); };
        KeptTruths<D> kept;
        survey<D>(level, rig, options, kept, [&](const Survey<D>&) {
            if (!told) told = Clock::now();
        });
        state.SetIterationTime(std::chrono::duration<double>(told.value_or(Clock::now()) - begin).count());
    }
}

/// One ray, and what it claims.
template <int D>
Rig<D> first_try() {
    Rig<D> rig = keeper<D>();
    rig.probes.resize(1);
    rig.probes[0].line().shape.reset();
    rig.signals.resize(1);
    return rig;
}

/// The 3D demo's first try on two threads, as the tool surveys it.
void demo_3d(benchmark::State& state) {
    const AnyLevel any = load_level(DEMO_FOLDER "/pumphouse.level.toml");
    const auto& level = std::get<Level<3>>(any);
    const Rig<3> rig = load_rig<3>(DEMO_FOLDER "/keeper-first-try-3d.rig.toml", level);
    SurveyOptions options;
    options.threads = 2;
    for (auto _ : state) benchmark::DoNotOptimize(survey<3>(level, rig, options));
}

void add_all() {
    for (const auto& [name, what] : {std::pair{"judge", What::judge},
                                     {"explain", What::explain},
                                     {"again", What::again},
                                     {"in_place", What::in_place}}) {
        for (const int threads : {1, 2}) {
            const auto add = [&](const std::string& place, const auto& run) {
                benchmark::RegisterBenchmark(
                    ("survey/" + std::string(name) + place + "/1M/threads:" + std::to_string(threads))
                        .c_str(),
                    run)
                    ->Unit(benchmark::kMillisecond)
                    ->UseRealTime();
            };
            add("/terrain", [what = what, threads](benchmark::State& s) {
                survey_rows<3>(s, terrain(), in_the_middle<3>(terrain(), 10.0, 4000.0, threads), what);
            });
            add("/cave_2d", [what = what, threads](benchmark::State& s) {
                survey_rows<2>(s, passages(), in_the_middle<2>(passages(), 20.0, 10.0, threads), what);
            });
        }
    }
    const auto add = [](const char* name, const auto& run) {
        return benchmark::RegisterBenchmark(name, run)->Unit(benchmark::kMillisecond);
    };
    add("survey/first_round/terrain/1M", [](benchmark::State& s) {
        first_round<3>(s, terrain(), first_try<3>());
    })->UseManualTime();
    add("survey/first_round/cave_2d/1M", [](benchmark::State& s) {
        first_round<2>(s, passages(), first_try<2>());
    })->UseManualTime();
    add("survey/demo_3d", demo_3d)->UseRealTime();
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
