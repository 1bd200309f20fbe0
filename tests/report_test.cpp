// Words and figures.
#include <catch2/catch.hpp>

#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/survey_text.hpp"
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
    rig.signals[0].any = {rig.probes[0].name};
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
    CHECK(survey_text<2>(rig, result, few).find("smaller findings") != std::string::npos);
}

TEST_CASE("a survey without findings says so; one without signals does not claim to be well") {
    const auto level = platform();
    auto rig = rig_with<2>(foot_ray<2>(0.42), {"a layer with a rather long name", "grating"});
    rig.signals.clear();
    CHECK(survey_text<2>(rig, survey<2>(level, rig)).find("nothing is judged") != std::string::npos);
}

TEST_CASE("text is wrapped at spaces, by characters and not bytes") {
    CHECK(wrapped("one two three", 7) == std::vector<std::string>{"one two", "three"});
    CHECK(wrapped("°°° °°°", 7) == std::vector<std::string>{"°°° °°°"});
    CHECK(wrapped("unbreakable", 4) == std::vector<std::string>{"unbreakable"});
    CHECK(wrapped("", 4).empty());
    CHECK(plain(0.1 + 0.2) == "0.3");
    CHECK(plain(-1e-17) == "0");
    CHECK(plain(1234.5678) == "1235");
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
