// Why a drill broke: faults planted in a sound rig are found again by replaying, and told with their price.
#include <catch2/catch.hpp>

#include "hollow_probe/motion/drill_cures.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

/// A floor, a shelf of another layer to land on, and a drop to walk off.
Level<2> yard() {
    LevelBuilder<2> builder({"stone", "wood"});
    builder.add("floor", "stone", RoundedHull<2>::box(Vec<2>(0, -0.5), Vec<2>(8, 1)));
    builder.add("shelf", "wood", RoundedHull<2>::box(Vec<2>(8, -1.0), Vec<2>(8, 1)));
    return builder.build();
}

Rig<2> sound() {
    Probe<2> sole = foot_ray<2>(0.12);
    sole.line().shape = RoundedHull<2>::ball(Vec<2>::zero(), 0.3);
    Rig<2> rig = rig_with<2>(sole, {"stone", "wood"});
    rig.reflexes = {{"grounded", ReflexKind::permit_jump}};
    return rig;
}

/// Walks, jumps, walks off the floor and on along the shelf.
Drill<2> walk() {
    using Kind = Expectation::Kind;
    Drill<2> drill;
    drill.at = {-3, 0.002};
    drill.seconds = 4.0;
    drill.motion.gravity = 20.0;
    drill.motion.jump_speed = 6.0;
    drill.motion.top_speed = 3.0;
    drill.cues.resize(3);
    drill.cues[0].drive = Vec<2>::unit(0);
    drill.cues[1].at = 0.5;
    drill.cues[1].press = "jump";
    drill.cues[2].at = 3.0;
    drill.cues[2].press = "jump";
    drill.expectations = {{Kind::most, "missed_ticks", "grounded", 1.0, ""},
                          {Kind::most, "false_ticks", "grounded", 1.0, ""},
                          {Kind::most, "refused_jumps", "", 0.0, ""}};
    return drill;
}

DrillWhy why(const Level<2>& level, const Rig<2>& rig, const Drill<2>& drill, int threads = 0) {
    WhyOptions options;
    options.threads = threads;
    return why_broken<2>(level, rig, drill, play<2>(level, rig, drill).broken, options);
}

const DrillCure* find(const DrillWhy& why, const std::string& table, const std::string& key) {
    for (const DrillCure& cure : why.cures) {
        if (cure.table == table && cure.key == key) return &cure;
    }
    return nullptr;
}

}  // namespace

TEST_CASE("what is forgiven for coming early is no beginning, however late that is known") {
    const auto level = yard();
    Rig<2> rig = sound();
    rig.probes[0].line().reach = 0.6;  // told half a length too early
    Drill<2> drill = walk();
    drill.at = {-3, 0.1};  // it falls for six ticks, then stands, then jumps
    drill.cues[0].drive = Vec<2>::zero();
    drill.expectations = {{Expectation::Kind::most, "false_ticks", "", 0.0, ""}};
    const auto begins = [&](double early, double seconds) {
        rig.intent.forgive.early = early;
        drill.seconds = seconds;
        const DrillWhy told = why(level, rig, drill);
        REQUIRE(told.first.size() == 1);
        CHECK(told.first[0].wrong == FirstBroken::Wrong::falsely);
        CHECK(told.first[0].probe == "foot");
        return told.first[0].seconds;
    };
    CHECK(begins(0.0, 2.0) < 0.1);
    CHECK(begins(0.15, 2.0) == Approx(0.5).margin(0.04));
    CHECK(begins(1.0, 0.56) == Approx(0.5).margin(0.04));  // it ends before truth could have come
}

TEST_CASE("a drill that keeps everything asks for nothing") {
    const auto level = yard();
    REQUIRE(play<2>(level, sound(), walk()).kept());
    const DrillWhy told = why(level, sound(), walk());
    CHECK(told.first.empty());
    CHECK(told.cures.empty());
}

TEST_CASE("a planted fault is named by the change that takes it back") {
    const auto level = yard();
    const Drill<2> drill = walk();
    struct Fault {
        const char* table;
        const char* key;
        void (*plant)(Rig<2>&);
        double sound;  // NaN: no number
        bool missed;
    };
    const double none = std::numeric_limits<double>::quiet_NaN();
    const std::vector<Fault> faults = {
        {"probe", "reach", [](Rig<2>& rig) { rig.probes[0].line().reach = 0.09; }, 0.12, true},
        {"probe", "reach", [](Rig<2>& rig) { rig.probes[0].line().reach = 0.6; }, 0.12, false},
        {"probe", "sees", [](Rig<2>& rig) { rig.probes[0].sees = {"stone"}; }, none, true},
        {"probe", "from[1]", [](Rig<2>& rig) { rig.probes[0].line().from[1] = 0.5; }, 0.4, true},
        {"probe", "from[0]", [](Rig<2>& rig) { rig.probes[0].line().from[0] = -0.9; }, 0.0, false},
        {"signal", "settle", [](Rig<2>& rig) { rig.signals[0].settle = 0.4; }, 0.0, true},
        {"signal", "grace", [](Rig<2>& rig) { rig.signals[0].grace = 0.4; }, 0.0, false},
        {"probe", "accept.angle[0]", [](Rig<2>& rig) { rig.probes[0].line().accept_least_degrees = 20.0; },
         0.0, true},
    };
    for (const Fault& fault : faults) {
        Rig<2> rig = sound();
        fault.plant(rig);
        CAPTURE(fault.table, fault.key, fault.sound);
        const DrillWhy told = why(level, rig, drill);
        REQUIRE(!told.first.empty());
        CHECK(told.first.front().wrong ==
              (fault.missed ? FirstBroken::Wrong::missed : FirstBroken::Wrong::falsely));
        CHECK(told.first.front().signal == "grounded");
        const DrillCure* const cure = find(told, fault.table, fault.key);
        REQUIRE(cure != nullptr);
        CHECK(cure->helps());
        CHECK(cure->spoils.empty());
        CHECK(!cure->edits.empty());
        if (!std::isnan(fault.sound)) {
            CHECK(cure->between[0] <= fault.sound + 1e-9);
            CHECK(cure->between[1] >= fault.sound - 1e-9);
        }
        // The leading one keeps all that was broken.
        CHECK(told.cures.front().mends.size() == play<2>(level, rig, drill).broken.size());
    }
}

TEST_CASE("the wood that a probe does not see is named where it was first missed") {
    const auto level = yard();
    Rig<2> rig = sound();
    rig.probes[0].sees = {"stone"};
    const DrillWhy told = why(level, rig, walk());
    REQUIRE(told.first.size() == 2);
    CHECK(told.first[0].solid == "shelf");
    CHECK(told.first[0].causes == std::vector<std::string>{"layer_unseen"});
    CHECK(told.first[0].cure == 1);
    // The jump that is refused on it follows from the same.
    CHECK(told.first[1].expectation == 2);
    CHECK(told.first[1].solid == "shelf");
    CHECK(told.first[1].reflex == "grounded permit_jump");
    CHECK_FALSE(told.first[1].reflex_acts);
    CHECK(told.first[1].wrong == FirstBroken::Wrong::missed);
    CHECK(told.first[1].causes == std::vector<std::string>{"layer_unseen"});
    CHECK(told.first[0].probe == "foot");
    CHECK(told.first[0].at[0] > 3.9);
    REQUIRE(!told.cures.empty());
    CHECK(told.cures[0].key == "sees");
    CHECK(told.cures[0].mends == std::vector<std::size_t>{0, 2});
    CHECK(told.cures[0].after.all() <= 2);
}

TEST_CASE("where a number begins and ceases to mend is as trying every one tells") {
    const auto level = yard();
    const Drill<2> drill = walk();
    Rig<2> rig = sound();
    rig.probes[0].line().reach = 0.09;
    const auto broken = play<2>(level, rig, drill).broken;
    const DrillWhy told = why(level, rig, drill);
    const DrillCure* const cure = find(told, "probe", "reach");
    REQUIRE(cure != nullptr);
    double least = infinity;
    for (double reach = 0.09; reach < 0.2; reach += 0.0005) {
        rig.probes[0].line().reach = reach;
        const auto now = play<2>(level, rig, drill);
        const bool mends = std::any_of(broken.begin(), broken.end(), [&](const Broken& before) {
            return std::none_of(now.broken.begin(), now.broken.end(),
                                [&](const Broken& after) { return after.expectation == before.expectation; });
        });
        if (mends) least = std::min(least, reach);
    }
    CHECK(cure->between[0] == Approx(least).margin(0.0006));
    // … and from where it breaks what it did not break before, or no longer mends: a sole that feels too far.
    const auto does = [&](double reach) {
        rig.probes[0].line().reach = reach;
        const auto now = play<2>(level, rig, drill);
        std::vector<bool> breaks(drill.expectations.size(), false);
        for (const Broken& one : now.broken) breaks[one.expectation] = true;
        const auto is_broken = [&](std::size_t i) { return static_cast<bool>(breaks[i]); };
        if (std::any_of(cure->mends.begin(), cure->mends.end(), is_broken)) return false;
        for (std::size_t i = 0; i < breaks.size(); ++i) {
            const bool was = std::any_of(broken.begin(), broken.end(),
                                         [&](const Broken& one) { return one.expectation == i; });
            const bool is_known = std::count(cure->spoils.begin(), cure->spoils.end(), i) > 0;
            if (breaks[i] && !was && !is_known) return false;
        }
        return true;
    };
    double most = cure->between[0] + 0.0005;
    while (most < 1.0 && does(most)) most += 0.0005;
    CHECK(cure->between[1] == Approx(most).margin(0.0011));
    // What is proposed does what is said.
    rig.probes[0].line().reach = std::stod(cure->then);
    const auto cured = play<2>(level, rig, drill);
    CHECK(wrong_ticks(cured.figures).all() == cure->after.all());
    CHECK(cured.broken.size() + cure->mends.size() == broken.size() + cure->spoils.size());
}

TEST_CASE("two faults, neither of which mends anything by itself, are mended one after the other") {
    const auto level = yard();
    const Drill<2> drill = walk();
    Rig<2> rig = sound();
    rig.probes[0].sees = {"stone"};
    rig.signals[0].settle = 0.2;
    const auto played = play<2>(level, rig, drill);
    REQUIRE(!played.kept());
    const DrillWhy told = why(level, rig, drill);
    REQUIRE(told.together.size() >= 2);
    CHECK(told.still_broken == 0);
    bool sees = false;
    bool settle = false;
    for (const FieldChange& edit : told.together_edits) {
        sees = sees || (edit.key == "sees" && edit.then == "[\"stone\", \"wood\"]");
        settle = settle || edit.key == "settle";
    }
    CHECK(sees);
    CHECK(settle);
    for (std::size_t i = 1; i < told.together.size(); ++i)
        CHECK(told.together[i].before.all() == told.together[i - 1].after.all());
}

TEST_CASE("what a change breaks elsewhere is its price, and the order and threads do not matter") {
    const auto level = yard();
    Drill<2> drill = walk();
    Rig<2> rig = sound();
    rig.probes[0].line().reach = 0.09;
    // Nobody may call this ground for long: a signal that is always on would keep all else.
    rig.signals[0].settle = 0.0;
    const DrillWhy told = why(level, rig, drill, 1);
    for (const DrillCure& cure : told.cures) {
        for (const std::size_t number : cure.spoils) CHECK(number == 1);
        if (!cure.spoils.empty()) CHECK(cure.after.falsely > 1);
    }
    const auto worth = [](const DrillCure& cure) {
        return static_cast<int>(cure.mends.size()) - static_cast<int>(cure.spoils.size());
    };
    for (std::size_t i = 1; i < told.cures.size(); ++i) {
        const DrillCure& a = told.cures[i - 1];
        const DrillCure& b = told.cures[i];
        CHECK((a.helps() || !b.helps()));
        if (a.helps() != b.helps()) continue;
        CHECK(worth(a) >= worth(b));
        if (worth(a) == worth(b)) CHECK(a.after.all() <= b.after.all());
    }
    const DrillWhy again = why(level, rig, drill, 2);
    REQUIRE(again.cures.size() == told.cures.size());
    for (std::size_t i = 0; i < told.cures.size(); ++i) {
        CHECK(again.cures[i].key == told.cures[i].key);
        CHECK(again.cures[i].then == told.cures[i].then);
    }
}

namespace {

using Kind = Expectation::Kind;

Probe<2> line(const char* name, const Vec<2>& from, const Vec<2>& along, double reach) {
    Probe<2> probe;
    probe.name = name;
    probe.line().from = from;
    probe.line().along = along;
    probe.line().reach = reach;
    probe.sees = {"stone", "wood"};
    return probe;
}

Signal signal_of(const char* name, Claim claim, const char* probe) {
    Signal signal;
    signal.name = name;
    signal.claims = claim;
    signal.members.any = {probe};
    return signal;
}

Drill<2> from(const Vec<2>& where, double seconds, const Expectation& expected) {
    Drill<2> drill = walk();
    drill.at = where;
    drill.seconds = seconds;
    drill.cues.clear();
    drill.expectations = {expected};
    return drill;
}

Cue<2> driven(double seconds) {
    Cue<2> cue;
    cue.at = seconds;
    cue.drive = Vec<2>::unit(0);
    return cue;
}

Cue<2> jump(double seconds) {
    Cue<2> cue;
    cue.at = seconds;
    cue.press = "jump";
    return cue;
}

/// A long floor, a wall from 4 on, a roof 2.5 above it from -6 to -2, a lip at -12.
Level<2> hall() {
    LevelBuilder<2> builder({"stone", "wood"});
    builder.add("floor", "stone", RoundedHull<2>::box(Vec<2>(0, -0.5), Vec<2>(24, 1)));
    builder.add("wall", "wood", RoundedHull<2>::box(Vec<2>(5, 3), Vec<2>(2, 6)));
    builder.add("roof", "stone", RoundedHull<2>::box(Vec<2>(-4, 3), Vec<2>(4, 1)));
    return builder.build();
}

FirstBroken only(const Level<2>& level, const Rig<2>& rig, const Drill<2>& drill) {
    const DrillWhy told = why(level, rig, drill);
    REQUIRE(told.first.size() == 1);
    return told.first.front();
}

}  // namespace

TEST_CASE("a jump in the air is laid to the permit, the signal that is false, its probe and what it hit") {
    const auto level = hall();
    Rig<2> rig = sound();
    rig.probes[0].line().reach = 1.5;
    Drill<2> drill = from({0, 0.002}, 2.0, {Kind::most, "unearned_jumps", "", 0.0, ""});
    drill.cues = {jump(0.2), jump(0.4)};
    const FirstBroken first = only(level, rig, drill);
    CHECK(first.seconds == Approx(0.4 + 1.0 / 60.0));
    CHECK(first.reflex == "grounded permit_jump");
    CHECK(first.reflex_acts);
    CHECK(first.signal == "grounded");
    CHECK(first.signal_on);
    CHECK(first.wrong == FirstBroken::Wrong::falsely);
    CHECK(first.probe == "foot");
    CHECK(first.solid == "floor");
    CHECK(first.causes == std::vector<std::string>{"reach_long"});
    CHECK(first.cure > 0);
}

TEST_CASE("a refused jump names the ground that was missed, not what comes first in the level") {
    LevelBuilder<2> builder({"stone", "wood"});
    builder.add("post", "wood", RoundedHull<2>::box(Vec<2>(9, 1), Vec<2>(1, 2)));
    builder.add("floor", "stone", RoundedHull<2>::box(Vec<2>(0, -0.5), Vec<2>(24, 1)));
    const auto level = builder.build();
    Rig<2> rig = sound();
    rig.probes[0].line().reach = 0.05;
    Drill<2> drill = from({0, 0.002}, 1.0, {Kind::most, "refused_jumps", "", 0.0, ""});
    drill.cues = {jump(0.2)};
    const FirstBroken first = only(level, rig, drill);
    CHECK(first.signal == "grounded");
    CHECK_FALSE(first.signal_on);
    CHECK(first.wrong == FirstBroken::Wrong::missed);
    CHECK(first.solid == "floor");
}

TEST_CASE("a false tick names the one probe that is on, and what it hit, not what hit nothing") {
    // A wall felt ahead is no ground; the sole, above the floor, feels none.
    const auto level = hall();
    Rig<2> rig = sound();
    rig.probes[0].line().reach = 0.05;
    rig.probes.push_back(line("shin", {0.0, 0.8}, {1.0, 0.0}, 0.6));
    rig.signals[0].members.any = {"foot", "shin"};
    const Drill<2> drill = from({3.5, 2.0}, 0.2, {Kind::most, "false_ticks", "grounded", 0.0, ""});
    const FirstBroken first = only(level, rig, drill);
    CHECK(first.signal == "grounded");
    CHECK(first.signal_on);
    CHECK(first.probe == "shin");
    CHECK(first.solid == "wall");
    // A zone names what it overlaps.
    Probe<2> zone;
    zone.name = "belly";
    zone.of_kind = ZoneProbe<2>{.shape = RoundedHull<2>::box({0, 0}, {1.4, 0.2}), .from = {0.0, 0.8}};
    zone.sees = {"wood"};
    rig.probes[1] = zone;
    rig.signals[0].members.any = {"foot", "belly"};
    const FirstBroken second = only(level, rig, drill);
    CHECK(second.probe == "belly");
    CHECK(second.solid == "wall");
}

TEST_CASE("what is forgiven is no beginning") {
    const auto level = hall();
    Rig<2> rig = sound();
    rig.signals[0].settle = 0.3;
    Drill<2> drill = from({0, 1.0}, 2.0, {Kind::most, "missed_ticks", "grounded", 0.0, ""});
    const double strict = only(level, rig, drill).seconds;
    for (const double late : {0.05, 0.1, 0.2}) {
        rig.intent.forgive.late = late;
        const FirstBroken first = only(level, rig, drill);
        CAPTURE(late);
        CHECK(first.seconds == Approx(strict + late));
        CHECK(first.causes == std::vector<std::string>{"settling"});
    }
}

TEST_CASE("hanging under a roof is laid to the reflex that does not act, and to the roof") {
    const auto level = hall();
    Rig<2> rig = sound();
    rig.probes.push_back(line("crown", {0, 1.0}, Vec<2>(0, 1), 0.5));
    rig.signals.push_back(signal_of("overhead", Claim::ceiling, "crown"));
    Reflex stop{"overhead", ReflexKind::stop_rise};
    rig.reflexes.push_back(stop);
    Drill<2> drill = from({-4, 0.002}, 2.0, {Kind::most, "hang_time", "", 0.05, ""});
    drill.motion.stopped = Stopped::kept;
    drill.cues = {jump(0.2)};
    const FirstBroken first = only(level, rig, drill);
    CHECK(first.reflex == "overhead stop_rise");
    CHECK_FALSE(first.reflex_acts);
    CHECK(first.signal == "overhead");
    CHECK_FALSE(first.signal_on);
    CHECK(first.wrong == FirstBroken::Wrong::missed);
    CHECK(first.probe == "crown");
    CHECK(first.solid == "roof");
    CHECK(first.at[1] == Approx(0.7).margin(0.05));
    // The crown's 1.5 are too short by 0.3: the cure is a longer reach, or a start higher up.
    REQUIRE(first.cure > 0);
    CHECK((first.causes == std::vector<std::string>{"reach_short"} ||
           first.causes == std::vector<std::string>{"aimed_beside"}));
}

TEST_CASE("a gap at a wall and being stuck before it are laid to the drive that is cancelled too soon") {
    const auto level = hall();
    Rig<2> rig = sound();
    rig.probes.push_back(line("chest", {0, 1.0}, Vec<2>::unit(0), 1.0));
    rig.signals.push_back(signal_of("at wall", Claim::wall, "chest"));
    rig.reflexes.push_back({"at wall", ReflexKind::cancel_drive});
    for (const char* figure : {"wall_gap", "stuck_time"}) {
        Drill<2> drill = from({2, 0.002}, 2.0, {Kind::most, figure, "", figure[0] == 'w' ? 0.1 : 0.5, ""});
        drill.cues = {driven(0.0)};
        CAPTURE(figure);
        const DrillWhy told = why(level, rig, drill);
        REQUIRE(told.first.size() == 1);
        const FirstBroken& first = told.first.front();
        CHECK(first.reflex == "at wall cancel_drive");
        CHECK(first.reflex_acts);
        CHECK(first.signal == "at wall");
        CHECK(first.wrong == FirstBroken::Wrong::falsely);
        CHECK(first.probe == "chest");
        CHECK(first.solid == "wall");
        // Nothing gets it past the wall, but the gap is closed by a chest that reaches no farther than that.
        if (figure[0] == 's') continue;
        REQUIRE(first.cure > 0);
        CHECK(told.cures[first.cure - 1].after.all() == 0);
        CHECK(std::any_of(told.cures.begin(), told.cures.end(), [](const DrillCure& cure) {
            return cure.key == "reach" && cure.cause == "reach_long" && !cure.mends.empty() &&
                   std::stod(cure.then) > 0.3 && std::stod(cure.then) < 0.41;
        }));
    }
}

TEST_CASE("clipping and tunnelling name what was gone into, and what should have kept the body out") {
    const auto level = hall();
    Rig<2> rig = sound();
    rig.probes.push_back(line("chest", {0, 1.0}, Vec<2>::unit(0), 0.2));
    rig.signals.push_back(signal_of("at wall", Claim::wall, "chest"));
    rig.reflexes.push_back({"at wall", ReflexKind::cancel_axis});
    Drill<2> drill = from({2, 1.0}, 1.0, {Kind::most, "deepest_clip", "", 0.02, ""});
    drill.motion.model = Model::free;
    drill.motion.gravity = 0.0;
    drill.cues = {driven(0.0)};
    const FirstBroken clipped = only(level, rig, drill);
    CHECK(clipped.solid == "wall");
    CHECK(clipped.reflex == "at wall cancel_axis");
    CHECK_FALSE(clipped.reflex_acts);
    CHECK(clipped.at[0] == Approx(3.7).margin(0.1));
    CHECK(clipped.probe == "chest");
    LevelBuilder<2> thin({"stone", "wood"});
    thin.add("sheet", "stone", RoundedHull<2>::box(Vec<2>(4, 1), Vec<2>(0.05, 6)));
    drill.motion.top_speed = 90.0;
    drill.expectations = {{Kind::most, "tunnels", "", 0.0, ""}};
    const FirstBroken through = only(thin.build(), rig, drill);
    CHECK(through.solid == "sheet");
    CHECK(through.at[0] > 4.0);
}

TEST_CASE("climbing a face is laid to what lifts the body, and to the face") {
    LevelBuilder<2> builder({"stone", "wood"});
    builder.add("floor", "stone", RoundedHull<2>::box(Vec<2>(0, -0.5), Vec<2>(24, 1)));
    builder.add_polygon("face", "wood", {{2, 0}, {6, 0}, {6, 4 * std::tan(radians(75.0))}});
    const auto level = builder.build();
    Rig<2> rig = sound();
    rig.probes[0].line().accept_most_degrees = 45.0;
    Drill<2> drill = from({0, 0.002}, 4.0, {Kind::most, "climb", "", 0.0, ""});
    drill.motion.top_speed = 1.0;
    drill.at[0] = 1.2;
    drill.cues = {driven(0.0)};
    // Jump after jump off a face that is too steep to stand on.
    for (int i = 0; i < 10; ++i) drill.cues.push_back(jump(0.6 + 0.3 * i));
    const double rightly = play<2>(level, rig, drill).figures.climb;
    rig.probes[0].line().accept_most_degrees = 180.0;
    REQUIRE(play<2>(level, rig, drill).figures.climb > rightly + 0.3);
    drill.expectations[0].limit = rightly + 0.1;
    const FirstBroken first = only(level, rig, drill);
    CHECK(first.solid == "face");
    CHECK(first.reflex == "grounded permit_jump");
    CHECK(first.reflex_acts);
    CHECK(first.signal == "grounded");
    const DrillWhy told = why(level, rig, drill);
    CHECK(std::any_of(told.cures.begin(), told.cures.end(), [](const DrillCure& cure) {
        return cure.cause == "too_steep" && !cure.mends.empty();
    }));
}
