// The survey against closed forms: what it must find, how large, and why.
#include <rapidcheck.h>

#include <set>

#include <catch2/catch.hpp>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/io/survey_json.hpp"
#include "hollow_probe/level/text_level.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "scenes.hpp"
#include "verdict_counts.hpp"

using namespace scenes;

namespace {

/// A box whose first axis goes from low to high and whose top is at `top`, 6 wide across in 3D.
template <int D>
RoundedHull<D> block(double low, double high, double top, double thickness = 1.0) {
    Vec<D> size = 6.0 * Vec<D>::ones();
    size[0] = high - low;
    size[1] = thickness;
    return RoundedHull<D>::box(at<D>(0.5 * (low + high), top - 0.5 * thickness), size);
}

/// A floor between two walls, so that it has no lips along its first axis.
template <int D>
Level<D> room(std::vector<std::string> layers = {"m"}) {
    LevelBuilder<D> builder(layers);
    builder.add("floor", layers.front(), block<D>(0, 6, 0));
    builder.add("left wall", layers.back(), block<D>(-1, 0, 4, 5));
    builder.add("right wall", layers.back(), block<D>(6, 7, 4, 5));
    return builder.build();
}

template <int D>
SurveyOptions coarse() {
    SurveyOptions options;
    options.spacing = D == 2 ? 0.1 : 0.5;
    options.headings = 2;
    return options;
}

template <int D>
std::vector<Finding<D>> findings_on(const Survey<D>& survey, const std::string& solid, Verdict verdict) {
    std::vector<Finding<D>> result;
    for (const Finding<D>& finding : survey.findings) {
        if (finding.solid == solid && finding.verdict == verdict) result.push_back(finding);
    }
    return result;
}

/// Poses within `band` across the middle of a 3D level, where its side lips do not matter.
template <int D>
bool in_middle(const Finding<D>& finding) {
    return D == 2 || (finding.bounds.low[D - 1] <= 0.0 && finding.bounds.high[D - 1] >= 0.0);
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("(a) a ray too short misses at every rest, and needs the right reach", "",
                       ((int D), D), 2, 3) {
    const auto level = room<D>();
    auto rig = rig_with<D>(foot_ray<D>(0.35), {"m"});
    const auto result = survey<D>(level, rig, coarse<D>());
    CHECK(poses(result.signals[0], Verdict::true_contact) == 0);
    CHECK(poses(result.signals[0], Verdict::false_contact) == 0);
    CHECK(result.signals[0].recall() == 0.0);
    bool found = false;
    for (const auto& finding : findings_on<D>(result, "floor", Verdict::missed_contact)) {
        const CauseReport& cause = finding.causes.front();
        // Over the side lips of the 3D floor it is aimed beside, too.
        if (cause.cause != CauseKind::reach_short || !cause.with.empty()) continue;
        found = true;
        CHECK(cause.probe == "foot");
        CHECK(cause.parameter == "reach");
        // 0.4 from the start to the sole, and touch: the largest gap that still is ground.
        CHECK(cause.needs_number == Approx(0.42).margin(1e-6));
        CHECK(cause.by == Approx(0.07).margin(1e-6));
        CHECK(cause.cures == finding.count);
        CHECK(cause.adds_missed == 0);
        CHECK(cause.adds_false == 0);
        CHECK(std::abs(finding.worst.above_rest) <= 0.02 + 1e-9);
        // Truth reaches from touch above the rest to touch below it.
        CHECK(finding.severity == Approx(0.04).epsilon(0.02));
    }
    CHECK(found);
    if (D == 2) CHECK(findings_on<D>(result, "floor", Verdict::missed_contact).size() == 1);
    // With that reach and nothing else changed, the floor is right everywhere.
    rig.probes[0].line().reach = 0.42;
    const auto cured = survey<D>(level, rig, coarse<D>());
    for (const auto& finding : findings_on<D>(cured, "floor", Verdict::missed_contact))
        CHECK_FALSE(in_middle<D>(finding));
    CHECK(poses(cured.signals[0], Verdict::false_contact) == 0);
}

TEMPLATE_TEST_CASE_SIG("(b) a floor layer not seen: all missed, and the layer is named", "", ((int D), D), 2,
                       3) {
    const auto level = room<D>({"masonry", "grating"});
    auto probe = foot_ray<D>(0.42);
    probe.sees = {"grating"};
    auto rig = rig_with<D>(probe, {"masonry", "grating"});
    const auto result = survey<D>(level, rig, coarse<D>());
    const auto on_floor = findings_on<D>(result, "floor", Verdict::missed_contact);
    REQUIRE_FALSE(on_floor.empty());
    const CauseReport& cause = on_floor.front().causes.front();
    CHECK(cause.cause == CauseKind::layer_unseen);
    CHECK(cause.needs == "[\"grating\", \"masonry\"]");
    CHECK(cause.cures == on_floor.front().count);
    for (const auto& pose : result.poses) {
        const bool on_floor_here = pose.anchor[1] < 0.1 && pose.truths_on == SignalSet::of(0);
        if (on_floor_here) REQUIRE(pose.verdict(0) == Verdict::missed_contact);
    }
}

/// Over a lip, so far beyond it, the heights at which a round sole stands on it: hovering by up to touch, and
/// sunk into it by up to touch along the way out, as long as that is no steeper than footing.
double heights_over_lip(double beyond, double radius, double touch, double steepest_degrees) {
    const double at_touch = std::sqrt(radius * radius - beyond * beyond);
    const double deepest = std::sqrt(std::max((radius - touch) * (radius - touch) - beyond * beyond, 0.0));
    const double steepest = beyond / std::tan(radians(steepest_degrees));
    return touch + at_touch - std::max(deepest, steepest);
}

/// Simpson's rule.
template <class F>
double integral(double from, double to, F f) {
    constexpr int parts = 2000;
    double sum = f(from) + f(to);
    for (int i = 1; i < parts; ++i) sum += (i % 2 == 0 ? 2.0 : 4.0) * f(from + (to - from) * i / parts);
    return sum * (to - from) / (3.0 * parts);
}

TEST_CASE("(c) a centre ray at a lip misses a strip r sin(steepest) wide, at each lip") {
    LevelBuilder<2> builder({"m"});
    builder.add("platform", "m", block<2>(-4, 4, 0));
    const auto level = builder.build();
    for (const double steepest : {45.0, 30.0}) {
        for (const double radius : {0.3, 0.5}) {
            auto rig = rig_with<2>(foot_ray<2>(0.42), {"m"});
            rig.body.stances = {Stance<2>::capsule("upright", radius, 1.8)};
            rig.intent.steepest_footing_degrees = steepest;
            const auto result = survey<2>(level, rig);
            const double width = radius * std::sin(radians(steepest));
            REQUIRE(result.findings.size() == 2);
            for (const auto& finding : result.findings) {
                CHECK(finding.causes.front().cause == CauseKind::aimed_beside);
                CHECK(finding.bounds.size().x() == Approx(width).epsilon(0.01));
                const bool right = finding.bounds.low.x() > 0.0;
                CHECK((right ? finding.bounds.low.x() : -finding.bounds.high.x()) ==
                      Approx(4.0).margin(0.01 * width));
                CHECK(finding.causes.front().by == Approx(width).epsilon(0.01));
            }
            // The area of both strips, in two headings; on the platform truth is 2 touch high.
            const double strip =
                integral(0.0, width, [&](double x) { return heights_over_lip(x, radius, 0.02, steepest); });
            const double missed = result.signals[0].of(Verdict::missed_contact);
            CHECK(missed == Approx(2 * 2 * strip).epsilon(0.015));
            CHECK(result.signals[0].of(Verdict::true_contact) == Approx(2 * 8.0 * 0.04).epsilon(0.001));
            CHECK(result.signals[0].recall() ==
                  Approx(8.0 * 0.04 / (8.0 * 0.04 + 2.0 * strip)).epsilon(0.001));
            double of_findings = 0.0;
            for (const auto& finding : result.findings) of_findings += finding.measure;
            CHECK(of_findings == Approx(missed).epsilon(1e-6));
        }
    }
}

TEST_CASE("(c) in 3D the strip runs around the platform") {
    LevelBuilder<3> builder({"m"});
    builder.add("platform", "m", block<3>(-3, 3, 0));
    const auto level = builder.build();
    SurveyOptions options;
    options.headings = 1;
    options.spacing = 0.25;
    const auto result = survey<3>(level, rig_with<3>(foot_ray<3>(0.42), {"m"}), options);
    const double width = 0.3 * std::sin(radians(45.0));
    REQUIRE(result.findings.size() == 1);
    CHECK(result.findings[0].bounds.high.x() == Approx(3.0 + width).epsilon(0.001));
    CHECK(result.findings[0].bounds.low.z() == Approx(-3.0 - width).epsilon(0.001));
    // Four sides of 6, and the round corners.
    const auto heights = [](double beyond) { return heights_over_lip(beyond, 0.3, 0.02, 45.0); };
    const double volume = 4 * 6 * integral(0.0, width, heights) + integral(0.0, width, [&](double r) {
                              return 2.0 * std::numbers::pi * r * heights(r);
                          });
    CHECK(result.signals[0].of(Verdict::missed_contact) == Approx(volume).epsilon(0.03));
    CHECK(result.signals[0].of(Verdict::true_contact) == Approx(6.0 * 6.0 * 0.04).epsilon(0.01));
}

TEMPLATE_TEST_CASE_SIG("(d) a ramp beyond footing is a false contact for a ray that takes any angle", "",
                       ((int D), D), 2, 3) {
    const auto on_ramp = [](double angle) {
        LevelBuilder<D> builder({"m"});
        const double rise = 3.0 * std::tan(radians(angle));
        std::vector<Vec<D>> corners;
        for (const double z : {-3.0, 3.0}) {
            for (const auto& [x, y] : {std::pair{0.0, 0.0}, {3.0, rise}, {3.0, -1.0}, {0.0, -1.0}}) {
                Vec<D> corner = at<D>(x, y);
                if (D == 3) corner[D - 1] = z;
                corners.push_back(corner);
            }
            if (D == 2) break;
        }
        builder.add("ramp", "m", RoundedHull<D>::hull(corners));
        return survey<D>(builder.build(), rig_with<D>(foot_ray<D>(0.6), {"m"}), coarse<D>());
    };
    const auto steep = on_ramp(50.0);
    std::size_t found = 0;
    for (const auto& finding : findings_on<D>(steep, "ramp", Verdict::false_contact)) {
        // The ray is too long besides, so that another cause may lead.
        const auto steep_one =
            std::find_if(finding.causes.begin(), finding.causes.end(),
                         [](const CauseReport& c) { return c.cause == CauseKind::too_steep; });
        if (steep_one == finding.causes.end()) continue;
        const CauseReport& cause = *steep_one;
        ++found;
        CHECK(cause.by == Approx(5.0).margin(1e-6));
        CHECK(cause.parameter == "accept.angle[1]");
        CHECK(cause.needs_number == 45.0);
        CHECK(cause.cures == finding.count);
    }
    CHECK(found >= 1);
    const auto gentle = on_ramp(44.9);
    for (const auto& finding : gentle.findings) {
        for (const CauseReport& cause : finding.causes) CHECK(cause.cause != CauseKind::too_steep);
    }
    for (const auto& pose : gentle.poses) {
        if (pose.above_rest < 0.02 && pose.anchor[0] > 0.3 && pose.anchor[0] < 2.7 &&
            std::abs(pose.anchor[D - 1]) < 2.9) {
            REQUIRE(pose.verdict(0) != Verdict::false_contact);
        }
    }
}

TEMPLATE_TEST_CASE_SIG("(e) a cast wider than the body feels the wall beside it", "", ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    builder.add("pit floor", "m", block<D>(-3, 3, -4));
    builder.add("wall", "m", block<D>(1, 2, 0, 4));
    const auto level = builder.build();
    // The wall's inside is 1; the body, a box 0.6 wide, can stand off the floor beside it in the air.
    Probe<D> probe;
    Vec<D> size = 0.62 * Vec<D>::ones();
    size[1] = 0.1;
    probe.line().shape = RoundedHull<D>::box(Vec<D>::zero(), size);
    probe.line().from = 0.4 * Vec<D>::unit(1);
    probe.line().reach = 0.37;
    auto rig = rig_with<D>(probe, {"m"});
    Vec<D> body = 0.6 * Vec<D>::ones();
    body[1] = 1.8;
    rig.body.stances = {Stance<D>::box("upright", body)};
    SurveyOptions options = coarse<D>();
    options.spacing = D == 2 ? 0.004 : 0.25;
    if (D == 3) options.headings = 1;
    // In 3D the columns lie on multiples of 0.25 from the middle; shift the wall's face so that one is 0.005
    // from touch.
    if constexpr (D == 3) {
        LevelBuilder<3> other({"m"});
        other.add("pit floor", "m", block<3>(-3, 3, -4));
        other.add("wall", "m", block<3>(-0.195, 0.805, 0, 4));
        const auto result = survey<3>(other.build(), rig, options);
        const auto walls = findings_on<3>(result, "wall", Verdict::false_contact);
        std::size_t wide = 0;
        for (const auto& finding : walls) {
            if (finding.causes.front().cause != CauseKind::wider_than_body) continue;
            ++wide;
            CHECK(finding.causes.front().by <= 0.03 + 1e-9);
        }
        CHECK(wide >= 1);
        return;
    }
    const auto result = survey<D>(level, rig, options);
    std::size_t wide = 0;
    for (const auto& finding : findings_on<D>(result, "wall", Verdict::false_contact)) {
        const CauseReport& cause = finding.causes.front();
        if (cause.cause != CauseKind::wider_than_body || finding.bounds.low[1] > -1.0) continue;
        ++wide;
        CHECK(cause.parameter == "shape width");
        // As wide as the body it would still feel the wall that the body may overlap by up to touch.
        CHECK(cause.by == Approx(0.01 + 0.02).margin(1e-4));
        CHECK(cause.needs_number == Approx(0.6 - 2 * 0.02).margin(2e-4));
        // The strip: the body's side from touch inside the wall to 0.01 from it.
        CHECK(finding.bounds.size()[0] <= 0.03 + 0.004);
    }
    CHECK(wide >= 2);  // on either side of the wall
}

TEST_CASE("(e) what the body touches beside it is heard where no claim looks ahead") {
    const double touch = 0.02;
    const double radius = 0.3;
    LevelBuilder<2> builder({"m"});
    builder.add("pillar", "m", block<2>(2, 3, 4, 5));
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.42), {"m"});
    rig.intent.touch = touch;
    ContactProbe beside;
    beside.side = Side::beside;
    rig.probes[0].of_kind = beside;
    const Survey<2> result = survey<2>(builder.build(), rig, coarse<2>());
    // At each side, from touch away to touch deep: along the body's straight part, 1.2 tall, and past the
    // corners up to 45 degrees.
    const double tall = 5.0 + 1.2 + 2.0 * radius * std::sin(radians(45.0));
    CHECK(result.signals[0].of(Verdict::false_contact) == Approx(2.0 * 2.0 * touch * tall).epsilon(0.01));
    for (const Finding<2>& finding : result.findings) {
        if (finding.verdict == Verdict::false_contact) CHECK(finding.solid == "pillar");
    }
}

TEST_CASE("(e) where a ramp runs into a wall a ray that judges its first hit meets the wall from there on") {
    LevelBuilder<2> builder({"m"});
    builder.add("wall", "m", block<2>(2, 3, 1.05, 2));
    // Its slope meets the wall at a height of 1; its corner lies in the wall's top: a strip of 0.05 is left.
    builder.add_polygon("ramp", "m", {{0.0, 0.0}, {0.0, -1.0}, {2.1, -1.0}, {2.1, 1.05}});
    Probe<2> knee = foot_ray<2>(5.0);
    knee.line().from = at<2>(0.0, 0.3);
    knee.line().along = at<2>(1.0, 0.0);
    knee.line().accept_least_degrees = 60.0;
    knee.line().accept_most_degrees = 120.0;
    Rig<2> rig = rig_with<2>(knee, {"m"});
    rig.signals[0].claims = Claim::wall;
    const Survey<2> result = survey<2>(builder.build(), rig, coarse<2>());
    int below = 0;
    int above = 0;
    for (const SurveyPose<2>& pose : result.poses) {
        const double x = pose.anchor.x();
        if (result.facings[pose.facing].heading.x() < 0.0 || x < -2.0 || x > -0.6) continue;
        const auto holds = [&](double y) {
            return pose.anchor.y() - pose.down < y && y < pose.anchor.y() + pose.up;
        };
        if (holds(0.69)) CHECK_FALSE(pose.signals_on.has(0));
        if (holds(0.71) || holds(0.74)) CHECK(pose.signals_on.has(0));
        if (holds(0.76)) CHECK_FALSE(pose.signals_on.has(0));
        below += holds(0.69) ? 1 : 0;
        above += holds(0.71) ? 1 : 0;
    }
    CHECK(below > 0);
    CHECK(above > 0);
}

namespace {

/// A capsule, a box or a rounded hull.
template <int D>
Stance<D> random_stance(Random& random) {
    switch (random.below(3)) {
        case 0:
            return Stance<D>::capsule("upright", random.between(0.2, 0.5), random.between(1.2, 1.8));
        case 1: {
            Vec<D> size;
            for (int axis = 0; axis < D; ++axis) size[axis] = random.between(0.5, 1.5);
            return Stance<D>::box("upright", size);
        }
        default: {
            const double radius = random.between(0.05, 0.3);
            std::vector<Vec<D>> points = {at<D>(0.0, radius)};
            for (int axis = 0; axis < D; ++axis)
                points.push_back(at<D>(0.0, radius + 0.6) + 0.5 * Vec<D>::unit(axis));
            return Stance<D>::hull("upright", points, radius);
        }
    }
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("every height at which a body does not clip is judged, and no other", "", ((int D), D),
                       2, 3) {
    Random random(61 + D);
    std::size_t judged = 0;
    std::size_t clipped = 0;
    for (int round = 0; round < (D == 2 ? 30 : 6); ++round) {
        const Vec<D> up = round % 3 == 0   ? random.direction<D>()
                          : round % 3 == 1 ? -Vec<D>::unit(1)
                                           : Vec<D>::unit(1);
        LevelBuilder<D> builder({"m"}, up);
        for (int i = 0; i < 6; ++i)
            builder.add("s" + std::to_string(i), "m",
                        random_shape<D>(random, random.point<D>(1.5), random.between(0.3, 2.0)));
        const Level<D> level = builder.build();
        Rig<D> rig = rig_with<D>(foot_ray<D>(0.45), {"m"});
        rig.body.stances[0] = random_stance<D>(random);
        SurveyOptions options;
        options.explain = false;
        options.headings = 1;
        options.budget = 1'500;
        const Survey<D> result = survey<D>(level, rig, options);
        const double touch = rig.intent.touch;
        for (std::size_t n = 0; n < result.poses.size(); n += 7) {
            const SurveyPose<D>& pose = result.poses[n];
            const MountedRig<D> mounted(rig, level, 0, result.facings[pose.facing].heading);
            const auto depth_at = [&](const Vec<D>& anchor) {
                double depth = 0.0;
                for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece)
                    depth =
                        std::max(depth, -separation<D>(mounted.body.view(), anchor, level.piece(piece)).gap);
                return depth;
            };
            const auto is_judged = [&](double from_pose) {
                return std::any_of(result.poses.begin(), result.poses.end(), [&](const SurveyPose<D>& other) {
                    const Vec<D> way = other.anchor - pose.anchor;
                    const double rise = way.dot(up);
                    if (other.facing != pose.facing || (way - rise * up).norm() > 1e-9)
                        return false;          // another column's
                    const double hair = 1e-5;  // ends are kept as floats
                    return from_pose > rise - static_cast<double>(other.down) - hair &&
                           from_pose < rise + static_cast<double>(other.up) + hair;
                });
            };
            // Anywhere within, and close to both ends on either side.
            const double low = -static_cast<double>(pose.down);
            const double high = static_cast<double>(pose.up);
            CAPTURE(D, round, n, touch);
            CHECK(depth_at(pose.anchor) <= touch * (1.0 + 1e-6));
            for (const double inside : {1e-4, 0.3 * (high - low), high - low - 1e-4}) {
                if (inside <= 0.0 || inside >= high - low) continue;
                CHECK(depth_at(pose.anchor + (low + inside) * up) <= touch * (1.0 + 1e-6));
                ++judged;
            }
            for (const double outside : {low - 0.002, high + 0.002, low - 0.05, high + 0.05}) {
                const auto is_free = [&](double by) {
                    return depth_at(pose.anchor + (outside + by) * up) < touch * (1.0 - 1.0 / 1024.0);
                };
                const bool free = is_free(-touch / 32.0) && is_free(0.0) && is_free(touch / 32.0);
                if (!free) ++clipped;
                // Far from everything nothing is felt.
                const bool near = depth_at(pose.anchor + (outside + 0.3) * up) > 0.0 ||
                                  depth_at(pose.anchor + (outside - 0.3) * up) > 0.0;
                if (free && near) CHECK(is_judged(outside));
            }
        }
    }
    CHECK(judged > 1000);
    CHECK(clipped > 100);
}

TEST_CASE("(f) up may be any direction: turned and mirrored levels give the same verdicts") {
    const auto survey_turned = [](double angle, bool mirror) {
        Mat<2> turn = turn_by(radians(angle));
        if (mirror) turn.column(0) = -turn.column(0);
        LevelBuilder<2> builder({"m"}, turn * Vec<2>(0, 1));
        builder.add("floor", "m", block<2>(0, 6, 0).placed(turn));
        builder.add("step", "m", block<2>(2, 3, 0.4).placed(turn));
        builder.add("ramp", "m", RoundedHull<2>::hull({{4, 0}, {6, 0}, {6, 2.4}}).placed(turn));
        builder.add("pipe", "m", RoundedHull<2>::capsule({0.5, 3}, {3.5, 3}, 0.2).placed(turn));
        return survey<2>(builder.build(), rig_with<2>(foot_ray<2>(0.45), {"m"}));
    };
    const auto upright = survey_turned(0.0, false);
    REQUIRE(poses(upright.signals[0], Verdict::missed_contact) > 0);
    REQUIRE(poses(upright.signals[0], Verdict::false_contact) > 0);
    for (const auto& [angle, mirror] :
         {std::pair{180.0, false}, {180.0, true}, {90.0, false}, {33.3, false}, {-71.0, true}}) {
        const auto turned = survey_turned(angle, mirror);
        CHECK(turned.signals[0].poses == upright.signals[0].poses);
        CHECK(turned.findings.size() == upright.findings.size());
        for (std::size_t v = 0; v < verdict_count; ++v) {
            CHECK(turned.signals[0].measure[v] == Approx(upright.signals[0].measure[v]).margin(1e-5));
        }
    }
}

TEST_CASE("(f) in 3D, up = -y and a level on its side") {
    const auto survey_turned = [](const Mat<3>& turn) {
        LevelBuilder<3> builder({"m"}, turn * Vec<3>(0, 1, 0));
        builder.add("floor", "m", block<3>(0, 3, 0).placed(turn));
        builder.add("step", "m", block<3>(1, 2, 0.4).placed(turn));
        SurveyOptions options = coarse<3>();
        options.headings = 4;
        return survey<3>(builder.build(), rig_with<3>(foot_ray<3>(0.45), {"m"}), options);
    };
    const auto upright = survey_turned(Mat<3>::identity());
    REQUIRE(poses(upright.signals[0], Verdict::missed_contact) > 0);
    const Mat<3> around_x = scenes::by_rows({1, 0, 0}, {0, -1, 0}, {0, 0, -1});
    const Mat<3> onto_x = scenes::by_rows({0, 1, 0}, {-1, 0, 0}, {0, 0, 1});
    for (const Mat<3>& turn : {around_x, onto_x}) {
        const auto turned = survey_turned(turn);
        CHECK(turned.signals[0].poses == upright.signals[0].poses);
    }
}

TEST_CASE("(g) any number of threads gives the same bytes") {
    const auto level = level_from_text(
        "...........\n"
        ".....##....\n"
        "..../......\n"
        "###/##..###\n");
    const auto rig = rig_with<2>(foot_ray<2>(0.43), {"solid"});
    const auto bytes = [&](int threads) {
        SurveyOptions options;
        options.threads = threads;
        return survey_json<2>(level, rig, survey<2>(level, rig, options), "level", "rig");
    };
    const std::string one = bytes(1);
    CHECK(one.find("missed_contact") != std::string::npos);
    CHECK(bytes(2) == one);
    CHECK(bytes(7) == one);
}

TEST_CASE("each cause is named where it is planted, with the change that cures it") {
    LevelBuilder<2> builder({"m", "mist"});
    builder.add("floor", "m", block<2>(0, 6, 0));
    builder.add("left wall", "m", block<2>(-1, 0, 4, 5));
    builder.add("right wall", "m", block<2>(6, 7, 4, 5));
    builder.add("fog bank", "mist", block<2>(0, 6, 1.0, 0.1));
    const auto level = builder.build();
    const auto leading = [&](const Rig<2>& rig, Verdict verdict, const std::string& solid) {
        const auto result = survey<2>(level, rig, coarse<2>());
        const auto found = findings_on<2>(result, solid, verdict);
        REQUIRE_FALSE(found.empty());
        return found.front().causes.front();
    };
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.42), {"m"});
    CHECK(
        survey<2>(level, rig, coarse<2>()).findings.size() ==
        findings_on<2>(survey<2>(level, rig, coarse<2>()), "left wall", Verdict::missed_contact).size() +
            findings_on<2>(survey<2>(level, rig, coarse<2>()), "right wall", Verdict::missed_contact).size());

    SECTION("reach_long") {
        rig.probes[0].line().reach = 0.5;
        const auto cause = leading(rig, Verdict::false_contact, "floor");
        CHECK(cause.cause == CauseKind::reach_long);
        CHECK(cause.needs_number == Approx(0.42).margin(1e-6));
        CHECK(cause.by == Approx(0.08).margin(1e-6));
        CHECK(cause.adds_missed == 0);
    }
    SECTION("layer_wrong") {
        rig.probes[0].line().from = {0.0, 1.1};
        rig.probes[0].line().reach = 1.12;
        rig.probes[0].sees = {"m", "mist"};
        const auto cause = leading(rig, Verdict::false_contact, "fog bank");
        CHECK(cause.cause == CauseKind::layer_wrong);
        CHECK(cause.needs == "[\"m\"]");
    }
    SECTION("angle_refused") {
        rig.probes[0].line().accept_least_degrees = 10.0;
        const auto cause = leading(rig, Verdict::missed_contact, "floor");
        CHECK(cause.cause == CauseKind::angle_refused);
        CHECK(cause.parameter == "accept.angle[0]");
        CHECK(cause.by == Approx(10.0).margin(1e-6));
    }
    SECTION("first_hit_shadowed") {
        // A fog bank tilted so that its side is refused hides the floor.
        LevelBuilder<2> other({"m", "mist"});
        other.add("floor", "m", block<2>(0, 6, 0));
        other.add("sheet", "mist", RoundedHull<2>::hull({{0, 0.05}, {6, 0.04}, {6, 0.05}, {0, 0.06}}));
        rig.probes[0].sees = {"m", "mist"};
        rig.probes[0].line().accept_most_degrees = 0.01;
        const auto hidden = survey<2>(other.build(), rig, coarse<2>());
        REQUIRE_FALSE(hidden.findings.empty());
        CHECK(hidden.findings[0].causes[0].cause == CauseKind::first_hit_shadowed);
        CHECK(hidden.findings[0].causes[0].needs == "all");
    }
    SECTION("starts_inside") {
        rig.probes[0].line().from = {0.0, -0.1};
        rig.probes[0].line().if_inside = IfInside::ignore;
        // To count what it starts in is right below the floor and wrong above it: named, but it does not
        // lead.
        const auto found =
            findings_on<2>(survey<2>(level, rig, coarse<2>()), "floor", Verdict::missed_contact);
        REQUIRE_FALSE(found.empty());
        const auto& causes = found.front().causes;
        const auto named = std::find_if(causes.begin(), causes.end(), [](const CauseReport& cause) {
            return cause.cause == CauseKind::starts_inside && cause.parameter == "if_inside";
        });
        REQUIRE(named != causes.end());
        CHECK(named->spoils > 0.0);
        CHECK_FALSE(causes.front().parameter == "if_inside");
    }
    SECTION("combined_out") {
        Probe<2> nose = foot_ray<2>(0.1);
        nose.name = "nose";
        nose.line().along = {1, 0};
        rig.probes.push_back(nose);
        rig.signals[0].members.any.clear();
        rig.signals[0].members.all = {"foot", "nose"};
        const auto cause = leading(rig, Verdict::missed_contact, "floor");
        CHECK(cause.cause == CauseKind::combined_out);
        CHECK(cause.parameter == "all");
        CHECK(cause.needs == "[\"foot\"]");
    }
    SECTION("combined_in") {
        Probe<2> crown = foot_ray<2>(5.0);
        crown.name = "crown";
        crown.line().from = {0.0, 1.9};
        crown.sees = {"mist"};
        crown.line().reach = 0.05;
        crown.line().along = {0, -1};
        rig.probes.push_back(crown);
        rig.body.meets = {"m"};
        rig.signals[0].members.any = {"foot", "crown"};
        rig.probes[1].line().from = {0.0, 0.999};
        rig.probes[1].line().if_inside = IfInside::report;
        rig.probes[1].sees = {"m"};
        rig.probes[1].line().reach = 1.2;
        const auto result = survey<2>(level, rig, coarse<2>());
        bool named = false;
        for (const auto& finding : result.findings) {
            for (const auto& cause : finding.causes) named = named || cause.cause == CauseKind::combined_in;
        }
        CHECK(named);
    }
}

TEST_CASE("two faults at once are told together, and the cure of both cures") {
    const auto level = room<2>({"masonry", "grating"});
    auto probe = foot_ray<2>(0.3);
    probe.sees = {"grating"};
    const auto result = survey<2>(level, rig_with<2>(probe, {"masonry", "grating"}), coarse<2>());
    const auto found = findings_on<2>(result, "floor", Verdict::missed_contact);
    REQUIRE_FALSE(found.empty());
    const CauseReport& cause = found.front().causes.front();
    REQUIRE(cause.with.size() == 1);
    CHECK(cause.cause == CauseKind::layer_unseen);
    CHECK(cause.needs == "[\"grating\", \"masonry\"]");
    CHECK(cause.with.front().cause == CauseKind::reach_short);
    CHECK(cause.with.front().needs_number == Approx(0.42).margin(1e-6));
    CHECK(cause.cures == found.front().count);
}

TEST_CASE("with room for few poses the counts are those of all, and the findings those of the kept") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", block<2>(-4, 4, 0));
    const auto level = builder.build();
    const auto rig = rig_with<2>(foot_ray<2>(0.41), {"m"});
    SurveyOptions options;
    options.spacing = 0.005;
    options.region = {-3.5, -1.0, 3.5, 2.0};  // without the lips: one cause alone
    const auto whole = survey<2>(level, rig, options);
    options.most_kept = 1000;
    const auto thinned = survey<2>(level, rig, options);
    REQUIRE(whole.poses.size() == whole.judged);
    CHECK(thinned.poses.size() <= 1000);
    CHECK(thinned.poses.size() > 400);
    CHECK(thinned.judged == whole.judged);
    CHECK(thinned.signals[0].poses == whole.signals[0].poses);
    CHECK(thinned.signals[0].measure == whole.signals[0].measure);
    CHECK(thinned.wrong_kept_of > 1);
    // Each pose kept is one of those judged.
    for (const SurveyPose<2>& pose : thinned.poses) {
        CHECK(std::any_of(whole.poses.begin(), whole.poses.end(), [&](const SurveyPose<2>& other) {
            return other.anchor == pose.anchor && other.facing == pose.facing &&
                   other.signals_on == pose.signals_on && other.truths_on == pose.truths_on;
        }));
    }
    // The worst finding is the same, and about as large.
    const Finding<2>& most = whole.findings.front();
    const Finding<2>& kept = thinned.findings.front();
    CHECK(kept.verdict == most.verdict);
    CHECK(kept.causes.front().cause == most.causes.front().cause);
    CHECK(kept.causes.front().parameter == most.causes.front().parameter);
    CHECK(static_cast<double>(kept.count) == Approx(static_cast<double>(most.count)).epsilon(0.1));
    CHECK(static_cast<double>(kept.causes.front().cures + kept.causes.front().cures_elsewhere) ==
          Approx(static_cast<double>(most.causes.front().cures + most.causes.front().cures_elsewhere))
              .epsilon(0.1));
    options.most_kept = 999;
    CHECK_THROWS_WITH(survey<2>(level, rig, options), Catch::Contains("most_kept"));
}

TEST_CASE("what no change cures is unexplained, and said so") {
    const auto level = room<2>();
    auto probe = foot_ray<2>(0.42);
    probe.line().along = {0.0, 1.0};  // nothing is above, however far it reaches
    const auto result = survey<2>(level, rig_with<2>(probe, {"m"}), coarse<2>());
    const auto found = findings_on<2>(result, "floor", Verdict::missed_contact);
    REQUIRE_FALSE(found.empty());
    CHECK(found.front().causes.front().cause == CauseKind::unexplained);
}

TEST_CASE("a strip thinner than the grid is found by its neighbours' verdicts and measured") {
    LevelBuilder<2> builder({"m"});
    builder.add("platform", "m", block<2>(-4, 4, 0));
    SurveyOptions options;
    options.spacing = 1.0;  // the strip is 0.21 wide
    const auto result = survey<2>(builder.build(), rig_with<2>(foot_ray<2>(0.42), {"m"}), options);
    REQUIRE(result.findings.size() == 2);
    CHECK(result.findings[0].bounds.size().x() == Approx(0.3 * std::sin(radians(45.0))).epsilon(0.03));
}

TEMPLATE_TEST_CASE_SIG("a crack between two columns of the grid is found", "", ((int D), D), 2, 3) {
    // A ray falls through a crack that a body stands over; walls on both sides, so that there are no lips.
    LevelBuilder<D> builder({"m"});
    builder.add("floor", "m", block<D>(0, 2.98, 0));
    builder.add("far floor", "m", block<D>(3.02, 6, 0));
    builder.add("left wall", "m", block<D>(-1, 0, 4, 5));
    builder.add("right wall", "m", block<D>(6, 7, 4, 5));
    if constexpr (D == 3) {
        for (const double z : {-3.5, 3.5})
            builder.add("end wall " + std::to_string(z), "m",
                        RoundedHull<3>::box({3.0, 1.5, z}, {8.0, 5.0, 1.0}));
    }
    const auto level = builder.build();
    const auto rig = rig_with<D>(foot_ray<D>(0.42), {"m"});
    SurveyOptions options = coarse<D>();
    options.spacing = 0.7;
    const auto result = survey<D>(level, rig, options);
    const auto over_crack =
        std::count_if(result.poses.begin(), result.poses.end(), [](const SurveyPose<D>& pose) {
            return pose.verdict(0) == Verdict::missed_contact && std::abs(pose.anchor[0] - 3.0) < 0.02 &&
                   (D == 2 || std::abs(pose.anchor[D - 1]) < 2.6);
        });
    CHECK(over_crack > 0);
    const auto of_crack = [&](const Finding<D>& finding) {
        return finding.causes.front().cause == CauseKind::aimed_beside && finding.bounds.low[0] > 2.9 &&
               finding.bounds.high[0] < 3.1;
    };
    CHECK(std::any_of(result.findings.begin(), result.findings.end(), of_crack));
}

TEST_CASE("finding ids stay while place and cause stay") {
    LevelBuilder<2> builder({"m"});
    builder.add("platform", "m", block<2>(-4, 4, 0));
    const auto level = builder.build();
    const auto rig = rig_with<2>(foot_ray<2>(0.42), {"m"});
    const auto ids = [&](double spacing, std::uint64_t seed) {
        SurveyOptions options;
        options.spacing = spacing;
        options.seed = seed;
        std::set<std::string> result;
        for (const auto& finding : survey<2>(level, rig, options).findings) result.insert(finding.id);
        return result;
    };
    CHECK(ids(0.15, 0).size() == 2);
    CHECK(ids(0.15, 0) == ids(0.1, 0));
    CHECK(ids(0.15, 0) == ids(0.15, 9));
}

TEST_CASE("a sound rig has no finding wherever the level is and whatever it is made of") {
    rc::check("the ball cast of the sole agrees with truth", [](std::uint64_t seed) {
        Random random(seed);
        LevelBuilder<2> builder({"m"});
        const Vec<2> origin = random.below(2) == 0 ? Vec<2>::zero() : random.point<2>(1000.0);
        for (int i = 0; i < 6; ++i)
            builder.add("s" + std::to_string(i), "m",
                        random_shape<2>(random, origin + random.point<2>(2.0), 1.5));
        Probe<2> soles;
        soles.line().shape = RoundedHull<2>::ball({0, 0}, 0.3);
        soles.line().from = {0.0, 0.3};
        soles.line().reach = 0.02;
        soles.line().accept_most_degrees = 45.0;
        soles.line().take = Take::all;
        SurveyOptions options;
        options.threads = 1;
        const auto result = survey<2>(builder.build(), rig_with<2>(soles, {"m"}), options);
        // From where the body's own sole is, and no farther than touch: right everywhere.
        RC_ASSERT(result.findings.empty());
        RC_ASSERT(result.signals[0].precision() == 1.0);
        RC_ASSERT(result.signals[0].recall() == 1.0);
    });
}

TEST_CASE("an impossible survey is refused") {
    const auto level = room<2>();
    const auto rig = rig_with<2>(foot_ray<2>(0.42), {"m"});
    SurveyOptions options;
    options.spacing = 1e-9;
    CHECK_THROWS_WITH(survey<2>(level, rig, options), Catch::Contains("50 million columns"));
    options.spacing = -1.0;
    CHECK_THROWS_WITH(survey<2>(level, rig, options), Catch::Contains("spacing must be more than 0"));
    options = {};
    options.stances = {"flying"};
    CHECK_THROWS_WITH(survey<2>(level, rig, options), Catch::Contains("no stance 'flying'"));
}

namespace {

/// The rig with one reported change made by hand, for the parameters that are plain to make.
std::optional<Rig<2>> with_change(const Rig<2>& rig, const CauseReport& cause) {
    Rig<2> changed = rig;
    for (Probe<2>& probe : changed.probes) {
        if (probe.name != cause.probe) continue;
        if (cause.parameter == "reach") {
            probe.line().reach = cause.needs_number;
        } else if (cause.parameter == "accept.angle[1]") {
            probe.line().accept_most_degrees = cause.needs_number;
        } else if (cause.parameter == "sees") {
            probe.sees.clear();
            for (const std::string layer : {"m", "grating"}) {
                if (cause.needs.find('"' + layer + '"') != std::string::npos) probe.sees.push_back(layer);
            }
        } else if (cause.parameter == "take") {
            probe.line().take = Take::all;
        } else {
            return std::nullopt;
        }
        if (cause.with.empty()) return changed;
        REQUIRE(cause.with.size() == 1);
        return with_change(changed, cause.with.front());
    }
    return std::nullopt;
}

}  // namespace

TEST_CASE("what a cure is said to cure and to spoil is what it does at every pose judged") {
    LevelBuilder<2> builder({"m", "grating"});
    builder.add("floor", "m", block<2>(0, 6, 0));
    builder.add("walk", "grating", block<2>(6, 9, 0));
    builder.add("ramp", "m", RoundedHull<2>::hull({{9, -1}, {12, -1}, {12, 1.5}, {9, 0}}));
    builder.add("steep", "m", RoundedHull<2>::hull({{12, -1}, {14, -1}, {14, 5.5}, {12, 1.5}}));
    builder.add("step", "m", block<2>(2, 3, 0.3));
    const auto level = builder.build();
    auto probe = foot_ray<2>(0.43);
    probe.sees = {"m"};
    auto rig = rig_with<2>(probe, {"m", "grating"});
    probe.name = "far foot";
    probe.line().from = {0.2, 0.4};
    probe.line().reach = 0.8;
    rig.probes.push_back(probe);
    rig.probes[1].sees = {"m"};
    rig.signals[0].members.any = {"foot", "far foot"};
    const auto result = survey<2>(level, rig);
    std::size_t tried = 0;
    std::set<CauseKind> kinds;
    for (const Finding<2>& finding : result.findings) {
        for (const CauseReport& cause : finding.causes) {
            const auto changed = with_change(rig, cause);
            if (!changed) continue;
            ++tried;
            kinds.insert(cause.cause);
            std::vector<MountedRig<2>> mounted;
            for (const auto& facing : result.facings)
                mounted.emplace_back(*changed, level, facing.stance, facing.heading);
            std::size_t cured = 0;
            std::size_t missed = 0;
            std::size_t falsely = 0;
            for (const SurveyPose<2>& pose : result.poses) {
                SurveyPose<2> after = pose;
                after.signals_on = mounted[pose.facing].evaluate(level, pose.anchor);
                const auto wrong = [](Verdict v) {
                    return v == Verdict::missed_contact || v == Verdict::false_contact;
                };
                if (wrong(pose.verdict(0)) && !wrong(after.verdict(0))) ++cured;
                if (!wrong(pose.verdict(0)) && after.verdict(0) == Verdict::missed_contact) ++missed;
                if (!wrong(pose.verdict(0)) && after.verdict(0) == Verdict::false_contact) ++falsely;
            }
            INFO(finding.id << " " << cause.parameter << " " << cause.needs);
            // One pose may lie at the new limit to the last digit.
            CHECK(std::abs(double(cause.cures + cause.cures_elsewhere) - double(cured)) <= 1.0);
            CHECK(cause.adds_missed == missed);
            CHECK(cause.adds_false == falsely);
            CHECK(cause.cures + cause.cures_elsewhere > 0);
        }
    }
    CHECK(tried >= 5);
    CHECK(kinds.count(CauseKind::layer_unseen) == 1);
    CHECK(kinds.count(CauseKind::reach_long) == 1);
    CHECK(kinds.count(CauseKind::too_steep) == 1);
}

TEST_CASE("located borders are borders: truth and signal say so on either side") {
    LevelBuilder<2> builder({"m"});
    builder.add("platform", "m", block<2>(-4, 4, 0));
    const auto level = builder.build();
    SurveyOptions options;
    options.spacing = 0.2;
    const auto result = survey<2>(level, rig_with<2>(foot_ray<2>(0.42), {"m"}), options);
    // The strip begins at the lip and ends where the sole tilts beyond footing: both known, both within
    // spacing/256.
    const double limit = 4.0 + 0.3 * std::sin(radians(45.0));
    double nearest = infinity;
    double farthest = 0.0;
    for (const auto& pose : result.poses) {
        if (pose.verdict(0) != Verdict::missed_contact || pose.anchor.x() < 0.0) continue;
        nearest = std::min(nearest, pose.anchor.x());
        farthest = std::max(farthest, pose.anchor.x());
    }
    CHECK(nearest >= 4.0);
    CHECK(nearest <= 4.0 + 0.2 / 256.0);
    CHECK(farthest <= limit);
    CHECK(farthest >= limit - 0.2 / 256.0);
}

TEST_CASE("poses are what the survey says they are: at their height above rest, and free of clipping") {
    const auto level = level_from_text(
        "......##\n"
        "........\n"
        "#../....\n"
        "########\n",
        0.9);
    const auto rig = rig_with<2>(foot_ray<2>(0.42), {"solid"});
    const auto result = survey<2>(level, rig);
    REQUIRE(result.poses.size() == result.grid_poses + result.border_poses);
    const auto body = rig.body.stances[0].shape;
    int resting = 0;
    for (const auto& pose : result.poses) {
        double gap = infinity;
        double nearest = infinity;
        for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece) {
            nearest = std::min(nearest, separation<2>(body.view(), pose.anchor, level.piece(piece)).gap);
            if (!std::isfinite(pose.above_rest)) continue;
            const Vec<2> rest = pose.anchor - pose.above_rest * level.up();
            gap = std::min(gap, std::abs(separation<2>(body.view(), rest, level.piece(piece)).gap));
        }
        if (std::isfinite(pose.above_rest)) REQUIRE(gap < 1e-9);  // lowered by above_rest, it touches
        REQUIRE(nearest >= -0.02 - 1e-9);                         // nothing is overlapped deeper than touch
        REQUIRE((pose.truths_on.none() || nearest <= 0.02 + 1e-9));
        resting += std::isfinite(pose.above_rest) ? 1 : 0;
    }
    CHECK(resting > 100);
    CHECK(result.asked > result.judged / 2);
}

TEST_CASE("stances are surveyed apart and may be chosen") {
    const auto level = room<2>();
    auto rig = rig_with<2>(foot_ray<2>(0.42), {"m"});
    rig.body.stances.push_back(Stance<2>::box("crawling", {1.6, 0.5}));
    rig.probes[0].stances = {"upright"};
    const auto both = survey<2>(level, rig, coarse<2>());
    CHECK(both.facings.size() == 4);
    for (const auto& finding : findings_on<2>(both, "floor", Verdict::missed_contact)) {
        CHECK(rig.body.stances[finding.stance].name == "crawling");
    }
    CHECK_FALSE(findings_on<2>(both, "floor", Verdict::missed_contact).empty());
    SurveyOptions only = coarse<2>();
    only.stances = {"upright"};
    CHECK(findings_on<2>(survey<2>(level, rig, only), "floor", Verdict::missed_contact).empty());
}

TEST_CASE("several signals are judged each for itself") {
    const auto level = room<2>();
    auto rig = rig_with<2>(foot_ray<2>(0.42), {"m"});
    Probe<2> short_ray = foot_ray<2>(0.35);
    short_ray.name = "short";
    short_ray.sees = {"m"};
    rig.probes.push_back(short_ray);
    Signal second = rig.signals[0];
    second.name = "second";
    second.members.any = {"short"};
    rig.signals.push_back(second);
    const auto result = survey<2>(level, rig, coarse<2>());
    const auto on_floor = findings_on<2>(result, "floor", Verdict::missed_contact);
    REQUIRE_FALSE(on_floor.empty());
    for (const auto& finding : on_floor) CHECK(finding.signal == 1);
    CHECK(result.signals[0].recall() > 0.85);  // the tops of the walls have lips
    CHECK(result.signals[1].recall() == 0.0);
}

TEST_CASE("a verdict is told from the bits of signal, truth and doubt") {
    SurveyPose<2> pose;
    const auto verdict = [&](bool on, bool truth, bool undecided) {
        pose = {};
        pose.signals_on.put(1, on);
        pose.truths_on.put(1, truth);
        pose.undecided.put(1, undecided);
        return pose.verdict(1);
    };
    CHECK(verdict(true, true, false) == Verdict::true_contact);
    CHECK(verdict(false, false, false) == Verdict::true_clear);
    CHECK(verdict(true, false, false) == Verdict::false_contact);
    CHECK(verdict(false, true, false) == Verdict::missed_contact);
    CHECK(verdict(true, true, true) == Verdict::true_contact);
    CHECK(verdict(false, false, true) == Verdict::true_clear);
    CHECK(verdict(true, false, true) == Verdict::undecided);
    CHECK(verdict(false, true, true) == Verdict::undecided);
}
