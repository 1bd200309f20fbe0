// The data sheet against closed forms: where contact, reach and angle limits must lie on each fixture.
#include <catch2/catch.hpp>

#include <set>

#include "hollow_probe/report/compare_text.hpp"
#include "hollow_probe/report/sheet_text.hpp"
#include "hollow_probe/report/vary_text.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/study/compare.hpp"
#include "hollow_probe/study/gauge.hpp"
#include "hollow_probe/study/vary.hpp"
#include "scenes.hpp"

using namespace hollow_probe;

namespace {

double radians_from(double angle) {
    return angle * std::numbers::pi / 180.0;
}

template <int D>
Rig<D> body_rig(const Stance<D>& stance) {
    Rig<D> rig;
    rig.body.meets = {"stone"};
    rig.body.stances = {stance};
    return rig;
}

template <int D>
Probe<D> down_ray(double above, double reach) {
    Probe<D> probe;
    probe.name = "ray";
    probe.line().from = above * Vec<D>::unit(1);
    probe.line().reach = reach;
    probe.sees = {"stone"};
    return probe;
}

template <int D>
Signal claiming(Claim claim, const std::string& probe = "ray") {
    Signal signal;
    signal.name = name_of(claim);
    signal.claims = claim;
    signal.members.any = {probe};
    return signal;
}

template <int D>
const SheetRow& row_of(const DataSheet<D>& sheet, const std::string& line) {
    for (const SheetRow& row : sheet.rows) {
        if (row.line == line) return row;
    }
    FAIL("no line " << line);
    throw 0;
}

/// One stretch, with these ends; NaN: the end of the range.
void holds(const std::vector<Stretch>& stretches, const FixtureAxis& axis, double from, double to,
           double within) {
    INFO(axis.name << " " << from << " to " << to);
    REQUIRE(stretches.size() == 1);
    CHECK(stretches[0].from == Approx(std::isnan(from) ? axis.least : from).margin(within));
    CHECK(stretches[0].to == Approx(std::isnan(to) ? axis.most : to).margin(within));
}

constexpr double open = std::numeric_limits<double>::quiet_NaN();

/// Every stretch of intent on the ground lines, for a body with a round end of radius r (0: a box, half w).
template <int D>
void hold_round_ground(const DataSheet<D>& sheet, double r, double footing, double touch, double size) {
    const double within = 3e-6 * size;
    const double degrees_within = 3e-4;
    for (const SheetRow& row : sheet.rows) {
        if (row.signal != "ground") continue;
        for (const ResponseCurve& curve : row.curves) {
            INFO(row.line << " turned " << curve.turn_degrees);
            if (row.line == "floor") holds(curve.intended, row.axis, open, touch, within);
            if (row.line.starts_with("slope")) holds(curve.intended, row.axis, open, footing, degrees_within);
            if (row.line == "valley") holds(curve.intended, row.axis, open, footing, degrees_within);
            // The corner is met where the round end is as steep as footing may be.
            if (row.line.starts_with("lip") || row.line == "corner")
                holds(curve.intended, row.axis, open, r * std::sin(radians_from(footing)), within);
            if (row.line == "slot below")
                holds(curve.intended, row.axis, open, 2.0 * r * std::sin(radians_from(footing)), within);
            if (row.line == "one-way deck") holds(curve.intended, row.axis, -touch, touch, within);
            if (row.line == "ridge") holds(curve.intended, row.axis, open, open, within);
        }
    }
}

}  // namespace

TEST_CASE("what is intended on the ground lines is where the closed forms say, for round bodies") {
    for (const double radius : {0.2, 0.45}) {
        for (const double footing : {30.0, 45.0, 52.0}) {
            Rig<2> flat = body_rig<2>(Stance<2>::capsule("upright", radius, 1.7));
            flat.intent.steepest_footing_degrees = footing;
            flat.intent.touch = 0.03;
            flat.probes = {down_ray<2>(0.5, 0.6)};
            flat.signals = {claiming<2>(Claim::ground)};
            hold_round_ground<2>(gauge<2>(flat), radius, footing, 0.03, 1.7);
            Rig<3> solid = body_rig<3>(Stance<3>::ball("ball", radius));
            solid.intent.steepest_footing_degrees = footing;
            solid.intent.touch = 0.01;
            solid.probes = {down_ray<3>(0.5, 0.6)};
            solid.signals = {claiming<3>(Claim::ground)};
            hold_round_ground<3>(gauge<3>(solid), radius, footing, 0.01, 2.0 * radius);
        }
    }
}

TEST_CASE("a ray's limits on the ground lines are where the closed forms say") {
    for (const double radius : {0.25, 0.4}) {
        for (const double reach : {0.55, 0.7}) {
            const double above = 0.5;
            Rig<3> rig = body_rig<3>(Stance<3>::capsule("upright", radius, 1.6));
            rig.probes = {down_ray<3>(above, reach)};
            rig.signals = {claiming<3>(Claim::ground)};
            const DataSheet<3> sheet = gauge<3>(rig);
            const double within = 3e-6 * 1.6;
            const double spare = reach - above;  // below the anchor
            // Below a body at rest on a slope of angle a the surface is r (1 / cos a - 1) below the anchor.
            const double steepest = std::acos(radius / (radius + spare)) * 180.0 / std::numbers::pi;
            for (const SheetRow& row : sheet.rows) {
                for (const ResponseCurve& curve : row.curves) {
                    INFO(row.line << " turned " << curve.turn_degrees);
                    if (row.line == "floor") holds(curve.on, row.axis, open, spare, within);
                    if (row.line.starts_with("slope")) holds(curve.on, row.axis, open, steepest, 3e-4);
                    // The ray leaves the floor with the anchor.
                    if (row.line.starts_with("lip") || row.line == "corner")
                        holds(curve.on, row.axis, open, 0.0, within);
                    // What it has sunk into by touch it stands on.
                    if (row.line == "one-way deck")
                        holds(curve.on, row.axis, -above - rig.intent.touch, spare, within);
                }
            }
            const SheetRow& floor = row_of<3>(sheet, "floor");
            CHECK(floor.curves[floor.worst].falsely == Approx(spare - rig.intent.touch).margin(within));
            CHECK(floor.curves[floor.worst].missed == 0.0);
        }
    }
}

TEST_CASE("a box's limits on lips, slots and slopes are where the closed forms say") {
    for (const double width : {0.5, 0.8}) {
        Rig<2> rig = body_rig<2>(Stance<2>::box("crate", {width, 1.2}));
        Probe<2> sole = down_ray<2>(0.1, 0.13);
        sole.line().shape = RoundedHull<2>::box({0, 0}, {width, 0.1});
        sole.name = "sole";
        rig.probes = {sole};
        rig.signals = {claiming<2>(Claim::ground, "sole")};
        const DataSheet<2> sheet = gauge<2>(rig);
        const double within = 3e-6 * 1.2;
        for (const SheetRow& row : sheet.rows) {
            for (const ResponseCurve& curve : row.curves) {
                INFO(row.line << " turned " << curve.turn_degrees);
                // A flat sole stands as long as anything is below it, and so does the cast, which starts 0.05
                // above the sole and may go 0.13 - 0.05 farther.
                if (row.line.starts_with("lip")) {
                    holds(curve.intended, row.axis, open, 0.5 * width, within);
                    holds(curve.on, row.axis, open, 0.5 * width, within);
                }
                if (row.line == "slot below") holds(curve.intended, row.axis, open, width, within);
                if (row.line == "floor") holds(curve.on, row.axis, open, 0.08, within);
                if (row.line == "floor") holds(curve.intended, row.axis, open, rig.intent.touch, within);
            }
        }
    }
}

TEST_CASE("limits ahead and above are where the closed forms say") {
    for (const double radius : {0.2, 0.35}) {
        Rig<3> rig = body_rig<3>(Stance<3>::capsule("upright", radius, 1.8));
        rig.intent.ahead_wall = 0.1;
        rig.intent.ahead_drop = 0.4;
        rig.intent.deepest_drop = 0.5;
        rig.intent.ceiling_within_degrees = 50.0;
        Probe<3> ahead = down_ray<3>(0.9, radius + 0.25);
        ahead.name = "nose";
        ahead.line().along = Vec<3>::unit(0);
        Probe<3> above = down_ray<3>(1.0, 0.9);
        above.name = "crown";
        above.line().along = Vec<3>::unit(1);
        Probe<3> edge = down_ray<3>(0.2, 0.9);
        edge.name = "toe";
        edge.line().from[0] = 0.3;
        rig.probes = {ahead, above, edge};
        Signal drop = claiming<3>(Claim::drop, "toe");
        std::swap(drop.members.any, drop.members.none);
        rig.signals = {claiming<3>(Claim::wall, "nose"), claiming<3>(Claim::ceiling, "crown"), drop};
        const DataSheet<3> sheet = gauge<3>(rig);
        const double within = 3e-6 * 1.8;
        for (const SheetRow& row : sheet.rows) {
            for (const ResponseCurve& curve : row.curves) {
                INFO(row.line << " turned " << curve.turn_degrees << " " << row.signal);
                if (row.signal == "wall" && row.line.starts_with("wall a")) {
                    holds(curve.intended, row.axis, open, 0.1, within);
                    // The round body touches at its side: r (1 / cos t - 1) nearer than its front.
                    const double t = radians_from(curve.turn_degrees);
                    const double spare = radius + 0.25 - radius / std::cos(t);
                    if (spare > row.axis.most) {
                        holds(curve.on, row.axis, open, open, within);
                    } else if (spare > 0.0) {
                        holds(curve.on, row.axis, open, spare, within);
                    } else {
                        CHECK(curve.on.empty());
                    }
                }
                if (row.line == "drop ahead") {
                    holds(curve.intended, row.axis, open, 0.4, within);
                    holds(curve.on, row.axis, open, 0.3, within);
                }
                if (row.line == "drop depth") {
                    holds(curve.intended, row.axis, 0.5, open, within);
                    holds(curve.on, row.axis, 0.7, open, within);
                }
                if (row.line == "ceiling") {
                    holds(curve.intended, row.axis, open, rig.intent.touch, within);
                    holds(curve.on, row.axis, open, 0.1, within);
                }
                if (row.line == "ceiling, sloped") {
                    holds(curve.intended, row.axis, open, 50.0, 3e-4);
                    // Above the crown a sloped ceiling that touches is gap + r (1 / cos a - 1) away.
                    const double a = std::acos(radius / (radius + 0.1 - 0.5 * rig.intent.touch));
                    holds(curve.on, row.axis, open, a * 180.0 / std::numbers::pi, 3e-4);
                }
            }
        }
    }
}

TEST_CASE("steps, ledges and headroom are measured at their limits") {
    Rig<2> rig = body_rig<2>(Stance<2>::box("crate", {0.6, 1.5}));
    rig.body.stances.push_back(Stance<2>::box("low", {0.6, 0.5}));
    rig.intent.lowest_step = 0.08;
    rig.intent.tallest_step = 0.31;
    rig.intent.ledge_between = {0.6, 1.1};
    rig.intent.ahead_ledge = 0.2;
    rig.probes = {down_ray<2>(0.4, 0.5)};
    Signal headroom = claiming<2>(Claim::headroom);
    headroom.stance = "crate";
    Signal ledge = claiming<2>(Claim::ledge);
    ledge.stance = "low";
    rig.signals = {claiming<2>(Claim::step), headroom, ledge};
    const DataSheet<2> sheet = gauge<2>(rig);
    const double within = 3e-6 * 1.5;
    const auto intended = [&](const std::string& line, const std::string& signal, double from, double to) {
        for (const SheetRow& row : sheet.rows) {
            if (row.line != line || row.signal != signal) continue;
            INFO(line);
            holds(row.curves.at(0).intended, row.axis, from, to, within);
            return;
        }
        FAIL("no line " << line);
    };
    intended("step up", "step", 0.08, 0.31);
    intended("step ahead", "step", open, rig.intent.ahead_step);
    intended("ledge height", "ledge", 0.6, 1.1);
    intended("ledge ahead", "ledge", open, 0.2);
    // Where it stands up it may clip by touch.
    intended("low passage", "headroom", 1.5 - rig.intent.touch, open);
}

TEST_CASE("a rig that remembers ground has a release beyond its onset") {
    Rig<2> rig = body_rig<2>(Stance<2>::capsule("upright", 0.3, 1.8));
    Probe<2> ray = down_ray<2>(0.4, 0.45);
    ray.line().reach_grounded = 0.65;
    rig.probes = {ray};
    rig.signals = {claiming<2>(Claim::ground)};
    const SheetRow floor = row_of<2>(gauge<2>(rig), "floor");
    REQUIRE(floor.curves.size() == 4);
    for (const ResponseCurve& curve : floor.curves)
        holds(curve.on, floor.axis, open, curve.remembers_ground ? 0.25 : 0.05, 6e-6);
    CHECK(floor.curves[floor.worst].remembers_ground);
}

TEST_CASE("latencies are counted in ticks") {
    Rig<2> rig = body_rig<2>(Stance<2>::capsule("upright", 0.3, 1.8));
    rig.probes = {down_ray<2>(0.4, 0.42)};
    rig.signals = {claiming<2>(Claim::ground)};
    rig.signals[0].settle = 0.1;
    rig.signals[0].grace = 0.05;
    GaugeOptions options;
    options.lines = {"floor"};
    options.tick_rates = {50.0, 100.0};
    // Held since the first tick on: at 50 a second 0.1 s are 5 ticks.
    const DataSheet<2> sheet = gauge<2>(rig, options);
    REQUIRE(sheet.latencies.size() == 2);
    CHECK(sheet.latencies[0].onset == 5);
    CHECK(sheet.latencies[1].onset == 10);
    // The last tick on is one before the first off; 0.05 s after it grace has gone by.
    CHECK(sheet.latencies[0].release == 2);
    CHECK(sheet.latencies[1].release == 5);
    rig.signals[0].settle = rig.signals[0].grace = 0.0;
    rig.reads = Reads::before_move;
    const DataSheet<2> late = gauge<2>(rig, options);
    CHECK(late.latencies[0].onset == 1);
    CHECK(late.latencies[0].release == 1);
}

TEST_CASE("what is measured does not depend on where the level's layers and the body's other stances are") {
    Rig<3> rig = body_rig<3>(Stance<3>::capsule("upright", 0.3, 1.8));
    rig.probes = {down_ray<3>(0.4, 0.5)};
    rig.signals = {claiming<3>(Claim::ground)};
    const DataSheet<3> alone = gauge<3>(rig);
    Rig<3> more = rig;
    more.body.stances.push_back(Stance<3>::box("low", {1.0, 0.5, 0.8}));
    more.body.meets = {"mud", "stone"};
    GaugeOptions options;
    options.fixtures.layer = "stone";
    options.threads = 1;
    const DataSheet<3> other = gauge<3>(more, options);
    REQUIRE(alone.rows.size() == other.rows.size());
    for (std::size_t i = 0; i < alone.rows.size(); ++i) {
        for (std::size_t k = 0; k < alone.rows[i].curves.size(); ++k) {
            const ResponseCurve& a = alone.rows[i].curves[k];
            const ResponseCurve& b = other.rows[i].curves[k];
            CHECK(a.missed == b.missed);
            CHECK(a.falsely == b.falsely);
        }
    }
    // The ray does not see what is asked for by default.
    const DataSheet<3> unseen = gauge<3>(more);
    for (const SheetRow& row : unseen.rows) {
        if (row.line == "floor") CHECK(row.curves[0].on.empty());
    }
}

TEST_CASE("what reading takes is counted line by line") {
    Rig<2> rig = body_rig<2>(Stance<2>::capsule("upright", 0.3, 1.8));
    Probe<2> row = down_ray<2>(0.4, 0.5);
    row.line().spread.kind = SpreadKind::row;
    row.line().spread.count = 5;
    row.line().spread.width = 0.4;
    Probe<2> zone;
    zone.name = "zone";
    zone.of_kind = ZoneProbe<2>{RoundedHull<2>::ball({0, 0}, 0.2)};
    zone.sees = {"stone"};
    rig.probes = {row, zone};
    rig.signals = {claiming<2>(Claim::ground)};
    const DataSheet<2> sheet = gauge<2>(rig);
    CHECK(sheet.cost.casts == 5);
    CHECK(sheet.cost.overlaps == 1);
    CHECK(sheet.cost.pieces == 6);
}

TEMPLATE_TEST_CASE_SIG("fixtures can be made for any body and intent, at every line of the sheet", "",
                       ((int D), D), 2, 3) {
    scenes::Random random(41);
    for (int i = 0; i < (D == 2 ? 200 : 60); ++i) {
        Rig<D> rig;
        rig.body.meets = {"m"};
        const double radius = random.between(0.1, 0.8);
        Vec<D> size = Vec<D>::constant(2.0 * radius);
        size[1] = random.between(0.5, 3.0);
        rig.body.stances = {random.below(2) == 0 ? Stance<D>::box("upright", size)
                                                 : Stance<D>::ball("upright", radius)};
        Intent& intent = rig.intent;
        intent.touch = random.between(0.001, 0.1);
        intent.steepest_footing_degrees = random.between(5.0, 85.0);
        intent.lowest_step = random.between(0.0, 0.2);
        intent.tallest_step = intent.lowest_step + random.between(0.01, 1.0);
        intent.ahead_wall = random.between(0.0, 1.5);
        intent.ahead_step = random.between(0.0, 1.5);
        intent.ahead_drop = random.between(0.0, 2.0);
        intent.deepest_drop = random.between(0.0, 3.0);
        intent.ahead_ledge = random.between(0.0, 2.0);
        intent.ledge_between = {random.between(0.1, 1.0), random.between(1.0, 4.0)};
        const auto fixtures = fixtures_of<D>(rig);
        for (const Fixture<D>& fixture : fixtures) {
            for (const FixtureAxis& axis : fixture.axes) {
                CAPTURE(i, fixture.name, axis.name, axis.least, axis.most, axis.standard);
                CHECK(axis.least < axis.most);
                CHECK(axis.standard >= axis.least);
                CHECK(axis.standard <= axis.most);
            }
        }
        for (const SheetLine& line : sheet_lines<D>(fixtures)) {
            const FixtureAxis& axis = fixtures[line.fixture].axes[line.axis];
            for (const double value : {axis.least, axis.most}) {
                std::vector<double> values = line.values;
                values[line.axis] = value;
                CAPTURE(i, line.name, value);
                CHECK_NOTHROW(fixtures[line.fixture].scene(values, line.degrees.front()));
            }
        }
    }
}

TEST_CASE("fixtures and lines there are not, and values out of range, are refused") {
    Rig<2> rig = body_rig<2>(Stance<2>::capsule("upright", 0.3, 1.8));
    rig.probes = {down_ray<2>(0.4, 0.5)};
    rig.signals = {claiming<2>(Claim::ground)};
    GaugeOptions options;
    options.lines = {"slop up"};
    CHECK_THROWS_WITH(gauge<2>(rig, options), Catch::Contains("no line 'slop up'"));
    CHECK_THROWS_WITH(vary_fixture<2>(rig, {"slopes", "angle", 0, 80, {}, 0}), Catch::Contains("slope, lip"));
    CHECK_THROWS_WITH(vary_fixture<2>(rig, {"slope", "tilt", 0, 80, {}, 0}), Catch::Contains("one of angle"));
    CHECK_THROWS_WITH(vary_fixture<2>(rig, {"slope", "angle", 0, 88, {}, 0}), Catch::Contains("within"));
    CHECK_THROWS_WITH(vary_fixture<2>(rig, {"slope", "angle", 40, 40, {}, 0}), Catch::Contains("range"));
    CHECK_THROWS_AS(fixtures_of<2>(rig, {1, "", 0.0}), InvalidInput);
    CHECK_THROWS_WITH(fixtures_of<2>(rig, {0, "water", 0.0}), Catch::Contains("water"));
    for (const Fixture<2>& fixture : fixtures_of<2>(rig)) {
        std::vector<double> values;
        for (const FixtureAxis& axis : fixture.axes) {
            CHECK(axis.least <= axis.standard);
            CHECK(axis.standard <= axis.most);
            values.push_back(axis.standard);
        }
        CHECK_NOTHROW(fixture.scene(values, 0.0));
        values.front() = fixture.axes.front().most + 1.0;
        CHECK_THROWS_WITH(fixture.scene(values, 0.0), Catch::Contains("out of range"));
        values.push_back(0.0);
        CHECK_THROWS_AS(fixture.scene(values, 0.0), InvalidInput);
    }
}

TEST_CASE("a setting varied over a level: what is wrong grows with the distance from what is right") {
    LevelBuilder<2> builder({"stone"});
    builder.add("floor", "stone", RoundedHull<2>::box({0, -0.5}, {12, 1}));
    const Level<2> level = builder.build();
    Rig<2> rig = body_rig<2>(Stance<2>::box("crate", {0.6, 1.5}));
    Probe<2> sole = down_ray<2>(0.2, 0.3);
    sole.line().shape = RoundedHull<2>::box({0, 0}, {0.6, 0.2});
    sole.name = "sole";
    rig.probes = {sole};
    rig.signals = {claiming<2>(Claim::ground, "sole")};
    SurveyOptions options;
    options.budget = 3000;
    options.region = {-4.0, -1.0, 4.0, 2.0};  // away from the floor's ends
    // The cast starts 0.1 above the anchor and is right where it ends at touch below.
    const double right = 0.1 + rig.intent.touch;
    const VaryCurve curve =
        vary_setting<2>(level, rig, "probe.sole.reach", right - 0.06, right + 0.06, 6, options);
    REQUIRE(curve.points.size() == 7);
    CHECK(curve.now == 0.3);
    for (const VaryPoint& point : curve.points) {
        INFO(point.value);
        const double off = point.value - right;
        // Both headings. Ground is true from touch within the floor to touch above it.
        const double whole = 2.0 * 8.0;
        const double missed = off < -1e-9 ? std::min(-off, 2.0 * rig.intent.touch) : 0.0;
        CHECK(point.wrong.missed == Approx(whole * missed).margin(0.02));
        CHECK(point.wrong.falsely == Approx(off > 1e-9 ? whole * off : 0.0).margin(0.02));
    }
    REQUIRE(curve.right.size() == 1);
    CHECK(curve.right[0].from == Approx(right).margin(1.2e-4));
    CHECK(curve.right[0].to == Approx(right).margin(1.2e-4));
    CHECK_FALSE(curve.on_fixtures);
    CHECK(vary_setting<2>(level, rig, "probe.sole.shape.size[0]", 0.3, 0.6, 1, options).setting ==
          "probe.sole.shape.box.size[0]");
    CHECK_THROWS_WITH(
        vary_setting<2>(level, rig, "probe.soul.reach", 0.1, 0.2, 2, options),
        Catch::Contains("there is no setting 'probe.soul.reach', expected one of probe.sole.…"));
    CHECK_THROWS_WITH(vary_setting<2>(level, rig, "probe.sole.accept.angle", 0.1, 0.2, 2, options),
                      Catch::Contains("probe.sole.accept.angle[0], probe.sole.accept.angle[1]"));
    CHECK_THROWS_WITH(vary_setting<2>(level, rig, "probe.sole.take", 0.1, 0.2, 2, options),
                      Catch::Contains("no number"));
}

TEST_CASE("a setting varied on fixtures is wrong by the parts of lines that it misses") {
    // Of a floor below, ground is true up to touch; a ray from 0.4 above the anchor tells it up to what is
    // left of its reach.
    Rig<2> rig = body_rig<2>(Stance<2>::box("crate", {0.6, 1.5}));
    rig.probes = {down_ray<2>(0.4, 0.42)};
    rig.signals = {claiming<2>(Claim::ground)};
    const double touch = rig.intent.touch;
    GaugeOptions options;
    options.lines = {"floor"};
    std::vector<double> parts;
    options.progress = [&](double part) { parts.push_back(part); };
    const VaryCurve curve = vary_setting<2>(rig, "probe.ray.reach", 0.4, 0.46, 6, options);
    REQUIRE(parts.size() == 7);
    for (std::size_t i = 0; i < parts.size(); ++i) CHECK(parts[i] == Approx(static_cast<double>(i) / 6.0));
    const Fixture<2> floor = fixtures_of<2>(rig, options.fixtures).front();
    REQUIRE(floor.name == "floor");
    const FixtureAxis& gap = floor.axes.front();
    const double range = gap.most - gap.least;
    CHECK(curve.on_fixtures);
    REQUIRE(curve.points.size() == 7);
    for (const VaryPoint& point : curve.points) {
        INFO(point.value);
        const double told = point.value - 0.4;
        CHECK(point.wrong.missed * range == Approx(std::max(touch - told, 0.0)).margin(1e-5));
        CHECK(point.wrong.falsely * range == Approx(std::max(told - touch, 0.0)).margin(1e-5));
        CHECK(point.wrong.missed_poses == (told < touch - 1e-9 ? 1 : 0));
        CHECK(point.wrong.false_poses == (told > touch + 1e-9 ? 1 : 0));
        CHECK(point.severity == Approx(point.wrong.whole()).margin(1e-9));
        if (told <= 0.0) continue;
        CHECK(point.recall() == Approx(std::min(told, touch) / touch).margin(1e-4));
        CHECK(point.precision() == Approx(std::min(told, touch) / told).margin(1e-4));
    }
    REQUIRE(curve.right.size() == 1);
    CHECK(curve.right[0].from == Approx(0.4 + touch).margin(1e-4));
    CHECK(curve.right[0].to == Approx(0.4 + touch).margin(1e-4));
    // The rig's own value is looked at, too, in its place.
    const VaryCurve own = vary_setting<2>(rig, "probe.ray.reach", 0.4, 0.45, 4, options);
    REQUIRE(own.points.size() == 6);
    CHECK(own.points[2].value == 0.42);
    CHECK(own.points[2].wrong.poses() == 0);
    CHECK(std::is_sorted(own.points.begin(), own.points.end(),
                         [](const VaryPoint& a, const VaryPoint& b) { return a.value < b.value; }));
    // By the fixture's name all its lines: what the slope has up and down is in both.
    GaugeOptions all;
    const VaryCurve slopes = vary_setting<2>(rig, "probe.ray.reach", 0.41, 0.43, 1, all, "slope");
    all.lines = {"slope up", "slope down"};
    const VaryCurve both = vary_setting<2>(rig, "probe.ray.reach", 0.41, 0.43, 1, all);
    CHECK(slopes.points[0].wrong.missed == both.points[0].wrong.missed);
    CHECK(slopes.points[0].wrong.missed_poses == 2);
    CHECK_THROWS_WITH(vary_setting<2>(rig, "probe.ray.reach", 0.4, 0.5, 2, all, "hill"),
                      Catch::Contains("expected one of floor, slope"));
}

namespace {

Level<2> long_floor() {
    LevelBuilder<2> builder({"stone"});
    builder.add("floor", "stone", RoundedHull<2>::box({0, -0.5}, {12, 1}));
    return builder.build();
}

Rig<2> crate_with_ray(double reach) {
    Rig<2> rig = body_rig<2>(Stance<2>::box("crate", {0.6, 1.5}));
    rig.probes = {down_ray<2>(0.4, reach)};
    rig.signals = {claiming<2>(Claim::ground)};
    return rig;
}

SurveyOptions away_from_ends() {
    SurveyOptions options;
    options.budget = 3000;
    options.region = {-4.0, -1.0, 4.0, 2.0};
    options.most_tried = 0;
    return options;
}

}  // namespace

TEST_CASE("two rigs differ where one of them is wrong, by as much as the closed form says") {
    const Level<2> level = long_floor();
    const SurveyOptions options = away_from_ends();
    const Rig<2> right = crate_with_ray(0.42);
    const Rig<2> lower = crate_with_ray(0.41);  // misses the upper half of touch
    const Rig<2> longer = crate_with_ray(0.47);
    const auto surveyed = [&](const Rig<2>& rig) { return survey<2>(level, rig, options); };
    const auto held = [&](const Rig<2>& a, const Rig<2>& b) {
        return hold_side_by_side<2>(level, a, surveyed(a), b, surveyed(b), options);
    };
    const RigPair<2> same = held(right, right);
    CHECK(same.differences.empty());
    CHECK(same.only_first_right + same.only_second_right + same.both_wrong == 0);
    for (const auto& [other, off, verdict] :
         {std::tuple{lower, 0.01, Verdict::missed_contact}, {longer, 0.05, Verdict::false_contact}}) {
        const RigPair<2> pair = held(right, other);
        CHECK(pair.only_second_right == 0);
        CHECK(pair.only_first_right > 0);
        REQUIRE(!pair.differences.empty());
        double measure = 0.0;
        for (const RigDifference<2>& one : pair.differences) {
            CHECK(one.first_is_right);
            CHECK(one.verdict == verdict);
            CHECK(one.stance == "crate");
            measure += one.measure;
            // The place is where the rigs differ indeed.
            const Pose<2> pose = one.facing.pose(one.anchor);
            const MountedRig<2> a(right, level, 0, pose.heading);
            const MountedRig<2> b(other, level, 0, pose.heading);
            CHECK(a.evaluate(level, pose.anchor) != b.evaluate(level, pose.anchor));
            CHECK(all_at_most(one.bounds.low, one.anchor));
            CHECK(all_at_most(one.anchor, one.bounds.high));
        }
        // Both headings; the survey of the right rig has half of what the other's has or more.
        CHECK(measure <= 16.0 * off * 1.01);
        CHECK(measure >= 0.5 * 16.0 * off * 0.99);
        const RigPair<2> turned = held(other, right);
        CHECK(turned.only_second_right == pair.only_first_right);
        CHECK(turned.cured.size() == pair.fresh.size());
        CHECK(turned.differences.size() == pair.differences.size());
    }
    // Wrong in opposite ways: each is right where the other is not, and both nowhere wrong together.
    const RigPair<2> crossed = held(lower, longer);
    CHECK(crossed.only_first_right > 0);
    CHECK(crossed.only_second_right > 0);
    CHECK(crossed.both_wrong == 0);
}

TEST_CASE("both rigs on one body say what each says alone") {
    const Level<2> level = long_floor();
    Rig<2> first = crate_with_ray(0.42);
    Rig<2> second = crate_with_ray(0.6);
    second.body.stances.push_back(Stance<2>::box("low", {0.6, 0.5}));
    second.signals.push_back(claiming<2>(Claim::headroom));
    second.signals[1].stance = "crate";
    second.signals[1].members.any = {"ground"};
    const Rig<2> both = both_rigs<2>(first, "A", second, "B");
    REQUIRE(both.signals.size() == 3);
    CHECK(both.signals[2].name == "B: headroom");
    CHECK(both.body.stances.size() == 2);
    for (const double height : {0.0, 0.01, 0.05, 0.15, 0.3}) {
        const Vec<2> anchor(0.0, height);
        const auto said = [&](const Rig<2>& rig) {
            return MountedRig<2>(rig, level, 0, {1, 0}).evaluate(level, anchor);
        };
        CHECK(said(both).has(0) == said(first).has(0));
        CHECK(said(both).has(1) == said(second).has(0));
        CHECK(said(both).has(2) == said(second).has(1));
    }
    // The first's probe is not mounted in a stance that the first does not have.
    CHECK_FALSE(MountedRig<2>(both, level, 1, {1, 0}).probes[0].mounted);
}

TEST_CASE("the front is what none beats: by brute force over random scores") {
    scenes::Random random(7);
    for (int run = 0; run < 50; ++run) {
        std::vector<RigScore> scores(6);
        for (RigScore& score : scores) {
            score.wrong.missed = random.below(3);
            score.wrong.falsely = random.below(3);
            score.casts = static_cast<std::size_t>(random.below(3));
            score.flicker = static_cast<std::size_t>(random.below(2));
        }
        const auto values = [](const RigScore& score) {
            return std::array{score.wrong.missed, score.wrong.falsely, static_cast<double>(score.casts),
                              static_cast<double>(score.flicker)};
        };
        const std::vector<std::size_t> front = front_of(scores);
        for (std::size_t i = 0; i < scores.size(); ++i) {
            bool beaten = false;
            for (const RigScore& other : scores) {
                bool no_worse = true;
                bool better = false;
                for (std::size_t k = 0; k < 4; ++k) {
                    no_worse = no_worse && values(other)[k] <= values(scores[i])[k];
                    better = better || values(other)[k] < values(scores[i])[k];
                }
                beaten = beaten || (no_worse && better);
            }
            CHECK((std::find(front.begin(), front.end(), i) == front.end()) == beaten);
        }
    }
}

TEST_CASE("what two rigs have otherwise is told field by field, and where their bodies or intents differ") {
    const Level<2> level = long_floor();
    const SurveyOptions options = away_from_ends();
    Rig<2> first = crate_with_ray(0.42);
    Rig<2> second = crate_with_ray(0.5);
    Rig<2> third = crate_with_ray(0.42);
    third.intent.touch = 0.03;
    third.probes.push_back(down_ray<2>(0.2, 0.3));
    third.probes.back().name = "spare";
    LevelSurveys<2> on{"floor", &level, {}, options};
    for (const Rig<2>* rig : {&first, &second, &third}) on.surveys.push_back(survey<2>(level, *rig, options));
    const std::vector<LevelSurveys<2>> levels = {on};
    const auto pairs = compare_pairs<2>({&first, &second, &third}, levels);
    REQUIRE(pairs.size() == 3);
    REQUIRE(pairs[0].changes.size() == 1);
    CHECK(pairs[0].changes[0].key == "reach");
    CHECK_FALSE(pairs[0].intents_differ);
    REQUIRE(pairs[1].changes.size() == 1);
    CHECK(pairs[1].changes[0].table == "intent");
    CHECK(pairs[1].changes[0].key == "touch");
    CHECK(pairs[1].intents_differ);
    CHECK(pairs[1].only_in_second == std::vector<std::string>{"probe \"spare\""});
    CHECK(pairs[2].only_in_first.empty());
    const RigScore score = survey_score<2>(second, 1, levels);
    CHECK(score.wrong.falsely == on.surveys[1].wrong.falsely);
    CHECK(score.findings == on.surveys[1].findings.size());
    CHECK(score.casts == 1);
}

TEST_CASE("at a limit itself, where rounding decides truth, nothing is told as wrong") {
    Rig<2> rig = body_rig<2>(Stance<2>::capsule("upright", 0.3, 1.8));
    rig.intent.ceiling_within_degrees = 50.0;
    Probe<2> crown = down_ray<2>(1.5, rig.intent.touch);
    crown.name = "crown";
    crown.line().shape = RoundedHull<2>::ball({0, 0}, 0.3);
    crown.line().along = Vec<2>(0, 1);
    crown.line().accept_least_degrees = 130.0;
    crown.line().take = Take::all;
    rig.probes = {crown};
    rig.signals = {claiming<2>(Claim::ceiling, "crown")};
    // A ceiling as steep as may be, to within rounding.
    for (const double off : {0.0, 1e-13, -1e-13}) {
        const auto rows = vary_fixture<2>(rig, {"ceiling", "gap", 0.0, 0.1, {0.0, 50.0 + off}, 0.0});
        CHECK(rows.at(0).curves.at(0).wrong() == 0.0);
    }
}

TEST_CASE("in motion a signal is right where it is neither missed nor false at any tick") {
    Rig<2> rig = body_rig<2>(Stance<2>::capsule("upright", 0.3, 1.8));
    rig.probes = {down_ray<2>(0.4, 0.42)};
    rig.signals = {claiming<2>(Claim::ground)};
    GaugeOptions options;
    options.lines = {"landing", "lift up"};
    for (const SheetRow& row : gauge<2>(rig, options).rows) CHECK(row.curves[0].wrong() == 0.0);
    // Felt before it is reached; felt no more once the lift has moved on.
    rig.probes[0].line().reach = 0.7;
    const DataSheet<2> early = gauge<2>(rig, options);
    CHECK(row_of<2>(early, "landing").curves[0].falsely == 0.0);
    CHECK(row_of<2>(early, "landing").curves[0].missed > 30.0);
    rig.probes[0].line().reach = 0.42;
    rig.reads = Reads::before_move;
    const DataSheet<2> late = gauge<2>(rig, options);
    CHECK(row_of<2>(late, "landing").curves[0].missed > 30.0);
}

TEST_CASE("a signal limited to layers is measured on one of these") {
    Rig<2> rig = body_rig<2>(Stance<2>::capsule("upright", 0.3, 1.8));
    rig.body.meets = {"stone", "wood"};
    rig.probes = {down_ray<2>(0.4, 0.42)};
    rig.probes[0].sees = {"wood"};
    rig.signals = {claiming<2>(Claim::ground)};
    rig.signals[0].of = {"wood"};
    GaugeOptions options;
    options.lines = {"floor"};
    const SheetRow floor = gauge<2>(rig, options).rows.at(0);
    holds(floor.curves[0].on, floor.axis, open, 0.02, 6e-6);
    holds(floor.curves[0].intended, floor.axis, open, 0.02, 6e-6);
}

TEST_CASE("probes without a direction, and in other stances, cost nothing") {
    const Level<2> level = long_floor();
    Rig<2> rig = crate_with_ray(0.42);
    rig.body.stances.push_back(Stance<2>::box("low", {0.6, 0.5}));
    rig.probes.push_back(down_ray<2>(0.4, 0.5));
    rig.probes.back().name = "ahead";
    rig.probes.back().line().aim = Aim::drive;
    rig.probes.push_back(down_ray<2>(0.2, 0.5));
    rig.probes.back().name = "when low";
    rig.probes.back().stances = {"low"};
    Pose<2> pose;
    CHECK(cost_of<2>(rig, level, pose).casts == 1);
    pose.drive = Vec<2>(1, 0);
    CHECK(cost_of<2>(rig, level, pose).casts == 2);
    pose.stance = 1;
    CHECK(cost_of<2>(rig, level, pose).casts == 3);
    CHECK(cost_of<2>(rig, level, pose).pieces == 2);  // what is ahead at 0.4 passes above the floor
}

TEST_CASE("a rig that sees nothing differs over all that is true, and signals of other layers are left out") {
    const Level<2> level = long_floor();
    const SurveyOptions options = away_from_ends();
    const Rig<2> right = crate_with_ray(0.42);
    Rig<2> blind = right;
    blind.probes[0].line().from[1] = 3.0;
    const auto held = [&](const Rig<2>& a, const Rig<2>& b) {
        return hold_side_by_side<2>(level, a, survey<2>(level, a, options), b, survey<2>(level, b, options),
                                    options);
    };
    double measure = 0.0;
    for (const RigDifference<2>& one : held(right, blind).differences) measure += one.measure;
    CHECK(measure == Approx(2.0 * 8.0 * 2.0 * right.intent.touch).epsilon(0.01));
    Rig<2> of_stone = blind;
    of_stone.signals[0].of = {"stone"};
    const RigPair<2> pair = held(right, of_stone);
    CHECK(pair.poses > 0);
    CHECK(pair.differences.empty());
    Rig<2> late = right;
    late.reads = Reads::before_move;
    const Rig<2> both = both_rigs<2>(right, "A", late, "B");
    CHECK(both.probes[0].reads == Reads::after_move);
    CHECK(both.probes[1].reads == Reads::before_move);
}

TEST_CASE("stretches, ends and what is wrong are told in words") {
    const FixtureAxis angle{"angle", Unit::degrees, 0.0, 90.0, 0.0, ""};
    const FixtureAxis gap{"gap", Unit::length, -1.0, 1.0, 0.0, ""};
    CHECK(stretches_text({}, angle) == "never");
    CHECK(stretches_text({{0.0, 90.0}}, angle) == "everywhere");
    CHECK(stretches_text({{0.0, 45.0}}, angle) == "up to 45°");
    CHECK(stretches_text({{45.0, 90.0}}, angle) == "from 45°");
    CHECK(stretches_text({{10.0, 45.0}}, angle) == "10° to 45°");
    CHECK(stretches_text({{-0.5, 1e-7}, {0.25, 0.5}}, gap) == "-0.5 to 0 and 0.25 to 0.5");
    CHECK(stretches_text({{-0.5, -0.4}, {-0.3, -0.2}, {0.0, 0.1}}, gap) ==
          "-0.5 to -0.4 and -0.3 to -0.2, …");
    CHECK(value_text(3.25, Unit::speed) == "3.25/s");
    CHECK(value_text(0.1, Unit::seconds) == "0.1 s");
    ResponseCurve curve;
    CHECK(wrong_text(curve, gap) == "right");
    curve.missed = 0.25;
    CHECK(wrong_text(curve, gap) == "○ 0.25");
    curve.falsely = 12.0;
    CHECK(wrong_text(curve, angle) == "○ 0.25° × 12°");
}

TEST_CASE("the words of a data sheet count what is wrong, and say when it is worst") {
    Rig<2> rig = crate_with_ray(0.42);
    DataSheet<2> sheet = gauge<2>(rig);
    const auto wrong = std::count_if(sheet.rows.begin(), sheet.rows.end(),
                                     [](const SheetRow& row) { return row.curves[row.worst].wrong() > 0.0; });
    const std::string words = sheet_text<2>("a.rig.toml", sheet);
    CHECK_THAT(words,
               Catch::StartsWith("a.rig.toml, crate, on fixtures of \"stone\": " + std::to_string(wrong) +
                                 " of " + std::to_string(sheet.rows.size()) + " lines wrong"));
    CHECK_THAT(words,
               Catch::Contains("ticks until on, off") && Catch::Contains("1 cast; the index offers 1 piece"));
    // One line is worse one way than the others.
    SheetRow row = row_of<2>(sheet, "floor");
    row.curves[0].missed = 0.5;
    row.worst = 0;
    sheet.rows = {row};
    CHECK_THAT(sheet_text<2>("a", sheet), Catch::Contains("○ 0.5") && Catch::Contains("turned 0°"));
    sheet.latencies = {{"ground", 60.0, std::nullopt, 3}};
    CHECK_THAT(sheet_text<2>("a", sheet), Catch::Contains("more than a second, 3"));
    sheet.rows.clear();
    CHECK_THAT(sheet_text<2>("a", sheet), Catch::Contains("no signal claims anything"));
    sheet.cost = {};
    CHECK_THAT(sheet_text<2>("a", sheet), Catch::Contains("takes no query"));
    sheet.cost.overlaps = 2;
    CHECK_THAT(sheet_text<2>("a", sheet), Catch::Contains("2 overlap tests"));
}

TEST_CASE("curves over settings say where nothing is wrong, in words") {
    VaryCurve curve;
    curve.setting = "probe.ray.reach";
    curve.now = 0.4;
    const auto point = [](double value, double missed, double falsely) {
        VaryPoint made;
        made.value = value;
        made.wrong.missed = missed;
        made.wrong.falsely = falsely;
        made.wrong.contact = made.wrong.signalled = 2.0;
        made.wrong.missed_poses = missed > 0.0 ? 3 : 0;
        made.wrong.false_poses = falsely > 0.0 ? 4 : 0;
        return made;
    };
    curve.points = {point(0.1, 1.0, 0.0), point(0.2, 0.0, 0.0), point(0.3, 0.0, 0.5)};
    CHECK(curve.points[0].recall() == 0.5);
    CHECK(curve.points[2].precision() == 0.75);
    CHECK_THAT(vary_text("a on b", {{{}, curve}}),
               Catch::Contains("Something is wrong everywhere; least at 0.2: 0."));
    curve.right = {{0.15, 0.25}};
    const std::string words = vary_text("a on b", {{{}, curve}});
    CHECK_THAT(words, Catch::StartsWith("a on b: probe.ray.reach varied, 0.4 in the file"));
    CHECK_THAT(words, Catch::Contains("Nothing is wrong from 0.15 to 0.25."));
    CHECK_THAT(words, Catch::Contains("0.5000") && Catch::Contains("0.7500"));
    curve.right = {{0.15, 0.25}, {0.5, 0.5}};
    CHECK_THAT(vary_text("a", {{{}, curve}}), Catch::Contains("from 0.15 to 0.25, and at 0.5."));
    CHECK_THAT(vary_text("a", {{std::pair(std::string("x"), 2.0), curve}}),
               Catch::Contains("x 2: Nothing is wrong"));
    curve.points.clear();
    CHECK_THAT(vary_text("a", {{{}, curve}}), Catch::Contains("can have none of these"));
}

TEST_CASE("every setting has a name of its own, is found by it, and changes what it says and nothing else") {
    Rig<3> rig = body_rig<3>(Stance<3>::capsule("upright", 0.3, 1.8));
    Probe<3> cast = down_ray<3>(0.4, 0.5);
    cast.name = "sole";
    cast.line().shape = RoundedHull<3>::capsule({0, -0.1, 0}, {0, 0.1, 0}, 0.2);
    Probe<3> box = cast;
    box.name = "box";
    box.line().shape = RoundedHull<3>::box({0, 0, 0}, {0.4, 0.2, 0.4});
    Probe<3> shift;
    shift.name = "shift";
    shift.of_kind = ShiftProbe<3>{.reach = 0.1};
    shift.sees = {"stone"};
    rig.probes = {cast, box, shift};
    rig.signals = {claiming<3>(Claim::ground, "sole"), claiming<3>(Claim::blocked, "shift")};
    rig.reflexes = {{"ground", ReflexKind::permit_jump}};
    const auto settings = settings_of<3>(rig, {"stone", "wood"}, 4.0);
    std::set<std::string> names;
    std::size_t numbers = 0;
    for (const Setting<3>& setting : settings) {
        const std::string path = path_of<3>(setting);
        INFO(path);
        CHECK(names.insert(path).second);
        CHECK(&setting_named<3>(settings, path) == &setting);
        if (!setting.now) {
            for (std::size_t i = 0; i < setting.choices; ++i) {
                const auto changed = setting.with(rig, static_cast<double>(i));
                if (changed) CHECK(setting.text(*changed) != setting.text(rig));
            }
            continue;
        }
        ++numbers;
        const double value = *setting.now == 0.0 ? 0.125 : *setting.now * 1.125;
        const auto changed = setting.with(rig, setting.whole ? *setting.now + 1.0 : value);
        if (!changed) continue;
        // Made of the changed rig anew, the setting is what it was set to, and all others are as they were.
        const auto again = settings_of<3>(*changed, {"stone", "wood"}, 4.0);
        for (const Setting<3>& other : again) {
            const std::string its = path_of<3>(other);
            if (!other.now) continue;
            const Setting<3>& before = setting_named<3>(settings, its);
            const bool is_it = its == path;
            CHECK((is_it || std::abs(*other.now - *before.now) < 1e-12));
            if (is_it && !setting.whole) CHECK(*other.now == Approx(value));
        }
    }
    CHECK(numbers > 20);
    for (const char* const path :
         {"probe.sole.shape.radius", "probe.sole.shape.height", "probe.box.shape.size[2]"})
        CHECK_NOTHROW(setting_named<3>(settings, path));
    // A capsule is at least as high as it is wide.
    CHECK_FALSE(setting_named<3>(settings, "probe.sole.shape.height").with(rig, 0.3).has_value());
    CHECK_FALSE(setting_named<3>(settings, "probe.sole.shape.radius").with(rig, 0.31).has_value());
    CHECK_FALSE(setting_named<3>(settings, "probe.sole.reach").with(rig, 0.0).has_value());
}

TEST_CASE("rigs side by side are told pair by pair, with the field that differs") {
    const Level<2> level = long_floor();
    const SurveyOptions options = away_from_ends();
    const Rig<2> first = crate_with_ray(0.42);
    const Rig<2> second = crate_with_ray(0.5);
    LevelSurveys<2> on{"floor.level.toml", &level, {}, options};
    for (const Rig<2>* rig : {&first, &second}) on.surveys.push_back(survey<2>(level, *rig, options));
    ComparedRigs<2> compared;
    compared.levels = {"floor.level.toml"};
    compared.pairs = compare_pairs<2>({&first, &second}, {on});
    for (std::size_t i = 0; i < 2; ++i) {
        const std::string name = i == 0 ? "a.rig.toml" : "b.rig.toml";
        compared.rigs.push_back(
            {name, name, survey_score<2>(i == 0 ? first : second, i, {on}), i == 0, i == 1});
    }
    const std::string words = compare_text<2>(compared, {&first, &second});
    CHECK_THAT(words, Catch::StartsWith("2 rigs on floor.level.toml"));
    CHECK_THAT(words, Catch::Contains("1 → 2: probe \"ray\": reach 0.42 → 0.5."));
    CHECK_THAT(words, Catch::Contains("× 2 falsely tells ground where 1 is right"));
    CHECK_THAT(words, Catch::Contains("none beats it") && Catch::Contains("worse than 1"));
    CHECK_THAT(words, Catch::Contains("hollow-probe draw floor.level.toml b.rig.toml --at="));
    CHECK(words.find("broken") == std::string::npos);
    compared.columns = {true, true};
    compared.rigs[0].score.flicker = 7;
    CHECK_THAT(compare_text<2>(compared, {&first, &second}),
               Catch::Contains("flicker") && Catch::Contains("7") && Catch::Contains("right"));
    ComparedPair<2> same;
    CHECK(difference_words<2>(same) == "no field of probes and signals differs");
    same.intents_differ = true;
    same.only_in_second = {"probe \"x\""};
    CHECK(difference_words<2>(same) == "with probe \"x\"; their bodies or intents differ: truths may, too");
}
