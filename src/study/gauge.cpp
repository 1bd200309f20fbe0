#include "hollow_probe/study/gauge.hpp"

#include <algorithm>
#include <atomic>

#include "geometry/parallel.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/rig/touched.hpp"
#include "study/response.hpp"

namespace hollow_probe {
namespace {

constexpr std::size_t steps_at_rest = 160;
constexpr std::size_t steps_in_motion = 24;

template <int D>
bool remembers(const Rig<D>& rig) {
    return std::any_of(rig.probes.begin(), rig.probes.end(), [](const Probe<D>& probe) {
        const std::optional<double>* const reach = reach_grounded_of(probe);
        return reach != nullptr && reach->has_value();
    });
}

bool claims_one_of(const Signal& signal, const std::vector<Claim>& claims) {
    return signal.claims && std::find(claims.begin(), claims.end(), *signal.claims) != claims.end();
}

/// The layer a signal is measured on.
template <int D>
std::string layer_for(const Rig<D>& rig, const Signal& signal, const std::string& standard) {
    const auto has = [](const std::vector<std::string>& names, const std::string& name) {
        return std::find(names.begin(), names.end(), name) != names.end();
    };
    if (signal.of.empty() || has(signal.of, standard)) return standard;
    for (const std::string& layer : signal.of) {
        if (has(rig.body.meets, layer)) return layer;
    }
    return standard;
}

/// What is measured of one line for the signals on one layer: all turns, onset and release.
template <int D>
class LineGauge {
  public:
    LineGauge(const Rig<D>& rig, const Fixture<D>& fixture, const SheetLine& line, double size)
        : rig_(rig), fixture_(fixture), line_(line), size_(size) {}

    [[nodiscard]] std::vector<SheetRow> rows(double from, double to,
                                             const std::vector<std::size_t>& signals) const {
        const FixtureAxis& axis = fixture_.axes[line_.axis];
        std::vector<std::vector<ResponseCurve>> views;
        for (const double turn : line_.degrees) {
            // In motion the rig remembers what it does.
            const bool twice = !fixture_.moves() && remembers<D>(rig_);
            for (const bool ground : twice ? std::vector<bool>{false, true} : std::vector<bool>{false})
                views.push_back(measured(turn, ground, from, to));
        }
        std::vector<SheetRow> rows;
        for (const std::size_t signal : signals) {
            SheetRow row;
            row.line = line_.name;
            row.fixture = fixture_.name;
            row.axis = axis;
            row.axis.least = from;
            row.axis.most = to;
            row.signal = rig_.signals[signal].name;
            row.moves = fixture_.moves();
            for (const auto& view : views) {
                row.curves.push_back(view[signal]);
                if (view[signal].wrong() > row.curves[row.worst].wrong() + noise(axis))
                    row.worst = row.curves.size() - 1;
            }
            rows.push_back(std::move(row));
        }
        return rows;
    }

  private:
    /// How closely changes are located.
    [[nodiscard]] double within(const FixtureAxis& axis) const {
        const double scale = axis.unit == Unit::degrees ? 90.0 : size_;
        return (fixture_.moves() ? 1e-3 : 1e-6) * scale;
    }
    [[nodiscard]] double noise(const FixtureAxis& axis) const { return 4.0 * within(axis); }

    [[nodiscard]] std::vector<ResponseCurve> measured(double turn, bool ground, double from,
                                                      double to) const {
        const FixtureAxis& axis = fixture_.axes[line_.axis];
        const Viewpoint<D> view{rig_, fixture_, line_.axis, line_.values, turn, ground};
        std::vector<double> also;
        if (!fixture_.moves()) {
            // Where narrow stretches are to be expected.
            const Intent& intent = rig_.intent;
            if (axis.unit == Unit::degrees) {
                also = {intent.steepest_footing_degrees, intent.ceiling_within_degrees, 90.0};
            } else {
                also = {0.0, intent.lowest_step, intent.tallest_step};
                for (const double each : {intent.touch, intent.ahead_wall, intent.ahead_step}) {
                    also.push_back(0.5 * each);
                    also.push_back(-0.5 * each);
                }
            }
        }
        return responses<D>(view, from, to, fixture_.moves() ? steps_in_motion : steps_at_rest, within(axis),
                            also);
    }

    const Rig<D>& rig_;
    const Fixture<D>& fixture_;
    const SheetLine& line_;
    double size_;
};

template <int D>
double size_of(const Rig<D>& rig, std::size_t stance) {
    return rig.body.stances[stance].shape.bounds().size().largest();
}

/// A scene on which a signal is rightly on or, moved away, rightly off.
template <int D>
struct LatencyScene {
    FixtureScene<D> scene;
    Vec<D> clear = Vec<D>::zero();
};

template <int D>
std::optional<LatencyScene<D>> latency_scene(const Rig<D>& rig, std::size_t signal,
                                             const std::vector<Fixture<D>>& fixtures, double size) {
    for (const SheetLine& line : sheet_lines<D>(fixtures)) {
        const Fixture<D>& fixture = fixtures[line.fixture];
        if (fixture.moves() || !claims_one_of(rig.signals[signal], fixture.claims)) continue;
        const FixtureAxis& axis = fixture.axes[line.axis];
        for (const double part : {0.0, 0.25, 0.5, 0.75}) {
            std::vector<double> values = line.values;
            values[line.axis] = part == 0.0 ? axis.standard : axis.least + part * (axis.most - axis.least);
            LatencyScene<D> found{fixture.scene(values, line.degrees.front()), {}};
            found.clear = found.scene.pose.anchor + 10.0 * size * found.scene.away;
            FixtureScene<D> clear = found.scene;
            clear.pose.anchor = found.clear;
            const Look at = look_at<D>(rig, found.scene);
            const Look off = look_at<D>(rig, clear);
            const bool is_right = at.on.has(signal) && at.intended.has(signal) && !off.on.has(signal) &&
                                  !off.intended.has(signal);
            if (is_right) return found;
        }
    }
    return std::nullopt;
}

/// Ticks until a signal is as asked for with the body at `to`, having been long at `from`.
template <int D>
class LatencyCounter {
  public:
    LatencyCounter(const Rig<D>& rig, const FixtureScene<D>& scene, double tick_seconds)
        : rig_(rig),
          scene_(scene),
          mounted_(rig, scene.level, scene.pose.stance,
                   {scene.pose.heading, scene.pose.velocity, scene.pose.drive, false}),
          seconds_(tick_seconds) {}

    std::optional<std::size_t> count(std::size_t signal, const Vec<D>& from, const Vec<D>& to, bool wanted) {
        RigMemory memory = mounted_.memory();
        const auto ticks_in = [&](double time) { return static_cast<std::size_t>(time / seconds_) + 1; };
        for (std::size_t i = 0; i < ticks_in(2.0); ++i) (void)tick(from, from, memory);
        Vec<D> before = from;
        for (std::size_t i = 0; i < ticks_in(1.0); ++i) {
            if (tick(to, before, memory).has(signal) == wanted) return i;
            before = to;
        }
        return std::nullopt;
    }

  private:
    SignalSet tick(const Vec<D>& anchor, const Vec<D>& before, RigMemory& memory) {
        mounted_.aim({scene_.pose.heading, scene_.pose.velocity, scene_.pose.drive, memory.grounded});
        const auto contacts = touched_by<D>(scene_.level, mounted_, anchor, rig_.intent.touch);
        return mounted_.tick(scene_.level, {anchor, before, seconds_, 0, contacts}, memory);
    }

    const Rig<D>& rig_;
    const FixtureScene<D>& scene_;
    MountedRig<D> mounted_;
    double seconds_;
};

template <int D>
std::vector<SheetLatency> latencies_of(const Rig<D>& rig, const GaugeOptions& options, double size) {
    std::vector<SheetLatency> all;
    for (std::size_t i = 0; i < rig.signals.size(); ++i) {
        if (!rig.signals[i].claims) continue;
        FixtureOptions with = options.fixtures;
        with.layer =
            layer_for<D>(rig, rig.signals[i], with.layer.empty() ? rig.body.meets.front() : with.layer);
        const auto found = latency_scene<D>(rig, i, fixtures_of<D>(rig, with), size);
        for (const double rate : options.tick_rates) {
            if (!(rate > 0.0)) throw InvalidInput("a tick rate must be more than 0");
            if (!found) continue;
            LatencyCounter<D> counter(rig, found->scene, 1.0 / rate);
            const Vec<D>& at = found->scene.pose.anchor;
            all.push_back({rig.signals[i].name, rate, counter.count(i, found->clear, at, true),
                           counter.count(i, at, found->clear, false)});
        }
    }
    return all;
}

}  // namespace

template <int D>
SheetCost cost_of(const Rig<D>& rig, const Level<D>& level, const Pose<D>& pose) {
    const MountedRig<D> mounted(rig, level, pose.stance,
                                {pose.heading, pose.velocity, pose.drive, pose.grounded});
    SheetCost cost;
    const auto look = [&](Sweep<D> sweep, LayerSet layers) {
        sweep.layers = layers;
        level.tree().along(sweep, [&](std::uint32_t, double limit) {
            ++cost.pieces;
            return limit;
        });
    };
    std::vector<Reading<D>> readings(mounted.probes.size());
    (void)mounted.evaluate(level, pose.anchor, readings);
    for (std::size_t i = 0; i < mounted.probes.size(); ++i) {
        const MountedProbe<D>& probe = mounted.probes[i];
        if (!probe.mounted || !probe.aimed || probe.kind == ProbeKind::contact) continue;
        // One that follows another is looked at as if that one had hit nothing on its way.
        Vec<D> anchor = pose.anchor + readings[i].carried;
        if (readings[i].unread) {
            for (const MountedProbe<D>* leader = &probe; !leader->followed.empty();) {
                leader = &leader->followed.front();
                anchor += leader->displacement();
            }
        }
        if (probe.is_line()) {
            for (std::size_t line = 0; line < probe.lines.size(); ++line) {
                ++cost.casts;
                const LevelCast<D> cast = probe.cast(line, anchor);
                look(sweep_of<D>(cast.mover, cast.start, cast.direction, cast.reach), probe.sees);
            }
            continue;
        }
        ++cost.overlaps;
        const Bounds<D> bounds = probe.bounds();
        level.tree().overlapping(Bounds<D>{bounds.low + pose.anchor, bounds.high + pose.anchor}, probe.sees,
                                 [&](std::uint32_t) { ++cost.pieces; });
    }
    return cost;
}

namespace {

/// One line of a data sheet on one layer: the signals that it is about, and what came of them.
struct SheetJob {
    const SheetLine* line;
    std::string layer;
    std::vector<std::size_t> signals;
    std::vector<SheetRow> rows;
};

/// Of the lines asked for. Throws InvalidInput for lines there are not.
template <int D>
std::vector<SheetJob> jobs_of(const Rig<D>& rig, const GaugeOptions& options,
                              const std::vector<Fixture<D>>& fixtures, const std::vector<SheetLine>& lines,
                              const std::string& standard_layer) {
    for (const std::string& name : options.lines) {
        if (std::none_of(lines.begin(), lines.end(),
                         [&](const SheetLine& line) { return line.name == name; }))
            throw InvalidInput("a data sheet has no line '" + name + "'");
    }
    std::vector<SheetJob> jobs;
    for (const SheetLine& line : lines) {
        if (!options.lines.empty() &&
            std::find(options.lines.begin(), options.lines.end(), line.name) == options.lines.end())
            continue;
        const std::size_t first = jobs.size();
        for (std::size_t i = 0; i < rig.signals.size(); ++i) {
            if (!claims_one_of(rig.signals[i], fixtures[line.fixture].claims)) continue;
            const std::string layer = layer_for<D>(rig, rig.signals[i], standard_layer);
            const auto same = std::find_if(jobs.begin() + static_cast<std::ptrdiff_t>(first), jobs.end(),
                                           [&](const SheetJob& job) { return job.layer == layer; });
            if (same != jobs.end()) {
                same->signals.push_back(i);
            } else {
                jobs.push_back({&line, layer, {i}, {}});
            }
        }
    }
    return jobs;
}

}  // namespace

template <int D>
DataSheet<D> gauge(const Rig<D>& rig, const GaugeOptions& options) {
    DataSheet<D> sheet;
    const auto fixtures = fixtures_of<D>(rig, options.fixtures);
    const auto lines = sheet_lines<D>(fixtures);
    sheet.stance = rig.body.stances[options.fixtures.stance].name;
    sheet.layer = options.fixtures.layer.empty() ? rig.body.meets.front() : options.fixtures.layer;
    sheet.size = size_of<D>(rig, options.fixtures.stance);
    std::vector<SheetJob> jobs = jobs_of<D>(rig, options, fixtures, lines, sheet.layer);
    std::atomic<std::size_t> done{0};
    on_threads(options.threads, [&] {
        for_each_index(jobs.size(), [&](std::size_t i) {
            SheetJob& job = jobs[i];
            FixtureOptions with = options.fixtures;
            with.layer = job.layer;
            const auto own = fixtures_of<D>(rig, with);
            const Fixture<D>& fixture = own[job.line->fixture];
            const FixtureAxis& axis = fixture.axes[job.line->axis];
            job.rows =
                LineGauge<D>(rig, fixture, *job.line, sheet.size).rows(axis.least, axis.most, job.signals);
            const std::size_t count = ++done;
            if (options.progress)
                options.progress(static_cast<double>(count) / static_cast<double>(jobs.size()));
        });
    });
    for (SheetJob& job : jobs) std::move(job.rows.begin(), job.rows.end(), std::back_inserter(sheet.rows));
    sheet.latencies = latencies_of<D>(rig, options, sheet.size);
    if (!options.lines.empty()) {
        // Of the signals that the lines asked for are about.
        std::erase_if(sheet.latencies, [&](const SheetLatency& one) {
            return std::none_of(sheet.rows.begin(), sheet.rows.end(),
                                [&](const SheetRow& row) { return row.signal == one.signal; });
        });
    }
    const FixtureScene<D> standing = fixtures.front().scene({0.0}, 0.0);
    sheet.cost = cost_of<D>(rig, standing.level, standing.pose);
    return sheet;
}

template <int D>
std::vector<SheetRow> vary_fixture(const Rig<D>& rig, const VaryRequest& request,
                                   const GaugeOptions& options) {
    const auto fixtures = fixtures_of<D>(rig, options.fixtures);
    const auto known = [](const auto& all) {
        std::string names;
        for (const auto& one : all) names += (names.empty() ? "" : ", ") + one.name;
        return names;
    };
    const auto fixture = std::find_if(fixtures.begin(), fixtures.end(),
                                      [&](const Fixture<D>& one) { return one.name == request.fixture; });
    if (fixture == fixtures.end())
        throw InvalidInput("there is no fixture '" + request.fixture + "', expected one of " +
                           known(fixtures));
    SheetLine line{request.fixture, 0, 0, request.values, {request.turn_degrees}};
    const auto axis = std::find_if(fixture->axes.begin(), fixture->axes.end(),
                                   [&](const FixtureAxis& one) { return one.name == request.axis; });
    if (axis == fixture->axes.end())
        throw InvalidInput("fixture '" + request.fixture + "' has no '" + request.axis +
                           "', expected one of " + known(fixture->axes));
    line.axis = static_cast<std::size_t>(axis - fixture->axes.begin());
    if (line.values.empty()) {
        for (const FixtureAxis& one : fixture->axes) line.values.push_back(one.standard);
    }
    // As far as the decimals of a command line can tell.
    const double hair = 1e-9 * (axis->most - axis->least);
    const double from = std::max(request.from, axis->least);
    const double to = std::min(request.to, axis->most);
    if (!(request.from < request.to) || request.from < axis->least - hair || request.to > axis->most + hair)
        throw InvalidInput("'" + request.axis + "' is to go from " + std::to_string(request.from) + " to " +
                           std::to_string(request.to) + ", expected a range within " +
                           std::to_string(axis->least) + " to " + std::to_string(axis->most));
    std::vector<std::size_t> signals;
    for (std::size_t i = 0; i < rig.signals.size(); ++i) {
        if (claims_one_of(rig.signals[i], fixture->claims)) signals.push_back(i);
    }
    return LineGauge<D>(rig, *fixture, line, size_of<D>(rig, options.fixtures.stance))
        .rows(from, to, signals);
}

template DataSheet<2> gauge<2>(const Rig<2>&, const GaugeOptions&);
template DataSheet<3> gauge<3>(const Rig<3>&, const GaugeOptions&);
template std::vector<SheetRow> vary_fixture<2>(const Rig<2>&, const VaryRequest&, const GaugeOptions&);
template std::vector<SheetRow> vary_fixture<3>(const Rig<3>&, const VaryRequest&, const GaugeOptions&);
template SheetCost cost_of<2>(const Rig<2>&, const Level<2>&, const Pose<2>&);
template SheetCost cost_of<3>(const Rig<3>&, const Level<3>&, const Pose<3>&);

}  // namespace hollow_probe
