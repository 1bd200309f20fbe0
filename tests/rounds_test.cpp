// Rounds, budgets and kept truths: how closely a survey looks never changes what is there to be seen.
#include <algorithm>
#include <atomic>
#include <catch2/catch.hpp>
#include <map>
#include <set>

#include "any_case.hpp"
#include "hollow_probe/io/survey_json.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/verify/as_closely.hpp"
#include "hollow_probe/verify/judge.hpp"

using namespace scenes;

namespace {

/// A floor with lips, things standing about on it, and a grating above.
template <int D>
Level<D> random_level(Random& random) {
    LevelBuilder<D> builder({"masonry", "grating"});
    Vec<D> size = 6.0 * Vec<D>::ones();
    size[1] = 1.0;
    builder.add("floor", "masonry", RoundedHull<D>::box(at<D>(0.0, -0.5), size));
    for (int i = 0; i < 3; ++i)
        builder.add("thing " + std::to_string(i), random.below(2) == 0 ? "masonry" : "grating",
                    random_shape<D>(random, random.point<D>(2.0), random.between(0.5, 1.5)));
    return builder.build();
}

/// A rig with a probe that is about right, and another signal for what is ahead.
template <int D>
Rig<D> random_rig(Random& random) {
    Rig<D> rig = rig_with<D>(foot_ray<D>(random.between(0.4, 0.5)), {"masonry", "grating"});
    Probe<D> ahead = rig.probes[0];
    ahead.name = "ahead";
    ahead.line().from = at<D>(0.0, random.between(0.3, 1.0));
    ahead.line().along = Vec<D>::unit(0);
    Signal wall;
    wall.name = "wall";
    wall.claims = Claim::wall;
    wall.members.any = {"ahead"};
    rig.probes.push_back(ahead);
    rig.signals.push_back(wall);
    return rig;
}

/// One of the settings of a probe, changed.
template <int D>
Rig<D> changed(Random& random, Rig<D> rig) {
    Probe<D>& probe = rig.probes[static_cast<std::size_t>(random.below(2))];
    switch (random.below(4)) {
        case 0:
            probe.line().reach += random.between(0.01, 0.2);
            break;
        case 1:
            probe.line().from[0] += random.between(-0.2, 0.2);
            break;
        case 2:
            probe.sees = {"masonry"};
            break;
        default:
            probe.line().accept_most_degrees = random.between(20.0, 90.0);
            break;
    }
    return rig;
}

/// Uneven floors above one another, so many, with a lump of another layer here and there.
Level<2> storeys(Random& random, int count) {
    LevelBuilder<2> builder({"masonry", "grating"});
    for (int storey = 0; storey < count; ++storey) {
        const double height = 3.0 * storey;
        std::vector<Vec<2>> floor;
        for (int i = 0; i <= 20; ++i)
            floor.emplace_back(static_cast<double>(i) - 10.0, height + random.between(-0.4, 0.4));
        builder.add_polyline("floor " + std::to_string(storey), "masonry", floor);
        builder.add(
            "lump " + std::to_string(storey), "grating",
            RoundedHull<2>::ball({random.between(-9.0, 9.0), height + 0.3}, random.between(0.2, 0.5)));
    }
    return builder.build();
}

/// What all rounds of a survey came to, in budgets; checks that the last one came to it, to a tenth.
template <int D>
double work_of(const Survey<D>& result, std::size_t of_budget) {
    const auto budget = static_cast<double>(of_budget);
    CHECK(static_cast<double>(result.judged) <= 1.1 * budget);
    if (result.end == SurveyEnd::budget) CHECK(static_cast<double>(result.judged) >= 0.9 * budget);
    double work = 0.0;
    for (const SurveyRound& made : result.rounds) work += static_cast<double>(made.poses) / budget;
    return work;
}

template <int D>
std::string bytes(const Level<D>& level, const Rig<D>& rig, const Survey<D>& survey) {
    return survey_json<D>(level, rig, survey, "level", "rig");
}

template <int D>
SurveyOptions quick() {
    SurveyOptions options;
    options.budget = D == 2 ? 4'000 : 3'000;
    options.headings = 2;
    options.most_tried = 2;
    options.explain = D == 2;
    return options;
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("truths kept of other rigs change nothing in a survey", "", ((int D), D), 2, 3) {
    Random random(7 + D);
    for (int round = 0; round < (D == 2 ? 2 : 1); ++round) {
        const Level<D> level = random_level<D>(random);
        Rig<D> rig = random_rig<D>(random);
        KeptTruths<D> kept;
        CHECK(kept.columns() == 0);
        for (int change = 0; change < 3; ++change) {
            const std::string anew = bytes<D>(level, rig, survey<D>(level, rig, quick<D>()));
            const std::string with_kept = bytes<D>(level, rig, survey<D>(level, rig, quick<D>(), kept));
            CHECK(with_kept == anew);
            rig = changed<D>(random, rig);
        }
        CHECK(kept.columns() > 100);
        // Another intent has other truths, and so have another body, and another layer that counts.
        rig.intent.touch *= 2.0;
        CHECK(bytes<D>(level, rig, survey<D>(level, rig, quick<D>(), kept)) ==
              bytes<D>(level, rig, survey<D>(level, rig, quick<D>())));
        rig.body.stances[0] = Stance<D>::capsule("upright", 0.25, 1.5);
        CHECK(bytes<D>(level, rig, survey<D>(level, rig, quick<D>(), kept)) ==
              bytes<D>(level, rig, survey<D>(level, rig, quick<D>())));
        rig.signals[0].of = {"grating"};
        CHECK(bytes<D>(level, rig, survey<D>(level, rig, quick<D>(), kept)) ==
              bytes<D>(level, rig, survey<D>(level, rig, quick<D>())));
    }
}

namespace {

/// One probe of each kind, one that follows another, and if wanted one that feels the last move.
template <int D>
Rig<D> of_all_kinds(Random& random, bool with_contact) {
    Rig<D> rig = random_rig<D>(random);
    const auto add = [&](const char* name, auto kind, const char* follows) {
        rig.probes.push_back(
            {.name = name, .sees = {"masonry", "grating"}, .of_kind = kind, .follows = follows});
        rig.signals[1].members.any.emplace_back(name);
    };
    add("ball",
        LineProbe<D>{.shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.15),
                     .from = at<D>(0.1, 0.8),
                     .along = Vec<D>::unit(0),
                     .reach = 0.3},
        "");
    add("zone",
        ZoneProbe<D>{.shape = RoundedHull<D>::box(Vec<D>::zero(), Vec<D>::constant(0.3)),
                     .from = at<D>(0.3, 0.6)},
        "");
    add("shift", ShiftProbe<D>{.along = Vec<D>::unit(0), .reach = 0.1, .inset = 0.02}, "");
    add("fingers", LineProbe<D>{.from = at<D>(0.1, 1.0), .reach = 1.2}, "ahead");
    if (with_contact) add("side", ContactProbe{.side = Side::beside}, "");
    return rig;
}

/// A setting of any one of them, changed.
template <int D>
void change_one(Random& random, Rig<D>& rig) {
    Probe<D>& probe = rig.probes[static_cast<std::size_t>(random.below(static_cast<int>(rig.probes.size())))];
    if (random.below(4) == 0) {
        probe.sees = probe.sees.size() == 2 ? std::vector<std::string>{"masonry"}
                                            : std::vector<std::string>{"masonry", "grating"};
    } else if (probe.kind() == ProbeKind::zone) {
        probe.zone().from[0] += random.between(-0.1, 0.1);
    } else if (probe.kind() == ProbeKind::shift) {
        probe.shift().reach += random.between(0.01, 0.1);
    } else if (probe.kind() == ProbeKind::contact) {
        probe.contact().within_degrees = random.between(20.0, 60.0);
    } else if (random.below(2) == 0) {
        // At times so far that it feels where nothing else does.
        probe.line().reach += random.between(0.01, random.below(3) == 0 ? 4.0 : 0.2);
    } else {
        probe.line().accept_most_degrees = random.between(20.0, 90.0);
    }
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("what columns say to one probe is kept of rigs with others, and changes nothing", "",
                       ((int D), D), 2, 3) {
    Random random(29 + D);
    for (int round = 0; round < (D == 2 ? 6 : 2); ++round) {
        const Level<D> level = random_level<D>(random);
        Rig<D> rig = of_all_kinds<D>(random, round % 2 == 1);
        SurveyOptions options = quick<D>();
        options.explain = false;
        options.budget = D == 2 ? 2'500 : 2'000;
        KeptTruths<D> kept;
        for (int change = 0; change < 5; ++change) {
            CAPTURE(D, round, change);
            const std::string anew = bytes<D>(level, rig, survey<D>(level, rig, options));
            CHECK(bytes<D>(level, rig, survey<D>(level, rig, options, kept)) == anew);
            change_one<D>(random, rig);
            // Whoever comes first, what each feels is the same.
            if (change == 2) std::swap(rig.probes[0], rig.probes[2]);
            if (change == 3) rig.intent.touch *= 1.5;
        }
        // First with fewer layers, then with all: what was felt of few is not taken for what is felt of all.
        for (std::size_t probe = 0; D == 2 && round >= 4 && probe < rig.probes.size(); ++probe) {
            CAPTURE(D, round, rig.probes[probe].name);
            KeptTruths<D> own;
            for (const std::vector<std::string>& sees :
                 {std::vector<std::string>{"masonry"}, std::vector<std::string>{"grating"},
                  std::vector<std::string>{"masonry", "grating"}}) {
                rig.probes[probe].sees = sees;
                const std::string anew = bytes<D>(level, rig, survey<D>(level, rig, options));
                CHECK(bytes<D>(level, rig, survey<D>(level, rig, options, own)) == anew);
            }
        }
    }
}

TEST_CASE("no more truths are kept than there is room for, and nothing else changes") {
    Random random(3);
    const Level<2> level = random_level<2>(random);
    const Rig<2> rig = random_rig<2>(random);
    KeptTruths<2> none(0);
    KeptTruths<2> few(20'000);
    const std::string anew = bytes<2>(level, rig, survey<2>(level, rig, quick<2>()));
    CHECK(bytes<2>(level, rig, survey<2>(level, rig, quick<2>(), none)) == anew);
    CHECK(bytes<2>(level, rig, survey<2>(level, rig, quick<2>(), few)) == anew);
    CHECK(none.columns() == 0);
    CHECK(few.columns() > 0);
    CHECK(few.bytes() <= 20'000);
}

TEMPLATE_TEST_CASE_SIG("a survey comes to its budget, or to the finest spacing below it", "", ((int D), D), 2,
                       3) {
    Random random(11 + D);
    int by_budget = 0;
    for (int round = 0; round < (D == 2 ? 8 : 2); ++round) {
        const Level<D> level = random_level<D>(random);
        const Rig<D> rig = random_rig<D>(random);
        SurveyOptions options;
        options.explain = false;
        options.headings = 2;
        options.spacing = D == 2 ? 0.01 : 0.15;
        options.budget =
            static_cast<std::size_t>(D == 2 ? random.between(2'500, 8'000) : random.between(15'000, 40'000));
        const Survey<D> result = survey<D>(level, rig, options);
        CAPTURE(D, round, *options.budget, result.judged, result.spacing);
        CHECK(result.judged == result.grid_poses + result.border_poses);
        CHECK(result.rounds.back().poses == result.judged);
        CHECK(result.rounds.back().spacing == result.spacing);
        CHECK(static_cast<double>(result.judged) <= 1.1 * static_cast<double>(*options.budget));
        if (result.end == SurveyEnd::budget) {
            ++by_budget;
            CHECK(result.spacing > options.spacing);
            CHECK(static_cast<double>(result.judged) >= 0.9 * static_cast<double>(*options.budget));
        } else {
            CHECK(result.end == SurveyEnd::spacing);
            CHECK(result.spacing == options.spacing);
        }
    }
    CHECK(by_budget >= (D == 2 ? 3 : 2));
}

TEMPLATE_TEST_CASE_SIG("the first round of a small budget is not many times as large", "", ((int D), D), 2,
                       3) {
    Random random(21 + D);
    for (int round = 0; round < 4; ++round) {
        const Level<D> level = random_level<D>(random);
        const Rig<D> rig = random_rig<D>(random);
        SurveyOptions options;
        options.explain = false;
        options.headings = 2;
        options.budget = D == 2 ? 500 : 2'000;
        const Survey<D> result = survey<D>(level, rig, options);
        CAPTURE(D, round, result.judged, result.rounds.size());
        CHECK(result.judged <= *options.budget + *options.budget / 10);
        CHECK(result.rounds.front().poses <= 3 * *options.budget);
    }
}

TEMPLATE_TEST_CASE_SIG("a rig that claims much comes to its budget, too", "", ((int D), D), 2, 3) {
    Random random(5 + D);
    const int count = D == 2 ? 10 : 5;
    int by_budget = 0;
    double work = 0.0;  // poses of all rounds, in budgets
    for (int round = 0; round < count; ++round) {
        const Level<D> level = random_level<D>(random);
        Rig<D> rig = random_rig<D>(random);
        for (const Claim claim : {Claim::ceiling, Claim::drop, Claim::step}) {
            if (random.below(2) == 0) continue;
            Signal further = rig.signals[0];
            further.name = name_of(claim);
            further.claims = claim;
            rig.signals.push_back(further);
        }
        SurveyOptions options;
        options.explain = false;
        options.headings = D == 2 ? 2 : 4;
        options.spacing = 0.02;
        options.budget =
            static_cast<std::size_t>(D == 2 ? random.between(2'500, 15'000) : random.between(8'000, 30'000));
        const Survey<D> result = survey<D>(level, rig, options);
        CAPTURE(D, round, *options.budget, rig.signals.size(), result.rounds.size());
        work += work_of<D>(result, *options.budget);
        if (result.end == SurveyEnd::budget) ++by_budget;
    }
    CHECK(by_budget >= 4);
    CHECK(work <= 3.2 * count);
}

/// Beside one corner such rigs have dozens of places to look at, for each facing: more than small budgets
/// hold.
TEMPLATE_TEST_CASE_SIG("rigs of all options and many facings come to small budgets, too", "", ((int D), D), 2,
                       3) {
    const std::vector<int> seeds = D == 2 ? std::vector{1, 5, 8, 9, 11, 12, 14} : std::vector{3, 4};
    int by_budget = 0;
    for (const int seed : seeds) {
        Random random(static_cast<std::uint64_t>(seed));
        const Case<D> made = case_of_all_options<D>(random);
        SurveyOptions options;
        options.explain = false;
        options.headings = D == 2 ? 2 : 4;
        for (const std::size_t budget : {2'000U, 4'000U}) {
            options.budget = budget;
            const Survey<D> result = survey<D>(*made.level, made.rig, options);
            CAPTURE(D, seed, budget, result.judged, result.rounds.size(), result.scope.corner_columns);
            CHECK(result.judged <= budget + budget / 10);
            CHECK(result.scope.corner_columns > 0);
            if (result.end != SurveyEnd::budget) continue;
            ++by_budget;
            CHECK(result.judged >= budget - budget / 5);
        }
    }
    CHECK(by_budget >= static_cast<int>(seeds.size()));
}

TEMPLATE_TEST_CASE_SIG("rounds of a probe of many lines come to little more than its budget", "",
                       ((int D), D), 2, 3) {
    Random random(31 + D);
    const int count = D == 2 ? 8 : 4;
    double work = 0.0;  // poses of all rounds, in budgets
    for (int round = 0; round < count; ++round) {
        const Level<D> level = random_level<D>(random);
        Rig<D> rig = rig_with<D>(foot_ray<D>(0.42), {"masonry", "grating"});
        Spread& spread = rig.probes[0].line().spread;
        spread.kind = D == 2 || round % 2 == 0 ? SpreadKind::row : SpreadKind::grid;
        spread.count = 3 + random.below(6);
        spread.counts = {3, 2 + random.below(3)};
        spread.width = random.between(0.3, 0.6);
        spread.size = {spread.width, spread.width};
        SurveyOptions options;
        options.explain = false;
        options.headings = D == 2 ? 2 : 4;
        options.spacing = 0.002;
        options.budget =
            static_cast<std::size_t>(D == 2 ? random.between(6'000, 15'000) : random.between(20'000, 50'000));
        const Survey<D> result = survey<D>(level, rig, options);
        CAPTURE(D, round, *options.budget, result.judged, result.rounds.size());
        REQUIRE(result.end == SurveyEnd::budget);
        work += work_of<D>(result, *options.budget);
    }
    CHECK(work <= 1.9 * count);
}

TEST_CASE("a level of many storeys is told as soon as any, and comes to its budget") {
    Random random(77);
    const Level<2> level = storeys(random, 200);
    const Rig<2> rig = rig_with<2>(foot_ray<2>(0.42), {"masonry", "grating"});
    for (const std::size_t budget : {100'000U, 180'000U}) {
        SurveyOptions options;
        options.explain = false;
        options.headings = 2;
        options.budget = budget;
        const Survey<2> result = survey<2>(level, rig, options);
        CAPTURE(budget, result.judged, result.rounds.size());
        CHECK(result.end == SurveyEnd::budget);
        CHECK(result.rounds.front().poses < 200'000);
        CHECK(work_of<2>(result, budget) <= 4.0);
    }
}

TEST_CASE("a finding is as grave as its worst pose is far from where its truth is otherwise") {
    Random random(78);
    const Level<2> level = storeys(random, 12);
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.42), {"masonry", "grating"});
    rig.probes[0].sees = {"masonry"};
    SurveyOptions options;
    options.headings = 1;
    options.budget = 12'000;
    options.most_tried = 0;
    const Survey<2> result = survey<2>(level, rig, options);
    const auto to_other_truth = [&](const SurveyPose<2>& worst) {
        double least = infinity;
        for (const SurveyPose<2>& pose : result.poses) {
            if (pose.facing != worst.facing || pose.truths_on == worst.truths_on || pose.undecided.any())
                continue;
            const Vec<2> way = pose.anchor - worst.anchor;
            const double along = std::max(
                {0.0, way[1] - static_cast<double>(pose.down), -way[1] - static_cast<double>(pose.up)});
            least = std::min(least, std::hypot(way[0], along));
        }
        return least;
    };
    std::size_t checked = 0;
    for (const Finding<2>& finding : result.findings) {
        const bool is_kept = std::any_of(result.poses.begin(), result.poses.end(), [&](const auto& pose) {
            return pose.facing == finding.worst.facing && pose.anchor == finding.worst.anchor;
        });
        if (!is_kept) continue;  // its middle stands for it
        ++checked;
        const double far = to_other_truth(finding.worst);
        CHECK(far <= (1.0 + 1e-9) * finding.severity);
        CHECK(far >= 0.9 * (1.0 - 1e-9) * finding.severity);
    }
    CHECK(checked > 20);
}

TEST_CASE("every round is told, each closer than the one before, and the last is the survey") {
    Random random(5);
    const Level<3> level = random_level<3>(random);
    const Rig<3> rig = random_rig<3>(random);
    SurveyOptions options;
    options.headings = 2;
    options.budget = 24'000;
    std::vector<SurveyRound> told;
    std::vector<std::size_t> findings;
    KeptTruths<3> kept;
    const Survey<3> result = survey<3>(level, rig, options, kept, [&](const Survey<3>& round) {
        told.push_back(round.rounds.back());
        findings.push_back(round.findings.size());
    });
    REQUIRE(told.size() >= 1);
    REQUIRE(result.rounds.size() > told.size());
    for (std::size_t i = 0; i < told.size(); ++i) {
        CHECK(told[i].spacing == result.rounds[i].spacing);
        CHECK(told[i].poses == result.rounds[i].poses);
        CHECK(told[i].spacing > result.spacing);
        CHECK(findings[i] > 0);
    }
    CHECK(told.front().poses < result.judged / 3);
    // Told or not, the bytes are the same.
    CHECK(bytes<3>(level, rig, survey<3>(level, rig, options)) == bytes<3>(level, rig, result));
}

TEMPLATE_TEST_CASE_SIG("without a budget a survey looks as closely as asked, whether rounds are told or not",
                       "", ((int D), D), 2, 3) {
    Random random(47);
    for (int i = 0; i < 2; ++i) {
        const Level<D> level = random_level<D>(random);
        const Rig<D> rig = random_rig<D>(random);
        SurveyOptions options;
        options.spacing = random.between(D == 2 ? 0.008 : 0.4, D == 2 ? 0.016 : 0.8);
        options.explain = false;
        KeptTruths<D> kept;
        std::size_t told = 0;
        const Survey<D> in_rounds = survey<D>(level, rig, options, kept, [&](const Survey<D>&) { ++told; });
        const Survey<D> at_once = survey<D>(level, rig, options);
        CHECK(in_rounds.spacing == options.spacing);
        CHECK(in_rounds.judged == at_once.judged);
        CHECK(in_rounds.wrong.missed == at_once.wrong.missed);
        CHECK(in_rounds.wrong.falsely == at_once.wrong.falsely);
        if (i == 0) CHECK(told > 0);
    }
}

TEST_CASE("a survey that is stopped tells its last whole round, or that there is none") {
    LevelBuilder<2> builder({"masonry", "grating"});
    builder.add("floor", "masonry", RoundedHull<2>::box({0.0, -0.5}, {6.0, 1.0}));
    builder.add("stone", "grating", RoundedHull<2>::ball({1.5, 0.0}, 0.4));
    const Level<2> level = builder.build();
    const Rig<2> rig = rig_with<2>(foot_ray<2>(0.42), {"masonry", "grating"});
    SurveyOptions options;
    options.headings = 1;
    options.spacing = 0.002;
    options.budget = 1'000'000;
    options.most_tried = 0;
    options.stop = [] { return true; };
    CHECK_THROWS_AS(survey<2>(level, rig, options), SurveyStopped);
    std::vector<Survey<2>> told;
    options.stop = {};
    KeptTruths<2> kept;
    const auto tell = [&](const Survey<2>& round) { told.push_back(round); };
    told.push_back(survey<2>(level, rig, options, kept, tell));
    REQUIRE(told.size() >= 2);
    // Wherever it is stopped, told of its rounds or not, it says the same of the last whole one of them, and
    // counts what that counted.
    std::atomic<std::size_t> asked{0};
    std::size_t most = ~std::size_t{0};
    options.stop = [&] { return ++asked > most; };
    (void)survey<2>(level, rig, options);
    const std::size_t all = asked;
    std::map<std::size_t, std::string> said;  // by rounds
    for (const std::size_t quarter : {2U, 3U}) {
        for (const bool is_told : {true, false}) {
            asked = 0;
            most = quarter * all / 4;
            KeptTruths<2> own;
            std::optional<Survey<2>> result;
            try {
                result =
                    survey<2>(level, rig, options, own,
                              is_told ? [](const Survey<2>&) {} : std::function<void(const Survey<2>&)>{});
            } catch (const SurveyStopped&) {
                continue;
            }
            REQUIRE(result->end == SurveyEnd::stopped);
            // A last round that was off its budget is made again, and told once.
            const std::size_t rounds = result->rounds.size();
            if (rounds >= told.size()) continue;
            const std::string text = bytes<2>(level, rig, *result);
            CHECK((said.try_emplace(rounds, text).first->second == text));
            const Survey<2>& expected = told[rounds - 1];
            CHECK(result->judged == expected.judged);
            CHECK(result->spacing == expected.spacing);
            REQUIRE(result->findings.size() == expected.findings.size());
            for (std::size_t i = 0; i < expected.findings.size(); ++i) {
                CHECK(result->findings[i].measure == expected.findings[i].measure);
                CHECK(result->findings[i].severity == expected.findings[i].severity);
                CHECK(result->findings[i].causes.front().tried == result->poses.size());
            }
        }
    }
    CHECK(!said.empty());
}

TEST_CASE("of a round before the last, of very many poses, some are kept, which stand for all") {
    Random random(79);
    const Level<2> level = storeys(random, 150);
    const Rig<2> rig = rig_with<2>(foot_ray<2>(0.42), {"masonry", "grating"});
    SurveyOptions options;
    options.headings = 2;
    options.budget = 60'000;
    options.most_tried = 0;
    KeptTruths<2> kept;
    std::size_t thinned = 0;
    const Survey<2> last = survey<2>(level, rig, options, kept, [&](const Survey<2>& round) {
        CAPTURE(round.judged, round.poses.size(), round.wrong_kept_of);
        CHECK(round.poses.size() <= 6'000);
        if (round.judged > 6'000) ++thinned;
        const auto stands_for = static_cast<double>(round.wrong_kept_of);
        const auto wrong = static_cast<double>(round.wrong.poses());
        double in_findings = 0.0;
        for (const Finding<2>& finding : round.findings) {
            in_findings += static_cast<double>(finding.count);
            CHECK(finding.causes.front().cause != CauseKind::unexplained);
        }
        // One in so many is kept, by chance.
        CHECK(std::abs(in_findings - wrong) <= 6.0 * stands_for * std::sqrt(wrong / stands_for));
        if (round.wrong_kept_of == 1) CHECK(in_findings == wrong);
    });
    CHECK(thinned > 0);
    // The last keeps as many as ever.
    CHECK(last.wrong_kept_of == 1);
    CHECK(last.poses.size() == last.judged);
}

TEST_CASE("a round told before the last tries what would cure its gravest findings, a stopped one all") {
    const std::vector<std::string> layers = {"floor", "a", "b", "c", "d", "e", "f", "g", "h"};
    LevelBuilder<2> builder(layers);
    builder.add("floor", "floor", RoundedHull<2>::box({0.0, -0.5}, {40.0, 1.0}));
    for (std::size_t i = 1; i < layers.size(); ++i) {
        const double wide = 0.8 + 0.1 * static_cast<double>(i);
        builder.add("slab " + layers[i], layers[i],
                    RoundedHull<2>::box({4.0 * static_cast<double>(i) - 18.0, 3.0}, {wide, 0.2}));
    }
    const Level<2> level = builder.build();
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.42), layers);
    rig.probes.front().sees = {"floor"};
    SurveyOptions options;
    options.headings = 1;
    options.most_tried = 0;
    options.spacing = 0.02;
    options.budget = 60'000;
    KeptTruths<2> kept;
    std::vector<Survey<2>> told;
    const auto last = survey<2>(level, rig, options, kept, [&](const Survey<2>& r) { told.push_back(r); });
    REQUIRE(!told.empty());
    // Each slab hides behind a layer of its own, which one change shows.
    const auto tried = [](const Survey<2>& round) {
        return std::count_if(round.findings.begin(), round.findings.end(), [](const Finding<2>& finding) {
            return finding.causes.front().cause == CauseKind::layer_unseen &&
                   finding.causes.front().cures == finding.count;
        });
    };
    const auto unseen = static_cast<std::ptrdiff_t>(layers.size()) - 1;
    CHECK(tried(last) >= unseen);
    // At few of the poses, too, but for the last round.
    const auto poses_tried_at = [](const Survey<2>& round) {
        return round.findings.front().causes.front().tried;
    };
    CHECK(poses_tried_at(last) > 10'000);
    for (const Survey<2>& round : told) {
        REQUIRE(round.poses.size() > 2'500);
        CHECK(poses_tried_at(round) > 1'000);
        CHECK(poses_tried_at(round) < 2'500);
        CHECK(tried(round) >= 5);
        CHECK(tried(round) <= 6);
        for (std::size_t i = 0; i + 1 < round.findings.size(); ++i)
            CHECK(round.findings[i].measure >= round.findings[i + 1].measure);
    }
    // Stopped, it says of its last whole round all that there is to say.
    std::size_t rounds = 0;
    std::atomic<bool> stops{false};
    options.stop = [&] { return stops.load(); };
    KeptTruths<2> own;
    const auto stopped = survey<2>(level, rig, options, own, [&](const Survey<2>&) {
        ++rounds;
        stops = true;
    });
    REQUIRE(rounds == 1);
    CHECK(stopped.end == SurveyEnd::stopped);
    CHECK(stopped.judged == told.front().judged);
    CHECK(tried(stopped) >= unseen);
    CHECK(poses_tried_at(stopped) == stopped.poses.size());
}

TEMPLATE_TEST_CASE_SIG("a rig that feels farther is surveyed at the very same places", "", ((int D), D), 2,
                       3) {
    Random random(31);
    for (int i = 0; i < 3; ++i) {
        const Level<D> level = random_level<D>(random);
        Rig<D> rig = random_rig<D>(random);
        SurveyOptions options;
        options.border_fraction = 1.0;
        options.spacing = D == 2 ? random.between(0.2, 0.5) : random.between(0.8, 1.5);
        options.explain = false;
        options.most_corner_columns = 0;
        options.seed = static_cast<std::uint64_t>(random.below(3));
        // Bit by bit, across up: places are keys.
        const auto places = [&](double reach) {
            for (Probe<D>& probe : rig.probes) probe.line().reach = reach;
            std::set<std::vector<double>> across;
            for (const SurveyPose<D>& pose : survey<D>(level, rig, options).poses) {
                if (pose.border) continue;
                std::vector<double> place(pose.anchor.data(), pose.anchor.data() + D);
                place.erase(place.begin() + 1);
                across.insert(place);
            }
            return across;
        };
        const auto near = places(0.4);
        REQUIRE(near.size() > 10);
        for (const double reach : {random.between(0.41, 0.6), random.between(1.0, 3.0)}) {
            const auto far = places(reach);
            CHECK(far.size() >= near.size());
            CHECK(std::includes(far.begin(), far.end(), near.begin(), near.end()));
        }
    }
}

TEMPLATE_TEST_CASE_SIG("truths kept for one reach serve all others", "", ((int D), D), 2, 3) {
    Random random(32);
    const Level<D> level = random_level<D>(random);
    Rig<D> rig = random_rig<D>(random);
    SurveyOptions options;
    options.spacing = D == 2 ? 0.3 : 1.0;
    options.explain = false;
    options.most_corner_columns = 0;
    options.border_fraction = 1.0;
    KeptTruths<D> kept;
    (void)survey<D>(level, rig, options, kept);
    const std::size_t columns = kept.columns();
    REQUIRE(columns > 10);
    for (const double reach : {0.43, 0.61, 1.7}) {
        for (Probe<D>& probe : rig.probes) probe.line().reach = reach;
        KeptTruths<D> none;
        const Survey<D> alone = survey<D>(level, rig, options, none);
        const Survey<D> with = survey<D>(level, rig, options, kept);
        CHECK(alone.wrong.missed == with.wrong.missed);
        CHECK(alone.wrong.falsely == with.wrong.falsely);
        // Those of the ground that only the longer reach feels, and a few between columns that differ, are
        // new.
        CHECK(kept.columns() - columns < columns / 2);
        CHECK(kept.columns() < none.columns() + columns / 2);
    }
}

TEMPLATE_TEST_CASE_SIG("columns beside corners are as many as is asked for", "", ((int D), D), 2, 3) {
    Random random(33);
    for (int i = 0; i < 2; ++i) {
        const Level<D> level = random_level<D>(random);
        const Rig<D> rig = random_rig<D>(random);
        SurveyOptions options;
        options.border_fraction = 1.0;
        options.spacing = D == 2 ? 0.3 : 2.0;
        options.explain = false;
        const std::size_t all = survey<D>(level, rig, options).scope.corner_columns;
        REQUIRE(all > 40);
        options.most_corner_columns = all / 4;
        const SurveyScope some = survey<D>(level, rig, options).scope;
        CHECK(some.corner_columns < 3 * all / 5);  // about a quarter
        CHECK(some.corners_left_out > 0);
        options.most_corner_columns = 0;
        CHECK(survey<D>(level, rig, options).scope.corner_columns == 0);
    }
}

TEST_CASE("of very many edges some are looked at, the same each time and all over the level") {
    // A flat ground, of one mesh or of boxes each: there are no borders, and what stands between the columns
    // of the grid stands beside edges.
    for (const bool of_boxes : {false, true}) {
        constexpr int side = 140;
        LevelBuilder<3> builder({"m"});
        std::vector<Vec<3>> places;
        std::vector<std::array<std::uint32_t, 3>> triangles;
        for (int x = 0; x < side; ++x) {
            for (int z = 0; z < side; ++z) {
                if (of_boxes) {
                    builder.add("box " + std::to_string(x) + " " + std::to_string(z), "m",
                                RoundedHull<3>::box({x + 0.5, -0.5, z + 0.5}, {1, 1, 1}));
                    continue;
                }
                const auto first = static_cast<std::uint32_t>(places.size());
                for (const auto& [dx, dz] : {std::pair{0, 0}, {0, 1}, {1, 0}, {1, 1}})
                    places.emplace_back(x + dx, 0.0, z + dz);
                triangles.push_back({first, first + 1, first + 2});
                triangles.push_back({first + 2, first + 1, first + 3});
            }
        }
        if (!of_boxes) builder.add_mesh("ground", "m", places, triangles);
        const Level<3> level = builder.build();
        Rig<3> rig = rig_with<3>(foot_ray<3>(0.5), {"m"});
        SurveyOptions options;
        options.spacing = 20.0;
        options.budget.reset();
        options.explain = false;
        options.headings = 1;
        options.border_fraction = 1.0;
        options.most_corner_columns = 600;
        const Survey<3> result = survey<3>(level, rig, options);
        CAPTURE(of_boxes);
        CHECK(result.scope.corner_columns > 200);
        CHECK(result.scope.corner_columns < 900);
        // Edges of triangles are met from either side; those of boxes at the bottom may be told from those on
        // top, or not.
        const std::size_t edges = of_boxes ? 4 * side * side : 6 * side * side;
        CHECK(result.scope.corners_left_out > 9 * edges / 10);
        CHECK(result.scope.corners_left_out < (of_boxes ? 2 : 1) * edges);
        std::array<std::size_t, 4> quarters{};
        for (const SurveyPose<3>& pose : result.poses) {
            if (!pose.border) continue;
            ++quarters[(pose.anchor.x() > 0.5 * side ? 1 : 0) + (pose.anchor.z() > 0.5 * side ? 2 : 0)];
        }
        const std::size_t all = quarters[0] + quarters[1] + quarters[2] + quarters[3];
        REQUIRE(all > 400);
        for (const std::size_t quarter : quarters) CHECK(quarter > all / 8);
        options.threads = 1;
        const Survey<3> again = survey<3>(level, rig, options);
        REQUIRE(again.poses.size() == result.poses.size());
        for (std::size_t i = 0; i < again.poses.size(); ++i)
            REQUIRE(again.poses[i].anchor == result.poses[i].anchor);
    }
}

TEMPLATE_TEST_CASE_SIG("with a budget of any number every corner and edge has columns", "", ((int D), D), 2,
                       3) {
    // Stairs of one box a step, up and up: far more edges than a closer grid would have columns.
    constexpr int steps = D == 2 ? 3'000 : 700;
    LevelBuilder<D> builder({"m"});
    for (int i = 0; i < steps; ++i) {
        Vec<D> size = Vec<D>::constant(2.0);
        size[0] = 1.0;
        builder.add("step " + std::to_string(i), "m", RoundedHull<D>::box(at<D>(i, 0.4 * i), size));
    }
    const Level<D> level = builder.build();
    SurveyOptions options;
    options.spacing = D == 2 ? 1.0 : 20.0;
    options.budget = 0;
    options.explain = false;
    options.border_fraction = 1.0;
    options.headings = 1;
    options.region = D == 2 ? std::vector<double>{-1.0, -2.0, steps, 0.4 * steps + 2.0}
                            : std::vector<double>{-1.0, -2.0, -1.5, steps, 0.4 * steps + 2.0, 1.5};
    const Survey<D> whole = survey<D>(level, rig_with<D>(foot_ray<D>(0.5), {"m"}), options);
    CHECK(whole.scope.corners_left_out == 0);
    // Beside both ends of each step on top, or along the edges there.
    std::set<int> beside;
    for (const SurveyPose<D>& pose : whole.poses) {
        if (pose.border && pose.above_rest < 0.1)
            beside.insert(static_cast<int>(std::lround(pose.anchor[0] + 0.5)));
    }
    std::size_t met = 0;
    for (int i = 1; i + 1 < steps; ++i) met += beside.count(i);
    CHECK(met == static_cast<std::size_t>(steps - 2));
    // Limited by a spacing alone, or by a number; and as closely as a limited one.
    options.budget.reset();
    const Survey<D> spaced = survey<D>(level, rig_with<D>(foot_ray<D>(0.5), {"m"}), options);
    CHECK(spaced.scope.corners_left_out > 0);
    CHECK(spaced.scope.corner_columns < whole.scope.corner_columns);
    options.most_corner_columns = 500;
    const Survey<D> limited = survey<D>(level, rig_with<D>(foot_ray<D>(0.5), {"m"}), options);
    CHECK(limited.scope.corners_left_out > 0);
    options.most_corner_columns.reset();
    const Survey<D> as_limited =
        survey<D>(level, rig_with<D>(foot_ray<D>(0.6), {"m"}), as_closely_as<D>(limited, options));
    CHECK(as_limited.scope.corners_left_out > 0);
    CHECK(as_limited.scope.corner_columns < 2 * limited.scope.corner_columns);
    CHECK(as_limited.spacing == limited.spacing);
    CHECK(survey<D>(level, rig_with<D>(foot_ray<D>(0.6), {"m"}), as_closely_as<D>(whole, options))
              .scope.corners_left_out == 0);
}

TEMPLATE_TEST_CASE_SIG("a pose judged by itself has the verdict of its survey", "", ((int D), D), 2, 3) {
    Random random(34);
    std::size_t wrong = 0;
    std::size_t held = 0;
    for (int i = 0; i < (D == 2 ? 8 : 3); ++i) {
        const Level<D> level = random_level<D>(random);
        Rig<D> rig = random_rig<D>(random);
        if (i % 3 == 1) rig.signals[0].grace = 0.1;
        if (i % 3 == 2) {
            rig.reads = Reads::before_move;
            rig.intent.forgive.late = 0.05;
        }
        SurveyOptions options;
        options.spacing = D == 2 ? 0.3 : 2.0;
        options.border_fraction = 0.25;
        options.most_corner_columns = 60;
        options.most_tried = 0;
        const Survey<D> result = survey<D>(level, rig, options);
        // The pose of a finding is the one that is printed to be drawn again.
        for (const Finding<D>& finding : result.findings) {
            const Facing<D>& facing = result.facings[finding.worst.facing];
            const SurveyPose<D> again = judge_at<D>(level, rig, facing, finding.worst.anchor);
            INFO(finding.id << " " << name_of(facing.arrival));
            CHECK(again.verdict(finding.signal) == finding.verdict);
            ++wrong;
        }
        // Any pose well inside of its interval.
        for (std::size_t k = 0; k < result.poses.size(); k += 37) {
            const SurveyPose<D>& pose = result.poses[k];
            if (std::min(pose.down, pose.up) < static_cast<float>(rig.intent.touch / 16.0)) continue;
            const Facing<D>& facing = result.facings[pose.facing];
            const SurveyPose<D> again = judge_at<D>(level, rig, facing, pose.anchor);
            CHECK(again.signals_on == pose.signals_on);
            CHECK(again.truths_on == pose.truths_on);
            ++held;
        }
    }
    CHECK(wrong > 20);
    CHECK(held > 100);
}
