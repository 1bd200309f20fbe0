// What findings tell: each wrong verdict has causes of its own, and names what was missed or met.
#include <array>
#include <catch2/catch.hpp>
#include <cmath>
#include <map>
#include <set>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/level/level_cast.hpp"
#include "strewn.hpp"

using namespace scenes;

namespace {

SurveyOptions closely() {
    SurveyOptions options;
    options.spacing = 0.1;
    options.most_tried = 0;
    return options;
}

template <int D>
std::vector<const Finding<D>*> findings_of(const Survey<D>& survey, const std::string& solid) {
    std::vector<const Finding<D>*> found;
    for (const Finding<D>& finding : survey.findings) {
        if (finding.solid == solid) found.push_back(&finding);
    }
    return found;
}

}  // namespace

TEST_CASE("two signals that are wrong at one pose have each a cause of its own") {
    // A passage as tall as the body: standing in it, it touches ceiling and floor.
    LevelBuilder<2> builder({"m", "n"});
    builder.add("floor", "m", RoundedHull<2>::box({0.0, -0.5}, {6.0, 1.0}));
    builder.add("roof", "n", RoundedHull<2>::box({0.0, 2.31}, {6.0, 1.0}));
    const Level<2> level = builder.build();
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.3), {"m", "n"});  // too short
    Probe<2> head = foot_ray<2>(0.45);
    head.name = "head";
    head.line().from[1] = 1.4;
    head.line().along = Vec<2>::unit(1);
    head.sees = {"m"};  // not what the roof is on
    rig.probes.push_back(head);
    Signal under;
    under.name = "under a roof";
    under.claims = Claim::ceiling;
    under.members.any = {"head"};
    rig.signals.push_back(under);
    SurveyOptions options = closely();
    options.region = {-2.0, -0.1, 2.0, 0.1};
    const Survey<2> result = survey<2>(level, rig, options);
    std::size_t both = 0;
    for (const SurveyPose<2>& pose : result.poses) {
        both += pose.verdict(0) == Verdict::missed_contact && pose.verdict(1) == Verdict::missed_contact;
    }
    REQUIRE(both > 20);
    const auto require_cause = [&](const std::string& solid, std::size_t signal, CauseKind cause,
                                   const std::string& probe) {
        std::size_t poses = 0;
        for (const Finding<2>* finding : findings_of<2>(result, solid)) {
            CHECK(finding->signal == signal);
            CHECK(finding->causes.front().cause == cause);
            CHECK(finding->causes.front().probe == probe);
            poses += finding->count;
        }
        CHECK(poses >= both);
    };
    require_cause("floor", 0, CauseKind::reach_short, "foot");
    require_cause("roof", 1, CauseKind::layer_unseen, "head");
}

TEST_CASE("what must be changed together is found at every one of many poses") {
    LevelBuilder<2> builder({"m", "n"});
    builder.add("floor", "n", RoundedHull<2>::box({0.0, -0.5}, {80.0, 1.0}));
    const Level<2> level = builder.build();
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.3), {"m", "n"});  // too short
    rig.probes[0].sees = {"m"};                              // nor would it see the floor
    SurveyOptions options = closely();
    options.headings = 1;
    options.region = {-39.0, -0.1, 39.0, 0.1};
    const Survey<2> result = survey<2>(level, rig, options);
    std::size_t wrong = 0;
    for (const SurveyPose<2>& pose : result.poses)
        wrong += pose.verdict(0) == Verdict::missed_contact ? 1 : 0;
    REQUIRE(wrong > 1'200);
    std::size_t proven = 0;
    for (const Finding<2>& finding : result.findings) {
        const CauseReport& cause = finding.causes.front();
        REQUIRE(cause.with.size() == 1);
        CHECK(std::set{cause.cause, cause.with.front().cause} ==
              std::set{CauseKind::reach_short, CauseKind::layer_unseen});
        CHECK(cause.cures == finding.count);
        proven += cause.proven;
    }
    CHECK(proven == wrong);
}

TEST_CASE("two headings that are wrong at one place have each a cause of its own") {
    // A shaft as wide as the body: one wall is not seen, and the other leans away from the ray.
    LevelBuilder<2> builder({"m", "n"});
    builder.add("left wall", "m", RoundedHull<2>::box({-0.81, 3.0}, {1.0, 6.0}));
    builder.add("right wall", "n",
                RoundedHull<2>::hull({{0.3, 0.0}, {1.2, 6.0}, {2.0, 6.0}, {2.0, 0.0}}, 0.0));
    const Level<2> level = builder.build();
    Probe<2> ahead = foot_ray<2>(0.33);
    ahead.line().from[1] = 1.5;
    ahead.line().along = Vec<2>::unit(0);
    ahead.sees = {"n"};
    Rig<2> rig = rig_with<2>(ahead, {"m", "n"});
    rig.probes[0].sees = {"n"};
    rig.signals[0].claims = Claim::wall;
    SurveyOptions options = closely();
    options.region = {-0.1, -1.0, 0.1, -0.3};
    const Survey<2> result = survey<2>(level, rig, options);
    REQUIRE(result.facings.size() == 2);
    const auto left = findings_of<2>(result, "left wall");
    const auto right = findings_of<2>(result, "right wall");
    REQUIRE_FALSE(left.empty());
    REQUIRE_FALSE(right.empty());
    for (const auto& finding : left) CHECK(finding->causes.front().cause == CauseKind::layer_unseen);
    for (const auto& finding : right) CHECK(finding->causes.front().cause == CauseKind::reach_short);
}

TEMPLATE_TEST_CASE_SIG("a finding names the solid that was missed, or met falsely", "", ((int D), D), 2, 3) {
    std::size_t missed = 0;
    std::size_t falsely = 0;
    for (std::uint64_t seed = 1; seed <= (D == 2 ? 12U : 3U); ++seed) {
        const Level<D> level = strewn<D>(seed);
        const Rig<D> rig = rig_with<D>(foot_ray<D>(seed % 2 == 0 ? 0.38 : 0.6), {"m", "n"});
        SurveyOptions options = closely();
        options.spacing = D == 2 ? 0.1 : 0.6;
        const Survey<D> result = survey<D>(level, rig, options);
        const RoundedHull<D>& body = rig.body.stances[0].shape;
        const auto ray = RoundedHull<D>::ball(Vec<D>::zero(), 1.0).with_radius(0.0);
        for (const Finding<D>& finding : result.findings) {
            const Vec<D>& at = finding.worst.anchor;
            CAPTURE(D, seed, finding.solid, at);
            if (finding.verdict == Verdict::false_contact) {
                const auto hit =
                    first_hit<D>(level, {ray.view(), at + 0.4 * Vec<D>::unit(1), -Vec<D>::unit(1), 0.6});
                REQUIRE(hit);
                CHECK(level.solids()[hit->solid].name == finding.solid);
                ++falsely;
                continue;
            }
            double gap = 1.0;
            for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece) {
                if (level.solids()[level.solid_of(piece)].name != finding.solid) continue;
                gap = std::min(gap, separation<D>(body.view(), at, level.piece(piece)).gap);
            }
            CHECK(gap <= rig.intent.touch);
            ++missed;
        }
    }
    CHECK(missed > 5);
    CHECK(falsely > 5);
}

namespace {

/// Of one change: wrong verdicts that it was proven to cure alone, and those it cured where it was tried.
struct OfChange {
    std::size_t proven = 0;
    std::size_t cures = 0;
    double number = 0.0;
};

/// By number where it has one; moves together, since four that turn to one another are worth the same.
template <int D>
std::map<std::string, std::vector<OfChange>> cured_by_change(const Survey<D>& result) {
    std::map<std::string, std::map<double, OfChange>> by_number;
    for (const Finding<D>& finding : result.findings) {
        for (const CauseReport& cause : finding.causes) {
            const bool is_move = cause.parameter == "from";
            const double number = std::isnan(cause.needs_number) ? 0.0 : cause.needs_number;
            OfChange& change = by_number[cause.parameter][is_move ? 0.0 : number];
            change.number = is_move ? 0.0 : number;
            change.proven += cause.proven;
            change.cures += is_move ? 0 : cause.cures;
        }
    }
    std::map<std::string, std::vector<OfChange>> cured;
    for (const auto& [parameter, changes] : by_number) {
        for (const auto& [number, change] : changes) cured[parameter].push_back(change);
    }
    return cured;
}

}  // namespace

TEST_CASE("headings that are alike have the causes of headings that a hair tells apart") {
    for (std::uint64_t seed = 1; seed <= 2; ++seed) {
        const Level<3> level = strewn<3>(seed);
        Rig<3> rig = rig_with<3>(foot_ray<3>(0.42), {"m", "n"});
        SurveyOptions options = closely();
        options.spacing = 0.9;
        options.headings = 4;
        const Survey<3> together = survey<3>(level, rig, options);
        rig.probes[0].line().from[0] = 1e-7;
        const Survey<3> apart = survey<3>(level, rig, options);
        REQUIRE(together.scope.facings_alike == 3);
        REQUIRE(apart.scope.facings_alike == 0);
        const auto once = cured_by_change<3>(together);
        const auto each = cured_by_change<3>(apart);
        REQUIRE(once.size() == each.size());
        REQUIRE(once.contains("from"));
        for (const auto& [parameter, changes] : once) {
            CAPTURE(seed, parameter);
            REQUIRE(each.contains(parameter));
            const std::vector<OfChange>& others = each.at(parameter);
            REQUIRE(changes.size() == others.size());
            for (std::size_t i = 0; i < changes.size(); ++i) {
                // A number is the roundest of those that serve, and how far these go hangs on the hair.
                CHECK(changes[i].number == Approx(others[i].number).epsilon(0.01));
                CHECK(changes[i].proven == others[i].proven);
                CHECK(changes[i].cures == others[i].cures);
            }
        }
    }
}

TEMPLATE_TEST_CASE_SIG(
    "a ray that falls beside a rim is moved no farther than to the first thing that it meets", "",
    ((int D), D), 2, 3) {
    Random random(61);
    int nearer = 0;
    for (int i = 0; i < 60; ++i) {
        // The body hangs over the end of a quay by `over`. A post beside it, lower than the sole, may be met
        // first.
        const double radius = 0.3;
        const double over = random.between(0.1, 0.2);
        const bool has_post = random.below(4) != 0;
        const double post =
            random.between(0.3, 0.85) * over;  // its side towards the ray, from the quay's end
        const double way = random.below(2) == 0 ? 1.0 : -1.0;
        LevelBuilder<D> builder({"m"});
        const auto put = [&](const char* name, double from, double to, double top, double height) {
            Vec<D> size = Vec<D>::constant(4.0);
            Vec<D> center = Vec<D>::zero();
            size[0] = to - from;
            size[1] = height;
            center[0] = 0.5 * way * (from + to);
            center[1] = top - 0.5 * height;
            builder.add(name, "m", RoundedHull<D>::box(center, size));
        };
        put("quay", -4.0, 0.0, 0.0, 1.0);
        const auto sole = [&](double at) {
            return std::sqrt(radius * radius - over * over) -
                   std::sqrt(radius * radius - (at - over) * (at - over));
        };
        if (has_post) put("post", 0.002, post, sole(post) - 0.06, 0.03);
        const Level<D> level = builder.build();
        const Rig<D> rig = rig_with<D>(foot_ray<D>(0.5), {"m"});
        SurveyOptions options = closely();
        options.spacing = 0.01;
        options.region.assign(2 * D, 0.0);
        for (int axis = 0; axis < D; ++axis) {
            const double at = axis == 0 ? way * over : 0.0;
            options.region[static_cast<std::size_t>(axis)] = axis == 1 ? -0.2 : at - 0.01;
            options.region[static_cast<std::size_t>(axis + D)] = axis == 1 ? 0.1 : at + 0.01;
        }
        const Survey<D> result = survey<D>(level, rig, options);
        CAPTURE(i, over, post, has_post);
        double farthest = 0.0;
        for (const SurveyPose<D>& pose : result.poses) {
            if (pose.verdict(0) == Verdict::missed_contact)
                farthest = std::max(farthest, way * pose.anchor[0]);
        }
        std::size_t told = 0;
        for (const Finding<D>& finding : result.findings) {
            REQUIRE(finding.solid == "quay");
            for (const CauseReport& cause : finding.causes) {
                if (cause.cause != CauseKind::aimed_beside || cause.parameter != "from") continue;
                ++told;
                REQUIRE(cause.by == Approx(farthest - (has_post ? post : 0.0)).margin(1e-6));
            }
        }
        REQUIRE(told > 0);
        nearer += has_post ? 1 : 0;
    }
    CHECK(nearer > 30);
}

TEST_CASE("of the numbers that findings demand that is told which serves most, least, middle or greatest") {
    const std::array<double, 3> slopes = {0.0, 20.0, 40.0};
    for (std::size_t longest = 0; longest < 3; ++longest) {
        LevelBuilder<2> builder({"m"});
        for (std::size_t i = 0; i < 3; ++i) {
            const double length = i == longest ? 12.0 : 1.0;
            const double from = 30.0 * static_cast<double>(i);
            const double rise = length * std::tan(radians(slopes[i]));
            builder.add("ramp " + std::to_string(i), "m",
                        RoundedHull<2>::hull(
                            {{from, -1.0}, {from + length, -1.0}, {from + length, rise}, {from, 0.0}}));
        }
        const Level<2> level = builder.build();
        const Rig<2> rig = rig_with<2>(foot_ray<2>(0.3), {"m"});  // too short everywhere
        SurveyOptions options;
        options.spacing = 0.1;
        const Survey<2> result = survey<2>(level, rig, options);
        // From 0.4 to the slope below a sole that is all but out of touch.
        const double serves = 0.1 + 0.3 / std::cos(radians(slopes[longest])) + rig.intent.touch;
        int told = 0;
        for (const Finding<2>* finding : findings_of<2>(result, "ramp " + std::to_string(longest))) {
            for (const CauseReport& cause : finding->causes) {
                if (cause.parameter != "reach" || finding->measure < 0.1) continue;
                ++told;
                CAPTURE(longest, serves, cause.needs_number);
                CHECK(cause.needs_number > serves - 1e-6);
                CHECK(cause.needs_number < serves + 0.004);
            }
        }
        CHECK(told == 1);
    }
}

TEST_CASE("how far a number may go is told to within a ten-thousandth of its change") {
    LevelBuilder<2> builder({"m"});
    const double tall = 12.0;
    const double steep = 48.0;  // no footing, and too steep to be accepted
    const double end = 20.0 + tall / std::tan(radians(steep));
    const double rise = 6.0 * std::tan(radians(40.0));
    builder.add("ramp", "m", RoundedHull<2>::hull({{0.0, -1.0}, {6.0, -1.0}, {6.0, rise}, {0.0, 0.0}}));
    builder.add("bank", "m", RoundedHull<2>::hull({{20.0, -1.0}, {end, -1.0}, {end, tall}, {20.0, 0.0}}));
    const Level<2> level = builder.build();
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.545), {"m"});
    rig.probes[0].line().accept_most_degrees = 10.0;
    SurveyOptions options;
    options.spacing = 0.1;
    options.region = {-2.0, -2.0, 22.0, 5.0};  // without the bank's top
    int told = 0;
    for (const Finding<2>& finding : survey<2>(level, rig, options).findings) {
        for (const CauseReport& cause : finding.causes) {
            if (cause.parameter != "accept.angle[1]") continue;
            ++told;
            CHECK(cause.between[0] == Approx(40.0).margin(1e-6));
            CHECK(cause.between[1] == Approx(steep).margin(1e-4 * (40.0 - 10.0) + 1e-6));
            CHECK(cause.between[1] <= steep);
        }
    }
    CHECK(told > 0);
}

TEMPLATE_TEST_CASE_SIG(
    "what a probe of another kind could be set to is no cause: of contacts on a one-way solid", "",
    ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m", "n"});
    Vec<D> size = Vec<D>::constant(4.0);
    size[1] = 0.2;
    builder.add("hatch", "n", RoundedHull<D>::box(-0.1 * Vec<D>::unit(1), size));
    builder.one_way(Vec<D>::unit(1));
    const Level<D> level = builder.build();
    Rig<D> rig = rig_with<D>(foot_ray<D>(0.42), {"m", "n"});
    rig.probes[0].of_kind = ContactProbe{};
    rig.probes[0].sees = {"m"};  // not what the hatch is on
    SurveyOptions options = closely();
    options.spacing = 0.5;
    const Survey<D> result = survey<D>(level, rig, options);
    REQUIRE_FALSE(result.findings.empty());
    for (const Finding<D>& finding : result.findings) {
        CHECK(finding.verdict == Verdict::missed_contact);
        CHECK(finding.causes.front().cause == CauseKind::layer_unseen);
        for (const CauseReport& cause : finding.causes) CHECK(cause.cause != CauseKind::one_way_side);
    }
}
