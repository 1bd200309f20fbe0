// Headings that nothing tells apart are walked over once for all: what they are told is what each would say
// by itself.
#include <catch2/catch.hpp>

#include "hollow_probe/io/rig_edit.hpp"
#include "hollow_probe/io/rig_file.hpp"
#include "hollow_probe/verify/judge.hpp"
#include "hollow_probe/verify/kept_truths.hpp"
#include "strewn.hpp"

using namespace scenes;

namespace {

template <int D>
SurveyOptions few_poses() {
    SurveyOptions options;
    options.budget = D == 2 ? 2'500 : 4'000;
    options.headings = 4;
    options.explain = false;
    return options;
}

/// A capsule with a probe of which all headings are the same.
template <int D>
Rig<D> round_rig() {
    return rig_with<D>(foot_ray<D>(0.43), {"m", "n"});
}

template <int D>
std::size_t alike_of(const Level<D>& level, const Rig<D>& rig) {
    return survey<D>(level, rig, few_poses<D>()).scope.facings_alike;
}

/// Something of a rig, which may or may not tell headings apart.
template <int D>
void add_something(Random& random, Rig<D>& rig) {
    Probe<D> probe = foot_ray<D>(random.between(0.3, 0.6));
    probe.name = "further " + std::to_string(rig.probes.size());
    probe.sees = {"m"};
    const double aside = random.below(2) == 0 ? 0.0 : random.between(-0.3, 0.3);
    switch (random.below(7)) {
        case 0:
            probe.line().from[0] += aside;
            break;
        case 1:
            probe.line().spread.kind = D == 2 ? SpreadKind::row : SpreadKind::ring;
            probe.line().spread.count = random.below(2) == 0 ? 4 : 3;
            probe.line().spread.width = 0.4;
            probe.line().spread.radius = 0.2;
            probe.line().from[0] += aside;
            break;
        case 2:
            probe.of_kind = ZoneProbe<D>{RoundedHull<D>::ball(Vec<D>::zero(), 0.2), aside * Vec<D>::unit(0)};
            break;
        case 3:
            probe.of_kind = ShiftProbe<D>{aside == 0.0 ? -Vec<D>::unit(1) : Vec<D>::unit(0), Aim::fixed, 0.1};
            break;
        case 4:
            probe.of_kind = ContactProbe{random.below(2) == 0 ? Side::below : Side::above,
                                         random.below(2) == 0 ? Match::includes : Match::only};
            break;
        case 5:
            probe.line().reach_per_speed = 0.01;
            break;
        default: {
            Vec<D> size = Vec<D>::constant(0.3);
            if (random.below(2) == 0) size[0] = 0.5;
            probe.line().shape = RoundedHull<D>::box(Vec<D>::zero(), size);
            probe.line().from[0] += aside;
            break;
        }
    }
    Signal signal;
    signal.name = "says " + probe.name;
    constexpr std::array claims = {Claim::ground, Claim::ceiling, Claim::wall, Claim::drop, Claim::headroom};
    signal.claims = claims[static_cast<std::size_t>(random.below(static_cast<int>(claims.size())))];
    signal.stance = "upright";
    signal.members.any = {probe.name};
    rig.probes.push_back(probe);
    rig.signals.push_back(signal);
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("what several headings are told at once each says by itself", "", ((int D), D), 2, 3) {
    std::size_t with_alike = 0;
    std::size_t without = 0;
    for (std::uint64_t seed = 1; seed <= (D == 2 ? 16U : 6U); ++seed) {
        Random random(seed);
        const Level<D> level = strewn<D>(seed);
        Rig<D> rig = round_rig<D>();
        if (random.below(3) == 0) {
            Vec<D> size = Vec<D>::constant(0.6);
            size[1] = 1.7;
            if (D == 3 && random.below(2) == 0) size[0] = 0.4;
            rig.body.stances[0].shape = RoundedHull<D>::box(0.85 * Vec<D>::unit(1), size);
        }
        if (random.below(4) != 0) add_something<D>(random, rig);
        if (random.below(4) == 0) rig.signals[0].grace = 0.05;  // what is remembered hangs on the way it came
        const Survey<D> result = survey<D>(level, rig, few_poses<D>());
        CAPTURE(D, seed, result.scope.facings_alike);
        ++(result.scope.facings_alike > 0 ? with_alike : without);
        std::vector<std::size_t> of_facing(result.facings.size());
        for (const SurveyPose<D>& pose : result.poses) {
            ++of_facing[pose.facing];
            // Ends of what is told are known to so much.
            const bool inside = std::min(pose.down, pose.up) > rig.intent.touch / 32.0;
            if (!inside || random.below(8) != 0) continue;
            const SurveyPose<D> alone = judge_at<D>(level, rig, result.facings[pose.facing], pose.anchor,
                                                    few_poses<D>().tick_seconds);
            REQUIRE(alone.signals_on == pose.signals_on);
            REQUIRE(alone.truths_on == pose.truths_on);
        }
        for (const std::size_t count : of_facing) CHECK(count > 0);
    }
    CHECK(with_alike >= 3);
    CHECK(without >= 3);
}

TEMPLATE_TEST_CASE_SIG("a heading counts as much, however many are alike", "", ((int D), D), 2, 3) {
    const Level<D> level = strewn<D>(4);
    SurveyOptions one = few_poses<D>();
    one.spacing = D == 2 ? 0.1 : 0.6;
    one.budget.reset();
    one.headings = 1;
    SurveyOptions four = one;
    four.headings = 4;
    const Survey<D> single = survey<D>(level, round_rig<D>(), one);
    const Survey<D> many = survey<D>(level, round_rig<D>(), four);
    const std::size_t times = many.facings.size() / single.facings.size();
    REQUIRE(times == (D == 2 ? 1 : 4));
    CHECK(single.scope.facings_alike == (D == 2 ? 1 : 0));
    CHECK(many.scope.facings_alike == (D == 2 ? 1 : 3));
    CHECK(many.asked == single.asked);  // one is walked over
    CHECK(many.judged == times * single.judged);
    CHECK(many.scope.grid_columns == times * single.scope.grid_columns);
    for (std::size_t v = 0; v < verdict_count; ++v) {
        CHECK(many.signals[0].poses[v] == times * single.signals[0].poses[v]);
        CHECK(many.signals[0].measure[v] ==
              Approx(static_cast<double>(times) * single.signals[0].measure[v]));
    }
}

TEMPLATE_TEST_CASE_SIG("areas and volumes are those of a rig that lies aside by a hair", "", ((int D), D), 2,
                       3) {
    const Level<D> level = strewn<D>(4);
    SurveyOptions options = few_poses<D>();
    options.spacing = D == 2 ? 0.1 : 0.6;
    options.budget.reset();
    Rig<D> aside = round_rig<D>();
    aside.probes[0].line().from[0] = 1e-7;
    const Survey<D> together = survey<D>(level, round_rig<D>(), options);
    const Survey<D> apart = survey<D>(level, aside, options);
    REQUIRE(together.scope.facings_alike > 0);
    REQUIRE(apart.scope.facings_alike == 0);
    for (std::size_t v = 0; v < verdict_count; ++v) {
        CHECK(together.signals[0].measure[v] ==
              Approx(apart.signals[0].measure[v]).epsilon(1e-3).margin(1e-4));
    }
}

TEST_CASE("what looks along the heading, or lies aside, tells headings apart") {
    const Level<3> level = strewn<3>(2);
    CHECK(alike_of<3>(level, round_rig<3>()) == 3);
    const auto changed = [&](auto change) {
        Rig<3> rig = round_rig<3>();
        change(rig);
        return alike_of<3>(level, rig);
    };
    const auto boxed = [](double forward, double across) {
        return RoundedHull<3>::box({0.0, 0.9, 0.0}, {forward, 1.8, across});
    };
    CHECK(changed([](Rig<3>& rig) { rig.probes[0].line().from[0] = 1e-6; }) == 0);
    CHECK(changed([](Rig<3>& rig) { rig.probes[0].line().along = Vec<3>(0.01, -1.0, 0.0).normalized(); }) ==
          0);
    CHECK(changed([&](Rig<3>& rig) { rig.body.stances[0].shape = boxed(0.6, 0.6); }) == 3);
    // Half a turn leaves it as it is.
    CHECK(changed([&](Rig<3>& rig) { rig.body.stances[0].shape = boxed(0.6, 0.5); }) == 2);
    CHECK(changed([](Rig<3>& rig) { rig.signals[0].claims = Claim::wall; }) == 0);
    for (const double forward : {0.3, 0.4}) {
        CHECK(changed([&](Rig<3>& rig) {
                  rig.probes[0].line().shape = RoundedHull<3>::box(Vec<3>::zero(), {forward, 0.3, 0.3});
              }) == (forward == 0.3 ? 3 : 2));
    }
    // Mounted in no stance that is surveyed, a probe tells nothing apart.
    CHECK(changed([](Rig<3>& rig) {
              Probe<3> aside = rig.probes[0];
              aside.name = "aside";
              aside.line().from[0] = 0.2;
              aside.stances = {"low"};
              rig.probes.push_back(aside);
              rig.body.stances.push_back(Stance<3>::capsule("low", 0.3, 0.8));
              rig.signals[0].members.any.push_back({"aside"});
          }) == 3);
    // A ring of four starts is the same after a quarter turn, one of three is not.
    for (const int count : {3, 4}) {
        CHECK(changed([&](Rig<3>& rig) {
                  rig.probes[0].line().spread = {.kind = SpreadKind::ring, .count = count, .radius = 0.2};
              }) == (count == 4 ? 3 : 0));
    }
}

TEMPLATE_TEST_CASE_SIG("truths kept of a rig without memory serve one that remembers", "", ((int D), D), 2,
                       3) {
    const Level<D> level = strewn<D>(3);
    Rig<D> remembers = round_rig<D>();
    remembers.signals[0].grace = 0.05;
    KeptTruths<D> kept;
    survey<D>(level, round_rig<D>(), few_poses<D>(), kept);
    const std::size_t before = kept.columns();
    SurveyOptions options = few_poses<D>();
    options.explain = true;
    options.budget = 1'500;
    require_alike<D>(survey<D>(level, remembers, options, kept), survey<D>(level, remembers, options));
    CHECK(before > 0);
}

TEMPLATE_TEST_CASE_SIG("what a change does is counted in each heading, where it tells them apart", "",
                       ((int D), D), 2, 3) {
    const Level<D> level = strewn<D>(5);
    const std::string dimensions = D == 2 ? "2" : "3";
    const std::string author = "format = \"hollow-probe rig 1\"\ndimensions = " + dimensions +
                               "\n[body]\nmeets = [\"m\", \"n\"]\n[[body.stance]]\nname = \"upright\"\n"
                               "capsule = { radius = 0.3, height = 1.8 }\n"
                               "[[probe]]\nname = \"foot\"\nkind = \"ray\"\nfrom = " +
                               (D == 2 ? "[0.0, 0.4]" : "[0.0, 0.4, 0.0]") +
                               "\nalong = \"down\"\nreach = 0.42\nsees = [\"m\", \"n\"]\n"
                               "[[signal]]\nname = \"grounded\"\nclaims = \"ground\"\nany = [\"foot\"]\n";
    const Rig<D> rig = rig_from_toml<D>(author, "r", level);
    SurveyOptions options = few_poses<D>();
    options.explain = true;
    const Survey<D> result = survey<D>(level, rig, options);
    REQUIRE(result.scope.facings_alike > 0);
    std::size_t aside = 0;
    const auto is_wrong = [](Verdict verdict) {
        return verdict == Verdict::missed_contact || verdict == Verdict::false_contact;
    };
    for (const Finding<D>& finding : result.findings) {
        for (const CauseReport& cause : finding.causes) {
            if (cause.parameter != "from" || !cause.can_be_written() || aside == 4) continue;
            ++aside;
            REQUIRE(cause.tried == result.poses.size());
            const Rig<D> changed = rig_from_toml<D>(with_changes(author, "r", cause.edits), "r", level);
            std::size_t cured = 0;
            std::size_t spoiled = 0;
            for (const SurveyPose<D>& pose : result.poses) {
                SurveyPose<D> after = pose;
                after.signals_on =
                    judge_at<D>(level, changed, result.facings[pose.facing], pose.anchor).signals_on;
                cured += is_wrong(pose.verdict(0)) && !is_wrong(after.verdict(0)) ? 1 : 0;
                spoiled += !is_wrong(pose.verdict(0)) && is_wrong(after.verdict(0)) ? 1 : 0;
            }
            CAPTURE(D, cause.needs);
            CHECK(cause.cures + cause.cures_elsewhere == cured);
            CHECK(cause.adds_missed + cause.adds_false == spoiled);
        }
    }
    CHECK(aside > 0);
}

namespace {

/// One fault or more, of those whose causes are moves and of others.
template <int D>
Rig<D> faulty(Random& random) {
    Rig<D> rig = round_rig<D>();
    LineProbe<D>& foot = rig.probes[0].line();
    if (random.below(3) == 0) foot.reach = 0.39;
    if (random.below(3) == 0) foot.reach = 0.6;
    if (random.below(3) == 0) foot.accept_most_degrees = 25.0;
    if (random.below(3) == 0) rig.probes[0].sees = {"m"};
    if (random.below(3) == 0) foot.shape = RoundedHull<D>::ball(Vec<D>::zero(), random.between(0.05, 0.5));
    return rig;
}

}  // namespace

TEST_CASE("causes that are looked for once for all headings are those of one") {
    std::size_t causes = 0;
    std::size_t moves = 0;
    for (std::uint64_t seed = 1; seed <= 3; ++seed) {
        Random random(seed);
        const Level<3> level = strewn<3>(seed);
        const Rig<3> rig = faulty<3>(random);
        SurveyOptions options = few_poses<3>();
        options.budget.reset();
        options.spacing = 0.9;
        options.explain = true;
        const Survey<3> many = survey<3>(level, rig, options);
        options.headings = 1;
        const Survey<3> single = survey<3>(level, rig, options);
        CAPTURE(seed);
        REQUIRE(many.scope.facings_alike == 3);
        REQUIRE(many.findings.size() == single.findings.size());
        for (std::size_t i = 0; i < many.findings.size(); ++i) {
            const Finding<3>& all = many.findings[i];
            const Finding<3>& one = single.findings[i];
            CHECK(all.count == 4 * one.count);
            CHECK(all.solid == one.solid);
            REQUIRE(all.causes.size() == one.causes.size());
            for (std::size_t k = 0; k < all.causes.size(); ++k) {
                // What is to one side is worth less for four headings than for one: it may be told later.
                const auto found =
                    std::find_if(one.causes.begin(), one.causes.end(), [&](const CauseReport& cause) {
                        return cause.cause == all.causes[k].cause &&
                               cause.parameter == all.causes[k].parameter;
                    });
                REQUIRE(found != one.causes.end());
                CAPTURE(i, all.causes[k].parameter, all.causes[k].needs, found->needs);
                CHECK(all.causes[k].proven == 4 * found->proven);
                CHECK(all.causes[k].by == Approx(found->by));
                ++causes;
                moves += found->parameter == "from" ? 1 : 0;
            }
        }
    }
    CHECK(causes > 25);
    CHECK(moves > 5);
}
