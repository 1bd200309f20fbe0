// Surveys of signals that claim more than ground, and of solids that only probes, or only the body, meet.
#include <catch2/catch.hpp>

#include "hollow_probe/level/moving_level.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/truth/answer.hpp"
#include "hollow_probe/verify/survey.hpp"
#include "scenes.hpp"
#include "verdict_counts.hpp"

using namespace scenes;

namespace {

template <int D>
RoundedHull<D> block(double x0, double y0, double x1, double y1) {
    Vec<D> size = 6.0 * Vec<D>::ones();
    size[0] = x1 - x0;
    size[1] = y1 - y0;
    return RoundedHull<D>::box(at<D>(0.5 * (x0 + x1), 0.5 * (y0 + y1)), size);
}

/// A corridor 8 long and 3 high between walls; in 3D its sides are walls, too.
template <int D>
Level<D> corridor(Role role_of_floor = Role::both) {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", block<D>(0, -1, 8, 0)).role(role_of_floor);
    builder.add("roof", "m", block<D>(0, 3, 8, 4));
    builder.add("left wall", "m", block<D>(-1, -1, 0, 4));
    builder.add("right wall", "m", block<D>(8, -1, 9, 4));
    if constexpr (D == 3) {
        builder.add("near wall", "m", RoundedHull<3>::box({4.0, 1.5, 3.0}, {10.0, 5.0, 1.0}));
        builder.add("far wall", "m", RoundedHull<3>::box({4.0, 1.5, -3.0}, {10.0, 5.0, 1.0}));
    }
    return builder.build();
}

template <int D>
Probe<D> probe(const std::string& name, const Vec<D>& along, double reach) {
    Probe<D> result;
    result.name = name;
    result.line().along = along;
    result.line().reach = reach;
    result.sees = {"m"};
    return result;
}

template <int D>
Probe<D> body_cast(const std::string& name, const Vec<D>& along, double reach, double least, double most) {
    Probe<D> result = probe<D>(name, along, reach);
    result.line().shape = Stance<D>::capsule("", 0.3, 1.8).shape;
    result.line().accept_least_degrees = least;
    result.line().accept_most_degrees = most;
    result.line().take = Take::all;
    return result;
}

template <int D>
Rig<D> rig_of(std::vector<Probe<D>> probes, std::vector<Signal> signals) {
    Rig<D> rig;
    rig.body.meets = {"m"};
    rig.body.stances = {Stance<D>::capsule("upright", 0.3, 1.8)};
    rig.intent.ahead_wall = 0.1;
    rig.probes = std::move(probes);
    rig.signals = std::move(signals);
    return rig;
}

Signal claim(const std::string& name, Claim claims, std::vector<Member> any) {
    Signal signal;
    signal.name = name;
    signal.claims = claims;
    signal.members.any = std::move(any);
    return signal;
}

template <int D>
SurveyOptions coarse() {
    SurveyOptions options;
    options.spacing = D == 2 ? 0.1 : 0.5;
    options.headings = 4;
    return options;
}

/// coarse(), of the corridor's inside.
template <int D>
SurveyOptions inside() {
    SurveyOptions options = coarse<D>();
    options.region = D == 2 ? std::vector<double>{0.29, -0.05, 7.71, 1.5}
                            : std::vector<double>{0.29, -0.05, -2.1, 7.71, 1.5, 2.1};
    return options;
}

template <int D>
const Vec<D> up = Vec<D>::unit(1);
template <int D>
const Vec<D> forward = Vec<D>::unit(0);

}  // namespace

TEMPLATE_TEST_CASE_SIG("probes of the body's own shape agree with the truths of ceiling and wall everywhere",
                       "", ((int D), D), 2, 3) {
    const auto rig =
        rig_of<D>({body_cast<D>("head", up<D>, 0.02, 120.0, 180.0),
                   body_cast<D>("front", forward<D>, 0.1, 45.001, 119.999)},
                  {claim("bump", Claim::ceiling, {"head"}), claim("blocked", Claim::wall, {"front"})});
    const auto level = corridor<D>();
    const auto result = survey<D>(level, rig, inside<D>());
    for (const SignalVerdicts& signal : result.signals) {
        CHECK(poses(signal, Verdict::true_contact) > 0);
        CHECK(poses(signal, Verdict::true_clear) > 0);
        CHECK(poses(signal, Verdict::missed_contact) == 0);
    }
    for (const SurveyPose<D>& pose : result.poses) {
        CHECK(pose.verdict(0) != Verdict::false_contact);
        // A cast that starts in a wall, if only by a hair, reports it even when it leaves; and one cannot
        // tell a wall from what is low enough, up there, to be stepped on.
        const double from_side = D == 2 ? 1.0 : 2.5 - std::abs(pose.anchor[D - 1]);
        const bool in_wall = std::min({pose.anchor[0], 8.0 - pose.anchor[0], from_side}) < 0.3 + 1e-9;
        if (!in_wall && pose.anchor[1] < 2.0) CHECK(pose.verdict(1) != Verdict::false_contact);
    }
    // Poses lie under the roof as well as on the floor.
    double highest = -infinity;
    for (const SurveyPose<D>& pose : result.poses) {
        if (pose.anchor[1] > 2.0 || pose.anchor[1] < -0.1) continue;  // on top of it all, and beneath
        highest = std::max(highest, pose.anchor[1] + static_cast<double>(pose.up));
        // The roof ends where the walls do.
        if (pose.anchor[0] < 0.3 || pose.anchor[0] > 7.7 || (D == 3 && std::abs(pose.anchor[D - 1]) > 2.0))
            continue;
        const bool under_roof = pose.anchor[1] + 1.8 >= 3.0 - 0.02;
        CHECK(pose.truths_on.has(0) == under_roof);
    }
    CHECK(highest == Approx(3.0 - 1.8 + 0.02).margin(1e-4));  // sunk into it by touch
}

TEMPLATE_TEST_CASE_SIG("a head ray too short, a chest ray too long: cause and cure are named for any claim",
                       "", ((int D), D), 2, 3) {
    Probe<D> head = probe<D>("head ray", up<D>, 0.1);
    head.line().from = at<D>(0, 1.7);
    Probe<D> chest = probe<D>("chest ray", forward<D>, 0.55);
    chest.line().from = at<D>(0, 0.9);
    const auto rig = rig_of<D>({head, chest}, {claim("bump", Claim::ceiling, {"head ray"}),
                                               claim("blocked", Claim::wall, {"chest ray"})});
    const auto result = survey<D>(corridor<D>(), rig, inside<D>());
    REQUIRE(result.findings.size() >= 2);
    bool missed_roof = false;
    bool false_wall = false;
    for (const Finding<D>& finding : result.findings) {
        const CauseReport& cause = finding.causes.front();
        if (finding.signal == 0) {
            CHECK(finding.verdict == Verdict::missed_contact);
            CHECK(finding.solid == "roof");
            CHECK(cause.cause == CauseKind::reach_short);
            // From 1.7 to the crown at 1.8, and touch.
            CHECK(cause.needs_number == Approx(0.12).margin(1e-5));
            CHECK(cause.adds_false == 0);
            missed_roof = true;
        } else {
            // In 3D a ray misses walls beside the body's middle, too.
            if (finding.verdict == Verdict::missed_contact && D == 3) continue;
            CHECK(finding.verdict == Verdict::false_contact);
            CHECK(cause.cause == CauseKind::reach_long);
            // The body's half width and ahead_wall.
            CHECK(cause.between[1] == Approx(0.4).margin(0.008));
            CHECK(cause.needs_number <= cause.between[1]);
            CHECK(cause.needs_number >= std::max(cause.between[0], 0.35));
            false_wall = true;
        }
    }
    CHECK(missed_roof);
    CHECK(false_wall);
}

TEMPLATE_TEST_CASE_SIG("a drop is true within ahead_drop of the lip, and nowhere else", "", ((int D), D), 2,
                       3) {
    LevelBuilder<D> builder({"m"});
    builder.add("pier", "m", block<D>(0, -1, 8, 0));
    const auto level = builder.build();
    Probe<D> never = probe<D>("never", up<D>, 0.01);
    auto rig = rig_of<D>({never}, {claim("edge", Claim::drop, {"never"})});
    rig.intent.ahead_drop = 0.8;
    SurveyOptions options = coarse<D>();
    const auto result = survey<D>(level, rig, options);
    const double overhang = 0.3 * std::sin(radians(45.0));
    int true_ones = 0;
    for (const SurveyPose<D>& pose : result.poses) {
        const Vec<D>& heading = result.facings[pose.facing].heading;
        if (std::abs(heading[0]) < 0.5) continue;  // 3D: along the pier
        if (D == 3 && std::abs(pose.anchor[D - 1]) > 2.9) continue;
        const double to_lip = heading[0] > 0.0 ? 8.0 - pose.anchor[0] : pose.anchor[0];
        const double behind = heading[0] > 0.0 ? pose.anchor[0] : 8.0 - pose.anchor[0];
        if (behind < 0.0) continue;
        if (pose.above_rest < 0.0 && to_lip < 0.0) continue;  // sunk into the lip, under another angle
        const bool near_ground = 0.02 > pose.above_rest;
        const bool on_ground = near_ground && to_lip > -overhang;
        if (std::abs(to_lip - 0.8) < 1e-4 || to_lip + overhang < 1e-2 ||
            std::abs(pose.above_rest - 0.02) < 1e-3)
            continue;
        CAPTURE(pose.anchor, heading);
        REQUIRE(pose.truths_on.has(0) == (on_ground && to_lip <= 0.8));
        true_ones += static_cast<int>(pose.truths_on.has(0));
    }
    CHECK(true_ones > 20);
}

TEMPLATE_TEST_CASE_SIG("headroom is of the stance named, not of the present one", "", ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", block<D>(0, -1, 8, 0));
    builder.add("duct roof", "m", block<D>(3, 1.0, 5, 4));
    const auto level = builder.build();
    Rig<D> rig = rig_of<D>({probe<D>("any", up<D>, 0.01)}, {claim("can stand", Claim::headroom, {"any"})});
    rig.body.stances.push_back(Stance<D>::ball("rolled", 0.3));
    rig.signals[0].stance = "upright";
    SurveyOptions options = coarse<D>();
    options.stances = {"rolled"};
    const auto result = survey<D>(level, rig, options);
    int refused = 0;
    for (const SurveyPose<D>& pose : result.poses) {
        if (D == 3 && std::abs(pose.anchor[D - 1]) > 2.0) continue;
        const double x = pose.anchor[0];
        const double edge = std::min(std::abs(x - 2.7), std::abs(x - 5.3));
        if (edge < 0.03 || pose.anchor[1] < -0.1 || pose.anchor[1] > 0.5) continue;
        const bool fits = x < 2.7 || x > 5.3;
        REQUIRE(pose.truths_on.has(0) == fits);
        refused += fits ? 0 : 1;
    }
    CHECK(refused > 10);
    rig.signals[0].stance = "";
    CHECK_THROWS_AS(check(rig), InvalidInput);
    rig.signals[0].stance = "lying";
    CHECK_THROWS_AS(check(rig), InvalidInput);
}

TEMPLATE_TEST_CASE_SIG(
    "a floor that probes alone meet is a false contact, one that they cannot meet a missed one", "",
    ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m", "glass"});
    builder.add("floor", "m", block<D>(0, -1, 8, 0));
    builder.add("mirage", "m", block<D>(2, 0.5, 4, 1.0)).role(Role::sensed);
    builder.add("glass stage", "glass", block<D>(5, 0.5, 7, 1.0)).role(Role::reference);
    const auto level = builder.build();
    auto rig = rig_with<D>(foot_ray<D>(0.42), {"m", "glass"});
    const auto result = survey<D>(level, rig, coarse<D>());
    bool missed = false;
    bool falsely = false;
    for (const Finding<D>& finding : result.findings) {
        const CauseReport& cause = finding.causes.front();
        if (finding.solid == "glass stage" && cause.cause == CauseKind::not_sensed) {
            CHECK(finding.verdict == Verdict::missed_contact);
            CHECK(cause.parameter == "role");
            CHECK(cause.cures == finding.count);
            missed = true;
        }
        if (finding.solid == "mirage" && cause.cause == CauseKind::sensed_only) {
            CHECK(finding.verdict == Verdict::false_contact);
            CHECK(cause.cures == finding.count);
            falsely = true;
        }
        CHECK_FALSE((finding.solid == "mirage" && finding.verdict == Verdict::missed_contact));
    }
    CHECK(missed);
    CHECK(falsely);
    // No truth stands on the mirage, no ray ends on the glass.
    const auto ray = RoundedHull<D>::ball(Vec<D>::zero(), 1.0).with_radius(0.0);
    const auto hit = first_hit<D>(
        level, {ray.view(), at<D>(6, 2), -up<D>, 5.0, level.mask_of({"m", "glass"}, Role::sensed)});
    REQUIRE(hit);
    CHECK(hit->distance == Approx(2.0));
    const auto body = Stance<D>::capsule("", 0.3, 1.8);
    const LayerSet meets = level.mask_of({"m", "glass"}, Role::reference);
    CHECK_FALSE(ground<D>(level, {body.shape.view(), at<D>(3, 1.001), meets}, rig.intent).on);
    CHECK(ground<D>(level, {body.shape.view(), at<D>(6, 1.001), meets}, rig.intent).on);
    // The same of solids that move.
    MovingLevel<D> moving(level, std::vector<std::uint32_t>{2});
    moving.place(2, at<D>(0, 0.5));
    moving.refit();
    CHECK(
        moving.first_hit({ray.view(), at<D>(6, 2), -up<D>, 5.0, level.mask_of({"m", "glass"}, Role::sensed)})
            ->distance == Approx(2.0));
    CHECK(moving.first_hit({ray.view(), at<D>(6, 2), -up<D>, 5.0, meets})->distance == Approx(0.5));
}

TEST_CASE("too many asked for at once is a fault of the combination, and the right number is its cure") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", block<2>(0, -1, 8, 0));
    const auto level = builder.build();
    Rig<2> rig = rig_of<2>({}, {claim("grounded", Claim::ground, {})});
    for (const double x : {-0.2, 0.0, 0.2}) {
        Probe<2> ray = probe<2>("ray " + std::to_string(rig.probes.size()), -up<2>, 0.42);
        ray.line().from = {x, 0.4};
        rig.probes.push_back(ray);
        rig.signals[0].members.at_least.of.push_back(ray.name);
    }
    rig.signals[0].members.at_least.count = 3;
    const auto strict = survey<2>(level, rig, coarse<2>());
    bool named = false;
    for (const Finding<2>& finding : strict.findings) {
        CHECK(finding.verdict == Verdict::missed_contact);
        for (const CauseReport& cause : finding.causes) {
            if (cause.parameter != "at_least.count") continue;
            CHECK(cause.cause == CauseKind::combined_out);
            CHECK(cause.now == "3");
            CHECK(std::stoi(cause.needs) < 3);
            CHECK(cause.cures > 0);
            named = true;
        }
    }
    CHECK(named);
    rig.signals[0].members.at_least.count = 1;
    const auto loose = survey<2>(level, rig, coarse<2>());
    CHECK(poses(loose.signals[0], Verdict::missed_contact) <
          poses(strict.signals[0], Verdict::missed_contact));
}

TEST_CASE("roles take a bit of their own on each layer, and a level has 64 of them") {
    std::vector<std::string> layers;
    for (int i = 0; i < 63; ++i) layers.push_back("layer " + std::to_string(i));
    LevelBuilder<2> builder(layers);
    CHECK_THROWS_AS(builder.role(Role::sensed), InvalidInput);
    builder.add("a", "layer 0", block<2>(0, 0, 1, 1)).role(Role::sensed);
    builder.add("b", "layer 0", block<2>(2, 0, 3, 1)).role(Role::sensed);
    builder.add("c", "layer 1", block<2>(4, 0, 5, 1));
    CHECK_THROWS_AS(builder.role(Role::reference), InvalidInput);
    CHECK_THROWS_AS(builder.sensed_when({{}, 1.0, 2.0}), InvalidInput);
    const auto level = builder.build();
    CHECK_FALSE(level.solids()[2].sensed_when);
    CHECK(level.solids()[0].bit == 63);
    CHECK(level.solids()[1].bit == 63);
    CHECK(level.solids()[2].role == Role::both);
    CHECK(level.layers()[level.solids()[0].layer] == "layer 0");
    CHECK(level.mask_of({"layer 0"}, Role::sensed) == (LayerSet{1} | LayerSet{1} << 63U));
    CHECK(level.mask_of({"layer 0"}, Role::reference) == 1U);
    CHECK(level.mask_of({"layer 0"}, Role::both) == 1U);
}
