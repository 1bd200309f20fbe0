// Cures in the author's file, and what a file can say of whole rigs and moving levels.
#include <algorithm>
#include <catch2/catch.hpp>
#include <map>

#include <filesystem>
#include <fstream>

#include "hollow_probe/io/input_error.hpp"
#include "hollow_probe/io/level_file.hpp"
#include "hollow_probe/io/rig_edit.hpp"
#include "hollow_probe/io/rig_file.hpp"
#include "scenes.hpp"
#include "verdict_counts.hpp"

using namespace scenes;

namespace {

const std::string author = R"(# The keeper's first rig.
format = "hollow-probe rig 1"
dimensions = 2

[body]
meets = ["m", "g"]
[[body.stance]]
name = "upright"   # the only one
capsule = { radius = 0.3, height = 1.8 }

[[probe]]
  name = "föot"
  kind = "ray"     # thin
  from = [0.0, 0.4]
  reach = 0.35     # too short?
  sees = [ "m" ]   # all there is
  accept = { angle = [0.0, 30.0] }   # flat

[[signal]]
name = "grounded"
claims = "ground"
all = ["föot", { probe = "föot", angle = [ 0.0, 20.0 ] }]
settle = 0.1
)";

Level<2> quay() {
    LevelBuilder<2> builder({"m", "g"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {8, 1}));
    builder.add("walk", "g", RoundedHull<2>::box({6, -0.5}, {4, 1}));
    builder.add("left wall", "m", RoundedHull<2>::box({-4.5, 1}, {1, 4}));
    builder.add("right wall", "m", RoundedHull<2>::box({8.5, 1}, {1, 4}));
    return builder.build();
}

std::vector<FieldChange> to(const std::string& table, const std::string& name, const std::string& key,
                            const std::string& value) {
    return {{table, name, key, "", value}};
}

/// The author's text with one piece of it replaced.
std::string with(const std::string& old, const std::string& now) {
    std::string text = author;
    const std::size_t at = text.find(old);
    REQUIRE(at != std::string::npos);
    return text.replace(at, old.size(), now);
}

}  // namespace

TEST_CASE("a cure changes its value and not a letter besides") {
    CHECK(with_changes(author, "r", to("probe", "föot", "reach", "0.42")) ==
          with("reach = 0.35", "reach = 0.42"));
    CHECK(with_changes(author, "r", to("probe", "föot", "sees", "[\"m\", \"g\"]")) ==
          with("[ \"m\" ]", "[\"m\", \"g\"]"));
    CHECK(with_changes(author, "r", to("probe", "föot", "accept.angle[1]", "45.0")) ==
          with("[0.0, 30.0] }   # flat", "[0.0, 45.0] }   # flat"));
    CHECK(with_changes(author, "r", to("signal", "grounded", "all[1].angle[1]", "45.0")) ==
          with("[ 0.0, 20.0 ]", "[ 0.0, 45.0 ]"));
    CHECK(with_changes(author, "r", to("", "", "dimensions", "3")) ==
          with("dimensions = 2", "dimensions = 3"));
}

TEST_CASE("a key that is not there is added below the name, one to be taken out goes with its line") {
    CHECK(with_changes(author, "r", to("probe", "föot", "take", "\"all\"")) ==
          with("  name = \"föot\"\n", "  name = \"föot\"\n  take = \"all\"\n"));
    CHECK(with_changes(author, "r", to("signal", "grounded", "settle", "")) == with("settle = 0.1\n", ""));
    auto whole = to("probe", "föot", "extra.deep[1]", "2.0");
    whole[0].whole_key = "extra";
    whole[0].whole_then = "{ deep = [0.0, 2.0] }";
    CHECK(with_changes(author, "r", whole) ==
          with("  name = \"föot\"\n", "  name = \"föot\"\n  extra = { deep = [0.0, 2.0] }\n"));
    // Several at once.
    auto both = to("probe", "föot", "reach", "0.42");
    both.push_back(to("signal", "grounded", "settle", "0.0").front());
    CHECK(with_changes(author, "r", both) ==
          with("reach = 0.35", "reach = 0.42").replace(author.find("settle = 0.1"), 12, "settle = 0.0"));
}

TEST_CASE("a reflex is changed in its own block, by its name or by what it does on what") {
    const std::string text =
        author + std::string(
                     "\n[[reflex]]\non = \"grounded\"\ndo = \"lift_over\"\nby = 0.3   # a step\n"
                     "[[reflex]]\nname = \"bump\"\non = \"grounded\"\ndo = \"stop_rise\"\n"
                     "[[reflex]]\non = \"grounded\"\ndo = \"zero_fall\"\n[[reflex]]\non = \"grounded\"\ndo = "
                     "\"zero_fall\"\n");
    const auto level = quay();
    const Rig<2> before = rig_from_toml<2>(text, "r", level);
    Rig<2> after = before;
    after.reflexes[0].by = 0.45;
    after.reflexes[1].speed = 1.5;
    after.reflexes[1].when_off = true;
    const auto changes = differences(before, after);
    CHECK(changes.size() == 3);
    std::string written = with_changes(text, "r", changes);
    CHECK(written.find("by = 0.45   # a step") != std::string::npos);
    CHECK(differences(after, rig_from_toml<2>(written, "r", level)).empty());
    for (const char* line : {"kickback = 1.5\n", "when = \"off\"\n"}) {
        const std::size_t at = written.find(line);
        REQUIRE(at != std::string::npos);
        written.erase(at, std::string(line).size());
    }
    CHECK(written.replace(written.find("0.45"), 4, "0.3") == text);
    // Of two that are alike none is meant.
    after = before;
    after.reflexes[3].when_off = true;
    CHECK(differences(before, after).empty());
}

TEST_CASE("a cure that is none to this file is refused, and says so") {
    CHECK_THROWS_WITH(with_changes(author, "r.toml", to("probe", "nose", "reach", "1.0")),
                      Catch::Contains("r.toml") && Catch::Contains("no probe 'nose'"));
    CHECK_THROWS_AS(with_changes(author, "r.toml", {}), InputError);
}

TEST_CASE("the cure a survey proposes, written into the file and surveyed again, cures") {
    const auto level = quay();
    std::string text = author;
    // As long as a cure spoils nothing: angle, reach, layer and settling are all at fault here.
    std::size_t wrong = ~std::size_t{0};
    for (int round = 0; round < 8; ++round) {
        const auto rig = rig_from_toml<2>(text, "r", level);
        SurveyOptions options;
        options.spacing = 0.4;
        options.region = {-3.5, -0.5, 7.5, 0.5};
        const auto result = survey<2>(level, rig, options);
        const std::size_t now = poses(result.signals[0], Verdict::missed_contact) +
                                poses(result.signals[0], Verdict::false_contact);
        CHECK(now < wrong);
        wrong = now;
        if (wrong == 0) break;
        REQUIRE_FALSE(result.fixes.empty());
        text = with_changes(text, "r", result.fixes.front().change.edits);
    }
    CHECK(wrong == 0);
    CHECK(text.find("# all there is") != std::string::npos);
    CHECK(text.find("# too short?") != std::string::npos);
}

TEST_CASE("a change to what another file states is written into the one that extends it") {
    const auto folder = std::filesystem::temp_directory_path() / "hollow-probe-take-over";
    std::filesystem::create_directories(folder / "sub");
    std::ofstream(folder / "base.rig.toml") << author;
    std::ofstream(folder / "sub" / "middle.rig.toml")
        << "format = \"hollow-probe rig 1\"\ndimensions = 2\nextends = \"../base.rig.toml\"\n";
    const std::string name = (folder / "own.rig.toml").string();
    const std::string own =
        "format = \"hollow-probe rig 1\"\ndimensions = 2\nextends = \"sub/middle.rig.toml\"  # shared\n";
    const auto before = rig_from_toml<2>(own, name, quay());
    // One after the other: the second finds what the first took over.
    std::vector<FieldChange> changes = to("probe", "föot", "reach", "0.42");
    for (const auto& more :
         {to("probe", "föot", "accept.angle[1]", "45.0"), to("signal", "grounded", "settle", "0.25")})
        changes.insert(changes.end(), more.begin(), more.end());
    const std::string text = with_changes(own, name, changes);
    CHECK(text.starts_with(own));
    const auto after = rig_from_toml<2>(text, name, quay());
    auto expected = before;
    expected.probes[0].line().reach = 0.42;
    expected.probes[0].line().accept_most_degrees = 45.0;
    expected.signals[0].settle = 0.25;
    CHECK(differences(expected, after).empty());
    CHECK_FALSE(differences(before, after).empty());
    std::filesystem::remove_all(folder);
}

TEST_CASE("a rig extends another: what it names again is replaced, all else kept") {
    const auto folder = std::filesystem::temp_directory_path() / "hollow-probe-extends";
    std::filesystem::create_directories(folder);
    std::ofstream(folder / "base.rig.toml") << author;
    const auto load = [&](const std::string& text) {
        return rig_from_toml<2>("format = \"hollow-probe rig 1\"\ndimensions = 2\n" + text,
                                (folder / "own.rig.toml").string(), quay());
    };
    const auto rig = load(
        "extends = \"base.rig.toml\"\n[intent]\ntouch = 0.05\n"
        "[[probe]]\nname = \"föot\"\nkind = \"ray\"\nreach = 2.0\nsees = [\"g\"]\n"
        "[[probe]]\nname = \"nose\"\nkind = \"ray\"\nreach = 1.0\nsees = [\"m\"]\n");
    REQUIRE(rig.probes.size() == 2);
    CHECK(rig.probes[0].line().reach == 2.0);
    CHECK(rig.probes[1].name == "nose");
    CHECK(rig.signals.size() == 1);
    CHECK(rig.signals[0].settle == 0.1);
    CHECK(rig.intent.touch == 0.05);
    CHECK(rig.body.stances.at(0).name == "upright");
    // "..." in a list stands for what the other file has there, through any number of files.
    std::ofstream(folder / "middle.rig.toml")
        << "format = \"hollow-probe rig 1\"\ndimensions = 2\nextends = \"base.rig.toml\"\n"
           "[body]\nmeets = [\"...\"]\n"
           "[[probe]]\nname = \"föot\"\nkind = \"ray\"\nreach = 2.0\nsees = [\"g\"]\n";
    const auto base = load("extends = \"base.rig.toml\"\n");
    const auto more = load(
        "extends = \"middle.rig.toml\"\n"
        "[[probe]]\nname = \"föot\"\nkind = \"ray\"\nreach = 2.0\nsees = [\"...\", \"m\"]\n"
        "[[probe]]\nname = \"nose\"\nkind = \"ray\"\nreach = 1.0\nsees = [\"m\"]\n"
        "[[signal]]\nname = \"grounded\"\nclaims = \"ground\"\nall = [\"nose\", \"...\"]\n");
    CHECK(more.body.meets == base.body.meets);
    CHECK(more.probes[0].sees == std::vector<std::string>{"g", "m"});
    REQUIRE(more.signals[0].members.all.size() == 3);
    CHECK(more.signals[0].members.all[0].name == "nose");
    CHECK(more.signals[0].members.all[1].name == "föot");
    CHECK(more.signals[0].members.all[2] == base.signals[0].members.all[1]);  // conditions and all
    CHECK_THROWS_WITH(load("extends = \"base.rig.toml\"\n[[probe]]\nname = \"new\"\nkind = \"ray\"\nreach = "
                           "1.0\nsees = [\"...\"]\n"),
                      Catch::Contains("own.rig.toml:8:9: '...' stands for"));
    CHECK_THROWS_WITH(load("[body]\nmeets = [\"...\"]\n"), Catch::Contains("'...'"));
    CHECK_THROWS_WITH(load("extends = \"gone.rig.toml\"\n"), Catch::Contains("there is no file"));
    std::ofstream(folder / "ring.rig.toml")
        << "format = \"hollow-probe rig 1\"\ndimensions = 2\nextends = \"ring.rig.toml\"\n";
    CHECK_THROWS_WITH(load("extends = \"ring.rig.toml\"\n"), Catch::Contains("a circle"));
    std::filesystem::remove_all(folder);
}

TEST_CASE("a rig that extends another keeps its reflexes, but for those it names again or leaves out") {
    const auto folder = std::filesystem::temp_directory_path() / "hollow-probe-reflexes";
    std::filesystem::create_directories(folder);
    std::ofstream(folder / "base.rig.toml") << author << R"(
[[reflex]]
on = "grounded"
do = "permit_jump"
[[reflex]]
name = "soft landing"
on = "grounded"
do = "press_down"
speed = 1.0
[[reflex]]
on = "grounded"
do = "zero_fall"
)";
    const auto load = [&](const std::string& text) {
        return rig_from_toml<2>(
            "format = \"hollow-probe rig 1\"\ndimensions = 2\nextends = \"base.rig.toml\"\n" + text,
            (folder / "own.rig.toml").string(), quay());
    };
    const auto names = [&](const std::string& text) {
        std::vector<std::string> all;
        for (const auto& reflex : load(text).reflexes) all.push_back(name_of(reflex));
        return all;
    };
    using Names = std::vector<std::string>;
    const Names inherited = {"grounded permit_jump", "soft landing", "grounded zero_fall"};
    CHECK(names("") == inherited);
    const std::string lift = "[[reflex]]\non = \"grounded\"\ndo = \"lift_over\"\nby = 0.1\n";
    CHECK(names(lift) ==
          Names{"grounded permit_jump", "soft landing", "grounded zero_fall", "grounded lift_over"});
    const auto again =
        load("[[reflex]]\nname = \"soft landing\"\non = \"grounded\"\ndo = \"press_down\"\nspeed = 3.0\n");
    REQUIRE(again.reflexes.size() == 3);
    CHECK(again.reflexes[1].speed == 3.0);
    CHECK(names("leaves_out = [\"soft landing\", \"grounded zero_fall\"]\n") ==
          Names{"grounded permit_jump"});
    CHECK_THROWS_WITH(load("leaves_out = [\"soft landng\"]\n"), Catch::Contains("'soft landing'"));
    CHECK_THROWS_WITH(load("[[reflex]]\nname = \"x\"\non = \"grounded\"\ndo = \"zero_fall\"\n"
                           "[[reflex]]\nname = \"x\"\non = \"grounded\"\ndo = \"zero_fall\"\n"),
                      Catch::Contains("reflex 'x' is named twice"));
    // Two without a name that do the same both stand, in place of the one there was.
    const std::string zero = "[[reflex]]\non = \"grounded\"\ndo = \"zero_fall\"\n";
    CHECK(names(zero + zero + "when = \"off\"\n").size() == 4);
    std::filesystem::remove_all(folder);
}

TEST_CASE("every setting of probes and signals reaches the rig") {
    const auto rig = rig_from_toml<2>(author + R"(
mute_after = { event = "jump", seconds = 0.2 }
grace = 0.3
gives = { value = "slope", from = "föot" }
[[probe]]
name = "zone"
kind = "zone"
shape = { ball = { radius = 0.4 } }
sees = ["m"]
keeps = "until_used"
used_by = "landing"
one_way = "never"
[[probe]]
name = "shift"
kind = "shift"
along = "velocity"
reach = { base = 0.1, per_speed = 0.02 }
axes = "across_up"
inset = 0.01
sees = ["m"]
[[probe]]
name = "contact"
kind = "contact"
side = "above"
match = "only"
within = 60.0
sees = ["m"]
[[probe]]
name = "fan"
kind = "ray"
along = "drive"
reach = { grounded = 0.6, airborne = 0.4 }
ignores_body = false
spread = { fan = { count = 5, degrees = 90.0 }, least = 2 }
sees = ["m"]
[[signal]]
name = "second"
claims = "wall"
any = [{ all = ["zone", "shift"] }, { probe = "fan", distance = [0.1, 0.5], layers = ["m"] }]
none = ["grounded"]
)",
                                      "r", quay());
    const Signal& first = rig.signals.at(0);
    CHECK(first.settle == 0.1);
    CHECK(first.grace == 0.3);
    CHECK(first.mute_after.event == "jump");
    CHECK(first.mute_after.seconds == 0.2);
    CHECK(first.gives == Value::slope);
    CHECK(first.gives_from == "föot");
    CHECK(first.members.all.at(1).angle_degrees == std::array{0.0, 20.0});
    const Probe<2>& zone = rig.probes.at(1);
    CHECK(zone.kind() == ProbeKind::zone);
    CHECK(zone.zone().keeps == Keeps::until_used);
    CHECK(zone.zone().used_by == "landing");
    CHECK(zone.zone().one_way == OneWay::never);
    CHECK(zone.zone().shape.radius() == 0.4);
    const Probe<2>& shift = rig.probes.at(2);
    CHECK(shift.shift().aim == Aim::velocity);
    CHECK(shift.shift().reach == 0.1);
    CHECK(shift.shift().reach_per_speed == 0.02);
    CHECK(shift.shift().axes == ShiftAxes::across_up);
    CHECK(shift.shift().inset == 0.01);
    const Probe<2>& contact = rig.probes.at(3);
    CHECK(contact.contact().side == Side::above);
    CHECK(contact.contact().match == Match::only);
    CHECK(contact.contact().within_degrees == 60.0);
    const Probe<2>& fan = rig.probes.at(4);
    CHECK(fan.line().aim == Aim::drive);
    CHECK(fan.line().reach == 0.4);
    CHECK(fan.line().reach_grounded == 0.6);
    CHECK_FALSE(fan.line().ignores_body);
    CHECK(fan.line().spread.kind == SpreadKind::fan);
    CHECK(fan.line().spread.count == 5);
    CHECK(fan.line().spread.degrees == 90.0);
    CHECK(fan.line().spread.least == 2);
    const Signal& second = rig.signals.at(1);
    CHECK(second.members.any.at(0).group.at(0).all == std::vector<Member>{"zone", "shift"});
    CHECK(second.members.any.at(1).name == "fan");
    CHECK(second.members.any.at(1).distance == std::array{0.1, 0.5});
    CHECK(second.members.any.at(1).layers == std::vector<std::string>{"m"});
    CHECK(second.members.none == std::vector<Member>{"grounded"});
}

TEST_CASE("what a kind of probe makes nothing of is refused, at its place") {
    const auto refused = [&](const std::string& probe, const std::string& says) {
        CHECK_THROWS_WITH(
            rig_from_toml<2>(author + "[[probe]]\nname = \"x\"\nsees = [\"m\"]\n" + probe, "r", quay()),
            Catch::StartsWith("r:") && Catch::Contains(says));
    };
    refused("kind = \"zone\"\nshape = { ball = { radius = 1.0 } }\nreach = 1.0\n", "a zone has no reach");
    refused("kind = \"contact\"\nside = \"below\"\nfrom = [0.0, 1.0]\n", "a contact has no from");
    refused("kind = \"ray\"\nreach = 1.0\ninset = 0.1\n", "a ray has no inset");
    refused("kind = \"shift\"\nreach = 0.1\ninset = 0.3\n", "inset leaves nothing");
    refused("kind = \"ray\"\nreach = { grounded = 1.0, base = 2.0 }\n", "expected { grounded");
    refused("kind = \"ray\"\nreach = 1.0\nspread = { ring = { count = 4, radius = 1.0 } }\n", "is for 3D");
    refused("kind = \"ray\"\nreach = 1.0\nspread = { row = { count = 1, width = 1.0 } }\n",
            "expected 2 to 64");
}

TEST_CASE("paths, times of being sensed, areas, volumes and claims reach the level") {
    const auto any = level_from_toml(R"(format = "hollow-probe level 1"
dimensions = 2
layers = ["m", "v"]
[[solid]]
name = "lift"
layer = "m"
box = { center = [0.0, 0.0], size = [2.0, 0.2] }
path = { stops = [[0.0, 0.0], [0.0, 4.0]], pace = 2.0, wait = 0.5 }
[[solid]]
name = "ramp"
layer = "m"
box = { center = [5.0, 0.0], size = [2.0, 0.2] }
role = "sensed"
sensed_when = { stances = ["upright"], slowest = 1.0, fastest = 9.0 }
[[area]]
name = "loft"
box = { center = [8.0, 5.0], size = [4.0, 2.0] }
layer = "v"
[[claim]]
area = "loft"
truth = "ground"
is = "never"
)",
                                     "l");
    const auto& level = std::get<Level<2>>(any);
    CHECK(level.has_paths());
    CHECK(level.solids()[0].path->at(1.5).is_close(Vec<2>(0, 2)));
    CHECK(level.solids()[1].sensed_when == SensedWhen{{"upright"}, 1.0, 9.0});
    REQUIRE(level.find_area("loft") != nullptr);
    CHECK(level.find_area("loft")->box.low.is_close(Vec<2>(6, 4)));
    CHECK(level.find_area("loft")->contains({10, 6}));
    CHECK_FALSE(level.find_area("loft")->contains({10.001, 6}));
    CHECK(level.solids().back().volume);
    REQUIRE(level.claims().size() == 1);
    CHECK(level.claims()[0].truth == Claim::ground);
    CHECK_FALSE(level.claims()[0].always);
}

TEST_CASE("a truth stated by hand is held against geometry and signals") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {12, 1}));
    builder.area("spot", {{-1, -0.5}, {1, 0.3}});
    builder.claim({"spot", Claim::ground, false}).claim({"spot", Claim::ceiling, false});
    const auto level = builder.build();
    const auto result = survey<2>(level, rig_with<2>(foot_ray<2>(0.42), {"m"}));
    REQUIRE(result.claims.size() == 2);
    // Of the two heights of one verdict in the area one is ground, and both the geometry and the signal say
    // so.
    const auto& never_ground = result.claims[0];
    CHECK(never_ground.poses > 20);
    CHECK(never_ground.against_geometry * 2 == never_ground.poses);
    CHECK(never_ground.against_signals == never_ground.against_geometry);
    CHECK(never_ground.first);
    CHECK(result.claims[1].against_geometry == 0);
    CHECK_FALSE(result.claims[1].first);
}

TEST_CASE("a survey of a moving level looks at several times") {
    LevelBuilder<2> builder({"m"});
    builder.add("shaft floor", "m", RoundedHull<2>::box({0, -0.5}, {6, 1}));
    builder.add("lift", "m", RoundedHull<2>::box({0, 1}, {2, 0.2})).path({{{0, 0}, {0, 4}}, 2.0, 0.0});
    const auto level = builder.build();
    auto probe = foot_ray<2>(0.42);
    SurveyOptions options;
    options.region = {-0.6, 0.9, 0.6, 6.0};
    options.times = {0.0, 1.0};
    const auto result = survey<2>(level, rig_with<2>(probe, {"m"}), options);
    CHECK(result.findings.empty());
    CHECK(result.facings.size() == 4);
    double highest = 0.0;
    for (const auto& pose : result.poses) highest = std::max(highest, pose.anchor[1] - pose.above_rest);
    CHECK(highest == Approx(3.1));  // its top, a second later
}

TEST_CASE("three faults at once are named together, each by no more than it needs") {
    // A slope of 30° on a layer that the ray does not see, too far away for it and too steep.
    LevelBuilder<2> builder({"m", "slate"});
    builder.add_polygon("slope", "slate", {{-4, 0}, {4, 0}, {4, 8 * std::tan(radians(30.0))}});
    Probe<2> ray = foot_ray<2>(0.3);
    ray.line().accept_most_degrees = 20.0;
    Rig<2> rig = rig_with<2>(ray, {"m"});
    rig.body.meets = {"m", "slate"};
    SurveyOptions options;
    options.spacing = 0.25;
    options.most_tried = 0;
    const auto level = builder.build();
    const Survey<2> result = survey<2>(level, rig, options);
    const auto found = std::find_if(result.findings.begin(), result.findings.end(), [](const Finding<2>& f) {
        return f.verdict == Verdict::missed_contact && f.causes.front().with.size() == 2;
    });
    REQUIRE(found != result.findings.end());
    std::map<CauseKind, CauseReport> parts;
    const CauseReport& whole = found->causes.front();
    parts[whole.cause] = whole;
    for (const CauseReport& part : whole.with) parts[part.cause] = part;
    REQUIRE(parts.size() == 3);
    CHECK(parts.at(CauseKind::layer_unseen).needs == "[\"m\", \"slate\"]");
    CHECK(parts.at(CauseKind::angle_refused).by == Approx(10.0).margin(1e-3));
    // A capsule of radius 0.3 rests 0.3 (1/cos 30° - 1) above the slope beneath its anchor; and touch away.
    const double gap = (0.3 + 0.02) / std::cos(radians(30.0)) - 0.3;
    CHECK(parts.at(CauseKind::reach_short).by == Approx(0.4 + gap - 0.3).margin(1e-2));
}

TEST_CASE("a test of the next place is made a cast of the same shape where a file can say so") {
    // It looks beyond a thin wall.
    LevelBuilder<2> builder({"m"});
    builder.add("wall", "m", RoundedHull<2>::box({2.05, 1.0}, {0.1, 4.0}));
    const auto level = builder.build();
    for (const bool can : {true, false}) {
        CAPTURE(can);
        Rig<2> rig = rig_with<2>(foot_ray<2>(0.4), {"m"});
        rig.body.stances = {Stance<2>::box("upright", {0.4, 1.8})};
        if (!can) rig.body.stances.push_back(Stance<2>::box("crawling", {0.8, 0.5}));
        rig.probes = {{.name = "next place", .sees = {"m"}, .of_kind = ShiftProbe<2>{.reach = 0.9}}};
        rig.intent.ahead_move = 0.9;
        rig.signals[0].claims = Claim::blocked;
        rig.signals[0].members.any = {"next place"};
        SurveyOptions options;
        options.region = {1.0, 0.0, 1.8, 0.5};
        options.spacing = 0.05;
        const Survey<2> result = survey<2>(level, rig, options);
        std::size_t written = 0;
        for (const Finding<2>& finding : result.findings) {
            for (const CauseReport& cause : finding.causes) {
                if (cause.cause != CauseKind::stepped_over) continue;
                for (const FieldChange& edit : cause.edits)
                    written += edit.key == "kind" && edit.then == "\"cast\"" ? 1 : 0;
            }
        }
        REQUIRE_FALSE(result.findings.empty());
        CHECK((written > 0) == can);
    }
}

TEST_CASE("what only the level could change is told as that, and made to no rig") {
    LevelBuilder<2> builder({"m"});
    builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {8, 1}));
    builder.add("mist", "m", RoundedHull<2>::box({0, 0.5}, {2, 0.2})).role(Role::sensed);
    Rig<2> rig = rig_with<2>(foot_ray<2>(0.42), {"m"});
    rig.probes[0].line().from = {0.0, 1.0};
    rig.probes[0].line().reach = 1.02;
    SurveyOptions options;
    options.spacing = 0.25;
    const auto level = builder.build();
    const Survey<2> result = survey<2>(level, rig, options);
    const auto of_level = std::find_if(result.fixes.begin(), result.fixes.end(), [](const Fix<2>& fix) {
        return fix.change.cause == CauseKind::sensed_only;
    });
    REQUIRE(of_level != result.fixes.end());
    CHECK(of_level->change.parameter == "role");
    CHECK_FALSE(of_level->change.can_be_written());
    CHECK_FALSE(of_level->apply);
    CHECK_FALSE(of_level->after);
}

namespace {

const std::string several = R"(# two probes
format = "hollow-probe rig 1"
dimensions = 2

[body]
meets = ["m", "g"]
[[body.stance]]
name = "upright"
capsule = { radius = 0.3, height = 1.8 }

[intent]
touch = 0.02   # a hair

[intent.forgive]
late = 0.1     # a tick or six

# the first,
# in two lines
[[probe]]
name = "foot"
kind = "ray"
reach = 0.35
sees = ["m"]

# the second
[[probe]]
name = "hand"
kind = "ray"
along = "forward"
reach = 0.5
sees = ["m"]

[[signal]]
name = "grounded"
claims = "ground"
any = ["foot", { probe = "hand", layers = ["m"] }]
gives = { value = "slope", from = "foot" }

[[signal]]
name = "careful"
all = ["grounded"]
none = [{ any = ["hand", "foot"] }]

[[reflex]]
on = "grounded"
do = "permit_jump"
)";

const std::string block = "\n[[probe]]\nname = \"nose\"\nkind = \"ray\"\nreach = 1.0\nsees = [\"m\"]\n";

}  // namespace

TEST_CASE("blocks come after the last of their kind, and go with the comments above them") {
    const std::string more = with_block(several, "r", "probe", block);
    CHECK(more.find("\"nose\"") > more.find("\"hand\""));
    CHECK(more.find("\"nose\"") < more.find("[[signal]]"));
    CHECK(without_block(more, "r", "probe", "nose") == several);
    // A kind that is not there yet goes to the end, with or without a last line's end.
    std::string bare = several.substr(0, several.find("# the first"));
    CHECK(with_block(bare, "r", "probe", block) == bare + block);
    while (bare.back() == '\n') bare.pop_back();
    CHECK(with_block(bare, "r", "probe", block) == bare + "\n" + block);

    const std::string less = without_block(several, "r", "probe", "foot");
    CHECK(less.find("in two lines") == std::string::npos);
    CHECK(less.find("# the second") != std::string::npos);
    CHECK(less.find("a tick or six") != std::string::npos);
    const std::string last = without_block(several, "r", "signal", "careful");
    CHECK(last.find("[[reflex]]") != std::string::npos);
    CHECK_THROWS_WITH(without_block(several, "r", "probe", "nobody"),
                      Catch::Contains("nobody") && Catch::Contains("r:1:1"));
    CHECK_THROWS_AS(without_block(several, "r", "signal", "foot"), InputError);
}

TEST_CASE("another name goes wherever the old one stood, and back") {
    const std::string boots = renamed_in(several, "r", "probe", "foot", "a \"boot\"");
    CHECK(boots.find("\"foot\"") == std::string::npos);
    const auto rig = rig_from_toml<2>(
        boots, "r", LevelBuilder<2>({"m", "g"}).add("s", "m", RoundedHull<2>::ball({0, 0}, 1)).build());
    CHECK(rig.probes[0].name == "a \"boot\"");
    CHECK(rig.signals[0].members.any[0].name == "a \"boot\"");
    CHECK(rig.signals[0].gives_from == "a \"boot\"");
    CHECK(rig.signals[1].members.none[0].group[0].any[1].name == "a \"boot\"");
    CHECK(renamed_in(boots, "r", "probe", "a \"boot\"", "foot") == several);
    // Signals are named by reflexes, too; probes are not, whatever these are called.
    const std::string standing = renamed_in(several, "r", "signal", "grounded", "stands");
    CHECK(standing.find("on = \"stands\"") != std::string::npos);
    CHECK(standing.find("all = [\"stands\"]") != std::string::npos);
    CHECK(renamed_in(standing, "r", "signal", "stands", "grounded") == several);
    CHECK_THROWS_AS(renamed_in(several, "r", "probe", "grounded", "x"), InputError);
}

TEST_CASE("the intent is changed where it stands, whichever way it is written") {
    const auto level = LevelBuilder<2>({"m", "g"}).add("s", "m", RoundedHull<2>::ball({0, 0}, 1)).build();
    const std::vector<std::string> ways = {
        several,
        [] {
            std::string text = several;
            const std::size_t from = text.find("[intent]");
            return text.replace(from, text.find("# the first") - from,
                                "[intent]\ntouch = 0.02\nforgive = { late = 0.1 }\n\n");
        }(),
        [] {
            std::string text = several;
            const std::size_t from = text.find("[intent]");
            return text.replace(from, text.find("# the first") - from,
                                "[intent]\ntouch = 0.02\nforgive.late = 0.1\n\n");
        }(),
        [] {
            std::string text = several;
            const std::size_t from = text.find("[intent]");
            return text.erase(from, text.find("# the first") - from);
        }()};
    for (const std::string& way : ways) {
        INFO(way);
        const Rig<2> before = rig_from_toml<2>(way, "r", level);
        Rig<2> after = before;
        after.intent.touch = 0.04;
        after.intent.ahead_drop = 0.7;
        after.intent.forgive.late = 0.2;
        after.intent.forgive.early = 0.05;
        after.intent.ledge_between = {0.4, 1.5};
        after.intent.moves.jump_height = 1.1;
        const std::string text = with_changes(way, "r", differences<2>(before, after));
        INFO(text);
        const Rig<2> read = rig_from_toml<2>(text, "r", level);
        CHECK(differences<2>(after, read).empty());
        CHECK(read.intent.forgive.early == 0.05);
        CHECK(read.intent.ledge_between[0] == 0.4);
        // And back.
        const Rig<2> again =
            rig_from_toml<2>(with_changes(text, "r", differences<2>(read, before)), "r", level);
        CHECK(differences<2>(before, again).empty());
    }
}
