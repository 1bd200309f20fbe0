// Surveys: 8 probes and 6 truths held against each other, in judged poses a second.
#include <benchmark/benchmark.h>

#include <map>

#include "hollow_probe/verify/survey.hpp"
#include "scenes.hpp"

namespace hollow_probe::bench {
namespace {

template <int D>
Vec<D> at(double forward, double up) {
    return forward * Vec<D>::Unit(0) + up * Vec<D>::Unit(1);
}

/// A keeper with a sole, a crown, a shin, a chest, two rays over the edge ahead and two beside: every
/// claim but headroom.
template <int D>
Rig<D> keeper() {
    Rig<D> rig;
    rig.body.meets = {"masonry"};
    rig.body.stances = {Stance<D>::capsule("upright", 0.3, 1.8)};
    rig.intent.ahead_wall = 0.1;
    rig.intent.ahead_step = 0.1;
    const auto add = [&](const char* name, const Vec<D>& from, const Vec<D>& along, double reach,
                         double least_angle, double most_angle, double radius) {
        Probe<D> probe;
        probe.name = name;
        probe.from = from;
        probe.along = along;
        probe.reach = reach;
        probe.sees = {"masonry"};
        probe.accept_least_degrees = least_angle;
        probe.accept_most_degrees = most_angle;
        probe.take = Take::all;
        if (radius > 0.0) {
            probe.kind = ProbeKind::cast;
            probe.shape = RoundedHull<D>::ball(Vec<D>::Zero(), radius);
        }
        rig.probes.push_back(probe);
        return std::string(name);
    };
    const Vec<D> down = -Vec<D>::Unit(1);
    const Vec<D> forward = Vec<D>::Unit(0);
    add("sole", at<D>(0, 0.4), down, 0.12, 0.0, 45.0, 0.3);
    add("crown", at<D>(0, 1.4), -down, 0.12, 120.0, 180.0, 0.3);
    add("shin", at<D>(0, 0.2), forward, 0.4, 45.0, 100.0, 0.0);
    add("chest", at<D>(0, 1.0), forward, 0.4, 45.0, 120.0, 0.0);
    add("edge", at<D>(0.5, 0.4), down, 1.35, 0.0, 45.0, 0.0);
    add("far edge", at<D>(0.8, 0.4), down, 1.35, 0.0, 45.0, 0.0);
    add("brow", at<D>(0, 1.7), forward, 0.8, 45.0, 120.0, 0.0);
    add("heel", at<D>(-0.25, 0.4), down, 0.5, 0.0, 45.0, 0.0);
    const auto claim = [&](const char* name, Claim claims, std::vector<Member> any, std::vector<Member> all,
                           std::vector<Member> none) {
        Signal signal;
        signal.name = name;
        signal.claims = claims;
        signal.any = std::move(any);
        signal.all = std::move(all);
        signal.none = std::move(none);
        rig.signals.push_back(signal);
    };
    claim("grounded", Claim::ground, {"sole"}, {}, {});
    claim("bumped", Claim::ceiling, {"crown"}, {}, {});
    claim("blocked", Claim::wall, {"chest"}, {}, {});
    claim("stepping", Claim::step, {"shin"}, {}, {"chest"});
    claim("at the edge", Claim::drop, {}, {"grounded"}, {"edge"});
    claim("before a ledge", Claim::ledge, {"chest"}, {}, {"brow"});
    return rig;
}

const Level<3>& terrain() {
    static const Level<3> level = level_of(rolling_terrain(1'000'000));
    return level;
}

const Level<2>& passages() {
    static const Level<2> level = cave(1'000'000);
    return level;
}

/// Poses judged in a survey without findings to explain: the sampling alone.
template <int D>
void survey_rows(benchmark::State& state, const Level<D>& level, double side, int threads, bool judge_only) {
    Rig<D> rig = keeper<D>();
    SurveyOptions options;
    options.threads = threads;
    options.headings = 2;
    options.spacing = 0.15;
    options.explain = !judge_only;
    const Vec<D> middle = level.bounds().center();
    for (const double sign : {-0.5, 0.5}) {
        for (int axis = 0; axis < D; ++axis)
            options.region.push_back(axis == 1 ? level.bounds().center()[1] + sign * 2000.0
                                               : middle[axis] + sign * side);
    }
    std::size_t poses = 0;
    for (auto _ : state) poses += survey<D>(level, rig, options).judged;
    state.SetItemsProcessed(static_cast<std::int64_t>(poses));
    state.counters["poses"] = static_cast<double>(poses) / static_cast<double>(state.iterations());
}

void add_all() {
    for (const int threads : {1, 2}) {
        const std::string suffix = "/threads:" + std::to_string(threads);
        for (const bool judge_only : {true, false}) {
            const std::string what = judge_only ? "survey/judge" : "survey/explain";
            benchmark::RegisterBenchmark(
                (what + "/terrain/1M" + suffix).c_str(),
                [=](benchmark::State& s) { survey_rows<3>(s, terrain(), 10.0, threads, judge_only); })
                ->Unit(benchmark::kMillisecond)
                ->UseRealTime();
            benchmark::RegisterBenchmark(
                (what + "/cave_2d/1M" + suffix).c_str(),
                [=](benchmark::State& s) { survey_rows<2>(s, passages(), 2.0, threads, judge_only); })
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
