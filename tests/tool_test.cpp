// The command line, as its users meet it.
#include <sys/wait.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <functional>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>

namespace fs = std::filesystem;
using Json = nlohmann::json;

namespace {

struct Run {
    int code = -1;
    std::string out;
    std::string err;
};

std::string content(const fs::path& path) {
    std::ifstream in(path, std::ios::binary);
    std::stringstream text;
    text << in.rdbuf();
    return text.str();
}

/// A folder of its own with level and rig files, and the tool run in it.
class Bench {
  public:
    Bench() : folder_(fs::temp_directory_path() / ("hollow-probe-tool-" + std::to_string(getpid()))) {
        fs::create_directories(folder_);
    }
    ~Bench() { fs::remove_all(folder_); }
    Bench(const Bench&) = delete;
    Bench& operator=(const Bench&) = delete;

    void file(const std::string& name, const std::string& text) const {
        std::ofstream(folder_ / name, std::ios::binary) << text;
    }
    [[nodiscard]] fs::path path(const std::string& name) const { return folder_ / name; }

    [[nodiscard]] Run run(const std::string& arguments) const {
        const std::string command =
            "cd '" + folder_.string() + "' && '" TOOL "' " + arguments + " >stdout.txt 2>stderr.txt";
        const int status = std::system(command.c_str());
        return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, content(folder_ / "stdout.txt"),
                content(folder_ / "stderr.txt")};
    }

    /// … and sent two interrupts some milliseconds apart, so many seconds after it began to listen for them.
    [[nodiscard]] Run interrupted(const std::string& arguments, int seconds) const {
        std::ofstream(folder_ / "interrupt.sh")
            << "env --default-signal=INT '" TOOL "' " << arguments << " >stdout.txt 2>stderr.txt &\n"
            << "for wait in $(seq 600); do\n"
            << "    grep -q 'SigBlk:.*[2367abef]$' /proc/$!/status && break\n"
            << "    sleep 0.1\n"
            << "done\n"
            << "sleep " << seconds << "; kill -INT $!\n"
            << "for wait in $(seq 9999); do :; done; kill -INT $!; wait $!\n";
        const int status = std::system(("cd '" + folder_.string() + "' && sh interrupt.sh").c_str());
        return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, content(folder_ / "stdout.txt"),
                content(folder_ / "stderr.txt")};
    }

    /// Surveys level.toml with rig.toml; the result as JSON.
    [[nodiscard]] Json survey(const std::string& options = "") const {
        const Run result = run("survey level.toml rig.toml --json - " + options);
        INFO(result.err);
        REQUIRE(result.code <= 1);
        return Json::parse(result.out);
    }

  private:
    fs::path folder_;
};

std::string level_2d(const std::string& solids, const std::string& layers = "\"m\"",
                     const std::string& up = "[0, 1]") {
    return "format = \"hollow-probe level 1\"\ndimensions = 2\nup = " + up + "\nlayers = [" + layers + "]\n" +
           solids;
}

std::string solid(const std::string& name, const std::string& shape, const std::string& layer = "m") {
    return "[[solid]]\nname = \"" + name + "\"\nlayer = \"" + layer + "\"\n" + shape + "\n";
}

std::string rig_2d(const std::string& probe,
                   const std::string& stance = "capsule = { radius = 0.3, height = 1.8 }",
                   const std::string& meets = "\"m\"") {
    return "format = \"hollow-probe rig 1\"\ndimensions = 2\n[body]\nmeets = [" + meets +
           "]\n[[body.stance]]\nname = \"upright\"\n" + stance + "\n[[probe]]\nname = \"foot\"\n" + probe +
           "\n[[signal]]\nname = \"grounded\"\nclaims = \"ground\"\nany = [\"foot\"]\n";
}

const std::string walls = solid("left wall", "box = { center = [-0.5, 1.5], size = [1, 5] }") +
                          solid("right wall", "box = { center = [6.5, 1.5], size = [1, 5] }");
const std::string floor_box = "box = { center = [3, -0.5], size = [6, 1] }";

std::vector<Json> findings_on(const Json& survey, const std::string& name, const std::string& verdict) {
    std::vector<Json> result;
    for (const Json& finding : survey["findings"]) {
        if (finding["solid"] == name && finding["verdict"] == verdict) result.push_back(finding);
    }
    return result;
}

}  // namespace

TEST_CASE("(a) through the tool: a ray short by 0.05") {
    Bench bench;
    bench.file("level.toml", level_2d(solid("floor", floor_box) + walls));
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nreach = 0.37\nsees = [\"m\"]"));
    const Json survey = bench.survey();
    CHECK(survey["signals"]["grounded"]["true_contact"] == 0);
    const auto found = findings_on(survey, "floor", "missed_contact");
    REQUIRE(found.size() == 1);
    CHECK(found[0]["causes"][0]["cause"] == "reach_short");
    CHECK(found[0]["causes"][0]["by"].get<double>() == Approx(0.05).margin(1e-6));
    CHECK(std::stod(found[0]["causes"][0]["needs"].get<std::string>()) == Approx(0.42).margin(1e-6));
    CHECK(found[0]["causes"][0]["cures"] == found[0]["count"]);
}

TEST_CASE("(b) through the tool: a floor layer forgotten") {
    Bench bench;
    bench.file("level.toml", level_2d(solid("floor", floor_box, "grating") + walls, "\"m\", \"grating\""));
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nreach = 0.42\nsees = [\"m\"]",
                                  "capsule = { radius = 0.3, height = 1.8 }", "\"m\", \"grating\""));
    const auto found = findings_on(bench.survey(), "floor", "missed_contact");
    REQUIRE(found.size() == 1);
    CHECK(found[0]["causes"][0]["cause"] == "layer_unseen");
    CHECK(found[0]["causes"][0]["needs"] == "[\"m\", \"grating\"]");
}

TEST_CASE("(c) through the tool: the strip at each lip") {
    Bench bench;
    bench.file("level.toml", level_2d(solid("platform", floor_box)));
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nreach = 0.42\nsees = [\"m\"]"));
    const Json survey = bench.survey("--spacing 0.2");
    REQUIRE(survey["findings"].size() == 2);
    for (const Json& finding : survey["findings"]) {
        const double width =
            finding["bounds"]["high"][0].get<double>() - finding["bounds"]["low"][0].get<double>();
        CHECK(width == Approx(0.3 * std::sin(std::acos(-1.0) / 4)).epsilon(0.01));
        CHECK(finding["causes"][0]["cause"] == "aimed_beside");
    }
}

TEST_CASE("(d) through the tool: a 50° ramp, and one of 44.9°") {
    Bench bench;
    const auto ramp = [](double angle) {
        std::ostringstream text;
        text.precision(17);
        text << "polygon = { points = [[0, -1], [3, -1], [3, "
             << 3.0 * std::tan(angle * std::acos(-1.0) / 180.0) << "], [0, 0]] }";
        return level_2d(solid("ramp", text.str()));
    };
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nreach = 0.6\nsees = [\"m\"]"));
    bench.file("level.toml", ramp(50.0));
    std::size_t steep = 0;
    for (const Json& finding : findings_on(bench.survey(), "ramp", "false_contact")) {
        for (const Json& cause : finding["causes"]) {
            if (cause["cause"] != "too_steep") continue;
            ++steep;
            CHECK(cause["by"].get<double>() == Approx(5.0).margin(1e-6));
            CHECK(cause["needs"] == "45.0");
        }
    }
    CHECK(steep == 1);
    bench.file("level.toml", ramp(44.9));
    const Json gentle = bench.survey();
    for (const Json& finding : gentle["findings"]) CHECK(finding["causes"][0]["cause"] != "too_steep");
}

TEST_CASE("(e) through the tool: a box cast 0.02 wider than the body beside a wall") {
    Bench bench;
    bench.file("level.toml", level_2d(solid("pit", "box = { center = [0, -4.5], size = [6, 1] }") +
                                      solid("wall", "box = { center = [1.5, -2], size = [1, 4] }")));
    bench.file("rig.toml", rig_2d("kind = \"cast\"\nshape = { box = { size = [0.62, 0.1] } }\nfrom = [0, "
                                  "0.4]\nreach = 0.37\nsees = [\"m\"]",
                                  "box = { size = [0.6, 1.8] }"));
    std::size_t wide = 0;
    for (const Json& finding : findings_on(bench.survey("--spacing 0.005"), "wall", "false_contact")) {
        const Json& cause = finding["causes"][0];
        if (cause["cause"] != "wider_than_body" || finding["bounds"]["low"][1].get<double>() > -1.0) continue;
        ++wide;
        CHECK(cause["by"].get<double>() == Approx(0.01 + 0.02).margin(1e-4));
        CHECK(std::stod(cause["needs"].get<std::string>()) == Approx(0.6 - 2 * 0.02).margin(2e-4));
    }
    CHECK(wide >= 2);
}

TEST_CASE("(f) through the tool: up = -y") {
    Bench bench;
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nreach = 0.45\nsees = [\"m\"]"));
    bench.file("level.toml", level_2d(solid("floor", "box = { center = [3, -0.5], size = [6, 1] }") +
                                      solid("step", "box = { center = [2.5, 0.2], size = [1, 0.4] }")));
    const Json upright = bench.survey();
    bench.file("level.toml", level_2d(solid("floor", "box = { center = [3, 0.5], size = [6, 1] }") +
                                          solid("step", "box = { center = [2.5, -0.2], size = [1, 0.4] }"),
                                      "\"m\"", "[0, -1]"));
    const Json turned = bench.survey();
    CHECK(upright["signals"]["grounded"]["missed_contact"] > 0);
    for (const char* verdict :
         {"true_contact", "missed_contact", "false_contact", "true_clear", "undecided"}) {
        CHECK(upright["signals"]["grounded"][verdict] == turned["signals"]["grounded"][verdict]);
    }
}

TEST_CASE("(g) through the tool: threads do not change a byte") {
    Bench bench;
    const std::string data = PROJECT_FOLDER "/data/demo/";
    for (const std::string& pair :
         {data + "culvert.level.toml " + data + "keeper-first-try.rig.toml --budget 40000",
          data + "pumphouse.level.toml " + data +
              "keeper-first-try-3d.rig.toml --spacing 0.9 --headings 2"}) {
        const Run one = bench.run("survey " + pair + " --threads 1 --json -");
        CHECK(one.code == 1);
        CHECK(bench.run("survey " + pair + " --threads 2 --json -").out == one.out);
        CHECK(bench.run("survey " + pair + " --threads 7 --json -").out == one.out);
    }
}

TEST_CASE("the JSON has what its documentation lists, and counts that add up") {
    Bench bench;
    bench.file("level.toml", level_2d(solid("platform", floor_box)));
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nreach = 0.42\nsees = [\"m\"]"));
    const Json survey = bench.survey();
    const std::string documentation = content(PROJECT_FOLDER "/docs/survey-json.md");
    const std::function<void(const Json&)> every_key_is_documented = [&](const Json& json) {
        for (const auto& [key, value] : json.items()) {
            if (json.is_object() && key != "grounded") {
                INFO(key);
                CHECK(documentation.find("`" + key + "`") != std::string::npos);
            }
            if (value.is_structured()) every_key_is_documented(value);
        }
    };
    every_key_is_documented(survey);
    const Json& signal = survey["signals"]["grounded"];
    std::size_t sum = 0;
    for (const char* verdict : {"true_contact", "missed_contact", "false_contact", "true_clear", "undecided"})
        sum += signal[verdict].get<std::size_t>();
    CHECK(sum == survey["poses"].get<std::size_t>());
    CHECK(survey["grid_poses"].get<std::size_t>() + survey["border_poses"].get<std::size_t>() == sum);
    std::size_t wrong = 0;
    for (const Json& finding : survey["findings"]) wrong += finding["count"].get<std::size_t>();
    CHECK(wrong == signal["missed_contact"].get<std::size_t>() + signal["false_contact"].get<std::size_t>());
}

TEST_CASE("exit codes: 0 all well, 1 wrong verdicts, 2 bad input or usage") {
    Bench bench;
    const std::string data = PROJECT_FOLDER "/data/demo/";
    const std::string level = data + "culvert.level.toml ";
    const Run sound = bench.run("survey " + level + data + "keeper.rig.toml");
    CHECK(sound.code == 0);
    CHECK(sound.out.find("No finding") != std::string::npos);
    const Run faulty = bench.run("survey " + level + data + "keeper-first-try.rig.toml");
    CHECK(faulty.code == 1);
    CHECK(faulty.out.find("does not see its layer") != std::string::npos);
    CHECK(faulty.out.find('\x1b') == std::string::npos);
    CHECK(faulty.err.empty());
    for (const char* wrong : {"", "--no-such", "survey", "survey one.toml", "survey a b --threads -1",
                              "survey a b --spacing 0", "survey a b --spacing nan", "draw a b",
                              "draw a --figure x.jpg", "draw a --html nowhere/x.html", "nonsense"}) {
        INFO(wrong);
        const Run run = bench.run(wrong);
        CHECK(run.code == 2);
        CHECK_FALSE((run.out + run.err).empty());
    }
    for (const char* wrong : {"--keep ''", "--json ''", "--write-cure ''"}) {
        INFO(wrong);
        const Run run = bench.run("survey " + level + data + "keeper.rig.toml " + wrong);
        CHECK(run.code == 2);
        CHECK_THAT(run.err, Catch::Contains("is empty"));
    }
    // What cannot be written is refused before anything is looked for.
    const Run nowhere = bench.run("propose " + level + "--body capsule:0.3x1.8 --write /dev/null/rig.toml");
    CHECK(nowhere.code == 2);
    CHECK_THAT(nowhere.err, Catch::Contains("/dev/null/rig.toml:1:1: cannot be written"));
    for (const char* help : {"--help", "--version", "survey --help", "draw --help", "demo --help"}) {
        INFO(help);
        const Run run = bench.run(help);
        CHECK(run.code == 0);
        CHECK_FALSE(run.out.empty());
    }
}

TEST_CASE("--allow sets how many wrong poses a survey may find before its exit code says so") {
    Bench bench;
    const std::string faulty = "survey " PROJECT_FOLDER "/data/demo/culvert.level.toml " PROJECT_FOLDER
                               "/data/demo/keeper-first-try.rig.toml --json - ";
    const auto counts = nlohmann::json::parse(bench.run(faulty).out)["signals"]["grounded"];
    const int missed = counts["missed_contact"];
    const int falsely = counts["false_contact"];
    REQUIRE(missed > 0);
    REQUIRE(falsely == 0);
    CHECK(bench.run(faulty + "--allow missed=" + std::to_string(missed)).code == 0);
    CHECK(bench.run(faulty + "--allow false=0,missed=" + std::to_string(missed)).code == 0);
    CHECK(bench.run(faulty + "--allow missed=" + std::to_string(missed - 1) + ",false=5").code == 1);
    CHECK(bench.run(faulty + "--allow false=100000").code == 1);
    for (const char* wrong :
         {"missed", "missed=", "missed=-1", "missed=1.5", "misses=1", "missed=1,", "=1", ","}) {
        INFO(wrong);
        const Run run = bench.run(faulty + "--allow " + wrong);
        CHECK(run.code == 2);
        CHECK(run.out.empty());
        CHECK(run.err.find("missed=0,false=0") != std::string::npos);
    }
}

TEST_CASE("bad files: exit 2, the place on standard error, nothing on standard output") {
    Bench bench;
    bench.file("level.toml", level_2d(solid("floor", floor_box)));
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nreach = 0.4\nsees = [\"m\"]"));
    const auto refused = [&](const std::string& arguments, const std::string& says) {
        const Run run = bench.run(arguments);
        INFO(arguments << "\n" << run.out << run.err);
        CHECK(run.code == 2);
        CHECK(run.out.empty());
        CHECK(run.err.find(says) != std::string::npos);
    };
    refused("survey gone.toml rig.toml", "gone.toml:1:1: there is no such file");
    refused("survey level.toml gone.toml", "gone.toml:1:1: there is no such file");
    refused("survey level.toml level.toml",
            "level.toml:1:10: 'format' is \"hollow-probe level 1\", expected one of hollow-probe rig 1");
    bench.file("bad.toml", rig_2d("kind = \"ray\"\nreach = 0.4\nsees = [\"grass\"]"));
    refused("survey level.toml bad.toml", "bad.toml:12:9: there is no layer 'grass', expected one of m");
    bench.file("rig3.toml", "format = \"hollow-probe rig 1\"\ndimensions = 3\n");
    refused("survey level.toml rig3.toml",
            "rig3.toml:2:14: the rig has dimensions = 3 but the level has dimensions = 2");
    bench.file("empty.toml", level_2d(""));
    refused("survey empty.toml rig.toml", "empty.toml:1:1: the level is empty");
    refused("survey level.toml rig.toml --stance flying", "no stance 'flying'");
    refused("survey level.toml rig.toml --spacing 1e-9", "50 million columns");
    refused("draw level.toml rig.toml --figure x.svg --start nowhere", "no start point 'nowhere'");
    refused("draw level.toml rig.toml --figure x.svg --at 1,2,3", "--at: has 3 numbers, expected 2");
    refused("draw level.toml rig.toml --figure x.svg --at 1,nan", "not finite");
    refused("draw level.toml rig.toml --figure x.svg", "say where the body stands with --at");
    CHECK_FALSE(fs::exists(bench.path("x.svg")));
}

TEST_CASE("an output that cannot be written is refused before the work, and leaves nothing") {
    Bench bench;
    bench.file("level.toml", level_2d(solid("floor", floor_box)));
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nreach = 0.4\nsees = [\"m\"]"));
    const Run nowhere = bench.run("survey level.toml rig.toml --json nowhere/x.json --figure y.svg");
    CHECK(nowhere.code == 2);
    CHECK(nowhere.err.find("nowhere/x.json:1:1: cannot be written") != std::string::npos);
    CHECK_FALSE(fs::exists(bench.path("y.svg")));
    fs::create_directory(bench.path("folder"));
    CHECK(bench.run("survey level.toml rig.toml --json folder").code == 2);
    // A full disk shows only while writing.
    if (fs::exists("/dev/full")) {
        const Run full = bench.run("survey level.toml rig.toml --json /dev/full");
        CHECK(full.code == 2);
        CHECK(full.err.find("/dev/full:1:1: cannot be written") != std::string::npos);
    }
}

TEST_CASE("draw writes figures of both kinds, with and without verdicts, in 2D and 3D") {
    Bench bench;
    const std::string data = PROJECT_FOLDER "/data/demo/";
    const std::string culvert = data + "culvert.level.toml ";
    const std::string pumphouse = data + "pumphouse.level.toml ";
    CHECK(bench.run("draw " + culvert + "--figure level.svg").code == 0);
    CHECK(bench.run("draw " + culvert + data + "keeper.rig.toml --figure start.png --start 'weir crest'")
              .code == 0);
    CHECK(bench
              .run("draw " + culvert + data +
                   "keeper.rig.toml --figure at.svg --at=-3,0 --stance crawling --heading=-1,0")
              .code == 0);
    CHECK(bench.run("draw " + culvert + data + "keeper-first-try.rig.toml --figure verdicts.svg --verdicts")
              .code == 0);
    CHECK(bench.run("draw " + pumphouse + data + "keeper-3d.rig.toml --figure house.png --start door").code ==
          0);
    for (const char* name : {"level.svg", "at.svg", "verdicts.svg"})
        CHECK(content(bench.path(name)).starts_with("<?xml"));
    for (const char* name : {"start.png", "house.png"})
        CHECK(content(bench.path(name)).starts_with("\x89PNG"));
    const Run readings =
        bench.run("draw " + culvert + data + "keeper.rig.toml --figure x.svg --at 13.4,2.01 --json -");
    const Json json = Json::parse(readings.out);
    CHECK(json["probes"]["soles"]["hit"]["distance"].get<double>() == Approx(0.01));
    CHECK(json["probes"]["soles"]["hit"]["solid"] == "weir");
    CHECK(json["signals"]["grounded"]["on"] == true);
    CHECK(json["signals"]["grounded"]["truth"] == true);
}

TEST_CASE("--html writes a page that needs nothing else, with names made harmless") {
    Bench bench;
    bench.file("level.toml", level_2d(solid("<script>alert(1)</script> & more", floor_box)));
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nreach = 0.42\nsees = [\"m\"]"));
    CHECK(bench.run("survey level.toml rig.toml --html page.html").code == 1);
    const std::string page = content(bench.path("page.html"));
    CHECK(page.starts_with("<!doctype html>"));
    // Its own scripts and nothing else: names can begin no tag.
    CHECK(page.find("alert(1)") != std::string::npos);
    CHECK(page.find("<script>alert") == std::string::npos);
    CHECK(page.find("aimed_beside") != std::string::npos);
    for (const char* outside : {"src=", "@import", "url(http", "href=\"http"})
        CHECK(page.find(outside) == std::string::npos);
    CHECK(bench.run("draw level.toml rig.toml --at 1,0 --html pose.html").code == 0);
    CHECK(content(bench.path("pose.html")).find("<svg") != std::string::npos);
}

namespace {

/// What a page shows, as its modules read it.
Json data_of_page(const std::string& html) {
    const std::size_t start = html.find("id=\"data\">") + 10;
    return Json::parse(html.substr(start, html.find("</script>", start) - start));
}

}  // namespace

TEST_CASE("--before puts a second rig on the page, surveyed alike") {
    Bench bench;
    bench.file("level.toml", level_2d(solid("floor", floor_box)));
    const std::string probe = "kind = \"ray\"\nfrom = [0, 0.4]\nsees = [\"m\"]\nreach = ";
    bench.file("short.toml", rig_2d(probe + "0.3"));
    bench.file("long.toml", rig_2d(probe + "0.42"));
    CHECK(bench.run("survey level.toml long.toml --before short.toml --spacing 0.3 --html page.html").code ==
          1);
    const Json page = data_of_page(content(bench.path("page.html")));
    CHECK(page["compares"] == true);
    REQUIRE(page["reports"].size() == 2);
    CHECK(page["reports"][0]["name"] == "long.toml");
    CHECK(page["reports"][1]["name"] == "short.toml");
    CHECK(page["scenes"].size() == 1);
    // The too short one misses everything; each is as its own survey has it.
    for (const auto& [number, rig] : {std::pair{0, "long"}, {1, "short"}}) {
        const Run run = bench.run(std::string("survey level.toml ") + rig + ".toml --spacing 0.3 --json -");
        const Json alone = Json::parse(run.out)["signals"].begin().value();
        const Json& there = page["reports"][static_cast<std::size_t>(number)]["signals"][0]["poses"];
        CHECK(there[0] == alone["true_contact"]);
        CHECK(there[1] == alone["missed_contact"]);
        CHECK(there[2] == alone["false_contact"]);
    }
    CHECK(page["reports"][1]["signals"][0]["poses"][0] == 0);
    // In words, and over the same poses: what the short one missed is mended, nothing is spoiled.
    const Json now = Json::parse(bench.run("survey level.toml long.toml --spacing 0.3 --json -").out);
    const Json told = Json::parse(
        bench.run("survey level.toml long.toml --spacing 0.3 --before short.toml --json -").out)["before"];
    const Json& pose_counts = now["signals"].begin().value();
    CHECK(told["same_poses"]["poses"] == now["poses"]);
    CHECK(told["same_poses"]["mended"] == pose_counts["true_contact"]);
    CHECK(told["same_poses"]["spoiled"] == 0);
    CHECK(told["same_poses"]["wrong_in_both"] == pose_counts["missed_contact"]);
    CHECK(told["wrong"]["missed_share"] == 1.0);
    std::size_t findings = 0;
    for (const char* kind : {"new", "unchanged"}) findings += told["findings"][kind].size();
    CHECK(findings == now["findings"].size());
    CHECK_THAT(bench.run("survey level.toml long.toml --spacing 0.3 --before short.toml").out,
               Catch::Contains("Before (short.toml): missed 100 % → "));
    bench.file("other.toml",
               rig_2d(probe + "0.3") + "[[signal]]\nname = \"more\"\nclaims = \"wall\"\nany = [\"foot\"]\n");
    CHECK_THAT(bench.run("survey level.toml long.toml --spacing 0.3 --before other.toml").out,
               Catch::Contains("different signals"));
}

TEST_CASE("draw paints blocks and writes models, and says what it cannot") {
    Bench bench;
    bench.file("level.toml", level_2d(solid("floor", floor_box)));
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nreach = 0.42\nsees = [\"m\"]"));
    const Run text = bench.run("draw level.toml rig.toml --at 0,0 --text");
    CHECK(text.code == 0);
    CHECK_THAT(text.out, Catch::Contains("▒") && Catch::Contains("█") && Catch::Contains("hits \"floor\""));
    CHECK_THAT(text.out, !Catch::Contains("\x1b["));  // no terminal, no colours
    CHECK(bench.run("draw level.toml rig.toml --at 0,0 --model pose.gltf").code == 0);
    const Json model = Json::parse(content(bench.path("pose.gltf")));
    CHECK(model["nodes"][0]["name"] == "body");
    CHECK(bench.run("draw level.toml rig.toml --at 0,0 --model pose.glb").code == 0);
    // What it writes it can read.
    CHECK(bench.run("level pose.glb").code == 0);
    for (const char* wrong : {"draw level.toml rig.toml --at 0,0 --model pose.obj",
                              "draw level.toml --model pose.glb", "draw level.toml rig.toml --at 0,0"}) {
        const Run run = bench.run(wrong);
        INFO(wrong);
        CHECK(run.code == 2);
        CHECK_THAT(run.err, Catch::Contains("expected") || Catch::Contains("must end in") ||
                                Catch::Contains("needs a rig file"));
    }
    CHECK_FALSE(fs::exists(bench.path("pose.obj")));
}

TEST_CASE("a shape written as a list is told how it is written") {
    Bench bench;
    bench.file("level.toml", level_2d(solid("slope", "polygon = [[0.0, 0.0], [2.0, 0.0], [2.0, 1.0]]")));
    const Run run = bench.run("level level.toml");
    CHECK(run.code == 2);
    CHECK_THAT(run.err, Catch::Contains("expected a table, e.g. polygon = { points = [["));
}

TEST_CASE("demo makes its folder and says in one closing line what it made") {
    Bench bench;
    const Run demo = bench.run("demo --out made");
    CHECK(demo.code == 0);
    const std::size_t last = demo.out.rfind('\n', demo.out.size() - 2) + 1;
    CHECK_THAT(demo.out, Catch::Contains("Made 36 files in made:"));
    CHECK_THAT(demo.out, Catch::Contains("\nTo look at first: made/keeper-first-try-on-culvert.html\n"));
    CHECK(demo.out.substr(last) ==
          "And by hand: hollow-probe live made/culvert.level.toml made/keeper-first-try.rig.toml --open\n");
    std::size_t files = 0;
    for ([[maybe_unused]] const auto& entry : fs::directory_iterator(bench.path("made"))) ++files;
    CHECK(files == 36);
    // What it ends with is clean, in the plane and in space.
    for (const char* pair : {"culvert.level.toml keeper-clean", "pumphouse.level.toml keeper-clean-3d"})
        CHECK(bench
                  .run(std::string("survey made/") +
                       std::string(pair).replace(std::string(pair).find(' '), 1, " made/") +
                       ".rig.toml --budget 20000")
                  .code == 0);
    for (const char* sound : {"keeper-on-culvert.json", "keeper-3d-on-pumphouse.json"}) {
        const Json json = Json::parse(content(bench.path(std::string("made/") + sound)));
        CHECK(json["findings"].empty());
        CHECK(json["signals"]["grounded"]["true_contact"] > 1000);
        CHECK(json["signals"]["grounded"]["recall"] == 1.0);
    }
    std::set<std::string> causes;
    const Json first_try = Json::parse(content(bench.path("made/keeper-first-try-on-culvert.json")));
    for (const Json& finding : first_try["findings"])
        for (const Json& cause : finding["causes"]) causes.insert(cause["cause"].get<std::string>());
    for (const char* planted : {"reach_short", "layer_unseen", "aimed_beside"})
        CHECK(causes.count(planted) == 1);
    // In motion the first try refuses jumps, and the sound rig none.
    const auto drill_of = [&](const char* name) {
        return Json::parse(content(bench.path("made/" + std::string(name) + ".json")))["drills"][0];
    };
    CHECK(drill_of("crossing-first-try")["figures"]["refused_jumps"] == 2.0);
    CHECK(drill_of("crossing")["kept"] == true);
    CHECK(drill_of("crossing")["figures"]["jumps"] == 3.0);
    CHECK(content(bench.path("made/crossing.png")).starts_with("\x89PNG"));
    const Run suite = bench.run("check made/station.suite.toml");
    INFO(suite.out << suite.err);
    CHECK(suite.code == 0);
    CHECK_THAT(suite.out, Catch::Contains("4 of 4 pass"));
}

namespace {

const std::string drill_rig = rig_2d(
                                  "kind = \"cast\"\nshape = { ball = { radius = 0.3 } }\nfrom = [0, "
                                  "0.3]\nalong = \"down\"\nreach = 0.02\n"
                                  "sees = [\"m\"]\naccept = { angle = [0, 45] }\ntake = \"all\"") +
                              "[[reflex]]\non = \"grounded\"\ndo = \"permit_jump\"\n";

/// A run to the right over a floor that ends at 6.
std::string drill_2d(const std::string& expect, const std::string& more = "") {
    return "format = \"hollow-probe drill 1\"\nlevel = \"level.toml\"\nrig = \"rig.toml\"\nat = [1, 0.01]\n"
           "seconds = 1.0\n" +
           more +
           "[motion]\ngravity = 20\njump_speed = 5\ntop_speed = 2\n"
           "[[cue]]\nat = 0.0\ndrive = [1, 0]\n[[cue]]\nat = 0.5\npress = \"jump\"\n[[expect]]\n" +
           expect + "\n";
}

const std::string drill_level = level_2d(
    solid("floor", floor_box) + "[[area]]\nname = \"below\"\nbox = { center = [7, -3], size = [4, 2] }\n");

}  // namespace

TEST_CASE("drill: a table, what broke in words, exit codes, other rates and phases, timelines and figures") {
    const Bench bench;
    bench.file("level.toml", drill_level);
    bench.file("rig.toml", drill_rig);
    bench.file("good.drill.toml", drill_2d("most = { missed_ticks = 0, false_ticks = 0 }"));
    bench.file("bad.drill.toml", drill_2d("most = { jumps = 0 }"));
    const Run good = bench.run("drill good.drill.toml");
    INFO(good.err);
    CHECK(good.code == 0);
    CHECK_THAT(good.out, Catch::Contains("kept 2 of 2") && Catch::Contains("jumps 1"));
    const Run both = bench.run("drill good.drill.toml bad.drill.toml --tick-rates 30,60 --phases 2");
    CHECK(both.code == 1);
    CHECK_THAT(both.out, Catch::Contains("jumps 1 (limit 0)"));
    CHECK_THAT(both.out, Catch::Contains("4 of 8 drills break an expectation"));
    const Run machine = bench.run(
        "drill good.drill.toml bad.drill.toml --json - --timeline t.csv --figure f.svg --html p.html");
    CHECK(machine.code == 1);
    const Json json = Json::parse(machine.out);
    CHECK(json["format"] == "hollow-probe drill result 1");
    CHECK(json["drills"].size() == 2);
    CHECK(json["drills"][0]["kept"] == true);
    CHECK(json["drills"][1]["broken"][0]["figure"] == "jumps");
    CHECK(json["drills"][1]["signals"]["grounded"]["missed_ticks"] == 0.0);
    // Those of the drill that breaks something.
    CHECK_THAT(content(bench.path("f.svg")), Catch::Contains("<svg"));
    CHECK_THAT(content(bench.path("p.html")), Catch::Contains("jumps 1 (limit 0)"));
    const std::string csv = content(bench.path("t.csv"));
    CHECK(std::count(csv.begin(), csv.end(), '\n') == 61);
    CHECK(bench.run("drill good.drill.toml --timeline t.jsonl").code == 0);
    CHECK(Json::parse(
              content(bench.path("t.jsonl")).substr(0, content(bench.path("t.jsonl")).find('\n')))["tick"] ==
          0);
    CHECK(bench.run("drill good.drill.toml --timeline t.txt").code == 2);
    CHECK(bench.run("drill gone.drill.toml").code == 2);
    bench.file("wrong.drill.toml", drill_2d("most = { jumsp = 0 }"));
    const Run wrong = bench.run("drill good.drill.toml wrong.drill.toml --json out.json");
    CHECK(wrong.code == 2);
    CHECK(wrong.out.empty());
    CHECK_THAT(wrong.err,
               Catch::Contains("wrong.drill.toml:17:18: there is no figure 'jumsp', did you mean 'jumps'"));
    CHECK_FALSE(fs::exists(bench.path("out.json")));
}

TEST_CASE("a drill that broke says why, and writes the rig that keeps it, in the author's words") {
    const Bench bench;
    bench.file("level.toml", drill_level);
    std::string rig = drill_rig;
    const std::string reach = "reach = ";
    const std::size_t at = rig.find(reach);
    REQUIRE(at != std::string::npos);
    const std::size_t end = rig.find('\n', at);
    rig.replace(at, end - at, "reach = 0.001  # as felt");
    bench.file("rig.toml", rig);
    bench.file("d.drill.toml", drill_2d("most = { missed_ticks = 0, false_ticks = 0 }"));
    const Run broken = bench.run("drill d.drill.toml --write-cure cured.toml");
    CHECK(broken.code == 1);
    CHECK_THAT(broken.out, Catch::Contains("misses first in"));
    CHECK_THAT(broken.out, Catch::Contains("reach 0.001 → 0.0"));
    CHECK_THAT(broken.out, Catch::Contains("keeps missed ticks"));
    CHECK_THAT(broken.out, Catch::Contains("replayed: broken 1 of 2 → 0"));
    CHECK(bench.run("drill d.drill.toml --write-cure x.toml --cure 0").code == 2);
    CHECK_FALSE(fs::exists(bench.path("x.toml")));
    const std::string cured = content(bench.path("cured.toml"));
    CHECK_THAT(cured, Catch::Contains("# as felt"));
    bench.file("rig.toml", cured);
    CHECK(bench.run("drill d.drill.toml").code == 0);
    CHECK_THAT(bench.run("drill d.drill.toml --write-cure x.toml").err, Catch::Contains("no drill breaks"));
    bench.file("rig.toml", rig);
    const Json json = Json::parse(bench.run("drill d.drill.toml --json -").out)["drills"][0];
    REQUIRE(!json["cures"].empty());
    CHECK(json["cures"][0]["mends"].size() == 1);
    CHECK(json["first"][0]["verdict"] == "missed_contact");
    CHECK(json["first"][0]["causes"] == Json({"reach_short"}));
    CHECK(json["first"][0]["cure"] == 1);
    CHECK(json["still_broken"] == 0);
    const Json none = Json::parse(bench.run("drill d.drill.toml --try 0 --json -").out)["drills"][0];
    CHECK(none["cures"].empty());
    CHECK(none["still_broken"].is_null());
    CHECK_THAT(bench.run("drill d.drill.toml --write-cure x.toml --cure 99").err,
               Catch::Contains("there is no cure 99"));
}

TEST_CASE("hunt writes the drill it finds, which breaks the same; the same seed finds the same") {
    const Bench bench;
    bench.file("level.toml", drill_level);
    bench.file("rig.toml", drill_rig);
    bench.file("edge.drill.toml", drill_2d("never_reaches = \"below\"", "tick_rate = 50\n"));
    const Run found = bench.run("hunt edge.drill.toml --seed 5 --ticks 50000");
    CHECK(found.code == 0);  // a second is too short to fall so deep
    CHECK_THAT(found.out, Catch::Contains("nothing found") && Catch::Contains("never reaches \"below\""));
    std::string longer = drill_2d("never_reaches = \"below\"");
    longer.replace(longer.find("seconds = 1.0"), 13, "seconds = 6.0");
    bench.file("edge.drill.toml", longer);
    CHECK(bench.run("hunt edge.drill.toml --seed 5 --threads 1").code == 1);
    const std::string once = content(bench.path("edge-found.drill.toml"));
    CHECK(bench.run("hunt edge.drill.toml --seed 5 --threads 2 --write again.drill.toml").code == 1);
    CHECK(content(bench.path("again.drill.toml")) == once);
    const Run replay = bench.run("drill edge-found.drill.toml --json -");
    CHECK(replay.code == 1);
    const Json json = Json::parse(replay.out)["drills"][0];
    CHECK(json["broken"][0]["area"] == "below");
    CHECK(json["seconds"] < 6.0);
    // What a hunt finds is explained as a drill is.
    bench.file("jumps.drill.toml", drill_2d("most = { jumps = 0 }"));
    const Run jumps = bench.run("hunt jumps.drill.toml --seed 1 --json -");
    CHECK(jumps.code == 1);
    const Json why = Json::parse(jumps.out)["drill"];
    CHECK(why["broken"][0]["figure"] == "jumps");
    CHECK(why["first"][0]["expectation"] == 1);
    CHECK(!why["cures"].empty());
    CHECK(Json::parse(bench.run("hunt jumps.drill.toml --seed 1 --try 0 --json -").out)["drill"]["cures"]
              .empty());
    // At several rates, one after the other; the drill found keeps the rate it was found at.
    const Run rates = bench.run("hunt edge.drill.toml --seed 5 --tick-rates 40,80 --write rate.drill.toml");
    CHECK(rates.code == 1);
    CHECK_THAT(rates.out, Catch::StartsWith("at 40/s: "));
    CHECK_THAT(content(bench.path("rate.drill.toml")), Catch::Contains("tick_rate = 40\n"));
    CHECK(bench.run("drill rate.drill.toml").code == 1);
    CHECK(bench.run("hunt edge.drill.toml --tick-rates 0").code == 2);
    CHECK_THAT(bench.run("hunt edge.drill.toml --try -1").err,
               Catch::Contains("'-1' should be a number, 0 or more"));
    CHECK_THAT(bench.run("drill edge.drill.toml --try -1").err,
               Catch::Contains("'-1' should be a number, 0 or more"));
}

TEST_CASE("parts of a survey, merged, say what the survey says, to the byte") {
    const Bench bench;
    bench.file("level.toml", level_2d(solid("floor", floor_box) + walls));
    bench.file("rig.toml",
               rig_2d("kind = \"ray\"\nfrom = [0.0, 0.4]\nalong = \"down\"\nreach = 0.35\nsees = [\"m\"]"));
    const Run whole = bench.run("survey level.toml rig.toml --budget 3000 --json whole.json");
    REQUIRE(whole.code == 1);
    for (int i = 1; i <= 3; ++i) {
        const std::string number = std::to_string(i);
        const Run part =
            bench.run("survey level.toml rig.toml --budget 3000 --part " + number + "/3 --into p" + number);
        CHECK(part.code == 0);
        CHECK_THAT(part.out, Catch::Contains("part " + number + " of 3"));
    }
    const Run merged = bench.run("merge p2 p3 p1 --json merged.json --threads 1");
    CHECK(merged.code == 1);
    CHECK(merged.out == whole.out);
    CHECK(content(bench.path("merged.json")) == content(bench.path("whole.json")));
    CHECK(bench.run("merge p1 p2 p3 --allow missed=100%").code == 0);
    // What is missing is named with the command that makes it up.
    const Run missing = bench.run("merge p1 p3 --json merged.json");
    CHECK(missing.code == 2);
    CHECK_THAT(
        missing.err,
        Catch::Contains("1 of 3 parts missing") &&
            Catch::Contains("hollow-probe survey level.toml rig.toml --budget=3000 --part 2/3 --into"));
    const std::string command = missing.err.substr(missing.err.find("survey level.toml"));
    CHECK(bench.run(command.substr(0, command.find("FILE")) + "p2").code == 0);
    CHECK(bench.run("merge p1 p2 p3").out == whole.out);
    // Parts of something else, twice the same, damaged, and files that are none.
    CHECK(bench.run("survey level.toml rig.toml --budget 3000 --seed 4 --part 2/3 --into other").code == 0);
    CHECK_THAT(bench.run("merge p1 other p3").err, Catch::Contains("other:1:1: is a part of something else"));
    CHECK_THAT(bench.run("merge p1 p2 p2").err, Catch::Contains("p2:1:1: is part 2 of 3, and so is p2"));
    std::string damaged = content(bench.path("p2"));
    damaged[damaged.size() / 2 + 400] = static_cast<char>(damaged[damaged.size() / 2 + 400] ^ 1);
    bench.file("damaged", damaged);
    CHECK_THAT(bench.run("merge p1 damaged p3").err, Catch::Contains("damaged:1:1: is damaged or cut short"));
    for (const char* const none : {"level.toml", "nothing"}) {
        const Run refused = bench.run(std::string("merge p1 p3 ") + none);
        CHECK(refused.code == 2);
        CHECK_THAT(refused.err, Catch::StartsWith(std::string(none) + ":1:1: "));
    }
    bench.file("rig.toml",
               rig_2d("kind = \"ray\"\nfrom = [0.0, 0.4]\nalong = \"down\"\nreach = 0.36\nsees = [\"m\"]"));
    const Run changed = bench.run("merge p1 p2 p3");
    CHECK(changed.code == 2);
    CHECK_THAT(changed.err, Catch::Contains("not what the parts were made from"));
    // Words that are no part, and what a part has not.
    for (const char* const wrong : {"0/2", "3/2", "2", "/2", "1/", "a/b", "1/2x", "-1/2", "1/100001"})
        CHECK_THAT(bench.run(std::string("survey level.toml rig.toml --into p --part=") + wrong).err,
                   Catch::Contains("is not understood, expected I/N"));
    CHECK(bench.run("survey level.toml rig.toml --part 1/2").code == 2);
    CHECK(bench.run("survey level.toml rig.toml --into p").code == 2);
    for (const char* const option :
         {"--json x", "--sarif x", "--before rig.toml", "--keep x", "--html x.html"}) {
        CHECK(bench.run(std::string("survey level.toml rig.toml --part 1/2 --into p ") + option).code == 2);
        CHECK_FALSE(fs::exists(bench.path("p")));
    }
    CHECK(bench.run("merge p1 p2 p3 --write found.toml").code == 2);
    CHECK(bench.run("merge").code == 2);
}

TEST_CASE("hunts with several seeds end with the first that finds, in one run or in parts") {
    const Bench bench;
    // Three hurdles, and hardly time enough: not every seed finds the way.
    std::string hurdles = drill_level;
    for (const char* const at : {"2.6", "3.9", "5.2"})
        hurdles += solid(std::string("hurdle at ") + at,
                         std::string("box = { center = [") + at + ", 0.3], size = [0.3, 0.6] }");
    bench.file("level.toml", hurdles);
    bench.file("rig.toml", drill_rig);
    std::string drill = drill_2d("never_reaches = \"below\"");
    drill.replace(drill.find("seconds = 1.0"), 13, "seconds = 3.3");
    drill.replace(drill.find("drive = [1, 0]"), 14, "drive = [-1, 0]");
    bench.file("edge.drill.toml", drill);
    // The seeds by themselves, with few ticks: from one that finds nothing to the next that does.
    constexpr int ticks = 1000;
    const std::string few = " --ticks " + std::to_string(ticks);
    int begin = -1;
    int first = -1;
    std::size_t played = 0;
    std::string found;
    for (int seed = 17; seed < 60 && first < 0; ++seed) {
        const Run one = bench.run("hunt edge.drill.toml --json - --try 0 --write one.drill.toml --seed " +
                                  std::to_string(seed) + few);
        const Json json = Json::parse(one.out);
        if (begin < 0 && json["found"] == true) continue;
        if (begin < 0) begin = seed;
        played += json["ticks"].get<std::size_t>();
        if (json["found"] == true) {
            first = seed;
            found = content(bench.path("one.drill.toml"));
        }
    }
    REQUIRE(first > begin);
    const std::string from = std::to_string(begin);
    const std::string series = "edge.drill.toml --seed " + from + " --seeds 20" + few;
    const Run whole = bench.run("hunt " + series + " --json whole.json --write whole.drill.toml --try 0");
    CHECK(whole.code == 1);
    CHECK_THAT(whole.out, Catch::Contains("by seed " + std::to_string(first)));
    CHECK(content(bench.path("whole.drill.toml")) == found);
    CHECK(Json::parse(content(bench.path("whole.json")))["ticks"] == played);
    for (int i = 1; i <= 3; ++i) {
        const std::string number = std::to_string(i);
        CHECK(bench.run("hunt " + series + " --part " + number + "/3 --into h" + number).code == 0);
    }
    const Run merged = bench.run("merge h3 h1 h2 --json merged.json --write merged.drill.toml");
    CHECK(merged.code == 1);
    CHECK(content(bench.path("merged.drill.toml")) == found);
    const Json merged_json = Json::parse(content(bench.path("merged.json")));
    CHECK(merged_json["ticks"] == played);
    CHECK(merged_json["expectations"] == Json::parse(content(bench.path("whole.json")))["expectations"]);
    const Run missing = bench.run("merge h1 h3");
    CHECK(missing.code == 2);
    CHECK_THAT(missing.err,
               Catch::Contains("hollow-probe hunt edge.drill.toml --seed=" + from + " --seeds=20"));
    CHECK(bench.run("merge h1 h2 h3 --sarif x").code == 2);
    CHECK(bench.run("hunt edge.drill.toml --seeds 0").code == 2);
    CHECK(bench.run("hunt edge.drill.toml --part 1/2 --into h --json x").code == 2);
    // A drill that is not what it was then.
    bench.file("edge.drill.toml", drill + "# changed\n");
    CHECK_THAT(bench.run("merge h1 h2 h3").err, Catch::Contains("not what the parts were made from"));
}

TEST_CASE("hunt finds a way to an area that is to be reached, or says how long it looked") {
    const Bench bench;
    bench.file("level.toml", drill_level);
    bench.file("rig.toml", drill_rig);
    std::string goal = drill_2d("reaches = \"below\"");
    bench.file("short.drill.toml", goal);
    const Run none = bench.run("hunt short.drill.toml --ticks 20000 --json -");
    CHECK(none.code == 1);
    CHECK(Json::parse(none.out)["sought"] == "a way");
    CHECK(Json::parse(none.out)["found"] == false);
    CHECK_THAT(bench.run("hunt short.drill.toml --ticks 20000").out,
               Catch::Contains("not found in 2") && Catch::Contains("reaches \"below\""));
    goal.replace(goal.find("seconds = 1.0"), 13, "seconds = 6.0");
    bench.file("goal.drill.toml", goal);
    const Run way = bench.run("hunt goal.drill.toml --ticks 200000");
    CHECK(way.code == 0);
    CHECK_THAT(way.out, Catch::Contains("found a way") && Catch::Contains("comes to \"below\""));
    CHECK(bench.run("drill goal-found.drill.toml").code == 0);
}

TEST_CASE("check runs a suite, and says of each part whether it passed, for people and for servers") {
    const Bench bench;
    bench.file("level.toml", drill_level);
    bench.file("rig.toml", drill_rig);
    bench.file("good.drill.toml", drill_2d("most = { missed_ticks = 0, false_ticks = 0 }"));
    bench.file("bad.drill.toml", drill_2d("most = { jumps = 0 }"));
    const std::string good =
        "format = \"hollow-probe suite 1\"\n[[survey]]\nname = \"feet & floor\"\nlevel = \"level.toml\"\n"
        "rig = \"rig.toml\"\n[[drill]]\nfile = \"good.drill.toml\"\ntick_rates = [30, 60]\n";
    bench.file("suite.toml", good);
    const Run passes = bench.run("check suite.toml --junit good.xml");
    INFO(passes.out << passes.err);
    CHECK(passes.code == 0);
    CHECK_THAT(passes.out, Catch::Contains("3 of 3 pass"));
    CHECK_THAT(content(bench.path("good.xml")), Catch::Contains("tests=\"3\" failures=\"0\" errors=\"0\"") &&
                                                    Catch::Contains("feet &amp; floor"));
    bench.file("suite.toml",
               good + "[[drill]]\nfile = \"bad.drill.toml\"\n[[hunt]]\ndrill = \"bad.drill.toml\"\n");
    const Run fails = bench.run("check suite.toml --junit bad.xml --json -");
    CHECK(fails.code == 1);
    const Json results = Json::parse(fails.out)["results"];
    CHECK(results.size() == 5);
    CHECK(results[3]["passed"] == false);
    CHECK(results[4]["kind"] == "hunt");
    CHECK(results[4]["passed"] == false);
    // What the hunt found is left beside the drill, and replays.
    CHECK(bench.run("drill bad-found.drill.toml").code == 1);
    CHECK_THAT(content(bench.path("bad.xml")),
               Catch::Contains("tests=\"5\" failures=\"2\"") && Catch::Contains("<failure message=\""));
    for (const auto& [text, expected] :
         {std::pair<std::string, std::string>{"", "the suite is empty"},
          {"[[hunt]]\ndrill = \"bad.drill.toml\"\nticks = 0\n", "expected 1 or more"}}) {
        bench.file("suite.toml", "format = \"hollow-probe suite 1\"\n" + text);
        const Run refused = bench.run("check suite.toml --junit refused.xml");
        CHECK(refused.code == 2);
        CHECK_THAT(refused.err, Catch::Contains(expected));
        CHECK_FALSE(fs::exists(bench.path("refused.xml")));
    }
}

TEST_CASE(
    "a suite's broken cases fail alone; known findings are told from new, worse, returned and gone ones") {
    const Bench bench;
    bench.file("level.toml", level_2d(walls + solid("floor", floor_box)));
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nreach = 0.3\nsees = [\"m\"]"));
    const Json found = Json::parse(bench.run("survey level.toml rig.toml --json -").out)["findings"];
    REQUIRE(found.size() >= 2);
    const auto suite_with = [&](const std::string& known) {
        bench.file("suite.toml",
                   "format = \"hollow-probe suite 1\"\n[[survey]]\nname = \"s\"\nlevel = \"level.toml\"\nrig "
                   "= \"rig.toml\"\n" +
                       known);
        return bench.run("check suite.toml --json - --junit out.xml");
    };
    const auto entry = [&](const Json& finding, const std::string& more) {
        return "[[survey.known]]\nid = " + finding["id"].dump() + "\nreason = \"so far\"\n" + more;
    };
    std::string all;
    for (const Json& finding : found) all += entry(finding, "");
    CHECK(suite_with(all).code == 0);
    // One that is not known, though counts alone would allow it.
    std::string but_one;
    for (std::size_t i = 1; i < found.size(); ++i) but_one += entry(found[i], "");
    const Run fresh = suite_with(but_one);
    CHECK(fresh.code == 1);
    const std::string note = Json::parse(fresh.out)["results"][0]["note"];
    CHECK_THAT(note, Catch::Contains("1 new (" + found[0]["id"].get<std::string>() + ")"));
    CHECK(Json::parse(fresh.out)["results"][0]["command"] == "hollow-probe survey level.toml rig.toml");
    CHECK(suite_with(but_one + entry(found[0], "measure = 1e-6\n")).code == 1);
    CHECK(suite_with(but_one + entry(found[0], "measure = 1e6\n")).code == 0);
    const Run returned = suite_with(but_one + entry(found[0], "mended = true\n"));
    CHECK(returned.code == 1);
    CHECK_THAT(returned.out, Catch::Contains("1 returned"));
    const Run gone = suite_with(all + "[[survey.known]]\nid = \"m-zzzzz\"\nreason = \"long ago\"\n");
    CHECK(gone.code == 0);
    CHECK_THAT(gone.out, Catch::Contains("1 gone (m-zzzzz)"));
    CHECK(suite_with("[[survey.known]]\nid = \"m-1\"\nreason = \"\"\n").code == 2);
    // Broken: a file that is not there, a region without a pose; the survey beside them still runs.
    const Run broken = suite_with(all +
                                  "[[survey]]\nname = \"t\"\nlevel = \"gone.toml\"\nrig = "
                                  "\"rig.toml\"\n[[drill]]\nfile = \"no.toml\"\n");
    CHECK(broken.code == 1);
    const Json results = Json::parse(broken.out)["results"];
    REQUIRE(results.size() == 3);
    CHECK(results[0]["passed"] == true);
    CHECK(results[1]["broken"] == true);
    CHECK(results[2]["broken"] == true);
    CHECK_THAT(content(bench.path("out.xml")), Catch::Contains("failures=\"0\" errors=\"2\"") &&
                                                   Catch::Contains("<error message=\"gone.toml"));
}

TEST_CASE("check holds a suite against a former result, and SARIF names the lines to change") {
    const Bench bench;
    bench.file("level.toml", level_2d(walls + solid("floor", floor_box)));
    const std::string probe = "kind = \"ray\"\nfrom = [0, 0.4]\nsees = [\"m\"]\nreach = ";
    bench.file("rig.toml", rig_2d(probe + "0.3"));
    bench.file("suite.toml",
               "format = \"hollow-probe suite 1\"\n[[survey]]\nlevel = \"level.toml\"\nrig = \"rig.toml\"\n");
    CHECK(bench.run("check suite.toml --baseline base.json").code == 1);  // wrong, and now the measure
    CHECK(bench.run("check suite.toml --baseline base.json").code == 0);
    // Worse is not written over it.
    const std::string kept = content(bench.path("base.json"));
    bench.file("rig.toml", rig_2d(probe + "1.2"));
    CHECK(bench.run("check suite.toml --baseline base.json").code == 1);
    CHECK(content(bench.path("base.json")) == kept);
    // Better is.
    bench.file("rig.toml", rig_2d(probe + "0.42"));
    CHECK(bench.run("check suite.toml --baseline base.json --sarif log.json").code <= 1);
    bench.file("base.json", "{}");
    const Run refused = bench.run("check suite.toml --baseline base.json");
    CHECK(refused.code == 2);
    CHECK_THAT(refused.err, Catch::Contains("base.json:1:1: this is no result of check"));
    const Run surveyed = bench.run("survey level.toml rig.toml --sarif log.json --json -");
    CHECK(surveyed.code == 1);
    const Json findings = Json::parse(surveyed.out)["findings"];
    const Json log = Json::parse(content(bench.path("log.json")));
    CHECK(log["version"] == "2.1.0");
    const Json& results = log["runs"][0]["results"];
    REQUIRE(results.size() == findings.size());
    const std::string text = content(bench.path("rig.toml"));
    for (std::size_t i = 0; i < results.size(); ++i) {
        CHECK(results[i]["partialFingerprints"]["finding"] == findings[i]["id"]);
        const Json& place = results[i]["locations"][0]["physicalLocation"];
        CHECK(place["artifactLocation"]["uri"] == "rig.toml");
        // The line has the key, or names the probe that is to get it.
        std::istringstream lines(text);
        std::string line;
        for (std::size_t n = 0; n < place["region"]["startLine"].get<std::size_t>(); ++n)
            std::getline(lines, line);
        const Json& edits = findings[i]["causes"][0]["edits"];
        const std::string key = edits.empty() ? "name" : edits[0]["key"].get<std::string>();
        const bool named = line.starts_with(key.substr(0, key.find('.'))) || line.starts_with("name");
        CHECK(named);
    }
}

TEST_CASE("level says what a level is made of, for people and for machines") {
    const Bench bench;
    bench.file(
        "yard.level.toml",
        "format = \"hollow-probe level 1\"\ndimensions = 2\nlayers = [\"m\", \"grating\"]\n"
        "[[solid]]\nname = \"slab\"\nlayer = \"m\"\nbox = { center = [0, 0], size = [2, 1] }\n"
        "[[solid]]\nname = \"next slab\"\nlayer = \"m\"\nbox = { center = [2.004, 0], size = [2, 1] }\n"
        "[[solid]]\nname = \"hatch\"\nlayer = \"grating\"\none_way = [0, 1]\n"
        "polyline = { points = [[0, 2], [1, 2], [2, 3]] }\n");
    const Run words = bench.run("level yard.level.toml --gaps 0.01");
    CHECK(words.code == 0);
    CHECK_THAT(words.out, Catch::Contains("2D") && Catch::Contains("3 solids: 2 segments, 2 convex pieces"));
    CHECK_THAT(words.out, Catch::Contains("next slab") && Catch::Contains("open, one-way"));
    CHECK_THAT(words.out, Catch::Contains("2 open edges") && Catch::Contains("1 narrow gap"));
    CHECK_THAT(words.out, Catch::Contains("0.004 wide"));
    const Run machine = bench.run("level yard.level.toml --gaps 0.01 --json -");
    const Json json = Json::parse(machine.out);
    CHECK(json["format"] == "hollow-probe level report 1");
    CHECK(json["pieces"] == 4);
    CHECK(json["solids"][2]["name"] == "hatch");
    CHECK(json["solids"][2]["one_way"] == Json({0.0, 1.0}));
    CHECK(json["solids"][2]["odd"]["open_edges"] == 2);
    CHECK(json["solids"][0]["closed"] == false);
    CHECK(json["bounds"]["high"][0].get<double>() == Approx(3.004));
    CHECK(json["odd_places"].size() == 3);
    CHECK_THAT(bench.run("level yard.level.toml --gaps -1").err, Catch::Contains("gaps"));
    CHECK(bench.run("level yard.level.toml --gaps -1").code == 2);
}

TEST_CASE("level tells what moves, what is sensed at times only, areas and claims") {
    const Bench bench;
    bench.file("yard.level.toml",
               level_2d(solid("slab", floor_box) +
                        solid("deck",
                              "box = { center = [3, 1], size = [1, 0.2] }\n"
                              "path = { stops = [[0, 0], [0, 3]], pace = 1.5, wait = 0.5 }") +
                        solid("ramp",
                              "box = { center = [5, 1], size = [1, 0.2] }\n"
                              "sensed_when = { stances = [\"upright\"], slowest = 2.5 }") +
                        "[[area]]\nname = \"loft\"\nbox = { center = [3, 4], size = [2, 1] }\n"
                        "[[claim]]\narea = \"loft\"\ntruth = \"ground\"\nis = \"never\"\n"));
    const Run words = bench.run("level yard.level.toml");
    CHECK(words.code == 0);
    // There and back at 1.5 is 4 s, and 0.5 s at each end.
    CHECK_THAT(words.out, Catch::Contains("moves at 1.5 between 2 stops, round in 5 s"));
    CHECK_THAT(words.out, Catch::Contains("sensed when upright, at 2.5 or faster"));
    CHECK_THAT(words.out, Catch::Contains("loft from (2, 3.5) to (4, 4.5)"));
    CHECK_THAT(words.out, Catch::Contains("ground is never true in loft"));
    const Json json = Json::parse(bench.run("level yard.level.toml --json -").out);
    CHECK(json["solids"][1]["path"]["period"].get<double>() == Approx(5.0));
    CHECK(json["solids"][2]["sensed_when"]["slowest"] == 2.5);
    CHECK(json["areas"][0]["high"] == Json({4.0, 4.5}));
    CHECK(json["claims"][0]["is"] == "never");
}

TEST_CASE("--write-cure writes a rig that the next survey finds better, in the author's words") {
    const Bench bench;
    bench.file("level.toml", level_2d(walls + solid("floor", floor_box)));
    const std::string rig = rig_2d(
        "kind = \"cast\"  # as in the old game\nshape = { ball = { radius = 0.3 } }\nfrom = [0, 0.3]\n"
        "along = \"down\"\nreach = 0.01\nsees = [\"m\"]\naccept = { angle = [0, 45] }\ntake = \"all\"");
    bench.file("rig.toml", rig);
    const Run first = bench.run("survey level.toml rig.toml --write-cure cured.toml");
    CHECK(first.code == 1);
    CHECK_THAT(first.out, Catch::Contains("Written to cured.toml, and surveyed anew: missed 25 % → 0"));
    const std::string cured = content(bench.path("cured.toml"));
    CHECK_THAT(cured, Catch::Contains("kind = \"cast\"  # as in the old game"));
    CHECK(cured != rig);
    CHECK(bench.run("survey level.toml cured.toml").code == 0);
    // There is nothing left to cure, and that is said before anything is written.
    const Run again = bench.run("survey level.toml cured.toml --write-cure twice.toml");
    CHECK(again.code == 2);
    CHECK_THAT(again.err, Catch::Contains("--write-cure"));
    CHECK_FALSE(fs::exists(bench.path("twice.toml")));
    CHECK(bench.run("survey level.toml rig.toml --cure nothing-of-that-name --write-cure x.toml").code == 2);
    CHECK(bench.run("survey level.toml rig.toml --cure x").code == 2);
}

TEST_CASE("--write-fixed writes the fixes asked for, also elsewhere, and refuses what there is not") {
    const Bench bench;
    bench.file("level.toml", level_2d(walls + solid("floor", floor_box)));
    bench.file("base.toml", rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nreach = 0.42\nsees = [\"m\"]"));
    // The signal is the extending file's own: its probe is in the other.
    fs::create_directories(bench.path("sub"));
    const std::string sole =
        "kind = \"cast\"\nshape = { ball = { radius = 0.3 } }\nfrom = [0, 0.3]\nreach = 0.01\nsees = "
        "[\"m\"]\naccept = { angle = [0, 45] }\ntake = \"all\"\n";
    bench.file("rig.toml",
               "format = \"hollow-probe rig 1\"\ndimensions = 2\nextends = \"base.toml\"\n[[probe]]\nname = "
               "\"foot\"\n" +
                   sole);
    const Run fixed = bench.run("survey level.toml rig.toml --write-fixed sub/fixed.toml --json -");
    INFO(fixed.out << fixed.err);
    CHECK(fixed.code == 1);
    const Json after = Json::parse(fixed.out)["fixes"][0]["after"];
    CHECK_THAT(content(bench.path("sub/fixed.toml")), Catch::Contains("extends = \"../base.toml\""));
    const Json again = Json::parse(bench.run("survey level.toml sub/fixed.toml --json -").out);
    CHECK(again["wrong"] == after);
    CHECK(bench.run("survey level.toml rig.toml --write-fixed x.toml --fix 9").code == 2);
    CHECK(bench.run("survey level.toml rig.toml --fix 1").code == 2);
    CHECK_FALSE(fs::exists(bench.path("x.toml")));
    // A probe of the file it extends is taken over.
    bench.file("heir.toml", "format = \"hollow-probe rig 1\"\ndimensions = 2\nextends = \"base.toml\"\n");
    const Run heir = bench.run("survey level.toml heir.toml --write-fixed mended.toml --json -");
    INFO(heir.err);
    const Json promised = Json::parse(heir.out)["fixes"][0]["after"];
    CHECK(Json::parse(bench.run("survey level.toml mended.toml --json -").out)["wrong"] == promised);
    // Without trying there is no promise, and it says so.
    CHECK_THAT(bench.run("survey level.toml rig.toml --try 0").out, Catch::Contains("not surveyed anew"));
}

TEST_CASE("--budget counts all poses, --thorough none, and either way a survey says why it ended") {
    const Bench bench;
    bench.file("level.toml", level_2d(walls + solid("floor", floor_box)));
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nalong = \"down\"\nreach = 0.41\nsees = "
                                  "[\"m\"]"));
    const Json whole = bench.survey("--thorough");
    CHECK(whole["end"] == "spacing");
    CHECK(whole["spacing"] == 0.15);
    const int all = whole["poses"];
    const int budget = all * 2 / 3;
    const Json survey = bench.survey("--budget " + std::to_string(budget));
    CHECK(survey["end"] == "budget");
    CHECK(survey["poses"] == survey["grid_poses"].get<int>() + survey["border_poses"].get<int>());
    CHECK(survey["poses"].get<double>() == Approx(budget).epsilon(0.1));
    CHECK(survey["rounds"].back()["poses"] == survey["poses"]);
    CHECK(survey["rounds"].back()["spacing"] == survey["spacing"]);
    const std::string words = bench.run("survey level.toml rig.toml --budget " + std::to_string(budget)).out;
    CHECK_THAT(words, Catch::Contains("The budget ended it") && Catch::Contains("--thorough"));
    CHECK_THAT(bench.run("survey level.toml rig.toml --thorough").out, !Catch::Contains("The budget"));
    CHECK(bench.run("survey level.toml rig.toml --budget -3").code == 2);
    CHECK(bench.run("survey level.toml rig.toml --budget 3000 --thorough").code == 2);
}

TEST_CASE("a survey that is interrupted tells what it has, and exits with 130") {
    const Bench bench;
    bench.file("level.toml", level_2d(walls + solid("floor", floor_box)));
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nalong = \"down\"\nreach = 0.41\nsees = "
                                  "[\"m\"]"));
    // Its last round would take minutes.
    const Run run = bench.interrupted("survey level.toml rig.toml --spacing 0.00002 --budget 500000000", 5);
    INFO(run.err);
    CHECK(run.code == 130);
    CHECK_THAT(run.out, Catch::Contains("Unfinished: interrupted after round") &&
                            Catch::Contains("what to change", Catch::CaseSensitive::No));
    const Run none = bench.interrupted("survey level.toml rig.toml --spacing 0.00002", 1);
    CHECK(none.code == 130);
    CHECK(none.out.empty());
    CHECK_THAT(none.err, Catch::Contains("interrupted before the first round was whole"));
}

TEST_CASE("level saves a level or a part of it, and reads mesh files by themselves") {
    const Bench bench;
    bench.file(
        "yard.level.toml",
        "format = \"hollow-probe level 1\"\ndimensions = 3\nlayers = [\"m\", \"grating\"]\n"
        "[[solid]]\nname = \"slab\"\nlayer = \"m\"\nbox = { center = [0, 0, 0], size = [2, 1, 2] }\n"
        "[[solid]]\nname = \"post\"\nlayer = \"grating\"\nball = { center = [0, 2, 0], radius = 0.5 }\n");
    CHECK(bench.run("level yard.level.toml --save yard.glb --figure yard.png --html yard.html").code == 0);
    CHECK(content(bench.path("yard.png")).starts_with("\x89PNG"));
    CHECK_THAT(content(bench.path("yard.html")), Catch::Contains("<pre>") && Catch::Contains("2 solids"));
    const Json again = Json::parse(bench.run("level yard.glb --json -").out);
    CHECK(again["solids"].size() == 2);
    CHECK(again["solids"][0]["facets"] == 12);
    CHECK(again["solids"][0]["closed"] == true);
    CHECK(again["solids"][1]["layer"] == "grating");
    CHECK(bench.run("level yard.level.toml --save post.obj --solid post").code == 0);
    CHECK(Json::parse(bench.run("level post.obj --json -").out)["solids"].size() == 1);
    CHECK(bench.run("level yard.level.toml --solid post").code == 2);
    CHECK_THAT(bench.run("level yard.level.toml --save post.obj --solid pots").err,
               Catch::Contains("no solid 'pots'"));
    CHECK_THAT(bench.run("level yard.level.toml --save post.stl").err,
               Catch::Contains(".glb, .gltf or .obj"));
    CHECK_FALSE(fs::exists(bench.path("post.stl")));
    bench.file("broken.obj", "v 0 0 0\nv 1 0 0\nf 1 2 7\n");
    const Run broken = bench.run("level broken.obj");
    CHECK(broken.code == 2);
    CHECK_THAT(broken.err, Catch::StartsWith("broken.obj:1:1: ") && Catch::Contains("line 3, column 7") &&
                               Catch::Contains("vertex 7"));
    bench.file("broken.stl", "solid s\nfacet normal 0 0 1\n");
    CHECK_THAT(bench.run("level broken.stl").err, Catch::Contains("the end of the file"));
    CHECK(bench.run("level gone.glb").code == 2);
}

TEST_CASE("a rig is surveyed on tiles as on the boxes they stand for") {
    const Bench bench;
    const std::string head =
        "format = \"hollow-probe level 1\"\ndimensions = 2\nlayers = [\"m\"]\n[[solid]]\nname = \"s\"\nlayer "
        "= \"m\"\n";
    const std::string rig =
        "format = \"hollow-probe rig 1\"\ndimensions = 2\n[body]\nmeets = [\"m\"]\n[[body.stance]]\nname = "
        "\"upright\"\n"
        "capsule = { radius = 0.3, height = 1.8 }\n[[probe]]\nname = \"foot\"\nkind = \"ray\"\nfrom = [0.0, "
        "0.4]\nreach = 0.42\n"
        "sees = [\"m\"]\n[[signal]]\nname = \"grounded\"\nclaims = \"ground\"\nany = [\"foot\"]\n";
    bench.file("rig.toml", rig);
    bench.file("level.toml", head + "tiles = { rows = [\"####\"], cell = 2.0 }\n");
    const Json tiles = bench.survey();
    bench.file("level.toml", head + "box = { center = [4, 1], size = [8, 2] }\n");
    const Json box = bench.survey();
    CHECK(tiles["signals"] == box["signals"]);
    CHECK(tiles["poses"] == box["poses"]);
}

TEST_CASE("a value that is off is cured by its id: written, surveyed anew, and right after") {
    Bench bench;
    bench.file("level.toml",
               level_2d(solid("floor", "box = { center = [0, -0.5], size = [8, 1] }") +
                        solid("ramp", "polygon = { points = [[4, 0], [10, 0], [10, 3.4641016151377544]] }") +
                        "[[start]]\nname = \"gate\"\nat = [0, 0]\nheading = [1, 0]\n"));
    bench.file("rig.toml",
               rig_2d("kind = \"ray\"  # too far forward\nfrom = [0.2, 0.4]\nreach = 0.8\nsees = [\"m\"]") +
                   "gives = { value = \"ground_height\", from = \"foot\" }\n");
    const Json errors = bench.survey("--try 0")["signals"]["grounded"]["value_error"];
    CHECK(errors["worst"].get<double>() == Approx(0.2 / std::sqrt(3.0)).margin(1e-6));
    REQUIRE(!errors["cures"].empty());
    CHECK(errors["cures"][0]["change"]["cause"] == "aimed_beside");
    CHECK(errors["cures"][0]["worst"].get<double>() == Approx(0.0).margin(1e-9));
    const std::string id = errors["id"];
    const Run text = bench.run("survey level.toml rig.toml --try 0");
    CHECK_THAT(text.out, Catch::Contains(id + ":1  ray \"foot\" reads 0.2 beside the anchor") &&
                             Catch::Contains("leaves 0 in the median, 0 at 95 %, 0 at worst"));
    // Asked for by its number it is written whatever it does to verdicts, and tells what that is.
    const Run written =
        bench.run("survey level.toml rig.toml --try 0 --write-cure cured.toml --cure " + id + ":1");
    INFO(written.out << written.err);
    CHECK_THAT(written.out, Catch::Contains("Written to cured.toml, and surveyed anew"));
    CHECK_THAT(content(bench.path("cured.toml")),
               Catch::Contains("from = [0.0, 0.4]") && Catch::Contains("# too far forward"));
    bench.file("rig.toml", content(bench.path("cured.toml")));
    const Json cured = bench.survey("--try 0")["signals"]["grounded"]["value_error"];
    CHECK(cured["worst"].get<double>() == Approx(0.0).margin(1e-9));
    CHECK(cured["cures"].empty());
    CHECK(bench.run("survey level.toml rig.toml --write-cure x.toml --cure " + id).code ==
          2);  // nothing is left
}

TEST_CASE("what the player cannot reach is told last, in text and in JSON") {
    Bench bench;
    bench.file("level.toml", level_2d(solid("floor", "box = { center = [0, -0.5], size = [6, 1] }") +
                                      solid("roof", "box = { center = [-5, 0.5], size = [4, 5] }") +
                                      "[[start]]\nname = \"gate\"\nat = [0, 0]\nheading = [1, 0]\n"));
    const std::string rig = rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nreach = 0.3\nsees = [\"m\"]");
    bench.file("rig.toml", rig);
    const auto reached = [&](const Json& survey, const std::string& name) {
        const auto found = findings_on(survey, name, "missed_contact");
        REQUIRE_FALSE(found.empty());
        return found[0]["reached"].get<bool>();
    };
    const Json survey = bench.survey("--try 0");
    CHECK(reached(survey, "floor"));
    CHECK_FALSE(reached(survey, "roof"));
    const std::string text = bench.run("survey level.toml rig.toml --try 0").out;
    CHECK(text.find("\"floor\"") < text.find("Not reached from a start by walking, steps and falls:"));
    CHECK(text.find("\"roof\"") > text.find("Not reached from a start by walking, steps and falls:"));
    bench.file("rig.toml", rig + "[intent]\nmoves = { jump_height = 3.2, jump_length = 1.0 }\n");
    CHECK(reached(bench.survey("--try 0"), "roof"));
    bench.file("rig.toml", rig + "[intent]\nmoves = { jump_height = -1.0 }\n");
    const Run refused = bench.run("survey level.toml rig.toml");
    CHECK(refused.code == 2);
    CHECK_THAT(refused.err, Catch::Contains("rig.toml:19:25: 'jump_height' is -1, expected 0 or more"));
}

TEST_CASE("what a drill breaks at several rates and phases is one line an expectation") {
    Bench bench;
    bench.file("level.toml", level_2d(solid("floor", floor_box) + walls));
    bench.file("rig.toml", rig_2d("kind = \"ray\"\nfrom = [0, 0.4]\nreach = 0.37\nsees = [\"m\"]"));
    bench.file("stand.drill.toml",
               "format = \"hollow-probe drill 1\"\nlevel = \"level.toml\"\nrig = \"rig.toml\"\nat = [3, 0]\n"
               "seconds = 0.5\n[motion]\ngravity = 20.0\n[[expect]]\nmost = { missed_ticks = 0 }\n");
    const Run run = bench.run("drill stand.drill.toml --tick-rates 30,60 --phases 2");
    CHECK(run.code == 1);
    INFO(run.out);
    const auto first = run.out.find("grounded: ");
    REQUIRE(first != std::string::npos);
    CHECK(run.out.find("grounded: ", first + 1) == std::string::npos);
    CHECK_THAT(run.out, Catch::Contains("missed ticks (limit 0)") && Catch::Contains("at 60 ticks/s") &&
                            Catch::Contains("each of 4 variants"));
}

namespace {

const char* const study_level =
    "format = \"hollow-probe level 1\"\ndimensions = 2\nup = [0.0, 1.0]\nlayers = [\"stone\", \"wood\"]\n"
    "[[solid]]\nname = \"floor\"\nlayer = \"stone\"\nbox = { center = [-3.0, -0.5], size = [6.0, 1.0] }\n"
    "[[solid]]\nname = \"planks\"\nlayer = \"wood\"\nbox = { center = [3.0, -0.5], size = [6.0, 1.0] }\n"
    "[[start]]\nname = \"gate\"\nat = [-2.0, 0.0]\nheading = [1.0, 0.0]\n";

std::string study_rig(const std::string& reach, const std::string& sees) {
    return "format = \"hollow-probe rig 1\"\ndimensions = 2\n[body]\nmeets = [\"stone\", "
           "\"wood\"]\n[[body.stance]]\n"
           "name = \"crate\"\nbox = { size = [0.6, 1.5] }\n[[probe]]\nname = \"sole\"\nkind = \"cast\"\n"
           "shape = { box = { size = [0.6, 0.1] } }\nfrom = [0.0, 0.05]\nreach = " +
           reach + "  # by eye\nsees = " + sees +
           "\naccept = { angle = [0.0, 45.0] }\ntake = \"all\"\n[[signal]]\nname = \"grounded\"\nclaims = "
           "\"ground\"\n"
           "any = [\"sole\"]\n";
}

}  // namespace

TEST_CASE("gauge prints a data sheet, one curve, a map, and says what it cannot measure") {
    const Bench bench;
    bench.file("rig.toml", study_rig("0.1", "[\"stone\", \"wood\"]"));
    const Run sheet = bench.run("gauge rig.toml --json sheet.json --figure sheet.svg --html sheet.html");
    CHECK(sheet.code == 1);
    CHECK_THAT(sheet.out, Catch::Contains("up to 0.1") && Catch::Contains("× 0.08"));
    CHECK_THAT(sheet.out, Catch::Contains("Reading the rig takes 1 cast; the index offers 1 piece"));
    const std::size_t lines = static_cast<std::size_t>(std::count(sheet.out.begin(), sheet.out.end(), '\n'));
    CHECK(lines <= 40);  // one screen
    const Json json = Json::parse(content(bench.path("sheet.json")));
    bool floor_seen = false;
    for (const Json& row : json["rows"]) {
        if (row["line"] != "floor") continue;
        floor_seen = true;
        CHECK(std::abs(row["curves"][0]["on"][0][1].get<double>() - 0.1) < 5e-6);
        CHECK(std::abs(row["curves"][0]["intended"][0][1].get<double>() - 0.02) < 5e-6);
    }
    CHECK(floor_seen);
    CHECK_FALSE(json["cost"].contains("microseconds"));
    CHECK(json["cost"]["allocations"] == 0);
    CHECK_THAT(sheet.out, Catch::Contains("A tick asks for no memory."));
    CHECK(Json::parse(bench.run("gauge rig.toml --timing --json -").out)["cost"]["microseconds"] > 0.0);
    CHECK_THAT(content(bench.path("sheet.svg")), Catch::StartsWith("<?xml"));
    CHECK(bench.run("gauge rig.toml --allow 20").code == 0);
    CHECK(bench.run("gauge rig.toml --line floor").out.find("slope") == std::string::npos);
    const Run curve = bench.run("gauge rig.toml --fixture step --vary rise=0.02:0.4");
    CHECK(curve.code == 0);
    const Run gaps = bench.run("gauge rig.toml --fixture slot --vary width=0:0.9");
    CHECK_THAT(gaps.out, Catch::Contains("up to 0.6"));
    bench.file("level.toml", study_level);
    const Run varied =
        bench.run("gauge rig.toml --level level.toml --budget 2000 --vary probe.sole.reach=0.01:0.03:0.01");
    CHECK(varied.code == 0);
    CHECK_THAT(varied.out, Catch::Contains("0.1 in the file"));
    const Run on_fixtures =
        bench.run("gauge rig.toml --line floor --vary probe.sole.reach=0.05:0.15:0.05 --json -");
    CHECK(on_fixtures.code == 0);
    const Json measured = Json::parse(on_fixtures.out)["curves"][0];
    CHECK(measured["over"] == "fixtures");
    CHECK(measured["points"].size() == 3);
    CHECK(measured["points"][0]["false_poses"] == 1);
    // A dimension at each value of a setting, whichever is named first.
    const Run mixed =
        bench.run("gauge rig.toml --fixture slope --vary angle=0:80:10 --vary probe.sole.reach=0.1:0.2:0.1");
    CHECK(mixed.out.find("reach 0.1 ") < mixed.out.find("reach 0.2 "));
    CHECK(mixed.out == bench
                           .run("gauge rig.toml --fixture slope --vary probe.sole.reach=0.1:0.2:0.1 --vary "
                                "angle=0:80:10")
                           .out);
    const auto refused = [&](const std::string& arguments, const std::string& why) {
        const Run run = bench.run("gauge " + arguments);
        INFO(arguments << ": " << run.err);
        CHECK(run.code == 2);
        CHECK_THAT(run.err, Catch::Contains(why));
    };
    refused("rig.toml --vary angle=0:80", "--fixture");
    refused("rig.toml --fixture slope", "--vary");
    refused("rig.toml --fixture slope --vary angle=80:0", "lesser to the greater");
    refused("rig.toml --fixture slope --vary angle=0:x", "no number");
    refused("rig.toml --fixture slope --vary angle", "NAME=FROM:TO");
    refused("rig.toml --fixture slope --vary angle=0:80:0", "step");
    refused("rig.toml --fixture hill --vary angle=0:80", "one of floor, slope");
    refused("rig.toml --fixture slope --vary angle=0:80 --with heigth=2", "has no 'heigth'");
    refused("rig.toml --fixture hill --vary probe.sole.reach=0.1:0.2", "one of floor, slope");
    refused("rig.toml --fixture slope --level level.toml --vary probe.sole.reach=0.1:0.2",
            "or on a --fixture");
    refused("rig.toml --fixture slope --line floor --vary probe.sole.reach=0.1:0.2", "or --line");
    refused("rig.toml --fixture slope --turn 10 --vary probe.sole.reach=0.1:0.2", "--turn");
    refused("rig.toml --level level.toml --vary probe.sole.reech=0.1:0.2", "expected one of");
    refused("rig.toml --layer mud", "mud");
    bench.file("solid.toml",
               "format = \"hollow-probe level 1\"\ndimensions = 3\nup = [0.0, 1.0, 0.0]\nlayers = "
               "[\"stone\", \"wood\"]\n"
               "[[solid]]\nname = \"floor\"\nlayer = \"stone\"\nbox = { center = [0.0, -0.5, 0.0], size = "
               "[6.0, 1.0, 6.0] }\n");
    refused("rig.toml --level solid.toml", "dimensions = 3, expected 2");
    refused("rig.toml --level solid.toml --vary probe.sole.reach=0.1:0.2", "dimensions = 3, expected 2");
    refused("rig.toml --stance low", "expected one of crate");
    refused("level.toml", "hollow-probe rig 1");
}

TEST_CASE("propose writes a rig that the next survey finds nothing wrong with") {
    const Bench bench;
    bench.file("level.toml", study_level);
    const Run run = bench.run(
        "propose level.toml --body box:0.6x1.5 --claims ground,ceiling --write p.toml --json p.json");
    INFO(run.out << run.err);
    CHECK(run.code == 0);
    CHECK_THAT(run.out, Catch::Contains("chosen") && Catch::Contains("ground: "));
    CHECK_THAT(content(bench.path("p.toml")), Catch::Contains("# ground: "));
    CHECK(bench.run("survey level.toml p.toml").code == 0);
    CHECK(Json::parse(content(bench.path("p.json")))["claims"].size() == 2);
    bench.file("bare.toml",
               "# mine\nformat = \"hollow-probe rig 1\"\ndimensions = 2\n[body]\nmeets = "
               "[\"stone\"]\n[[body.stance]]\n"
               "name = \"ball\"\nball = { radius = 0.4 }\n[intent]\ntouch = 0.03\n");
    const Run by_file = bench.run("propose level.toml bare.toml --write q.toml");
    INFO(by_file.out << by_file.err);
    CHECK(by_file.code == 0);
    CHECK_THAT(content(bench.path("q.toml")), Catch::StartsWith("# mine") && Catch::Contains("touch = 0.03"));
    CHECK(bench.run("survey level.toml q.toml").code == 0);
    const auto refused = [&](const std::string& arguments, const std::string& why) {
        const Run refusal = bench.run("propose " + arguments);
        INFO(arguments << ": " << refusal.err);
        CHECK(refusal.code == 2);
        CHECK_THAT(refusal.err, Catch::Contains(why));
    };
    refused("level.toml", "--body");
    refused("level.toml --body cone:1x2", "capsule:RADIUSxHEIGHT");
    refused("level.toml --body capsule:0.5x0.2", "--body");
    refused("level.toml --body box:0.6x", "no number");
    refused("level.toml --body box:0.6x1 --claims floor", "expected some of ground");
    refused("level.toml q.toml", "has probes or signals");
    refused("bare.toml", "no level");
}

TEST_CASE("compare holds rigs to the first, in any order of files, and tune mends what it says") {
    const Bench bench;
    bench.file("level.toml", study_level);
    bench.file("right.toml", study_rig("0.02", "[\"stone\", \"wood\"]"));
    bench.file("blind.toml", study_rig("0.02", "[\"stone\"]"));
    bench.file("long.toml", study_rig("0.3", "[\"stone\"]"));
    const Run worse =
        bench.run("compare level.toml right.toml blind.toml --figure differ.svg --html page.html");
    CHECK(worse.code == 1);
    CHECK_THAT(worse.out, Catch::Contains("worse than 1"));
    CHECK_THAT(worse.out, Catch::Contains("probe \"sole\": sees [\"stone\", \"wood\"] → [\"stone\"]"));
    CHECK_THAT(worse.out, Catch::Contains("2 misses grounded where 1 is right"));
    CHECK(fs::file_size(bench.path("page.html")) > 100000);
    const Run better = bench.run("compare blind.toml level.toml right.toml --gauge --json -");
    CHECK(better.code == 0);
    const Json json = Json::parse(better.out);
    CHECK(json["rigs"][1]["none_beats_it"] == true);
    CHECK(json["rigs"][0]["none_beats_it"] == false);
    CHECK(json["pairs"][0]["on"][0]["only_first_right"] == 0);
    CHECK(bench.run("compare level.toml right.toml blind.toml --allow missed=100%").code == 0);
    CHECK_THAT(bench.run("compare level.toml right.toml").err, Catch::Contains("two rigs at least"));
    CHECK_THAT(bench.run("compare right.toml blind.toml").err, Catch::Contains("no level"));

    // What is kept changes nothing that is said, and what is damaged is said and found anew.
    const std::string whole = bench.run("survey level.toml blind.toml --json -").out;
    const auto kept = [&] { return bench.run("survey level.toml blind.toml --json - --keep kept"); };
    CHECK(kept().out == whole);
    std::vector<fs::path> files;
    for (const auto& file : fs::directory_iterator(bench.path("kept"))) files.push_back(file.path());
    REQUIRE(files.size() == 1);
    CHECK(files[0].extension() == ".truths");
    const Run second = kept();
    CHECK(second.out == whole);
    CHECK(second.err.empty());
    fs::resize_file(files[0], fs::file_size(files[0]) / 2);
    const Run damaged = kept();
    CHECK(damaged.out == whole);
    CHECK_THAT(damaged.err, Catch::Contains("truths are found anew"));
    CHECK(kept().err.empty());
    // Another level has a file of its own; a folder that cannot be made is refused.
    CHECK(bench.run("survey level.toml blind.toml --region -1,-1,1,1 --keep kept").code != 2);
    CHECK(std::distance(fs::directory_iterator(bench.path("kept")), fs::directory_iterator()) == 2);
    CHECK_THAT(bench.run("survey level.toml blind.toml --keep level.toml/kept").err,
               Catch::Contains("cannot be made"));

    const Run tuned = bench.run(
        "tune level.toml long.toml --free probe.sole.reach=0.005:0.4 --free probe.sole.sees --write "
        "tuned.toml --json t.json");
    INFO(tuned.out << tuned.err);
    CHECK(tuned.code == 0);
    const std::string text = content(bench.path("tuned.toml"));
    CHECK_THAT(text, Catch::Contains("reach = 0.02  # by eye"));
    CHECK_THAT(text, Catch::Contains("sees = [\"stone\", \"wood\"]"));
    CHECK(bench.run("survey level.toml tuned.toml").code == 0);
    CHECK(Json::parse(content(bench.path("t.json")))["after"]["missed_poses"] == 0);
    const Run held = bench.run("tune level.toml blind.toml --free probe.sole.sees --held level.toml");
    CHECK(held.code == 0);
    CHECK_THAT(held.out, Catch::Contains("Where it was not tuned: missed"));
    const auto refused = [&](const std::string& arguments, const std::string& why) {
        const Run run = bench.run("tune " + arguments);
        INFO(arguments << ": " << run.err);
        CHECK(run.code == 2);
        CHECK_THAT(run.err, Catch::Contains(why));
    };
    const Run front = bench.run(
        "tune level.toml long.toml --free probe.sole.reach=0.005:0.4 --free probe.sole.sees --front --pick 1 "
        "--write "
        "picked.toml --json f.json --figure front.svg --try 300");
    INFO(front.out << front.err);
    CHECK(front.code == 0);
    const Json rigs = Json::parse(content(bench.path("f.json")))["rigs"];
    REQUIRE(!rigs.empty());
    CHECK(rigs[0]["wrong"]["missed_poses"] == 0);
    CHECK_THAT(content(bench.path("picked.toml")),
               Catch::Contains("reach = " + rigs[0]["values"]["probe.sole.reach"].get<std::string>() +
                               "  # by eye"));
    CHECK_THAT(front.out, Catch::Contains("Nothing is wrong with"));
    CHECK_THAT(content(bench.path("front.svg")), Catch::Contains("</svg>"));
    refused("level.toml long.toml --free probe.sole.reach --front --write x.toml", "--pick says which");
    refused("level.toml long.toml --free probe.sole.reach --pick 2", "--front");
    refused("level.toml long.toml --free probe.sole.reach --front --pick 99 --try 100 --write x.toml",
            "expected 1 to");
    refused("level.toml long.toml --free probe.sole.reach --severity-weight -1", "--severity-weight");
    refused("level.toml right.toml", "no finding's cause");
    refused("level.toml right.toml blind.toml", "two rigs");
    refused("level.toml", "no rig");
    refused("level.toml long.toml --free probe.sole.reach=1", "SETTING=FROM:TO");
    refused("level.toml long.toml --free probe.sole.reach=-1:1", "limits");
    refused("level.toml long.toml --free probe.soul.reach", "expected one of");
    CHECK_FALSE(fs::exists(bench.path("x.toml")));
}
