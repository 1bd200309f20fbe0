// Surveys: 8 probes and 6 truths held against each other, in judged poses a second.
#include <benchmark/benchmark.h>

#include <map>

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

/// Poses asked, and columns decided, in a survey without findings to explain: the sampling alone. Anchors lie
/// in a region so wide and so tall.
template <int D>
void survey_rows(benchmark::State& state, const Level<D>& level, double side, double tall, int threads,
                 bool judge_only) {
    Rig<D> rig = keeper<D>();
    SurveyOptions options;
    options.threads = threads;
    options.headings = 2;
    options.spacing = 0.15;
    options.explain = !judge_only;
    const Vec<D> middle = level.bounds().center();
    for (const double sign : {-0.5, 0.5}) {
        for (int axis = 0; axis < D; ++axis)
            options.region.push_back(axis == 1 ? middle[1] + sign * tall : middle[axis] + sign * side);
    }
    std::size_t poses = 0;
    std::size_t columns = 0;
    for (auto _ : state) {
        const Survey<D> result = survey<D>(level, rig, options);
        poses += result.asked;
        columns += result.scope.grid_columns + result.scope.border_columns + result.scope.corner_columns;
    }
    state.SetItemsProcessed(static_cast<std::int64_t>(poses));
    state.counters["poses"] = static_cast<double>(poses) / static_cast<double>(state.iterations());
    state.counters["columns"] = static_cast<double>(columns) / static_cast<double>(state.iterations());
    state.counters["columns_per_second"] =
        benchmark::Counter(static_cast<double>(columns), benchmark::Counter::kIsRate);
}

void add_all() {
    for (const int threads : {1, 2}) {
        const std::string suffix = "/threads:" + std::to_string(threads);
        for (const bool judge_only : {true, false}) {
            const std::string what = judge_only ? "survey/judge" : "survey/explain";
            benchmark::RegisterBenchmark(
                (what + "/terrain/1M" + suffix).c_str(),
                [=](benchmark::State& s) { survey_rows<3>(s, terrain(), 10.0, 4000.0, threads, judge_only); })
                ->Unit(benchmark::kMillisecond)
                ->UseRealTime();
            benchmark::RegisterBenchmark(
                (what + "/cave_2d/1M" + suffix).c_str(),
                [=](benchmark::State& s) { survey_rows<2>(s, passages(), 20.0, 10.0, threads, judge_only); })
                ->Unit(benchmark::kMillisecond)
                ->UseRealTime();
        }
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
