// A sound rig, one fault planted in it: the survey must name that cause, that probe and the size of the
// fault.
#include <catch2/catch.hpp>

#include <functional>
#include <map>

#include "hollow_probe/verify/survey.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

/// A scene in which the rig is sound, and what is planted.
/// A survey's region between two heights.
template <int D>
std::vector<double> heights_between(double low, double high) {
    std::vector<double> region(2 * D, 100.0);
    std::fill(region.begin(), region.begin() + D, -100.0);
    region[1] = low;
    region[D + 1] = high;
    if (D == 3) {
        // Not where the scene ends on either side.
        region[D - 1] = -0.3;
        region[2 * D - 1] = 0.3;
    }
    return region;
}

template <int D>
struct Planted {
    std::optional<Level<D>> level;
    Rig<D> rig;
    SurveyOptions options;
    CauseKind cause = CauseKind::unexplained;
    std::string probe = "sole";
    Verdict verdict = Verdict::missed_contact;
    double by = std::numeric_limits<double>::quiet_NaN();  // the size of the fault, where it has one
};

template <int D>
RoundedHull<D> block(double left, double bottom, double right, double top) {
    Vec<D> size = 12.0 * Vec<D>::ones();
    size[0] = right - left;
    size[1] = top - bottom;
    return RoundedHull<D>::box(at<D>(0.5 * (left + right), 0.5 * (bottom + top)), size);
}

/// A prism over a polygon of the first two axes.
template <int D>
RoundedHull<D> prism(const std::vector<Vec<2>>& corners) {
    std::vector<Vec<D>> points;
    for (const Vec<2>& corner : corners) {
        for (int side = 0; side < (D == 2 ? 1 : 2); ++side) {
            Vec<D> p = at<D>(corner[0], corner[1]);
            if constexpr (D == 3) p[2] = side == 0 ? -6.0 : 6.0;
            points.push_back(p);
        }
    }
    return RoundedHull<D>::hull(points);
}

/// A cast of the body's own round sole: with touch 0.02 it feels just what the body stands on.
template <int D>
Probe<D> sole() {
    Probe<D> probe = foot_ray<D>(0.12);
    probe.name = "sole";
    probe.line().shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.3);
    probe.line().take = Take::all;
    probe.line().accept_most_degrees = 45.0;
    return probe;
}

template <int D>
class Planter {
  public:
    explicit Planter(std::uint64_t seed) : random_(seed) {}

    /// A floor from -3 to 3 in two halves, and what `more` adds; the survey keeps away from its ends.
    template <class More>
    Planted<D> scene(More more, std::vector<std::string> layers = {"m", "g"}) {
        Planted<D> planted;
        LevelBuilder<D> builder(layers);
        builder.add("left half", "m", block<D>(-6, -1, 0, 0));
        builder.add("right half", "g", block<D>(0, -1, 6, 0));
        more(builder);
        planted.level = builder.build();
        planted.rig = rig_with<D>(sole<D>(), {"m", "g"});
        planted.rig.probes[0].name = "sole";
        planted.rig.signals[0].members.any = {"sole"};
        planted.options.spacing = between(0.15, 0.3);
        planted.options.headings = 2;
        planted.options.region = D == 2 ? std::vector<double>{-2.5, -1.0, 2.5, 4.0}
                                        : std::vector<double>{-2.5, -1.0, -0.3, 2.5, 4.0, 0.3};
        planted.options.threads = 2;
        return planted;
    }
    Planted<D> scene() {
        return scene([](LevelBuilder<D>&) {});
    }
    /// A wall from height 0 to `top` whose near face is at 2.
    Planted<D> wall_scene(double top, double thickness, const Probe<D>& probe) {
        auto planted = scene(
            [&](LevelBuilder<D>& builder) { builder.add("wall", "m", block<D>(2, 0, 2 + thickness, top)); });
        planted.options.region = D == 2 ? std::vector<double>{-2.5, -1.0, 1.9, 0.5}
                                        : std::vector<double>{-2.5, -1.0, -0.3, 1.9, 0.5, 0.3};
        planted.rig.probes = {probe};
        planted.rig.probes[0].sees = {"m"};
        planted.rig.signals[0].claims = Claim::wall;
        planted.rig.signals[0].members.any = {probe.name};
        planted.probe = probe.name;
        return planted;
    }

    std::vector<std::pair<std::string, std::function<Planted<D>()>>> all();

    double between(double low, double high) { return random_.between(low, high); }
    /// Seconds of so many ticks.
    double ticks(int least, int most) { return (least + random_.below(most - least + 1)) / 60.0; }

  private:
    Random random_;
};

template <int D>
Planted<D>& blamed(Planted<D>& planted, CauseKind cause, Verdict verdict,
                   double by = std::numeric_limits<double>::quiet_NaN()) {
    planted.cause = cause;
    planted.verdict = verdict;
    planted.by = by;
    return planted;
}

template <int D>
std::vector<std::pair<std::string, std::function<Planted<D>()>>> Planter<D>::all() {
    constexpr Verdict missed = Verdict::missed_contact;
    constexpr Verdict falsely = Verdict::false_contact;
    constexpr double touch = 0.02;
    constexpr double highest = 0.45;  // poses are judged up to a quarter of the body's height in the air
    return {
        {"reach_short",
         [this] {
             auto p = scene();
             const double s = between(0.021, 0.11);  // more than touch, so that no place is sensed
             p.rig.probes[0].line().reach -= s;
             return blamed(p, CauseKind::reach_short, missed, s);
         }},
        {"reach_long",
         [this] {
             auto p = scene();
             const double s = between(0.01, 0.4);
             p.rig.probes[0].line().reach += s;
             return blamed(p, CauseKind::reach_long, falsely, s);
         }},
        {"aimed_beside",
         [this] {
             Probe<D> ray = foot_ray<D>(0.3 + touch);
             ray.name = "ray";
             ray.line().along = Vec<D>::unit(0);
             const double s = between(0.02, 0.5);
             ray.line().from = at<D>(0.0, 2.0 + s);
             auto p = wall_scene(2.0, 1.0, ray);
             p.options.region = heights_between<D>(-0.1, highest);
             return blamed(p, CauseKind::aimed_beside, missed, s + highest);
         }},
        {"layer_unseen",
         [this] {
             auto p = scene();
             p.rig.probes[0].sees = {between(0, 1) < 0.5 ? "m" : "g"};
             return blamed(p, CauseKind::layer_unseen, missed);
         }},
        {"starts_inside",
         [this] {
             auto p = scene();
             Probe<D> ray = foot_ray<D>(0.3);
             ray.name = "sole";
             ray.line().from = at<D>(0.0, -between(0.03, 0.2));
             ray.sees = {"m", "g"};
             ray.line().if_inside = IfInside::ignore;
             p.rig.probes[0] = ray;
             return blamed(p, CauseKind::starts_inside, missed);
         }},
        {"angle_refused",
         [this] {
             const double slope = between(20.0, 44.0);
             const double s = between(1.0, 15.0);
             auto p = scene([&](LevelBuilder<D>& builder) {
                 builder.add("ramp", "m",
                             prism<D>({{0.5, 0}, {5.5, 0}, {5.5, 5.0 * std::tan(radians(slope))}}));
             });
             p.rig.probes[0].line().accept_most_degrees = slope - s;
             return blamed(p, CauseKind::angle_refused, missed, s);
         }},
        {"first_hit_shadowed",
         [this] {
             const double slope = between(55.0, 70.0);
             auto p = scene([&](LevelBuilder<D>& builder) {
                 builder.add("steep", "m", prism<D>({{1, 0}, {3, 0}, {3, 2.0 * std::tan(radians(slope))}}));
             });
             p.options.spacing = 0.05;
             p.options.region = D == 2 ? std::vector<double>{0.2, -0.5, 1.2, 0.5}
                                       : std::vector<double>{0.2, -0.5, -0.1, 1.2, 0.5, 0.1};
             Vec<D> size = 0.6 * Vec<D>::ones();
             size[1] = 0.1;
             p.rig.probes[0].line().shape = RoundedHull<D>::box(Vec<D>::zero(), size);
             p.rig.probes[0].line().reach = 0.37;
             p.rig.probes[0].line().take = Take::first;
             return blamed(p, CauseKind::first_hit_shadowed, missed);
         }},
        {"not_sensed",
         [this] {
             auto p = scene([&](LevelBuilder<D>& builder) {
                 builder.add("glass", "m", block<D>(-1.5, 0.0, -0.5, between(0.3, 0.8)));
                 builder.role(Role::reference);
             });
             return blamed(p, CauseKind::not_sensed, missed).probe = "", p;
         }},
        {"combined_out",
         [this] {
             auto p = scene();
             Probe<D> brow = foot_ray<D>(between(0.2, 1.0));
             brow.name = "brow";
             brow.line().along = Vec<D>::unit(1);
             brow.sees = {"m", "g"};
             p.rig.probes.push_back(brow);
             p.rig.signals[0].members.any.clear();
             p.rig.signals[0].members.all = {"sole", "brow"};
             return blamed(p, CauseKind::combined_out, missed).probe = "", p;
         }},
        {"gated_off",
         [this] {
             auto p = scene();
             Probe<D> brow = foot_ray<D>(between(0.2, 1.0));
             brow.name = "brow";
             brow.line().along = Vec<D>::unit(1);
             brow.sees = {"m", "g"};
             p.rig.probes.push_back(brow);
             Signal covered;
             covered.name = "covered";
             covered.claims = Claim::ceiling;
             covered.members.any = {"brow"};
             p.rig.signals.insert(p.rig.signals.begin(), covered);
             p.rig.signals[1].members.any.clear();
             p.rig.signals[1].members.all = {"sole", "covered"};
             return blamed(p, CauseKind::gated_off, missed).probe = "", p;
         }},
        {"settling",
         [this] {
             auto p = scene();
             p.options.spacing = 0.5;
             const double s = ticks(2, 9);
             p.rig.signals[0].settle = s;
             return blamed(p, CauseKind::settling, missed, s).probe = "", p;
         }},
        {"muted",
         [this] {
             auto p = scene();
             p.options.spacing = 0.5;
             const double s = ticks(2, 9);
             p.rig.signals[0].mute_after = {"jump", s};
             return blamed(p, CauseKind::muted, missed, s).probe = "", p;
         }},
        {"stepped_over",
         [this] {
             Probe<D> test = foot_ray<D>(0.0);
             test.name = "next place";
             test.of_kind = ShiftProbe<D>{.reach = between(0.85, 1.2)};
             auto p = wall_scene(3.0, between(0.05, 0.15), test);
             p.rig.intent.ahead_wall = 0.1;
             return blamed(p, CauseKind::stepped_over, missed);
         }},
        {"one_way_side, missed",
         [this] {
             auto p = scene([&](LevelBuilder<D>& builder) {
                 builder.add("hatch", "g", block<D>(-1.0, 2.5, 1.0, 2.6));
                 builder.one_way(Vec<D>::unit(1));
             });
             p.rig.probes[0].line().one_way = OneWay::never;
             return blamed(p, CauseKind::one_way_side, missed);
         }},
        {"one_way_side, false",
         [this] {
             const double height = between(1.85, 2.3);
             auto p = scene([&](LevelBuilder<D>& builder) {
                 builder.add("hatch", "g", block<D>(-6.0, height, 6.0, height + 0.1));
                 builder.one_way(Vec<D>::unit(1));
             });
             Probe<D> crown = foot_ray<D>(0.42 + between(0.0, 0.2));
             crown.name = "crown";
             crown.line().from = at<D>(0.0, 1.4);
             crown.line().along = Vec<D>::unit(1);
             crown.sees = {"m", "g"};
             crown.line().one_way = OneWay::always;
             p.rig.probes = {crown};
             p.rig.signals[0].claims = Claim::ceiling;
             p.rig.signals[0].members.any = {"crown"};
             p.options.region.back() = D == 2 ? 1.0 : 0.3;
             p.probe = "crown";
             return blamed(p, CauseKind::one_way_side, falsely);
         }},
        {"stale",
         [this] {
             auto p = scene();
             p.options.spacing = 0.5;
             p.options.speeds = {between(2.0, 6.0)};
             p.rig.reads = Reads::before_move;
             const bool is_missed = between(0, 1) < 0.5;
             return blamed(p, CauseKind::stale, is_missed ? missed : falsely).probe = "", p;
         }},
        {"stale flag of a zone",
         [this] {
             auto p = scene();
             Probe<D> feet = foot_ray<D>(0.0);
             feet.name = "feet";
             Vec<D> size = 0.3 * Vec<D>::ones();
             size[1] = 0.2;
             feet.of_kind = ZoneProbe<D>{.shape = RoundedHull<D>::box(Vec<D>::zero(), size),
                                         .from = at<D>(0.0, 0.08),
                                         .keeps = Keeps::last_event};
             feet.sees = {"m", "g"};
             p.rig.probes = {feet};
             p.rig.signals[0].members.any = {"feet"};
             p.probe = "feet";
             return blamed(p, CauseKind::stale, missed);
         }},
        {"wider_than_body",
         [this] {
             auto p = scene([&](LevelBuilder<D>& builder) {
                 builder.add("crate", "m", block<D>(-1.0, 0.0, 0.2, between(0.1, 0.3)));
             });
             Vec<D> size = 0.6 * Vec<D>::ones();
             size[1] = 1.8;
             p.rig.body.stances = {Stance<D>::box("upright", size)};
             const double s = between(0.02, 0.2);
             size = (0.6 + 2.0 * s) * Vec<D>::ones();
             size[1] = 0.1;
             p.rig.probes[0].line().shape = RoundedHull<D>::box(Vec<D>::zero(), size);
             p.rig.probes[0].line().reach = 0.37;
             // Beside the crate, not leaning into it by less than touch.
             p.options.spacing = 0.01;
             p.options.region = D == 2 ? std::vector<double>{0.5, -0.5, 0.8, 0.5}
                                       : std::vector<double>{0.5, -0.5, -0.01, 0.8, 0.5, 0.01};
             return blamed(p, CauseKind::wider_than_body, falsely, s);
         }},
        {"layer_wrong",
         [this] {
             auto p = scene(
                 [&](LevelBuilder<D>& builder) {
                     builder.add("reeds", "r", block<D>(-1.5, 0.0, 0.5, between(0.1, 0.4)));
                 },
                 {"m", "g", "r"});
             p.rig.probes[0].sees.push_back("r");
             return blamed(p, CauseKind::layer_wrong, falsely);
         }},
        {"too_steep",
         [this] {
             const double s = between(1.0, 12.0);
             auto p = scene([&](LevelBuilder<D>& builder) {
                 builder.add("bank", "m",
                             prism<D>({{0.5, 0}, {5.5, 0}, {5.5, 5.0 * std::tan(radians(45.0 + s))}}));
             });
             p.rig.probes[0].line().accept_most_degrees = 45.0 + s + between(0.5, 20.0);
             return blamed(p, CauseKind::too_steep, falsely, s);
         }},
        {"sensed_only",
         [this] {
             auto p = scene([&](LevelBuilder<D>& builder) {
                 builder.add("phantom", "m", block<D>(-1.5, 0.0, 0.5, between(0.1, 0.4)));
                 builder.role(Role::sensed);
             });
             return blamed(p, CauseKind::sensed_only, falsely).probe = "", p;
         }},
        {"combined_in",
         [this] {
             auto p = scene();
             Probe<D> deep = foot_ray<D>(between(2.0, 3.0));
             deep.name = "deep";
             deep.sees = {"m", "g"};
             p.rig.probes.push_back(deep);
             p.rig.signals[0].members.any = {"sole", "deep"};
             return blamed(p, CauseKind::combined_in, falsely).probe = "", p;
         }},
        {"not_solid",
         [this] {
             const double top = between(0.1, 0.4);
             auto p = scene(
                 [&](LevelBuilder<D>& builder) {
                     builder.area("draught",
                                  {block<D>(-1.5, 0.0, 0.5, top).bounds().low,
                                   block<D>(-1.5, 0.0, 0.5, top).bounds().high},
                                  "r");
                 },
                 {"m", "g", "r"});
             p.rig.probes[0].sees.push_back("r");
             return blamed(p, CauseKind::not_solid, falsely);
         }},
        {"own_body",
         [this] {
             auto p = scene([](LevelBuilder<D>&) {}, {"m", "g", "bodies"});
             p.rig.body.layer = "bodies";
             p.rig.probes[0].sees.push_back("bodies");
             p.rig.probes[0].line().ignores_body = false;
             p.rig.probes[0].line().accept_most_degrees = 180.0;
             p.rig.probes[0].line().from = at<D>(0.0, between(0.35, 1.0));
             return blamed(p, CauseKind::own_body, falsely);
         }},
        {"held",
         [this] {
             auto p = scene();
             p.options.spacing = 0.5;
             const double s = ticks(4, 12);
             p.rig.signals[0].grace = s;
             // A tick after the ground is left it must be off.
             return blamed(p, CauseKind::held, falsely, s - 1.0 / 60.0).probe = "", p;
         }},
        {"held by a latch",
         [this] {
             auto p = scene(
                 [](LevelBuilder<D>& builder) { builder.add("shelf", "m", block<D>(1.0, 0.66, 2.0, 0.67)); });
             // It enters the shelf's side on the way up and leaves it again, armed.
             p.rig.body.stances = {Stance<D>::capsule("upright", 0.3, 2.4)};
             p.options.spacing = between(0.03, 0.05);
             p.options.region = D == 2 ? std::vector<double>{0.55, -0.5, 0.65, 0.03}
                                       : std::vector<double>{0.55, -0.5, -0.05, 0.65, 0.03, 0.05};
             Probe<D> feet = foot_ray<D>(0.0);
             feet.name = "feet";
             feet.of_kind = ZoneProbe<D>{.shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.4),
                                         .from = at<D>(0.0, 0.38),
                                         .keeps = Keeps::until_used};
             feet.sees = {"m", "g"};
             p.rig.probes = {feet};
             p.rig.signals[0].members.any = {"feet"};
             p.probe = "feet";
             return blamed(p, CauseKind::held, falsely);
         }},
        {"edge_graze",
         [this] {
             Probe<D> knee = foot_ray<D>(0.3);
             knee.name = "knee";
             knee.line().shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.2);
             knee.line().along = Vec<D>::unit(0);
             // A kerb that is a step; the knee, so low that it brushes the kerb, takes it for a wall.
             const double s = between(0.0015, 0.003);
             knee.line().from = at<D>(0.0, 0.3 - s);
             auto p = wall_scene(0.1, 1.0, knee);
             p.rig.intent.touch = 0.002;
             p.options.spacing = 0.05;
             p.options.region = heights_between<D>(0.25 * p.rig.intent.touch, 0.02);
             return blamed(p, CauseKind::edge_graze, falsely, s - 0.25 * p.rig.intent.touch);
         }},
    };
}

struct Outcome {
    bool named = false;
    std::string said;
};

/// What the survey leads with for the worst finding of the planted verdict; where it leads with another probe
/// altogether, what it names next.
template <int D>
Outcome diagnose(const Planted<D>& planted) {
    const Survey<D> result = survey<D>(*planted.level, planted.rig, planted.options);
    const std::size_t judged = planted.rig.signals.size() - 1;  // gates come before
    for (const Finding<D>& finding : result.findings) {
        if (finding.verdict != planted.verdict || finding.signal != judged) continue;
        const bool another = finding.causes.front().cause != planted.cause &&
                             finding.causes.front().edits.size() > 2 && finding.causes.size() > 1;
        const CauseReport& cause = finding.causes[another ? 1 : 0];
        const bool sized = std::isnan(planted.by) || std::abs(cause.by - planted.by) <= 0.01 * planted.by;
        return {cause.cause == planted.cause && cause.probe == planted.probe && sized,
                std::string(name_of(cause.cause)) + " of '" + cause.probe + "' by " +
                    std::to_string(cause.by) + ", planted " + std::to_string(planted.by) + " (" +
                    std::to_string(finding.count) + " poses)"};
    }
    return {false, "no finding of that verdict"};
}

template <int D>
std::size_t plant(std::size_t rounds, std::uint64_t seed, std::size_t& cases,
                  std::map<std::string, std::string>& failures) {
    std::size_t named = 0;
    Planter<D> planter(seed);
    for (std::size_t round = 0; round < rounds; ++round) {
        for (const auto& [name, make] : planter.all()) {
            const Planted<D> planted = make();
            const Outcome outcome = diagnose(planted);
            ++cases;
            named += outcome.named ? 1U : 0U;
            if (!outcome.named)
                failures.emplace(name + " " + std::to_string(D) + "D, round " + std::to_string(round),
                                 outcome.said);
        }
    }
    return named;
}

void check_planted(std::size_t rounds_2d, std::size_t rounds_3d) {
    std::size_t cases = 0;
    std::map<std::string, std::string> failures;
    std::size_t named = plant<2>(rounds_2d, 1, cases, failures);
    named += plant<3>(rounds_3d, 2, cases, failures);
    std::string list;
    for (const auto& [which, said] : failures) list += "\n" + which + ": " + said;
    WARN(named << " of " << cases << " planted faults named with their probe and size" << list);
    CHECK(static_cast<double>(named) >= 0.98 * static_cast<double>(cases));
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("without a fault the rig the faults are planted in is sound", "", ((int D), D), 2, 3) {
    Planter<D> planter(3);
    const auto planted = planter.scene();
    const auto result = survey<D>(*planted.level, planted.rig, planted.options);
    CHECK(result.findings.empty());
    CHECK(result.poses.size() > 100);
}

TEST_CASE("planted faults are named") {
    check_planted(8, 2);
}

TEST_CASE("two thousand planted faults are named", "[.long]") {
    check_planted(60, 15);
}
