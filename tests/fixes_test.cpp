// Advice keeps its word: what is promised of a fix is what comes of it.
#include <catch2/catch.hpp>

#include <cmath>

#include "hollow_probe/io/rig_edit.hpp"
#include "hollow_probe/io/rig_file.hpp"
#include "hollow_probe/verify/survey.hpp"
#include "scenes.hpp"

using namespace hollow_probe;
using namespace scenes;

namespace {

const char* const author = R"(format = "hollow-probe rig 1"
dimensions = 2

[body]
meets = ["m", "grating"]
[[body.stance]]
name = "upright"
capsule = { radius = 0.3, height = 1.8 }

[[probe]]
name = "sole"                    # what is felt below
kind = "cast"
shape = { ball = { radius = 0.3 } }
from = [0.0, 0.3]
reach = 0.02
sees = ["m", "grating"]
accept = { angle = [0.0, 45.0] } # footing
take = "all"

[[probe]]
name = "brow"
kind = "cast"
shape = { ball = { radius = 0.3 } }
from = [0.0, 1.5]
along = "up"
reach = 0.02
sees = ["m"]
accept = { angle = [120.0, 180.0] }
take = "all"

[[signal]]
name = "grounded"
claims = "ground"
any = ["sole"]

[[signal]]
name = "head"
claims = "ceiling"
any = ["brow"]
)";

/// A street of slabs, banks and shelves, of stone and of grating, with leaves that stop nobody.
Level<2> street(Random& random) {
    LevelBuilder<2> builder({"m", "grating", "leaves"});
    double x = -6.0;
    for (int i = 0; x < 6.0; ++i) {
        const double wide = random.between(0.8, 2.5);
        const double top = random.between(-0.5, 0.8);
        const std::string layer = i == 2 || random.below(4) == 0 ? "grating" : "m";
        if (random.below(3) == 0) {
            const double rise = wide * std::tan(radians(random.between(20.0, 65.0)));
            builder.add("bank " + std::to_string(i), layer,
                        RoundedHull<2>::hull(
                            {{x, -2.0}, {x + wide, -2.0}, {x + wide, top - 1.0 + rise}, {x, top - 1.0}}));
        } else {
            builder.add("slab " + std::to_string(i), layer,
                        RoundedHull<2>::box({x + 0.5 * wide, top - 1.0}, {wide, 2.0}));
        }
        if (random.below(3) == 0)
            builder.add(
                "shelf " + std::to_string(i), random.below(2) == 0 ? "m" : "grating",
                RoundedHull<2>::box({x + 0.5 * wide, top + random.between(1.9, 3.5)}, {0.8 * wide, 0.2}));
        x += wide;
    }
    builder.add("leaves", "leaves", RoundedHull<2>::ball({random.between(-4.0, 4.0), 1.5}, 0.4));
    return builder.build();
}

/// The author's rig made wrong in one to three things.
Rig<2> made_wrong(Random& random, const Rig<2>& sound) {
    Rig<2> rig = sound;
    const int faults = 1 + random.below(3);
    for (int i = 0; i < faults; ++i) {
        Probe<2>& probe = rig.probes[static_cast<std::size_t>(random.below(2))];
        switch (random.below(7)) {
            case 0:
                probe.line().reach += random.between(0.02, 0.4);
                break;
            case 1:
                probe.line().reach *= random.between(0.2, 0.8);
                break;
            case 2:
                probe.sees = {"m"};
                break;
            case 3:
                probe.sees.emplace_back("leaves");
                break;
            case 4:
                probe.line().accept_most_degrees =
                    std::min(180.0, probe.line().accept_most_degrees + random.between(5.0, 30.0));
                break;
            case 5:
                probe.line().shape = probe.line().shape->with_radius(random.between(0.2, 0.4));
                break;
            default:
                probe.line().from[0] += random.between(-0.2, 0.2);
                break;
        }
    }
    return rig;
}

Wrongness wrongness(const Level<2>& level, const Rig<2>& rig, SurveyOptions options) {
    options.explain = false;
    return survey<2>(level, rig, options).wrong;
}

void check_alike(const Wrongness& promised, const Wrongness& came) {
    CHECK(promised.missed == Approx(came.missed).margin(1e-12));
    CHECK(promised.falsely == Approx(came.falsely).margin(1e-12));
    CHECK(promised.missed_poses == came.missed_poses);
    CHECK(promised.false_poses == came.false_poses);
}

SurveyOptions quick() {
    SurveyOptions options;
    options.spacing = 0.3;
    return options;
}

/// Applies fixes until nothing helps, or the rig is right. Returns how many steps that took.
int mend(const Level<2>& level, Rig<2> rig, std::size_t& made_right) {
    const SurveyOptions options = quick();
    std::optional<Wrongness> promised;
    for (int step = 0; step <= 10; ++step) {
        const Survey<2> result = survey<2>(level, rig, options);
        if (promised) check_alike(*promised, result.wrong);
        if (result.wrong.poses() == 0) ++made_right;
        if (result.fixes.empty() || !result.fixes.front().after) return step;
        const Fix<2>& fix = result.fixes.front();
        CHECK(fix.after->better_than(result.wrong));
        rig = fix.apply(rig);
        promised = fix.after;
    }
    return 11;
}

}  // namespace

TEST_CASE("a fix does what it promises, written into the author's file and surveyed anew; none makes worse") {
    Random random(20261);
    std::size_t fixes = 0;
    std::size_t sets = 0;
    for (int scene = 0; scene < 12; ++scene) {
        INFO("scene " << scene);
        const Level<2> level = street(random);
        const Rig<2> sound = rig_from_toml<2>(author, "r", level);
        const Rig<2> rig = made_wrong(random, sound);
        // The author's file of the wrong rig: the sound one with its differences written in.
        const auto faults = differences<2>(sound, rig);
        if (faults.empty()) continue;
        const std::string text = with_changes(author, "r", faults);
        const Rig<2> read = rig_from_toml<2>(text, "r", level);
        CHECK(differences<2>(rig, read).empty());
        const Survey<2> result = survey<2>(level, read, quick());
        for (const Fix<2>& fix : result.fixes) {
            INFO(fix.change.parameter << " " << fix.change.needs);
            REQUIRE(fix.after);
            ++fixes;
            const std::string cured = with_changes(text, "r", fix.change.edits);
            CHECK(cured.find("# what is felt below") != std::string::npos);
            const Rig<2> again = rig_from_toml<2>(cured, "r", level);
            CHECK(differences<2>(again, fix.apply(read)).empty());
            const Wrongness came = wrongness(level, again, quick());
            check_alike(*fix.after, came);
            CHECK(came.whole() < result.wrong.whole());
            // What was told from the intervals judged is about what came of it.
            CHECK(fix.change.gain ==
                  Approx(result.wrong.whole() - came.whole()).margin(0.05 * result.wrong.whole()));
            CHECK(fix.change.spoils >= 0.0);
        }
        if (result.joint) {
            ++sets;
            Rig<2> together = read;
            for (const std::size_t fix : result.joint->fixes) together = result.fixes[fix].apply(together);
            check_alike(result.joint->after, wrongness(level, together, quick()));
            CHECK(result.joint->after.whole() < result.fixes.front().after->whole());
        }
    }
    CHECK(fixes > 10);
    CHECK(sets > 2);
}

TEST_CASE("fixes applied again and again end, and every step is less wrong") {
    Random random(20262);
    std::size_t made_right = 0;
    for (int i = 0; i < 8; ++i) {
        INFO("rig " << i);
        const Level<2> level = street(random);
        const Rig<2> sound = rig_from_toml<2>(author, "r", level);
        CHECK(mend(level, made_wrong(random, sound), made_right) <= 10);
    }
    CHECK(made_right >= 5);
}

TEST_CASE("two hundred rigs: fixes end within ten steps", "[.long]") {
    Random random(20263);
    std::size_t made_right = 0;
    int longest = 0;
    for (int i = 0; i < 200; ++i) {
        INFO("rig " << i);
        const Level<2> level = street(random);
        const Rig<2> sound = rig_from_toml<2>(author, "r", level);
        longest = std::max(longest, mend(level, made_wrong(random, sound), made_right));
    }
    CHECK(longest <= 10);
    WARN(made_right << " of 200 rigs were made wholly right, in " << longest << " steps at most");
}

TEST_CASE("every key of probes and signals that two rigs have otherwise is written and read back") {
    LevelBuilder<2> builder({"m", "grating", "leaves"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {8, 1}));
    const auto level = builder.build();
    const Rig<2> plain = rig_from_toml<2>(author, "r", level);
    std::size_t tried = 0;
    const auto holds = [&](const Rig<2>& other) {
        ++tried;
        const auto changes = differences<2>(plain, other);
        REQUIRE_FALSE(changes.empty());
        const std::string text = with_changes(author, "r", changes);
        INFO(text);
        const Rig<2> again = rig_from_toml<2>(text, "r", level);
        CHECK(differences<2>(other, again).empty());
        // And back: what was not given is taken out again.
        const Rig<2> back =
            rig_from_toml<2>(with_changes(text, "r", differences<2>(again, plain)), "r", level);
        CHECK(differences<2>(plain, back).empty());
    };
    const auto with_probe = [&](auto change) {
        Rig<2> other = plain;
        change(other.probes[0]);
        holds(other);
    };
    with_probe([](Probe<2>& p) { p.line().shape = RoundedHull<2>::capsule({0, -0.3}, {0, 0.3}, 0.2); });
    with_probe([](Probe<2>& p) { p.line().shape = RoundedHull<2>::box({0, 0}, {0.4, 0.2}); });
    with_probe([](Probe<2>& p) {
        p.line().shape = RoundedHull<2>::hull({{-0.2, 0}, {0.2, 0}, {0, 0.3}}, 0.05);
    });
    with_probe([](Probe<2>& p) { p.line().from = {0.125, -0.0}; });
    with_probe([](Probe<2>& p) { p.line().from = {0, 0}; });
    with_probe([](Probe<2>& p) { p.line().along = Vec<2>(0.6, -0.8); });
    with_probe([](Probe<2>& p) { p.line().along = {-1, 0}; });
    with_probe([](Probe<2>& p) { p.line().aim = Aim::velocity, p.line().along = {1, 0}; });
    with_probe([](Probe<2>& p) { p.line().reach = 0.123456789; });
    with_probe([](Probe<2>& p) { p.line().reach_grounded = 0.5; });
    with_probe([](Probe<2>& p) { p.line().reach_per_speed = 0.25; });
    with_probe([](Probe<2>& p) { p.sees = {"leaves"}; });
    with_probe([](Probe<2>& p) { p.line().accept_least_degrees = 1.5; });
    with_probe([](Probe<2>& p) { p.line().accept_most_degrees = 180.0; });
    with_probe([](Probe<2>& p) { p.line().take = Take::first; });
    with_probe([](Probe<2>& p) { p.line().if_inside = IfInside::against; });
    with_probe([](Probe<2>& p) { p.line().one_way = OneWay::never; });
    with_probe([](Probe<2>& p) { p.line().ignores_body = false; });
    with_probe([](Probe<2>& p) { p.reads = Reads::before_move; });
    with_probe([](Probe<2>& p) { p.line().faces = Faces::front; });
    with_probe([](Probe<2>& p) { p.stances = {"upright"}; });
    with_probe([](Probe<2>& p) { p.line().spread = {SpreadKind::row, 3, 0.5}; });
    with_probe([](Probe<2>& p) {
        p.line().spread.kind = SpreadKind::fan;
        p.line().spread.count = 5;
        p.line().spread.degrees = 90.0;
        p.line().spread.axis = SpreadAxis::up;
        p.line().spread.least = 2;
    });
    // Other kinds have other keys.
    with_probe([&](Probe<2>& p) {
        p.of_kind = ZoneProbe<2>{
            .shape = RoundedHull<2>::ball({0, 0}, 0.25), .keeps = Keeps::until_used, .used_by = "landing"};
    });
    with_probe([&](Probe<2>& p) {
        p.of_kind = ShiftProbe<2>{.reach = 0.2, .axes = ShiftAxes::across_up, .inset = 0.01};
    });
    with_probe([&](Probe<2>& p) { p.of_kind = ContactProbe{Side::beside, Match::only, 30.0}; });
    Rig<2> following = plain;
    following.probes[1].follows = following.probes[0].name;
    holds(following);
    const auto with_signal = [&](auto change) {
        Rig<2> other = plain;
        change(other.signals[1]);
        holds(other);
    };
    with_signal([](Signal& s) { s.claims = Claim::wall, s.toward = Toward::velocity; });
    with_signal([](Signal& s) { s.claims = Claim::headroom, s.stance = "upright"; });
    with_signal([](Signal& s) { s.of = {"m"}; });
    with_signal([](Signal& s) { s.gives = Value::slope, s.gives_from = "sole"; });
    with_signal(
        [](Signal& s) { s.members.any = {}, s.members.all = {"brow"}, s.members.none = {"grounded"}; });
    with_signal([](Signal& s) { s.members.any = {}, s.members.at_least = {2, {"brow", "sole"}}; });
    with_signal([](Signal& s) { s.settle = 0.05, s.grace = 0.1, s.mute_after = {"jump", 0.2}; });
    with_signal([](Signal& s) {
        s.members.any[0].angle_degrees = std::array{10.0, 20.0};
        s.members.any[0].distance = std::array{0.0, 0.5};
        s.members.any[0].layers = {"m"};
        Member nested;
        nested.group.push_back({{"sole"}, {"brow"}, {}, {}});
        s.members.any.push_back(nested);
    });
    Rig<2> early = plain;
    early.reads = Reads::before_move;
    holds(early);
    CHECK(tried == 36);
}

TEST_CASE("a number lies well inside the interval of those that do as well, and is round") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {8, 1}));
    builder.add("roof", "m", RoundedHull<2>::box({0, 3.0}, {8, 1}));
    const auto level = builder.build();
    // Any angle from 0 to 180 would tell this roof from the side of a wall: an interval on both sides.
    Probe<2> brow = foot_ray<2>(0.42);
    brow.line().along = {0, 1};
    brow.line().from = {0.0, 1.4};
    brow.line().accept_least_degrees = 180.0;
    brow.line().accept_most_degrees = 180.0;
    auto rig = rig_with<2>(brow, {"m"});
    rig.signals[0].claims = Claim::ceiling;
    rig.probes[0].line().accept_least_degrees = 0.0;
    rig.probes[0].line().accept_most_degrees = 170.0;
    SurveyOptions options = quick();
    options.region = {-3.5, 0.1, 3.5, 1.0};
    const auto result = survey<2>(level, rig, options);
    REQUIRE_FALSE(result.findings.empty());
    const CauseReport& cause = result.findings[0].causes[0];
    CHECK(cause.parameter == "accept.angle[1]");
    CHECK(cause.between[0] == Approx(180.0).margin(1e-6));
    CHECK(cause.needs == "180.0");
}

TEST_CASE("of an interval of angles the proposed one is round, and as far inside as is needed") {
    LevelBuilder<2> builder({"m", "grating"});
    const double rise = 8.0 * std::tan(radians(30.0));
    builder.add("bank", "m", RoundedHull<2>::hull({{-4.0, -1.0}, {4.0, -1.0}, {4.0, rise}, {-4.0, 0.0}}));
    const auto level = builder.build();
    auto rig = rig_from_toml<2>(author, "r", level);
    rig.signals.pop_back();
    rig.probes.pop_back();
    rig.probes[0].line().accept_most_degrees = 20.0;  // on a bank of 30°
    SurveyOptions options = quick();
    options.region = {-2.0, 0.0, 2.0, rise};
    const auto result = survey<2>(level, rig, options);
    REQUIRE_FALSE(result.findings.empty());
    const CauseReport& cause = result.findings[0].causes[0];
    CHECK(cause.parameter == "accept.angle[1]");
    CHECK(cause.by == Approx(10.0).margin(1e-6));
    CHECK(cause.between[0] == Approx(30.0).margin(1e-6));
    CHECK(cause.between[1] > 100.0);
    // Half as far again as it is off, and a tenth of that from either end.
    CHECK(cause.needs_number > 30.0 + 0.1 * 5.0);
    CHECK(cause.needs_number < 30.0 + 0.9 * 5.0);
    CHECK(cause.needs_number == std::round(cause.needs_number));
    REQUIRE_FALSE(result.fixes.empty());
    REQUIRE(result.fixes[0].after);
    CHECK(result.fixes[0].after->poses() == 0);
}

TEST_CASE("what is only brushed, and what is refused for being met aslant, is told with the angle") {
    // A round body beside a wall that runs 4° off its way, and one before a bank of 60°.
    const auto told = [](double most, bool aslant) {
        LevelBuilder<3> builder({"m"});
        builder.add("floor", "m", RoundedHull<3>::box({0, -0.5, 0}, {6, 1, 6}));
        const double back = std::tan(radians(30.0));
        if (aslant) {
            Mat<3> turn = Mat<3>::identity();
            turn(0, 0) = turn(2, 2) = std::cos(radians(4.0));
            turn(0, 2) = std::sin(radians(4.0));
            turn(2, 0) = -turn(0, 2);
            builder.add("wall", "m",
                        RoundedHull<3>::box({0, 1.5, 0}, {3, 3, 1}).placed(turn, Vec<3>::zero()));
        } else {
            std::vector<Vec<3>> bank;
            for (const double z : {-2.0, 2.0})
                bank.insert(bank.end(), {{0, 0, z}, {2, 0, z}, {2, 2, z}, {2.0 * back, 2, z}});
            builder.add("bank", "m", RoundedHull<3>::hull(bank));
        }
        const auto level = builder.build();
        Rig<3> rig = rig_with<3>(foot_ray<3>(0.5), {"m"});
        rig.body.stances = {{"upright", RoundedHull<3>::capsule({0, 0.3, 0}, {0, 1.5, 0}, 0.3)}};
        rig.intent.ahead_wall = 0.4;
        LineProbe<3> line{.from = {0, 0.9, 0}, .along = {1, 0, 0}, .reach = 0.4};
        line.shape = RoundedHull<3>::capsule({0, -0.6, 0}, {0, 0.6, 0}, 0.3);
        line.accept_least_degrees = 45.0;
        line.accept_most_degrees = 120.0;
        line.accept_most_incidence_degrees = most;
        line.take = Take::all;
        line.if_inside = IfInside::against;
        rig.probes[0] = {.name = "chest", .sees = {"m"}, .of_kind = line};
        rig.signals[0].claims = Claim::wall;
        rig.signals[0].members.any = {"chest"};
        SurveyOptions options = quick();
        options.headings = 4;
        options.region = {-2.0, 0.0, -2.0, 2.0, 0.1, 2.0};
        return survey<3>(level, rig, options);
    };
    struct {
        double most;
        bool aslant;
        CauseKind kind;
        double least_angle;
    } const cases[] = {{180.0, true, CauseKind::edge_graze, degrees(std::acos(0.1))},
                       {20.0, false, CauseKind::angle_refused, 30.0}};
    for (const auto& c : cases) {
        const auto result = told(c.most, c.aslant);
        CAPTURE(c.aslant);
        REQUIRE_FALSE(result.findings.empty());
        const CauseReport& cause = result.findings[0].causes[0];
        CHECK(cause.cause == c.kind);
        CHECK(cause.parameter == "accept.incidence[1]");
        if (!c.aslant) CHECK(cause.between[0] == Approx(c.least_angle).margin(1e-3));
        REQUIRE_FALSE(result.fixes.empty());
        REQUIRE(result.fixes[0].after);
        CHECK(result.fixes[0].after->poses() == 0);
    }
}

TEST_CASE("what a change spoils of other signals that share the probe is in its price") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {8, 1}));
    const auto level = builder.build();
    // One ray tells ground, within 0.42, and by a condition again, within 0.2: too short there.
    auto rig = rig_with<2>(foot_ray<2>(0.42), {"m"});
    Signal near = rig.signals[0];
    near.name = "again";
    near.members.any = {};
    Member condition("foot");
    condition.distance = std::array{0.0, 0.2};
    near.members.any.push_back(condition);
    rig.signals.push_back(near);
    // Moved down the ray would serve the second signal, and spoil the first that reaches 0.22 too far then.
    SurveyOptions options = quick();
    options.region = {-3.5, -0.1, 3.5, 1.0};
    const auto result = survey<2>(level, rig, options);
    bool seen = false;
    for (const auto& finding : result.findings) {
        for (const CauseReport& cause : finding.causes) {
            if (cause.parameter != "any[0].distance[1]") continue;
            seen = true;
            CHECK(cause.helps());
            CHECK(cause.adds_false + cause.adds_missed == 0);
            CHECK(cause.between[0] == Approx(0.42).margin(1e-6));
            CHECK(cause.needs_number > cause.between[0]);
        }
    }
    CHECK(seen);
    REQUIRE_FALSE(result.fixes.empty());
    REQUIRE(result.fixes[0].after);
    CHECK(result.fixes[0].after->poses() == 0);
    REQUIRE(result.fixes[0].change.edits.size() == 1);
    CHECK(result.fixes[0].change.edits[0].name == "again");
}

TEST_CASE("a change to a contact probe is tried with what the body touches") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0.0, -0.5}, {8.0, 1.0}));
    builder.add("bank", "m", RoundedHull<2>::hull({{1.0, 0.0}, {3.5, 0.0}, {3.5, 1.75}}));  // of 35 degrees
    const Level<2> level = builder.build();
    Rig<2> rig;
    rig.body.meets = {"m"};
    rig.body.stances = {Stance<2>::ball("round", 0.3)};
    Probe<2> feet{"feet", {"m"}, ContactProbe{}};
    feet.contact().within_degrees = 20.0;
    rig.probes = {feet};
    Signal grounded;
    grounded.name = "grounded";
    grounded.claims = Claim::ground;
    grounded.members.any = {"feet"};
    rig.signals = {grounded};
    const Survey<2> result = survey<2>(level, rig);
    const auto missed = std::find_if(result.findings.begin(), result.findings.end(), [](const auto& finding) {
        return finding.solid == "bank" && finding.verdict == Verdict::missed_contact;
    });
    REQUIRE(missed != result.findings.end());
    const CauseReport& cause = missed->causes.front();
    CHECK(cause.cause == CauseKind::angle_refused);
    CHECK(cause.cures == missed->count);
    CHECK(cause.adds_false == 0);
    REQUIRE_FALSE(result.fixes.empty());
    // The rig with that number misses none of them, and tells no false ground.
    rig.probes[0].contact().within_degrees = 45.0;
    const Survey<2> cured = survey<2>(level, rig);
    for (const auto& finding : cured.findings) CHECK(finding.solid != "bank");
}
