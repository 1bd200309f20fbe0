// Words and figures.
#include <catch2/catch.hpp>

#include <nlohmann/json.hpp>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/io/save_pose.hpp"
#include "hollow_probe/report/advice_text.hpp"
#include "hollow_probe/report/block_view.hpp"
#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/page.hpp"
#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/rig/debug_lines.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

Level<2> platform() {
    LevelBuilder<2> builder({"a layer with a rather long name", "grating"});
    builder.add("platform", "a layer with a rather long name", RoundedHull<2>::box({0, -0.5}, {8, 1}));
    builder.add("pipe", "grating", RoundedHull<2>::capsule({-1, 3}, {1, 3}, 0.2));
    builder.start("here", {0, 0}, {1, 0});
    return builder.build();
}

std::size_t longest_line(const std::string& text) {
    std::size_t longest = 0;
    std::size_t shown = 0;
    for (const char c : text) {
        if (c == '\n') {
            longest = std::max(longest, shown);
            shown = 0;
        } else if ((static_cast<unsigned char>(c) & 0xC0U) != 0x80U) {
            ++shown;
        }
    }
    return longest;
}

std::size_t occurrences(const std::string& text, const std::string& what) {
    std::size_t count = 0;
    for (std::size_t at = text.find(what); at != std::string::npos; at = text.find(what, at + 1)) ++count;
    return count;
}

}  // namespace

TEST_CASE("the survey's words fit the width and say what, why and the cure") {
    const auto level = platform();
    auto rig = rig_with<2>(foot_ray<2>(0.35), {"a layer with a rather long name", "grating"});
    rig.probes[0].name = "a probe with a name that goes on and on";
    rig.signals[0].members.any = {rig.probes[0].name};
    rig.signals[0].name = "a signal with a long name as well";
    const auto result = survey<2>(level, rig);
    for (const std::size_t width : {60U, 80U, 100U}) {
        TextOptions options;
        options.width = width;
        const std::string text = survey_text<2>(rig, result, options);
        if (width == 100) CHECK(longest_line(text) <= 100);
        // Whatever the line breaks, the words are there.
        std::string words;
        for (const std::string& word : wrapped(text, 1)) words += word + " ";
        for (std::size_t at = words.find('\n'); at != std::string::npos; at = words.find('\n'))
            words.erase(at, 1);
        CHECK(words.find("is too short by 0.07; reach 0.35 → 0.42 cures all") != std::string::npos);
        CHECK(text.find('\x1b') == std::string::npos);
    }
    TextOptions colored;
    colored.color = true;
    CHECK(survey_text<2>(rig, result, colored).find("\x1b[") != std::string::npos);
    TextOptions few;
    few.most_findings = 1;
    CHECK(survey_text<2>(rig, result, few).find("more findings") != std::string::npos);
}

TEST_CASE("a survey without findings says so; one without signals does not claim to be well") {
    const auto level = platform();
    auto rig = rig_with<2>(foot_ray<2>(0.42), {"a layer with a rather long name", "grating"});
    rig.signals.clear();
    CHECK(survey_text<2>(rig, survey<2>(level, rig)).find("nothing is judged") != std::string::npos);
}

TEST_CASE("a change that spoils only beside the poses looked at does not say that it adds none") {
    const Rig<2> rig = rig_with<2>(foot_ray<2>(0.5), {"m"});
    Finding<2> finding;
    finding.verdict = Verdict::missed_contact;
    finding.count = 5;
    CauseReport cause;
    cause.cause = CauseKind::reach_short;
    cause.probe = "foot";
    cause.parameter = "reach";
    cause.now = "0.5";
    cause.needs = "0.6";
    cause.cures = 5;
    cause.gain = -0.25;
    cause.spoils = 0.75;
    finding.causes = {cause};
    CHECK_THAT(finding_sentence<2>(rig, finding),
               Catch::Contains("cures all 5, but spoils 0.75 beside them"));
    finding.causes[0].adds_false = 3;
    CHECK_THAT(finding_sentence<2>(rig, finding), Catch::Contains("cures all 5, adds 0 missed, 3 false"));
    finding.causes[0].adds_false = 0;
    finding.causes[0].gain = 0.25;
    CHECK_THAT(finding_sentence<2>(rig, finding), Catch::Contains("cures all 5, adds 0 missed, 0 false"));
}

TEST_CASE("text is wrapped at spaces, by characters and not bytes") {
    CHECK(wrapped("one two three", 7) == std::vector<std::string>{"one two", "three"});
    CHECK(wrapped("°°° °°°", 7) == std::vector<std::string>{"°°° °°°"});
    CHECK(wrapped("unbreakable", 4) == std::vector<std::string>{"unbreakable"});
    CHECK(wrapped("", 4).empty());
    CHECK(plain(0.1 + 0.2) == "0.3");
    CHECK(plain(-1e-17) == "0");
    CHECK(plain(1234.5678) == "1235");
    CHECK(plain(9999.4) == "9999");
    CHECK(plain(-12345.6) == "-12346");  // where pixels are the unit
    CHECK(plain(1e15) == "1e+15");
}

TEST_CASE("a figure shows the body, the probe's hit and the verdict marks that there are") {
    const auto level = platform();
    const auto rig = rig_with<2>(foot_ray<2>(0.42), {"a layer with a rather long name", "grating"});
    const auto result = survey<2>(level, rig);
    REQUIRE_FALSE(result.findings.empty());
    Scene<2> scene;
    scene.level = &level;
    scene.rig = &rig;
    scene.pose = Pose<2>{{0.5, 0.01}, {1, 0}, 0};
    const std::string bare = draw_figure<2>(scene, "x.svg");
    CHECK(bare.starts_with("<?xml"));
    scene.survey = &result;
    const std::string marked = draw_figure<2>(scene, "x.svg");
    // Okabe–Ito orange is used for missed contacts alone, and only where there is one.
    const std::string orange = "rgb(90.2%,62.4%,0%)";
    CHECK(occurrences(bare, orange) == 0);
    CHECK(occurrences(marked, orange) > 2);
    CHECK(draw_figure<2>(scene, "x.png").starts_with("\x89PNG"));
    CHECK_THROWS_WITH(draw_figure<2>(scene, "x.jpg"), Catch::Contains("must end in .svg or .png"));
}

TEST_CASE("hidden solids are dashed, and only where something is hidden") {
    // Seen along +z from the body at z = 1: a screen at -1 and a crate that is behind it, or beside.
    const auto dashes_with_crate_at = [](double x) {
        LevelBuilder<3> builder({"m"});
        builder.add("floor", "m", RoundedHull<3>::box({0, -0.5, 0}, {12, 1, 12}));
        builder.add("screen", "m", RoundedHull<3>::box({0, 1, -1}, {4, 2, 0.2}));
        builder.add("crate", "m", RoundedHull<3>::box({x, 0.5, -3}, {1, 1, 1}));
        const Level<3> level = builder.build();
        const Rig<3> rig = rig_with<3>(foot_ray<3>(0.1), {"m"});
        Scene<3> scene;
        scene.level = &level;
        scene.rig = &rig;
        scene.pose = Pose<3>{{0, 0, 1}, {1, 0, 0}, 0};
        return occurrences(draw_figure<3>(scene, "x.svg"), "stroke-dasharray");
    };
    CHECK(dashes_with_crate_at(0.0) > dashes_with_crate_at(4.0));
}

TEST_CASE("a figure is the same every time and survives odd scenes") {
    LevelBuilder<3> builder({"m"}, {0, 0, -1});
    builder.add("ball", "m", RoundedHull<3>::ball({0, 0, 0}, 1e-6));
    builder.add_mesh("sliver", "m", {{0, 0, 0}, {1e-9, 0, 0}, {0, 0, 0}}, {{0, 1, 2}});
    const auto level = builder.build();
    Scene<3> scene;
    scene.level = &level;
    CHECK((draw_figure<3>(scene, "x.png") == draw_figure<3>(scene, "x.png")));
    const auto rig = rig_with<3>(foot_ray<3>(0.42), {"m"});
    scene.rig = &rig;
    scene.pose = Pose<3>{{0, 0, -5}, {0.6, 0.8, 0}, 0};
    CHECK(draw_figure<3>(scene, "x.svg").size() > 1000);
}

TEST_CASE("solids far larger than what is shown do not hold the figure up") {
    for (const double size : {1e6, 1e12, 1e300}) {
        LevelBuilder<2> builder({"m"});
        builder.add("floor", "m", RoundedHull<2>::box({0, -0.5 * size}, {size, size}));
        builder.add_polyline("line", "m", {{-size, 1}, {0, 2}, {size, 1}});
        const auto level = builder.build();
        const auto rig = rig_with<2>(foot_ray<2>(0.42), {"m"});
        Scene<2> scene;
        scene.level = &level;
        scene.rig = &rig;
        scene.pose = Pose<2>{{0.0, 0.01}, {1, 0}, 0};
        CHECK(draw_figure<2>(scene, "x.svg").size() < 5'000'000);
    }
}

namespace {

std::vector<std::string> lines_of(const std::string& text) {
    std::vector<std::string> lines;
    std::size_t at = 0;
    while (at < text.size()) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        lines.push_back(text.substr(at, end - at));
        at = end + 1;
    }
    return lines;
}

}  // namespace

TEST_CASE("blocks paint what is solid, quarter by quarter") {
    // Two boxes side by side, 8 wide in all: 10 columns to a length of 1, and 5 lines, less a margin.
    LevelBuilder<2> builder({"stone"});
    builder.add("low", "stone", RoundedHull<2>::box({-2, 0.5}, {4, 1}));
    builder.add("high", "stone", RoundedHull<2>::box({2, 1}, {4, 2}));
    const Level<2> level = builder.build();
    Scene<2> scene;
    scene.level = &level;
    const auto lines = lines_of(block_view<2>(scene, {80, 40, false}));
    // Above only the right half, below both: as many filled cells right as left, twice as many lines.
    std::size_t right_only = 0;
    std::size_t both = 0;
    for (const std::string& line : lines) {
        if (line.starts_with("          ") && occurrences(line, "█") >= 38) ++right_only;
        if (occurrences(line, "█") >= 76) ++both;
    }
    CHECK(right_only >= 4);
    CHECK(right_only <= 5);
    CHECK(both >= 4);
    CHECK(both <= 5);
    CHECK_THAT(lines.back(), Catch::StartsWith("8.1"));
    CHECK(longest_line(block_view<2>(scene, {80, 40, false})) <= 80);
}

TEST_CASE("blocks show the body, its probe and the marks, in colour only where allowed") {
    const Level<2> level = platform();
    const Rig<2> rig = rig_with<2>(foot_ray<2>(0.42), level.layers());
    Scene<2> scene;
    scene.level = &level;
    scene.rig = &rig;
    scene.pose = Pose<2>{{0.0, 0.0}, {1.0, 0.0}};
    const std::string text = block_view<2>(scene, {100, 30, false});
    for (const char* shown : {"▒", "•", "◆", "█", "foot (ray): hits \"platform\" after 0.4"})
        CHECK_THAT(text, Catch::Contains(shown));
    CHECK_THAT(text, !Catch::Contains("\x1b["));
    CHECK_THAT(text, !Catch::Contains("hit nothing"));
    CHECK_THAT(block_view<2>(scene, {100, 30, true}), Catch::Contains("\x1b[36m"));
    scene.pose->anchor.y() = 0.5;  // in the air
    CHECK_THAT(block_view<2>(scene, {100, 30, false}), Catch::Contains("┴ hit nothing"));

    const Survey<2> missed = survey<2>(level, rig_with<2>(foot_ray<2>(0.1), level.layers()));
    scene.survey = &missed;
    scene.pose.reset();
    CHECK_THAT(block_view<2>(scene, {100, 30, false}), Catch::Contains("○ missed contact"));
}

TEST_CASE("debug lines lie on what they show, in 2D and 3D") {
    const auto check_in = [&]<int D>(const Level<D>& level) {
        Probe<D> probe = foot_ray<D>(0.42);
        probe.line().shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.1);
        const Rig<D> rig = rig_with<D>(probe, level.layers());
        const MountedRig<D> mounted(rig, level, 0, Vec<D>::unit(0));
        const Vec<D> anchor = 0.01 * Vec<D>::unit(1);
        std::vector<Reading<D>> readings(1);
        mounted.evaluate(level, anchor, readings);
        REQUIRE(readings[0].met);
        std::vector<DebugLine<D>> lines;
        append_debug_lines<D>(mounted, anchor, readings, lines, 16);
        const auto distance = [](const RoundedHull<D>& hull, const Vec<D>& at, const Vec<D>& p) {
            const HullTopology none;
            const HullView<D> dot{{&p, 1}, 0.0, {}, &none};
            return separation<D>(dot, -at, hull.view()).gap;
        };
        std::array<std::size_t, 7> count{};
        for (const DebugLine<D>& line : lines) {
            ++count[static_cast<std::size_t>(line.part)];
            if (line.part == LinePart::body) {
                CHECK(std::abs(distance(mounted.body, anchor, line.from)) < 1e-9);
                CHECK(std::abs(distance(mounted.body, anchor, line.to)) < 1e-9);
            }
            if (line.part == LinePart::way)
                CHECK((line.to - line.from).norm() == Approx(readings[0].hit.distance));
            if (line.part == LinePart::beyond)
                CHECK((line.to - line.from).norm() == Approx(0.42 - readings[0].hit.distance));
            if (line.part == LinePart::end_shape) {
                const Vec<D> end = anchor + mounted.probes[0].lines[0].from +
                                   readings[0].hit.distance * mounted.probes[0].lines[0].along;
                CHECK((line.from - end).norm() == Approx(0.1));
            }
            if (line.part == LinePart::normal) {
                CHECK((line.from - readings[0].hit.point).norm() < 1e-12);
                CHECK((line.to - line.from).normalized().dot(readings[0].hit.normal) == Approx(1.0));
            }
            if (line.part != LinePart::body && line.part != LinePart::heading) CHECK(line.on);
        }
        for (const std::size_t lines_of_part : count) CHECK(lines_of_part > 0);
        CHECK(count[static_cast<std::size_t>(LinePart::way)] == 1);
        // With room in the list nothing is made anew.
        const DebugLine<D>* const room = lines.data();
        lines.clear();
        append_debug_lines<D>(mounted, anchor, readings, lines, 16);
        CHECK(lines.data() == room);
    };
    check_in(platform());
    LevelBuilder<3> builder({"stone"});
    builder.add("slab", "stone", RoundedHull<3>::box({0, -0.5, 0}, {8, 1, 8}));
    check_in(builder.build());
}

TEST_CASE("a pose is saved as a model of shapes and lines") {
    const Level<2> level = platform();
    Probe<2> probe = foot_ray<2>(0.42);
    probe.line().shape = RoundedHull<2>::ball({0, 0}, 0.1);
    const Rig<2> rig = rig_with<2>(probe, level.layers());
    const auto model =
        nlohmann::json::parse(saved_pose<2>(level, rig, {{0.0, 0.0}, {1.0, 0.0}}, "pose.gltf"));
    std::map<std::string, nlohmann::json> nodes;
    for (const auto& node : model["nodes"]) nodes[node["name"].get<std::string>()] = node;
    REQUIRE(nodes.size() == 4);
    CHECK(nodes["foot"]["extras"]["on"] == true);
    const auto accessor_of = [&](const std::string& name) {
        const auto& primitive = model["meshes"][nodes[name]["mesh"].get<std::size_t>()]["primitives"][0];
        CHECK(primitive.value("mode", 4) == (name.ends_with(" lines") ? 1 : 4));
        return model["accessors"][primitive["attributes"]["POSITION"].get<std::size_t>()];
    };
    // A body of half a width of 0.3, standing on its anchor; the ball of the cast came down on to the floor.
    CHECK(accessor_of("body")["min"][1].get<double>() == Approx(0.0).margin(1e-6));
    CHECK(accessor_of("body")["max"][0].get<double>() == Approx(0.3).margin(1e-3));
    CHECK(accessor_of("foot")["min"][1].get<double>() == Approx(0.0).margin(1e-3));
    CHECK(accessor_of("foot lines")["min"][1].get<double>() <= 0.0);
    CHECK(saved_pose<2>(level, rig, {{0.0, 0.0}, {1.0, 0.0}}, "pose.glb").starts_with("glTF"));
    CHECK_THROWS_AS(saved_pose<2>(level, rig, {{0.0, 0.0}, {1.0, 0.0}}, "pose.obj"), InvalidInput);
}

TEST_CASE("a page holds what it is given and refuses records without ticks") {
    const Level<2> level = platform();
    const Rig<2> rig = rig_with<2>(foot_ray<2>(0.1), level.layers());
    const Survey<2> result = survey<2>(level, rig);
    Page page("a </script> of a title");
    CHECK(page.add<2>(level, rig, result, {"it's.level.toml", "rig.toml"}) == 0);
    Drill<2> drill;
    drill.name = "short";
    drill.seconds = 0.1;
    PlayOptions<2> all;
    CHECK_THROWS_AS(page.add<2>(level, rig, drill, play<2>(level, rig, drill, all), "…"), InvalidInput);
    all.keep_readings = true;
    CHECK(page.add<2>(level, rig, drill, play<2>(level, rig, drill, all), "…") == 1);
    const std::string html = page.finish();
    const std::size_t start = html.find("id=\"data\">") + 10;
    const auto data = nlohmann::json::parse(html.substr(start, html.find("</script>", start) - start));
    CHECK(data["title"] == "a </script> of a title");
    CHECK(data["scenes"].size() == 1);  // both are on one level
    CHECK(data["reports"][0]["findings"].size() == result.findings.size());
    CHECK(data["reports"][1]["ticks"]["count"] == 6);
    // Ready for a shell.
    CHECK_THAT(data["reports"][0]["command"].get<std::string>(), Catch::Contains("'it'\\''s.level.toml'"));
    CHECK(html == [&] {
        Page again("a </script> of a title");
        again.add<2>(level, rig, result, {"it's.level.toml", "rig.toml"});
        again.add<2>(level, rig, drill, play<2>(level, rig, drill, all), "…");
        return again.finish();
    }());
}
