// What the player can reach from a start comes first, and values that are off get causes and cures.
#include <algorithm>
#include <catch2/catch.hpp>
#include <map>

#include "hollow_probe/report/advice_text.hpp"
#include "hollow_probe/report/survey_text.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

/// A rig that misses ground wherever there is any.
template <int D>
Rig<D> blind_rig() {
    Rig<D> rig = rig_with<D>(foot_ray<D>(0.2), {"m"});
    return rig;
}

SurveyOptions quick() {
    SurveyOptions options;
    options.spacing = 0.15;
    options.headings = 2;
    options.most_tried = 0;
    return options;
}

/// Whether the ground on each solid is missed where the player can come.
template <int D>
std::map<std::string, bool> reached_solids(const Level<D>& level, const Rig<D>& rig) {
    const Survey<D> result = survey<D>(level, rig, quick());
    REQUIRE(result.scope.knows_reached);
    std::map<std::string, bool> reached;
    bool before = true;
    for (const Finding<D>& finding : result.findings) {
        CHECK((before || !finding.reached));  // reached ones first
        before = finding.reached;
        reached[finding.solid] = reached[finding.solid] || finding.reached;
    }
    return reached;
}

LevelBuilder<2> floor_and(const std::vector<std::array<double, 4>>& boxes) {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {6, 1}));
    builder.start("gate", {0, 0}, {1, 0});
    int number = 0;
    for (const auto& [low, bottom, high, top] : boxes)
        builder.add(
            "box " + std::to_string(++number), "m",
            RoundedHull<2>::box({0.5 * (low + high), 0.5 * (bottom + top)}, {high - low, top - bottom}));
    return builder;
}

}  // namespace

TEST_CASE("steps are climbed, jumps as high as the intent has them, and falls as deep as can be") {
    // A step, a ledge, a pit beyond it, all twice as wide as the body.
    const auto level = floor_and({{3, -1, 5, 0.3}, {-5, -1, -3, 1.0}, {-8, -5, -5, -4}}).build();
    Rig<2> rig = blind_rig<2>();
    auto reached = reached_solids<2>(level, rig);
    CHECK(reached.at("floor"));
    CHECK(reached.at("box 1"));
    CHECK_FALSE(reached.at("box 2"));
    CHECK_FALSE(reached.at("box 3"));
    rig.intent.moves.jump_height = 0.8;
    CHECK_FALSE(reached_solids<2>(level, rig).at("box 2"));
    rig.intent.moves.jump_height = 1.05;
    reached = reached_solids<2>(level, rig);
    CHECK(reached.at("box 2"));
    CHECK(reached.at("box 3"));  // beyond the ledge, and only that way
    rig.intent.tallest_step = 0.1;
    rig.intent.moves.jump_height = 0.0;
    CHECK_FALSE(reached_solids<2>(level, rig).at("box 1"));
}

TEST_CASE("what is too high from the floor is reached from a block that stands farther off") {
    const auto level = floor_and({{-2, -1, -1, 1.0}, {1.2, -1, 2.2, 1.9}}).build();
    Rig<2> rig = blind_rig<2>();
    rig.intent.moves.jump_height = 1.1;
    rig.intent.moves.jump_length = 3.0;
    CHECK(reached_solids<2>(level, rig).at("box 2"));
    rig.intent.moves.jump_length = 1.0;
    auto reached = reached_solids<2>(level, rig);
    CHECK(reached.at("box 1"));
    CHECK_FALSE(reached.at("box 2"));
    rig.intent.moves.jump_length = 3.0;
    rig.intent.moves.jump_height = 0.8;
    CHECK_FALSE(reached_solids<2>(level, rig).at("box 2"));
}

TEST_CASE("a gap is crossed by a jump as long as it, a low way in a low stance, a lift by riding it") {
    Rig<2> rig = blind_rig<2>();
    const auto across = floor_and({{5.0, -1, 7, 0}}).build();  // 2 beyond the floor's end, at 3
    CHECK_FALSE(reached_solids<2>(across, rig).at("box 1"));
    rig.intent.moves = {0.5, 1.2};
    CHECK_FALSE(reached_solids<2>(across, rig).at("box 1"));
    rig.intent.moves = {0.5, 2.1};
    CHECK(reached_solids<2>(across, rig).at("box 1"));
    rig.intent.moves = {};
    // A duct 0.8 high under a block that is too tall to be climbed.
    const auto duct = floor_and({{1.0, 0.8, 3.0, 4.0}, {3.0, -1.0, 5.0, 0.0}}).build();
    CHECK_FALSE(reached_solids<2>(duct, rig).at("box 2"));
    rig.body.stances.push_back(Stance<2>::box("crawling", {0.5, 0.6}));
    CHECK(reached_solids<2>(duct, rig).at("box 2"));
    rig.body.stances.pop_back();
    LevelBuilder<2> builder = floor_and({{3.0, -1.0, 3.2, 0.0}, {5.2, -1, 7, 3}});
    CHECK_FALSE(reached_solids<2>(builder.build(), rig).at("box 2"));
    LevelBuilder<2> with_lift = floor_and({{3.0, -1.0, 3.2, 0.0}, {5.2, -1, 7, 3}});
    with_lift.add("lift", "m", RoundedHull<2>::box({4.2, -0.1}, {2.0, 0.2}));
    with_lift.path({{{0, 0}, {0, 3}}, 1.0, 0.5});
    CHECK(reached_solids<2>(with_lift.build(), rig).at("box 2"));
}

TEST_CASE("no start, no word of what is reached; a room without a door stands last") {
    const auto level =
        floor_and({{3, 0, 3.2, 4}, {3.2, 3.8, 9, 4}, {8.8, -1, 9, 4}, {3.0, -1, 9, 0}}).build();
    const Rig<2> rig = blind_rig<2>();
    const Survey<2> result = survey<2>(level, rig, quick());
    const std::string text = survey_text<2>(rig, result);
    INFO(text);
    CHECK_THAT(text, Catch::Contains("Not reached from a start by walking, steps and falls:"));
    const auto of = [&](const std::string& solid) { return text.find("\"" + solid + "\""); };
    CHECK(of("floor") < text.find("Not reached"));
    CHECK(of("box 4") > text.find("Not reached"));
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {6, 1}));
    const Survey<2> without = survey<2>(builder.build(), rig, quick());
    CHECK_FALSE(without.scope.knows_reached);
    CHECK_THAT(survey_text<2>(rig, without), !Catch::Contains("Not reached"));
}

TEST_CASE("over random terraces what is reached is what a search over the terraces says") {
    for (std::uint64_t seed = 0; seed < 30; ++seed) {
        Random random(seed);
        Rig<2> rig = blind_rig<2>();
        const double jump = random.below(2) == 0 ? 0.0 : random.between(0.5, 1.5);
        rig.intent.moves.jump_height = jump;
        const double lift = std::max(jump, rig.intent.tallest_step);
        LevelBuilder<2> builder({"m"});
        std::vector<double> heights;
        constexpr double margin =
            0.16;  // a round body is felt at an edge 0.09 and a touch before it is on it
        constexpr int count = 7;
        double x = 0.0;
        for (int i = 0; i < count; ++i) {
            double height = 0.0;
            do {
                height = random.between(-1.2, 1.2);
            } while (i > 0 && std::abs(std::abs(height - heights.back()) - lift) < margin);
            heights.push_back(height);
            const double width = random.between(3.4, 4.0);  // wider than a fall drifts
            builder.add("terrace " + std::to_string(i), "m",
                        RoundedHull<2>::box({x + 0.5 * width, 0.5 * (height - 5.0)}, {width, height + 5.0}));
            if (i == count / 2) builder.start("gate", {x + 0.5 * width, height}, {1, 0});
            x += width;
        }
        std::vector<bool> expected(count, false);
        expected[count / 2] = true;
        for (bool more = true; more;) {
            more = false;
            for (int i = 0; i < count; ++i) {
                for (const int k : {i - 1, i + 1}) {
                    const bool there = k >= 0 && k < count;
                    const auto at_i = static_cast<std::size_t>(i);
                    const auto at_k = static_cast<std::size_t>(k);
                    if (!there || !expected[at_i] || expected[at_k]) continue;
                    if (heights[at_k] - heights[at_i] > lift) continue;
                    expected[at_k] = more = true;
                }
            }
        }
        const auto reached = reached_solids<2>(builder.build(), rig);
        INFO("seed " << seed << ", lift " << lift);
        for (int i = 0; i < count; ++i) {
            INFO("terrace " << i << " at " << heights[static_cast<std::size_t>(i)]);
            const auto found = reached.find("terrace " + std::to_string(i));
            REQUIRE(found != reached.end());
            CHECK(found->second == expected[static_cast<std::size_t>(i)]);
        }
    }
}

TEST_CASE("in 3D a balcony is reached by its stair alone") {
    const auto scene = [](bool with_stair) {
        LevelBuilder<3> builder({"m"});
        const auto box = [&](const std::string& name, const Vec<3>& low, const Vec<3>& high) {
            builder.add(name, "m", RoundedHull<3>::box(0.5 * (low + high), high - low));
        };
        box("floor", {-2, -1, -2}, {4, 0, 2});
        box("balcony", {4, -1, -2}, {6, 1.2, 2});
        for (int i = 0; with_stair && i < 3; ++i)
            box("tread " + std::to_string(i), {2.2 + 0.6 * i, 0, 0.5}, {4, 0.3 * (i + 1), 2});
        builder.start("gate", {-1, 0, 0}, {1, 0, 0});
        return builder.build();
    };
    Rig<3> rig = blind_rig<3>();
    CHECK_FALSE(reached_solids<3>(scene(false), rig).at("balcony"));
    CHECK(reached_solids<3>(scene(true), rig).at("balcony"));
}

namespace {

/// Floor and a ramp of 30°: their heights beneath the anchor are known.
Level<2> ramp() {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {8, 1}));
    builder.add_polygon("ramp", "m", {{4, 0}, {10, 0}, {10, 6 * std::tan(radians(30.0))}});
    return builder.build();
}

Rig<2> giving(Value value, Probe<2> probe) {
    Rig<2> rig = rig_with<2>(std::move(probe), {"m"});
    rig.signals[0].gives = value;
    rig.signals[0].gives_from = "foot";
    return rig;
}

}  // namespace

TEST_CASE("a height read beside the anchor is moved under it: by how far, and what is left is nothing") {
    for (const double aside : {0.15, -0.2}) {
        Probe<2> probe = foot_ray<2>(0.8);
        probe.line().from = {aside, 0.4};
        const Rig<2> rig = giving(Value::ground_height, probe);
        const Survey<2> result = survey<2>(ramp(), rig, quick());
        const ValueErrors<2>& errors = result.values[0];
        // On the ramp it is off by what the ramp rises on the way.
        CHECK(errors.worst == Approx(std::abs(aside) * std::tan(radians(30.0))).margin(1e-6));
        REQUIRE_FALSE(errors.cures.empty());
        const ValueCure& cure = errors.cures.front();
        CHECK(cure.change.cause == CauseKind::aimed_beside);
        CHECK(cure.change.probe == "foot");
        CHECK(cure.change.parameter == "from");
        CHECK(cure.change.needs == "[0.0, 0.4]");
        CHECK(cure.change.by == Approx(std::abs(aside)));
        CHECK(cure.worst == Approx(0.0).margin(1e-9));
        const std::string said = value_cures_text<2>(rig, 0, errors).front();
        CHECK_THAT(said, Catch::Contains("beside the anchor") && Catch::Contains("leaves 0 in the median"));
    }
}

TEST_CASE("another probe that tells it better is named; what is right needs nothing") {
    Probe<2> beside = foot_ray<2>(0.8);
    beside.line().from = {0.2, 0.4};
    Rig<2> rig = giving(Value::slope, beside);
    Probe<2> under = foot_ray<2>(0.8);
    under.name = "under";
    under.sees = {"m"};
    rig.probes.push_back(under);
    rig.signals[0].members.any = {"foot", "under"};
    rig.signals[0].gives = Value::ground_height;
    const Survey<2> result = survey<2>(ramp(), rig, quick());
    const auto& cures = result.values[0].cures;
    const auto other = std::find_if(cures.begin(), cures.end(), [](const ValueCure& cure) {
        return cure.change.cause == CauseKind::other_probe;
    });
    REQUIRE(other != cures.end());
    CHECK(other->change.parameter == "gives.from");
    CHECK(other->change.needs == "under");
    CHECK(other->worst == Approx(0.0).margin(1e-9));
    rig.signals[0].gives_from = "under";
    CHECK(survey<2>(ramp(), rig, quick()).values[0].cures.empty());
}

TEST_CASE("of two ways to the same value the one that spoils no verdict is told first") {
    // The forward foot feels ground at lips; under the anchor it would not.
    Probe<2> forward = foot_ray<2>(0.8);
    forward.line().from = {0.2, 0.4};
    Rig<2> rig = giving(Value::ground_height, forward);
    Probe<2> under = foot_ray<2>(0.8);
    under.name = "under";
    under.sees = {"m"};
    rig.probes.push_back(under);
    rig.signals[0].members.any = {"foot", "under"};
    const Survey<2> result = survey<2>(ramp(), rig, quick());
    const auto& cures = result.values[0].cures;
    REQUIRE(cures.size() >= 2);
    CHECK(cures[0].change.cause == CauseKind::other_probe);
    CHECK(cures[0].change.adds_missed + cures[0].change.adds_false == 0);
    CHECK(cures[1].change.cause == CauseKind::aimed_beside);
    CHECK(cures[1].change.adds_missed > 0);
    CHECK(cures[0].high <= cures[1].high + 1e-9);
}

TEST_CASE("of a row of feet the way to an edge is told finer by twice as many") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {8, 1}));
    Probe<2> row = foot_ray<2>(0.7);
    row.line().from = {0.2, 0.4};
    row.line().spread.kind = SpreadKind::row;
    row.line().spread.count = 4;
    row.line().spread.width = 1.0;
    row.line().spread.least = 4;
    Rig<2> rig = giving(Value::edge_distance, row);
    rig.signals[0].claims = Claim::drop;
    rig.signals[0].members = {};
    rig.signals[0].members.none = {"foot"};
    const Survey<2> result = survey<2>(builder.build(), rig, quick());
    const ValueErrors<2>& errors = result.values[0];
    REQUIRE(errors.poses > 0);
    REQUIRE_FALSE(errors.cures.empty());
    const auto finer = std::find_if(errors.cures.begin(), errors.cures.end(), [](const ValueCure& cure) {
        return cure.change.cause == CauseKind::too_coarse;
    });
    REQUIRE(finer != errors.cures.end());
    CHECK(finer->change.needs == "7");
    CHECK(finer->worst < 0.8 * errors.worst);  // what the rim of the sole overhangs is left
}
