// Gauging: where a rig's signals turn on and off on fixtures, beside where they are meant to.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/study/fixture.hpp"

namespace hollow_probe {

/// Both ends were located; at the end of a dimension's range it may go on.
struct Stretch {
    double from = 0.0;
    double to = 0.0;

    [[nodiscard]] double length() const { return to - from; }
};

/// How one signal answers to one dimension of a fixture.
struct ResponseCurve {
    double turn_degrees = 0.0;      // of the body
    bool remembers_ground = false;  // for rigs with a reach that depends on it: the release, else the onset
    std::vector<Stretch> on;        // where the signal is on; in motion: where it is right at every tick
    std::vector<Stretch> intended;  // where truth is
    double missed = 0.0;            // length of what is intended and not on
    double falsely = 0.0;           // … on and not intended

    [[nodiscard]] double wrong() const { return missed + falsely; }
};

/// One signal on one line of a data sheet.
struct SheetRow {
    std::string line;     // "slope up"
    std::string fixture;  // "slope"
    FixtureAxis axis;
    std::string signal;
    bool moves = false;
    std::vector<ResponseCurve> curves;  // one a turn; two for rigs that remember ground
    std::size_t worst = 0;              // of them the one with the most wrong; of equals the first
};

/// How many ticks a signal takes, counted from the first tick at which truth is otherwise; 0 is at once.
/// Nothing: longer than a second.
struct SheetLatency {
    std::string signal;
    double tick_rate = 60.0;
    std::optional<std::size_t> onset;
    std::optional<std::size_t> release;
};

/// What reading the rig takes, the body standing on a fixture's floor or where it was asked for.
struct SheetCost {
    std::size_t casts = 0;                        // lines swept, spreads counted line by line
    std::size_t overlaps = 0;                     // zones and shifts
    std::size_t pieces = 0;                       // that the index offers for them, and are looked at exactly
    std::optional<std::size_t> allocations = {};  // of memory, a tick; nothing: nobody counted
};

template <int D>
struct DataSheet {
    std::string stance;
    std::string layer;
    double size = 0.0;  // of the stance: what limits are located in millionths of
    std::vector<SheetRow> rows;
    std::vector<SheetLatency> latencies;  // of each signal that is judged, rate by rate
    SheetCost cost;
};

struct GaugeOptions {
    FixtureOptions fixtures;
    std::vector<std::string> lines;  // of the sheet, by name, and latencies of their signals; empty takes all
    std::vector<double> tick_rates = {30.0, 60.0, 120.0};  // for latencies; > 0
    int threads = 0;                       // 0 takes all cores. The result does not depend on it
    std::function<void(double)> progress;  // the part done, 0 to 1, from any thread
};

/// The data sheet of a rig: every signal on the fixtures that are about what it claims. Each dimension is
/// looked at in 160 steps, where what is intended changes and at 0; what changes between two looks is
/// bisected to a millionth of the body (angles: of 90 degrees; in motion 24 steps, and a thousandth). Two
/// changes of one signal between neighbouring looks may be overlooked. The body stands as truth says; signals
/// are read as after a long stay, `settle`, `grace` and events aside: those are in the latencies.
///
/// A signal limited to layers by `of` is measured on the first of them that the body meets. Throws
/// InvalidInput for what fixtures_of() refuses, and for lines there are not.
template <int D>
DataSheet<D> gauge(const Rig<D>& rig, const GaugeOptions& options = {});

/// One dimension of one fixture from `from` to `to` in steps, the others as given (empty: their standards).
struct VaryRequest {
    std::string fixture;
    std::string axis;
    double from = 0.0;
    double to = 0.0;
    std::vector<double> values;
    double turn_degrees = 0.0;
};

/// … for every signal that the fixture is about.
template <int D>
std::vector<SheetRow> vary_fixture(const Rig<D>& rig, const VaryRequest& request,
                                   const GaugeOptions& options = {});

/// What reading the rig at a pose of a level takes.
template <int D>
SheetCost cost_of(const Rig<D>& rig, const Level<D>& level, const Pose<D>& pose);

extern template DataSheet<2> gauge<2>(const Rig<2>&, const GaugeOptions&);
extern template DataSheet<3> gauge<3>(const Rig<3>&, const GaugeOptions&);
extern template std::vector<SheetRow> vary_fixture<2>(const Rig<2>&, const VaryRequest&, const GaugeOptions&);
extern template std::vector<SheetRow> vary_fixture<3>(const Rig<3>&, const VaryRequest&, const GaugeOptions&);
extern template SheetCost cost_of<2>(const Rig<2>&, const Level<2>&, const Pose<2>&);
extern template SheetCost cost_of<3>(const Rig<3>&, const Level<3>&, const Pose<3>&);

}  // namespace hollow_probe
