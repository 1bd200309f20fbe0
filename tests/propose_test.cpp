// Rigs proposed for bodies and intents at random, on levels at random: surveyed anew, they are wrong nowhere.
#include <catch2/catch.hpp>

#include <iostream>
#include <map>

#include "hollow_probe/study/propose.hpp"
#include "scenes.hpp"

using namespace hollow_probe;

namespace {

/// A body and an intent at random.
template <int D>
Rig<D> random_bare(scenes::Random& random) {
    Rig<D> bare;
    bare.body.meets = {"stone", "wood"};
    const double radius = random.between(0.2, 0.4);
    const double height = random.between(1.2, 2.0);
    Vec<D> size = Vec<D>::constant(2.0 * radius);
    size[1] = height;
    switch (random.below(3)) {
        case 0:
            bare.body.stances = {Stance<D>::capsule("upright", radius, height)};
            break;
        case 1:
            bare.body.stances = {Stance<D>::box("crate", size)};
            break;
        default:
            bare.body.stances = {Stance<D>::capsule("upright", radius, height),
                                 Stance<D>::box("low", size * 0.5)};
            break;
    }
    Intent& intent = bare.intent;
    intent.touch = random.between(0.01, 0.03);
    intent.steepest_footing_degrees = random.between(35.0, 55.0);
    intent.ceiling_within_degrees = random.between(30.0, 70.0);
    intent.lowest_step = random.between(0.03, 0.08);
    intent.tallest_step = random.between(0.25, 0.45);
    intent.ahead_wall = random.between(0.01, 0.1);
    intent.ahead_step = random.between(0.01, 0.1);
    intent.ahead_drop = random.between(0.2, 0.6);
    intent.deepest_drop = random.between(0.5, 0.8);
    intent.ahead_ledge = random.between(0.1, 0.5);
    intent.ledge_between = {random.between(0.6, 0.8), random.between(1.2, 1.6)};
    return bare;
}

/// A floor that goes up and down in steps, with blocks to climb, walls, a beam and a gap, in sizes at random:
/// some within the intent and some beyond.
template <int D>
Level<D> random_level(scenes::Random& random, const Intent& intent) {
    LevelBuilder<D> builder({"stone", "wood"});
    int number = 0;
    const auto box = [&](double left, double right, double low, double high) {
        Vec<D> from = Vec<D>::constant(-3.0);
        Vec<D> to = Vec<D>::constant(3.0);
        from[0] = left;
        to[0] = right;
        from[1] = low;
        to[1] = high;
        builder.add("box " + std::to_string(number++), random.below(2) == 0 ? "stone" : "wood",
                    RoundedHull<D>::box(0.5 * (from + to), to - from));
    };
    double x = 0.0;
    double height = 0.0;
    double bottom = -4.0;
    const int pieces = D == 2 ? 6 : 3;
    for (int i = 0; i < pieces; ++i) {
        const double wide = random.between(1.5, 3.5);
        bottom -= 0.6;  // nothing lies flush beneath
        switch (random.below(5)) {
            case 0:  // a step up or down
                height +=
                    (random.below(2) == 0 ? 1.0 : -1.0) * random.between(0.1, 0.9) * intent.tallest_step;
                box(x, x + wide, bottom, height);
                break;
            case 1:  // a fall, deeper than any that is none
                height -= random.between(1.2, 1.6) * intent.deepest_drop;
                box(x, x + wide, bottom, height);
                break;
            case 2:  // a block: a wall, or a ledge to climb
                box(x, x + wide, bottom, height);
                box(x + 0.3 * wide, x + wide + random.between(0.2, 1.0), height,
                    height + random.between(0.7, 2.5));
                x += wide;
                bottom -= 0.6;
                box(x, x + 2.0, bottom, height);
                break;
            case 3: {  // a beam
                box(x, x + wide, bottom, height);
                const double low = height + random.between(0.8, 2.5);
                box(x + 0.2 * wide, x + 0.6 * wide, low, low + 0.4);
                break;
            }
            default:  // a gap
                box(x, x + wide, bottom, height);
                x += random.between(2.0, 2.5);
                break;
        }
        x += wide;
    }
    return builder.build();
}

/// Proposes for one claim; whether a survey of its own finds nothing wrong.
template <int D>
bool proposed_right(Claim claim, unsigned seed) {
    scenes::Random random(seed);
    const Rig<D> bare = random_bare<D>(random);
    const Level<D> level = random_level<D>(random, bare.intent);
    ProposeOptions options;
    options.survey.budget = D == 2 ? 10000 : 6000;
    const Proposal<D> proposal = propose<D>({&level}, bare, {claim}, options);
    CAPTURE(seed, name_of(std::optional<Claim>(claim)), D);
    REQUIRE(proposal.claims.size() == 1);
    REQUIRE(proposal.claims[0].chosen.has_value());
    SurveyOptions own = options.survey;
    own.explain = false;
    const Wrongness wrong = survey<D>(level, proposal.rig, own).wrong;
    CHECK(wrong.poses() == proposal.wrong.poses());
    const TriedFamily<D>& chosen = proposal.claims[0].families[*proposal.claims[0].chosen];
    // Nothing tried is less wrong, and nothing as right and as sound on the fixtures takes less.
    for (const TriedFamily<D>& other : proposal.claims[0].families) {
        CHECK((chosen.right() || chosen.wrong.whole() <= other.wrong.whole()));
        if (other.right() && chosen.right() && other.wrong_lines == chosen.wrong_lines)
            CHECK(chosen.cost.casts + chosen.cost.overlaps <= other.cost.casts + other.cost.overlaps);
    }
    if (wrong.poses() > 0)
        std::cout << D << "D seed " << seed << ' ' << name_of(std::optional<Claim>(claim)) << ": "
                  << chosen.name << ", missed " << wrong.missed << ", false " << wrong.falsely << " of "
                  << wrong.contact << " at " << wrong.poses() << " poses, body of "
                  << bare.body.stances.size() << " stances of " << bare.body.stances[0].shape.points().size()
                  << " points\n";
    return wrong.poses() == 0;
}

}  // namespace

TEST_CASE("rigs proposed for random bodies, intents and levels tell ground, ceilings and walls rightly") {
    for (unsigned seed = 1; seed <= 3; ++seed) {
        for (const Claim claim : {Claim::ground, Claim::ceiling, Claim::wall})
            CHECK(proposed_right<2>(claim, seed));
    }
    CHECK(proposed_right<3>(Claim::ground, 1));
}

TEST_CASE("steps and ledges are told rightly by the best of their families") {
    // A stair of two, a block too tall, and a shelf to climb.
    LevelBuilder<2> builder({"stone", "wood"});
    builder.add("floor", "stone", RoundedHull<2>::box({0, -0.5}, {16, 1}));
    builder.add("low", "stone", RoundedHull<2>::box({3, 0.1}, {2, 0.2}));
    builder.add("high", "wood", RoundedHull<2>::box({4, 0.25}, {1.2, 0.5}));
    builder.add("shelf", "stone", RoundedHull<2>::box({-5, 0.5}, {2, 1.0}));
    const Level<2> level = builder.build();
    Rig<2> bare;
    bare.body.meets = {"stone", "wood"};
    ProposeOptions options;
    options.survey.budget = 2500;
    options.most_tuned = 30;
    for (const bool is_box : {false, true}) {
        bare.body.stances = {is_box ? Stance<2>::box("upright", {0.6, 1.6})
                                    : Stance<2>::capsule("upright", 0.3, 1.6)};
        bare.intent.ahead_step = 0.05;
        bare.intent.ahead_ledge = 0.1;
        const Proposal<2> proposal = propose<2>({&level}, bare, {Claim::step, Claim::ledge}, options);
        for (const ProposedClaim<2>& claim : proposal.claims) {
            CAPTURE(is_box, name_of(claim.claim));
            REQUIRE(claim.chosen.has_value());
            const Wrongness& wrong = claim.families[*claim.chosen].wrong;
            CHECK(wrong.contact > 0.0);
            CHECK(wrong.poses() == 0);
            // The plainest family is not: rays feel neither the way over nor the room there.
            CHECK(claim.families.front().wrong.poses() > 0);
        }
    }
}

TEST_CASE("all that was chosen goes into one rig, each claim as right as by itself") {
    LevelBuilder<2> builder({"stone", "wood"});
    builder.add("floor", "stone", RoundedHull<2>::box({0, -0.5}, {16, 1}));
    builder.add("kerb", "stone", RoundedHull<2>::box({3, 0.1}, {2, 0.2}));
    builder.add("block", "wood", RoundedHull<2>::box({-5, 0.5}, {2, 1.0}));
    const Level<2> level = builder.build();
    Rig<2> bare;
    bare.body.meets = {"stone", "wood"};
    bare.body.stances = {Stance<2>::box("upright", {0.6, 1.6}), Stance<2>::box("low", {0.6, 0.8})};
    ProposeOptions options;
    options.survey.budget = 4000;
    double last = 0.0;
    options.progress = [&](double part) {
        CHECK(part >= last);
        CHECK(part <= 1.0);
        last = part;
    };
    const std::vector<Claim> claims = {Claim::drop, Claim::wall, Claim::step, Claim::ledge, Claim::ground};
    const Proposal<2> proposal = propose<2>({&level}, bare, claims, options);
    CHECK(last > 0.9);
    REQUIRE(proposal.claims.size() == claims.size());
    for (const ProposedClaim<2>& claim : proposal.claims) {
        INFO(name_of(std::optional<Claim>(claim.claim)));
        REQUIRE(claim.chosen.has_value());
        CHECK(claim.families[*claim.chosen].right());
    }
    CHECK(proposal.wrong.poses() == 0);
    CHECK_FALSE(proposal.left.has_value());
    SurveyOptions own = options.survey;
    own.explain = false;
    CHECK(survey<2>(level, proposal.rig, own).wrong.poses() == 0);
}

TEST_CASE("what no family keeps is told, on the level where it is wrong") {
    const auto floor_with = [](const std::vector<Vec<2>>& more) {
        LevelBuilder<2> builder({"stone", "wood"});
        builder.add("floor", "stone", RoundedHull<2>::box({0, -0.5}, {16, 1}));
        if (!more.empty()) builder.add("crate", "wood", RoundedHull<2>::hull(more));
        return builder.build();
    };
    const Level<2> bare_floor = floor_with({});
    const Level<2> tipped = floor_with({{3.0, 0.0}, {3.7, 0.25}, {3.45, 0.95}, {2.75, 0.7}});
    Rig<2> bare;
    bare.body.meets = {"stone", "wood"};
    bare.body.stances = {Stance<2>::capsule("upright", 0.3, 1.8)};
    ProposeOptions options;
    options.survey.budget = 1200;
    options.most_tuned = 1;
    const Proposal<2> proposal = propose<2>({&bare_floor, &tipped}, bare, {Claim::step}, options);
    REQUIRE(proposal.wrong.poses() > 0);
    REQUIRE(proposal.left.has_value());
    REQUIRE_FALSE(proposal.left->findings.empty());
    for (const Finding<2>& finding : proposal.left->findings) {
        CHECK(finding.bounds.high.x() > 2.0);  // at the crate, not at the ends of the floor
        CHECK(finding.bounds.low.x() < 4.5);
        CHECK_FALSE(finding.causes.empty());
    }
}

TEST_CASE("what cannot be proposed for is refused") {
    LevelBuilder<2> builder({"stone", "wood"});
    builder.add("floor", "stone", RoundedHull<2>::box({0, -0.5}, {16, 1}));
    const Level<2> level = builder.build();
    Rig<2> bare;
    bare.body.meets = {"stone", "wood"};
    bare.body.stances = {Stance<2>::box("crate", {0.6, 1.2})};
    ProposeOptions options;
    options.survey.budget = 2000;
    CHECK_THROWS_AS(propose<2>({&level}, bare, {}, options), InvalidInput);
    CHECK_THROWS_AS(propose<2>({}, bare, {Claim::ground}, options), InvalidInput);
    bare.body.stances.clear();
    CHECK_THROWS_AS(propose<2>({&level}, bare, {Claim::ground}, options), InvalidInput);
}

namespace {

/// How many of so many rigs proposed for each claim are wrong nowhere.
template <int D>
void propose_many(unsigned first, unsigned last, int least_of_touching, int least_of_others) {
    for (const Claim claim :
         {Claim::ground, Claim::ceiling, Claim::wall, Claim::drop, Claim::step, Claim::ledge}) {
        int right = 0;
        for (unsigned seed = first; seed < last; ++seed) right += proposed_right<D>(claim, seed) ? 1 : 0;
        std::cout << D << "D " << name_of(std::optional<Claim>(claim)) << ": " << right << " of "
                  << last - first << " right" << std::endl;
        const bool is_touching = claim == Claim::ground || claim == Claim::ceiling;
        CHECK(right >=
              (is_touching || (D == 2 && claim == Claim::wall) ? least_of_touching : least_of_others));
    }
}

}  // namespace

TEST_CASE("rigs proposed for forty random bodies, intents and levels in 2D", "[.long]") {
    propose_many<2>(100, 140, 38, 34);
}

TEST_CASE("rigs proposed for ten random bodies, intents and levels in 3D", "[.long]") {
    // Walls, steps and ledges brushed aside of the body's middle are told otherwise by every known family.
    propose_many<3>(100, 110, 10, 5);
}
