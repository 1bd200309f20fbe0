// The geometry rows of the targets: rays, casts, overlaps, the rig in one traversal, builds, growth.
#include <benchmark/benchmark.h>
#include <tbb/global_control.h>

#include <map>
#include <memory>

#include "hollow_probe/level/level_cast.hpp"
#include "hollow_probe/level/level_query.hpp"
#include "hollow_probe/level/moving_level.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "scenes.hpp"

namespace hollow_probe::bench {
namespace {

constexpr std::size_t line_count = 1U << 16U;

enum class Scene { terrain, rubble, interior };

Mesh mesh_of(Scene scene, std::size_t triangles) {
    switch (scene) {
        case Scene::terrain:
            return rolling_terrain(triangles);
        case Scene::rubble:
            return rubble(triangles);
        case Scene::interior:
            return interior(triangles);
    }
    return {};
}

/// Levels and lines are made once and kept until the end of the run; the largest one is not kept.
struct Workplace {
    Level<3> level;
    std::vector<Line<3>> lines;
};

class Workplaces {
  public:
    const Workplace& get(Scene scene, std::size_t triangles) {
        auto& place = places_[{scene, triangles}];
        if (!place) {
            if (triangles > 2'000'000) places_.clear();
            auto& made = places_[{scene, triangles}];
            made = std::make_unique<Workplace>(Workplace{level_of(mesh_of(scene, triangles)), {}});
            made->lines = scattered_lines<3>(made->level, line_count, 1.0);
            return *made;
        }
        return *place;
    }

  private:
    std::map<std::pair<Scene, std::size_t>, std::unique_ptr<Workplace>> places_;
};

Workplaces& workplaces() {
    static Workplaces all;
    return all;
}

RoundedHull<3> mover_of(const std::string& kind) {
    if (kind == "ray") return RoundedHull<3>::ball(Vec<3>::zero(), 1.0).with_radius(0.0);
    if (kind == "ball") return RoundedHull<3>::ball(Vec<3>::zero(), 0.3);
    if (kind == "capsule") return RoundedHull<3>::capsule({0.0, -0.6, 0.0}, {0.0, 0.6, 0.0}, 0.3);
    if (kind == "box") return RoundedHull<3>::box(Vec<3>::zero(), {0.5, 0.4, 0.5});
    std::vector<Vec<3>> points;
    for (int i = 0; i < 16; ++i) {
        const double angle = std::numbers::pi * i / 4.0 + (i < 8 ? 0.0 : 0.2);
        points.emplace_back(0.3 * std::cos(angle), i < 8 ? -0.4 : 0.4, 0.3 * std::sin(angle));
    }
    return RoundedHull<3>::hull(std::move(points));
}

void casts(benchmark::State& state, Scene scene, std::size_t triangles, const std::string& kind,
           double reach) {
    const Workplace& place = workplaces().get(scene, triangles);
    const RoundedHull<3> mover = mover_of(kind);
    std::size_t i = 0;
    std::size_t hits = 0;
    for (auto _ : state) {
        const Line<3>& line = place.lines[i++ % line_count];
        const auto hit = first_hit<3>(place.level, {mover.view(), line.start, line.direction, reach});
        hits += hit ? 1 : 0;
    }
    state.SetItemsProcessed(state.iterations());
    state.counters["hits"] = static_cast<double>(hits) / static_cast<double>(state.iterations());
    state.counters["index_bytes_a_piece"] =
        static_cast<double>(place.level.tree().bytes()) / place.level.piece_count();
}

/// The same rays, 4096 a call.
void batch(benchmark::State& state, Scene scene, std::size_t triangles, const std::string& kind,
           double reach) {
    const Workplace& place = workplaces().get(scene, triangles);
    const RoundedHull<3> mover = mover_of(kind);
    constexpr std::size_t many = 4096;
    std::vector<LevelCast<3>> all;
    for (const Line<3>& line : place.lines) all.push_back({mover.view(), line.start, line.direction, reach});
    std::vector<std::optional<LevelHit<3>>> hits(many);
    std::size_t i = 0;
    for (auto _ : state) {
        first_hits<3>(place.level, std::span<const LevelCast<3>>(all).subspan(many * i, many), hits);
        benchmark::DoNotOptimize(hits.data());
        i = (i + 1) % (line_count / many);
    }
    state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(many));
}

/// How the rays of a rig are read.
enum class Read : std::uint8_t { one_by_one, together, through_what_is_kept };

/// Twelve short rays on a body of 1.8 that walks over the terrain: a step of 0.07 an evaluation.
void rig_of_rays(benchmark::State& state, std::size_t triangles, Read read) {
    const Workplace& place = workplaces().get(Scene::terrain, triangles);
    Rig<3> rig;
    rig.body.meets = {"masonry"};
    rig.body.stances = {Stance<3>::capsule("upright", 0.3, 1.8)};
    Signal grounded;
    grounded.name = "grounded";
    for (int i = 0; i < 12; ++i) {
        const double angle = std::numbers::pi * i / 4.0;
        const Vec<3> around(std::cos(angle), 0.0, std::sin(angle));
        Probe<3> probe;
        probe.name = "ray " + std::to_string(i + 1);
        probe.line().from =
            i < 8 ? Vec<3>(0.0, 0.4, 0.0) + 0.25 * around : Vec<3>(0.0, 0.5 + 0.3 * (i - 8), 0.0);
        probe.line().along = i < 8 ? Vec<3>(0.0, -1.0, 0.0) : around;
        probe.line().reach = i < 8 ? 0.6 : 0.7;
        probe.sees = {"masonry"};
        rig.probes.push_back(probe);
        grounded.members.any.push_back(probe.name);
    }
    rig.signals = {grounded};
    const MountedRig<3> mounted(rig, place.level, 0, {1.0, 0.0, 0.0});
    const double side = place.level.bounds().size().x();
    Vec<3> at(0.1 * side, 0.0, 0.3 * side);
    std::size_t on = 0;
    // The ground under the way, so that walking costs nothing while the clock runs.
    std::vector<Vec<3>> way;
    for (int i = 0; i < 4096; ++i) {
        at += Vec<3>(0.06, 0.0, 0.036);
        const Vec<3> above(at.x(), 100.0, at.z());
        const auto ground =
            first_hit<3>(place.level, {mover_of("ray").view(), above, {0.0, -1.0, 0.0}, infinity});
        way.push_back(ground ? ground->point : at);
    }
    std::array<Reading<3>, 12> readings;
    Neighbourhood<3> around;
    std::size_t i = 0;
    for (auto _ : state) {
        const Vec<3>& anchor = way[i++ % way.size()];
        if (read == Read::through_what_is_kept) {
            on += mounted.evaluate(place.level, anchor, around, readings).bits();
        } else if (read == Read::together) {
            on += mounted.evaluate(place.level, anchor, readings).bits();
        } else {
            for (std::size_t k = 0; k < 12; ++k)
                readings[k] = mounted.probes[k].read(place.level, mounted.body, anchor);
            on += readings[0].on ? 1 : 0;
        }
    }
    state.counters["grounded"] = static_cast<double>(on) / static_cast<double>(state.iterations());
}

void build(benchmark::State& state, Scene scene, std::size_t triangles, int threads) {
    const tbb::global_control control(tbb::global_control::max_allowed_parallelism, threads);
    const Level<3> level = level_of(mesh_of(scene, triangles));
    std::vector<std::uint32_t> items(level.piece_count());
    for (std::uint32_t i = 0; i < items.size(); ++i) items[i] = i;
    for (auto _ : state) {
        const BoundsTree<3> tree(level.pieces(), items, {});
        benchmark::DoNotOptimize(tree.node_count());
    }
    state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(items.size()));
}

/// A body-sized ball at rest: which pieces does it touch?
void overlap(benchmark::State& state, Scene scene, std::size_t triangles) {
    const Workplace& place = workplaces().get(scene, triangles);
    const RoundedHull<3> ball = mover_of("ball");
    std::size_t i = 0;
    std::size_t found = 0;
    for (auto _ : state) {
        const Line<3>& line = place.lines[i++ % line_count];
        found += overlaps<3>(place.level, {ball.view(), line.start}) ? 1 : 0;
    }
    benchmark::DoNotOptimize(found);
    state.SetItemsProcessed(state.iterations());
}

void rays_in_cave(benchmark::State& state, std::size_t segments, double reach) {
    static const Level<2> level = cave(segments);
    static const std::vector<Line<2>> lines = scattered_lines<2>(level, line_count, 0.3);
    const auto ray = RoundedHull<2>::ball(Vec<2>::zero(), 1.0).with_radius(0.0);
    std::size_t i = 0;
    std::size_t hits = 0;
    for (auto _ : state) {
        const Line<2>& line = lines[i++ % line_count];
        hits += first_hit<2>(level, {ray.view(), line.start, line.direction, reach}) ? 1 : 0;
    }
    state.SetItemsProcessed(state.iterations());
    state.counters["hits"] = static_cast<double>(hits) / static_cast<double>(state.iterations());
    state.counters["index_bytes_a_piece"] = static_cast<double>(level.tree().bytes()) / level.piece_count();
}

/// A hundred crates of twelve triangles moved and re-fitted among a million triangles.
void refit(benchmark::State& state) {
    LevelBuilder<3> builder({"masonry"});
    const Mesh terrain = rolling_terrain(1'000'000);
    builder.add_mesh("ground", "masonry", terrain.vertices, terrain.triangles);
    std::vector<std::uint32_t> crates;
    for (std::uint32_t i = 0; i < 100; ++i) {
        builder.add("crate " + std::to_string(i), "masonry",
                    RoundedHull<3>::box({5.0 * i, 30.0, 5.0}, {1.0, 1.0, 1.0}));
        crates.push_back(i + 1);
    }
    const Level<3> level = builder.build();
    MovingLevel<3> moving(level, crates);
    double t = 0.0;
    for (auto _ : state) {
        t += 0.01;
        for (const std::uint32_t crate : crates) moving.place(crate, {std::sin(t), 0.0, std::cos(t)});
        moving.refit();
    }
}

std::string count_text(std::size_t n) {
    return n >= 1'000'000 ? std::to_string(n / 1'000'000) + "M" : std::to_string(n / 1000) + "k";
}

void add_all() {
    const std::vector<std::pair<std::string, Scene>> scenes = {
        {"terrain", Scene::terrain}, {"rubble", Scene::rubble}, {"interior", Scene::interior}};
    constexpr std::size_t million = 1'000'000;
    for (const auto& [name, scene] : scenes) {
        for (const std::string kind : {"ray", "ball", "capsule", "box", "hull16"}) {
            for (const auto& [reach_name, reach] : {std::pair{"long", infinity}, {"short", 2.0}}) {
                benchmark::RegisterBenchmark((kind + "/" + reach_name + "/" + name + "/1M").c_str(),
                                             [scene = scene, kind, reach = reach](benchmark::State& state) {
                                                 casts(state, scene, million, kind, reach);
                                             });
            }
        }
        for (const std::string kind : {"ray", "ball", "capsule"}) {
            benchmark::RegisterBenchmark(("batch/" + kind + "/long/" + name + "/1M").c_str(),
                                         [scene = scene, kind](benchmark::State& state) {
                                             batch(state, scene, million, kind, infinity);
                                         });
        }
        benchmark::RegisterBenchmark(
            ("overlap/" + name + "/1M").c_str(),
            [scene = scene](benchmark::State& state) { overlap(state, scene, million); });
        for (const int threads : {1, 2}) {
            benchmark::RegisterBenchmark(
                ("build/" + name + "/1M/threads:" + std::to_string(threads)).c_str(),
                [scene = scene, threads](benchmark::State& state) { build(state, scene, million, threads); })
                ->Unit(benchmark::kMillisecond)
                ->UseRealTime();
        }
    }
    for (const auto& [name, read] : {std::pair{"kept", Read::through_what_is_kept},
                                     {"together", Read::together},
                                     {"one_by_one", Read::one_by_one}}) {
        benchmark::RegisterBenchmark(
            (std::string("rig/12_rays/") + name + "/terrain/1M").c_str(),
            [read = read](benchmark::State& state) { rig_of_rays(state, million, read); });
    }
    benchmark::RegisterBenchmark("ray/long/cave_2d/1M",
                                 [](benchmark::State& state) { rays_in_cave(state, million, infinity); });
    benchmark::RegisterBenchmark("ray/short/cave_2d/1M",
                                 [](benchmark::State& state) { rays_in_cave(state, million, 2.0); });
    benchmark::RegisterBenchmark("refit/100_solids", refit);
    for (const std::size_t n : {std::size_t{10'000}, std::size_t{100'000}, 10 * million}) {
        benchmark::RegisterBenchmark(
            ("ray/long/terrain/" + count_text(n)).c_str(),
            [n](benchmark::State& state) { casts(state, Scene::terrain, n, "ray", infinity); });
    }
}

}  // namespace
}  // namespace hollow_probe::bench

int main(int count, char** arguments) {
    hollow_probe::bench::add_all();
    benchmark::Initialize(&count, arguments);
    if (benchmark::ReportUnrecognizedArguments(count, arguments)) return 2;
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
