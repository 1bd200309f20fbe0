// Tuning against brute force: never worse than a lattice over the ranges, room told that is there, spoiled
// rigs mended.
#include <catch2/catch.hpp>

#include "hollow_probe/rig/differences.hpp"
#include "hollow_probe/study/front.hpp"
#include "hollow_probe/study/tune.hpp"
#include "scenes.hpp"

using namespace hollow_probe;

namespace {

/// Floor, a walkable ramp, a steep one, a ledge and a ceiling.
template <int D>
Level<D> yard() {
    LevelBuilder<D> builder({"stone", "wood"});
    const auto box = [&](const std::string& name, const std::string& layer, double x_low, double x_high,
                         double y_low, double y_high) {
        Vec<D> low = Vec<D>::constant(-2.0);
        Vec<D> high = Vec<D>::constant(2.0);
        low[0] = x_low;
        high[0] = x_high;
        low[1] = y_low;
        high[1] = y_high;
        builder.add(name, layer, RoundedHull<D>::box(0.5 * (low + high), high - low));
    };
    box("floor", "stone", -6.0, 2.0, -1.0, 0.0);
    box("planks", "wood", 2.0, 6.0, -1.0, 0.0);
    box("ledge", "stone", 6.0, 9.0, -1.0, 1.2);
    const auto wedge = [&](const std::string& name, double x, double length, double rise) {
        std::vector<Vec<D>> corners;
        for (const double z : {-2.0, 2.0}) {
            for (const auto& [along, up] : {std::pair{0.0, 0.0}, {length, 0.0}, {length, rise}}) {
                Vec<D> corner = Vec<D>::constant(z);
                corner[0] = x + along;
                corner[1] = up;
                corners.push_back(corner);
            }
            if (D == 2) break;
        }
        builder.add(name, "stone", RoundedHull<D>::hull(corners));
    };
    wedge("ramp", -2.0, 2.5, 1.3);
    wedge("bank", -5.5, 1.0, 2.2);
    return builder.build();
}

/// Right wherever it is asked: a ball as round as the body's end.
template <int D>
Rig<D> sound() {
    Rig<D> rig;
    rig.body.meets = {"stone", "wood"};
    rig.body.stances = {Stance<D>::capsule("upright", 0.3, 1.8)};
    Probe<D> soles;
    soles.name = "soles";
    soles.line().shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.3);
    soles.line().from = 0.3 * Vec<D>::unit(1);
    soles.line().reach = 0.02;
    soles.sees = {"stone", "wood"};
    soles.line().accept_most_degrees = 45.0;
    soles.line().take = Take::all;
    rig.probes = {soles};
    Signal grounded;
    grounded.name = "grounded";
    grounded.members.any = {"soles"};
    rig.signals = {grounded};
    return rig;
}

constexpr std::size_t few_poses = 20'000;

template <int D>
double weighed(const Level<D>& level, const Rig<D>& rig, double missed_weight, KeptTruths<D>& kept) {
    SurveyOptions options;
    options.explain = false;
    options.budget = few_poses;
    const Wrongness wrong = survey<D>(level, rig, options, kept).wrong;
    return missed_weight * wrong.missed + wrong.falsely;
}

}  // namespace

TEST_CASE("a search is stopped wherever it is, and says so") {
    const Level<2> level = yard<2>();
    Rig<2> rig = sound<2>();
    rig.probes[0].line().reach = 0.5;
    TuneOptions<2> options;
    options.free = {{"probe.soles.reach", {}}, {"probe.soles.from[1]", {}}};
    options.survey.budget = few_poses;
    int asked = 0;
    int most = 0;
    options.survey.stop = [&] { return ++asked > most; };
    most = 1'000'000;
    (void)tune<2>({&level}, rig, options);
    const int whole = asked;
    REQUIRE(whole > 20);
    // At first, in the surveys, in the search.
    for (const double part : {0.0, 0.05, 0.3, 0.8}) {
        asked = 0;
        most = static_cast<int>(part * whole);
        INFO(part);
        CHECK_THROWS_AS(tune<2>({&level}, rig, options), SurveyStopped);
        CHECK(asked <= most + whole / 10 + 50);
    }
}

TEST_CASE("what is tuned is never worse than the best of a lattice, and its room is there") {
    const Level<2> level = yard<2>();
    // A ray cannot be right on ramps and lips: what is best is a trade.
    Rig<2> rig = sound<2>();
    rig.probes[0].line().shape.reset();
    rig.probes[0].line().reach = 0.7;
    for (const double missed_weight : {0.3, 4.0}) {
        TuneOptions<2> options;
        options.free = {{"probe.soles.reach", std::array{0.2, 0.8}},
                        {"probe.soles.from[1]", std::array{0.1, 0.6}}};
        options.missed_weight = missed_weight;
        options.held_part = 0.0;
        options.survey.budget = few_poses;
        const TunedRig<2> tuned = tune<2>({&level}, rig, options);
        KeptTruths<2> kept;
        const auto at = [&](double reach, double from) {
            Rig<2> other = rig;
            other.probes[0].line().reach = reach;
            other.probes[0].line().from[1] = from;
            return weighed<2>(level, other, missed_weight, kept);
        };
        const double found = missed_weight * tuned.after.missed + tuned.after.falsely;
        CHECK(found == Approx(weighed<2>(level, tuned.rig, missed_weight, kept)));
        double best = infinity;
        for (int i = 0; i <= 6; ++i) {
            for (int k = 0; k <= 6; ++k) best = std::min(best, at(0.2 + 0.6 * i / 6.0, 0.1 + 0.5 * k / 6.0));
        }
        INFO("weight " << missed_weight);
        CHECK(found <= 1.01 * best);
        // At the corners of the room told nothing is much worse.
        const auto& reach = tuned.settings[0].together;
        const auto& from = tuned.settings[1].together;
        const double concerned = tuned.after.contact + tuned.after.signalled;
        for (const double r : reach) {
            for (const double f : from) CHECK(at(r, f) <= found + 6e-3 * concerned);
        }
        for (std::size_t i = 0; i < 2; ++i) {
            CHECK(tuned.settings[i].alone[0] <= tuned.settings[i].together[0]);
            CHECK(tuned.settings[i].together[1] <= tuned.settings[i].alone[1]);
            CHECK(tuned.settings[i].together[0] <= tuned.settings[i].value);
            CHECK(tuned.settings[i].value <= tuned.settings[i].together[1]);
        }
    }
}

TEST_CASE("of what is equally right the middle is taken") {
    // Nothing is steeper than 28 degrees or flatter than 65: whatever lies between is right.
    const Level<2> level = yard<2>();
    Rig<2> rig = sound<2>();
    rig.probes[0].line().accept_most_degrees = 10.0;
    TuneOptions<2> options;
    options.free = {{"probe.soles.accept.angle[1]", std::array{0.0, 90.0}}};
    options.held_part = 0.0;
    // Corners are touched at any angle: away from them.
    options.survey.region = {-4.1, -1.0, 0.0, 4.0};
    const TunedRig<2> tuned = tune<2>({&level}, rig, options);
    CHECK(tuned.right());
    const double ramp = std::atan2(1.3, 2.5) * 180.0 / std::numbers::pi;
    CHECK(tuned.settings[0].alone[0] <= ramp + 0.5);
    CHECK(tuned.settings[0].value > ramp + 1.0);
    CHECK(tuned.settings[0].alone[1] >= 44.0);
}

namespace {

/// Spoils some settings of a sound rig at random and tunes these; returns whether nothing is wrong then.
template <int D>
bool mended(const Level<D>& level, unsigned seed) {
    scenes::Random random(seed);
    Rig<D> rig = sound<D>();
    TuneOptions<D> options;
    const int count = 1 + random.below(4);
    std::vector<int> order = {0, 1, 2, 3, 4};
    for (int i = 0; i < 4; ++i)
        std::swap(order[static_cast<std::size_t>(i)],
                  order[static_cast<std::size_t>(i + random.below(5 - i))]);
    for (int i = 0; i < count; ++i) {
        Probe<D>& probe = rig.probes[0];
        switch (order[static_cast<std::size_t>(i)]) {
            case 0:
                probe.line().reach = random.between(0.03, 0.5);
                options.free.push_back({"probe.soles.reach", std::array{0.005, 0.6}});
                break;
            case 1:
                probe.line().accept_most_degrees = random.between(5.0, 85.0);
                options.free.push_back({"probe.soles.accept.angle[1]", std::array{0.0, 90.0}});
                break;
            case 2:
                probe.line().shape = RoundedHull<D>::ball(Vec<D>::zero(), random.between(0.1, 0.5));
                options.free.push_back({"probe.soles.shape.radius", std::array{0.05, 0.6}});
                break;
            case 3:
                probe.line().from[0] = random.between(-0.3, 0.3);
                options.free.push_back({"probe.soles.from[0]", std::array{-0.4, 0.4}});
                break;
            default:
                probe.sees = {"stone"};
                options.free.push_back({"probe.soles.sees", {}});
                break;
        }
    }
    options.survey.budget = few_poses;
    const TunedRig<D> tuned = tune<D>({&level}, rig, options);
    INFO("seed " << seed);
    CHECK_FALSE(tuned.before.better_than(tuned.after));
    // What was held back is a part of the whole.
    CHECK(tuned.held_before.whole() <= tuned.before.whole() + 1e-9);
    CHECK(tuned.held_after.whole() <= tuned.after.whole() + 1e-9);
    CHECK(tuned.held_before.poses() < tuned.before.poses());
    if (tuned.right()) CHECK(tuned.held_after.poses() == 0);
    if (!tuned.right()) {
        std::string settings;
        for (const TunedSetting& one : tuned.settings)
            settings += "\n" + one.path + " " + one.was + " " + one.is;
        WARN("seed " << seed << ": " << tuned.after.missed << " missed, " << tuned.after.falsely << " false, "
                     << tuned.tried << " tried" << settings);
    }
    return tuned.right();
}

}  // namespace

TEST_CASE("rigs spoiled in one to four settings are tuned back until nothing is wrong", "[slow]") {
    const Level<2> level = yard<2>();
    int right = 0;
    constexpr unsigned tried = 5;
    for (unsigned seed = 1; seed <= tried; ++seed) right += mended<2>(level, seed) ? 1 : 0;
    CHECK(right >= 4);
    // Right at one value alone: a millionth of the level was left wrong beside it.
    CHECK(mended<2>(level, 1043));
}

TEST_CASE("what is right is not given up for a rounder number that is hardly wrong") {
    const Level<2> level = yard<2>();
    for (const double steepest : {44.9973, 44.99, 45.03}) {
        Rig<2> rig = sound<2>();
        rig.intent.steepest_footing_degrees = steepest;
        rig.probes[0].line().accept_most_degrees = 39.7;
        TuneOptions<2> options;
        options.free = {{"probe.soles.accept.angle[1]", std::array{0.0, 90.0}}};
        options.survey.budget = few_poses;
        const TunedRig<2> tuned = tune<2>({&level}, rig, options);
        INFO(steepest << " " << tuned.settings[0].is);
        CHECK(tuned.right());
        SurveyOptions again = options.survey;
        again.explain = false;
        CHECK(survey<2>(level, tuned.rig, again).wrong.poses() == 0);
    }
}

TEST_CASE("three numbers that make up for each other are all found again", "[slow]") {
    const auto found_again = [](const auto& level, auto rig, auto options) {
        constexpr int D = std::decay_t<decltype(level.up())>::size();
        auto& soles = rig.probes[0].line();
        soles.shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.15);
        soles.from[0] = 0.1;
        soles.from[1] = 0.5;
        soles.reach = 0.4;
        options.free = {{"probe.soles.reach", std::array{0.005, 0.6}},
                        {"probe.soles.from[0]", std::array{-0.2, 0.2}},
                        {"probe.soles.from[1]", std::array{0.2, 0.6}},
                        {"probe.soles.shape.radius", std::array{0.1, 0.4}}};
        options.survey.budget = few_poses;
        const TunedRig<D> tuned = tune<D>({&level}, rig, options);
        INFO(tuned.after.missed << " missed, " << tuned.after.falsely << " false, " << tuned.tried
                                << " tried");
        CHECK(tuned.right());
        CHECK_FALSE(tuned.left.has_value());
    };
    TuneOptions<2> flat;
    flat.tell_left = true;
    found_again(yard<2>(), sound<2>(), flat);
    TuneOptions<3> solid;
    solid.tell_left = true;
    found_again(yard<3>(), sound<3>(), solid);
}

TEST_CASE("what only a survey of the tuned rig shows to be wrong is put right in the next round") {
    // A film over the floor that is sensed and stops nobody: so small that of the places at which rigs are
    // judged at first none may lie there, and a rig that sees it looks as good as one that does not.
    std::size_t most_rounds = 0;
    for (const double x : {-31.3, 4.7, 23.9}) {
        for (const bool film_first : {false, true}) {
            LevelBuilder<2> builder(film_first ? std::vector<std::string>{"air", "film", "stone"}
                                               : std::vector<std::string>{"air", "stone", "film"});
            builder.add("floor", "stone", RoundedHull<2>::box({0.0, -0.5}, {80.0, 1.0}));
            builder.add("film", "film", RoundedHull<2>::box({x, 2.0}, {0.02, 0.02})).role(Role::sensed);
            const Level<2> level = builder.build();
            Rig<2> rig = sound<2>();
            rig.body.meets = {"stone"};
            rig.probes[0].sees = {"air"};
            TuneOptions<2> options;
            options.free = {{"probe.soles.sees", {}}};
            options.survey.budget = 3 * few_poses;
            const TunedRig<2> tuned = tune<2>({&level}, rig, options);
            INFO(x << ", the film " << (film_first ? "first" : "last") << ", " << tuned.rounds << " rounds, "
                   << tuned.after.falsely << " false");
            CHECK(tuned.right());
            const std::vector<std::string>& sees = tuned.rig.probes[0].sees;
            CHECK(std::find(sees.begin(), sees.end(), "film") == sees.end());
            most_rounds = std::max(most_rounds, tuned.rounds);
        }
    }
    CHECK(most_rounds > 1);
}

TEST_CASE("signals that claim nothing are not judged, on or off") {
    const Level<2> level = yard<2>();
    Rig<2> rig = sound<2>();
    rig.probes[0].line().reach = 0.3;
    TuneOptions<2> options;
    options.free = {{"probe.soles.reach", std::array{0.005, 0.6}}};
    options.survey.budget = few_poses;
    const TunedRig<2> by_itself = tune<2>({&level}, rig, options);
    Probe<2> feeler = rig.probes[0];
    feeler.name = "feeler";
    feeler.line().reach = 3.0;
    rig.probes.push_back(feeler);
    Signal helper;
    helper.name = "something below";
    helper.claims.reset();
    helper.members.any = {"feeler"};
    rig.signals.insert(rig.signals.begin(), helper);
    const TunedRig<2> beside_helper = tune<2>({&level}, rig, options);
    CHECK(by_itself.right());
    CHECK(beside_helper.right());
    CHECK(beside_helper.settings[0].value == Approx(by_itself.settings[0].value).margin(0.01));
}

TEST_CASE("what tuning leaves wrong is told, with what would mend it") {
    const Level<2> level = yard<2>();
    Rig<2> rig = sound<2>();
    rig.probes[0].sees = {"stone"};
    rig.probes[0].line().reach = 0.3;
    TuneOptions<2> options;
    options.free = {{"probe.soles.reach", std::array{0.005, 0.6}}};
    options.survey.budget = 8000;
    CHECK_FALSE(tune<2>({&level}, rig, options).left.has_value());  // not asked for
    options.tell_left = true;
    const TunedRig<2> tuned = tune<2>({&level}, rig, options);
    CHECK(tuned.after.falsely == 0.0);
    CHECK(tuned.after.missed > 0.0);
    REQUIRE(tuned.left.has_value());
    // The same that a survey of the tuned rig finds: the planks are not seen.
    CHECK(tuned.left->wrong.missed == Approx(tuned.after.missed).epsilon(0.02));
    CHECK(tuned.left->wrong.falsely == 0.0);
    REQUIRE_FALSE(tuned.left->findings.empty());
    const Finding<2>& gravest = tuned.left->findings.front();
    CHECK(gravest.measure > 0.999 * tuned.left->wrong.missed);
    CHECK(gravest.solid == "planks");
    REQUIRE_FALSE(gravest.causes.empty());
    CHECK(gravest.causes.front().cause == CauseKind::layer_unseen);
}

TEST_CASE("hundreds of spoiled rigs, in 2D and 3D", "[.long]") {
    const Level<2> flat = yard<2>();
    int right = 0;
    for (unsigned seed = 1000; seed < 1100; ++seed) right += mended<2>(flat, seed) ? 1 : 0;
    CHECK(right >= 95);
    const Level<3> solid = yard<3>();
    right = 0;
    for (unsigned seed = 1; seed <= 20; ++seed) right += mended<3>(solid, seed) ? 1 : 0;
    CHECK(right >= 19);
}

TEST_CASE("tuning is the same for any number of threads, and leaves what makes no difference") {
    const Level<2> level = yard<2>();
    Rig<2> rig = sound<2>();
    rig.probes[0].line().reach = 0.2;
    TuneOptions<2> options;
    options.free = {{"probe.soles.reach", std::array{0.0, 0.4}},
                    {"signal.grounded.grace", {}},
                    {"probe.soles.faces", {}}};
    options.free[0].range = std::array{0.005, 0.4};
    options.survey.budget = 8000;
    options.survey.threads = 1;
    const TunedRig<2> one = tune<2>({&level}, rig, options);
    options.survey.threads = 2;
    const TunedRig<2> two = tune<2>({&level}, rig, options);
    CHECK(differences<2>(one.rig, two.rig).empty());
    CHECK(one.tried == two.tried);
    CHECK(one.rig.probes[0].line().reach == 0.02);
    CHECK(one.rig.probes[0].line().faces == Faces::both);
    CHECK(one.rig.signals[0].grace == 0.0);
}

TEST_CASE("promises beside the level's come first") {
    const Level<2> level = yard<2>();
    Rig<2> rig = sound<2>();
    rig.probes[0].line().reach = 0.3;
    TuneOptions<2> options;
    options.free = {{"probe.soles.reach", std::array{0.005, 0.4}}};
    options.survey.budget = 8000;
    options.broken = [](const Rig<2>& other) {
        return other.probes[0].line().reach < 0.1 ? std::size_t{1} : std::size_t{0};
    };
    const TunedRig<2> tuned = tune<2>({&level}, rig, options);
    CHECK(tuned.broken_after == 0);
    CHECK(tuned.rig.probes[0].line().reach == Approx(0.1).margin(2e-3));
    CHECK(tuned.rig.probes[0].line().reach >= 0.1);
}

TEST_CASE("what findings name is free where nothing is said, and a rig that is right stays") {
    const Level<2> level = yard<2>();
    Rig<2> rig = sound<2>();
    rig.probes[0].sees = {"stone"};
    TuneOptions<2> options;
    options.survey.budget = 8000;
    const TunedRig<2> tuned = tune<2>({&level}, rig, options);
    CHECK(tuned.right());
    CHECK(tuned.rig.probes[0].sees == std::vector<std::string>{"stone", "wood"});
    CHECK_THROWS_WITH(tune<2>({&level}, sound<2>(), options), Catch::Contains("no finding's cause"));
    options.free = {{"probe.soles.reach", {}}};
    const TunedRig<2> same = tune<2>({&level}, sound<2>(), options);
    CHECK(differences<2>(same.rig, sound<2>()).empty());
    // From a limit that is none of its own, and as far as makes sense.
    for (const auto& range : {std::optional<std::array<double, 2>>(std::array{0.0, 0.5}),
                              std::optional<std::array<double, 2>>()}) {
        Rig<2> short_one = sound<2>();
        short_one.probes[0].line().reach = 0.001;
        options.free = {{"probe.soles.reach", range}};
        CHECK(tune<2>({&level}, short_one, options).rig.probes[0].line().reach == 0.02);
    }
    options.free = {{"probe.soles.reach", std::array{0.4, 0.2}}};
    CHECK_THROWS_WITH(tune<2>({&level}, rig, options), Catch::Contains("lesser to a greater"));
    options.free = {{"probe.soles.accept.angle[1]", std::array{0.0, 200.0}}};
    CHECK_THROWS_WITH(tune<2>({&level}, rig, options), Catch::Contains("0 to 180"));
    options.free = {{"probe.soles.take", std::array{0.0, 1.0}}};
    CHECK_THROWS_WITH(tune<2>({&level}, rig, options), Catch::Contains("no range"));
}

TEST_CASE("layers that are missed and members too many are put right together") {
    LevelBuilder<2> builder({"stone", "wood", "iron"});
    for (const auto& [layer, x] : {std::pair{"stone", -4.0}, {"wood", 0.0}, {"iron", 4.0}})
        builder.add(layer, layer, RoundedHull<2>::box({x, -0.5}, {4.0, 1.0}));
    const Level<2> level = builder.build();
    const std::vector<std::string> all = {"stone", "wood", "iron"};
    Rig<2> rig = sound<2>();
    rig.body.meets = rig.probes[0].sees = all;
    for (const char* name : {"long", "longer"}) {
        Probe<2> probe = rig.probes[0];
        probe.name = name;
        probe.line().reach = rig.probes.size() == 1 ? 0.4 : 0.7;
        rig.probes.push_back(probe);
    }
    rig.signals[0].members.any = {"long", "soles", "longer"};
    rig.probes[0].sees = {"wood"};
    TuneOptions<2> options;
    options.survey.budget = 8000;
    options.free = {{"probe.soles.sees", {}}, {"signal.grounded.any", {}}};
    const TunedRig<2> tuned = tune<2>({&level}, rig, options);
    CHECK(tuned.right());
    std::vector<std::string> sees = tuned.rig.probes[0].sees;
    std::sort(sees.begin(), sees.end());
    CHECK(sees == std::vector<std::string>{"iron", "stone", "wood"});
    REQUIRE(tuned.rig.signals[0].members.any.size() == 1);
    CHECK(tuned.rig.signals[0].members.any[0].name == "soles");
}

TEST_CASE("a valley that is level for long is gone along to where all is right") {
    // A ball that starts higher and reaches as much farther tells the same of the floor, but feels bars that
    // the body only brushes: less of that only just above the feet.
    LevelBuilder<2> builder({"stone", "wood"});
    builder.add("floor", "stone", RoundedHull<2>::box({0.0, -0.5}, {12.0, 1.0}));
    for (const double x : {-3.0, 0.0, 3.0})
        builder.add("bar " + std::to_string(x), "stone", RoundedHull<2>::ball({x, 0.2}, 0.15));
    const Level<2> level = builder.build();
    Rig<2> rig = sound<2>();
    rig.probes[0].line().from[1] = 0.55;
    rig.probes[0].line().reach = 0.3;
    TuneOptions<2> options;
    options.survey.budget = few_poses;
    options.free = {{"probe.soles.reach", std::array{0.01, 0.6}},
                    {"probe.soles.from[0]", std::array{-0.2, 0.2}},
                    {"probe.soles.from[1]", std::array{0.2, 0.9}}};
    const TunedRig<2> tuned = tune<2>({&level}, rig, options);
    INFO(tuned.settings[0].is << ' ' << tuned.settings[1].is << ' ' << tuned.settings[2].is);
    CHECK(tuned.right());
}

TEST_CASE("what is grave counts more, in proportion to the weight given") {
    const Level<2> level = yard<2>();
    Rig<2> rig = sound<2>();
    rig.probes[0].line().reach = 0.8;
    TuneOptions<2> options;
    options.free = {{"probe.soles.reach", std::array{0.01, 0.9}}};
    options.survey.budget = 3000;
    const auto weighed_at = [&](double severity) {
        options.severity_weight = severity;
        return tune<2>({&level}, rig, options);
    };
    const TunedRig<2> plain = weighed_at(0.0);
    CHECK(plain.weighed_before == Approx(plain.before.missed + plain.before.falsely).epsilon(1e-9));
    const double one = weighed_at(1.0).weighed_before;
    const double two = weighed_at(2.0).weighed_before;
    CHECK(one > plain.weighed_before);
    CHECK(two - one == Approx(one - plain.weighed_before));
    // What is felt 0.8 early is wrong by 0.8 less touch at most, a part of the body's height.
    CHECK(one < 1.5 * plain.weighed_before);
    options.severity_weight = -1.0;
    CHECK_THROWS_AS(tune<2>({&level}, rig, options), InvalidInput);
}

TEST_CASE("of a trade-off none is beaten by another, nor by any of a lattice, and threads do not matter") {
    const Level<2> level = yard<2>();
    Rig<2> rig = sound<2>();
    rig.probes[0].line().shape.reset();
    rig.probes[0].line().from = {0.0, 0.4};
    rig.probes[0].line().reach = 0.43;
    TuneOptions<2> options;
    options.free = {{"probe.soles.reach", std::array{0.3, 0.7}}, {"probe.soles.sees", {}}};
    options.survey.budget = 3000;
    options.most_tried = 600;
    options.survey.threads = 1;
    const TuningFront<2> front = tuning_front<2>({&level}, rig, options);
    REQUIRE(front.rigs.size() >= 3);
    CHECK(front.settings == std::vector<std::string>{"probe.soles.reach", "probe.soles.sees"});
    const auto beats = [](const FrontRig<2>& a, const FrontRig<2>& b) {
        return a.wrong.missed <= b.wrong.missed && a.wrong.falsely <= b.wrong.falsely &&
               a.effort <= b.effort &&
               (a.wrong.missed < b.wrong.missed || a.wrong.falsely < b.wrong.falsely || a.effort < b.effort);
    };
    for (const FrontRig<2>& one : front.rigs) {
        CHECK(std::none_of(front.rigs.begin(), front.rigs.end(),
                           [&](const FrontRig<2>& other) { return beats(other, one); }));
        CHECK_FALSE(beats(front.before, one));
    }
    // Rigs that see both layers, reach by reach: none is better by more than what rounding a reach may cost.
    SurveyOptions quick;
    quick.explain = false;
    quick.budget = 3000;
    KeptTruths<2> kept;
    for (double reach = 0.3; reach <= 0.7; reach += 0.01) {
        Rig<2> other = rig;
        other.probes[0].line().reach = reach;
        const Wrongness wrong = survey<2>(level, other, quick, kept).wrong;
        const double hair = 0.03 * (wrong.missed + wrong.falsely) + 0.01;
        CAPTURE(reach, wrong.missed, wrong.falsely);
        for (const FrontRig<2>& one : front.rigs) {
            const bool far_better =
                wrong.missed < one.wrong.missed - hair && wrong.falsely < one.wrong.falsely - hair;
            // A rig that sees less takes less.
            const bool takes_less = one.effort < front.before.effort;
            CHECK((!far_better || takes_less));
        }
    }
    options.survey.threads = 2;
    const TuningFront<2> again = tuning_front<2>({&level}, rig, options);
    REQUIRE(again.rigs.size() == front.rigs.size());
    for (std::size_t i = 0; i < front.rigs.size(); ++i) {
        CHECK(again.rigs[i].values == front.rigs[i].values);
        CHECK(again.rigs[i].wrong.missed == front.rigs[i].wrong.missed);
    }
    CHECK_THROWS_AS(tuning_front<2>({}, rig, options), InvalidInput);
}
