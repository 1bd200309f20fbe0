// A test a game team keeps: the keeper's ground sensor agrees with truth everywhere in the culvert.
// Run with "[first-try]" to see how a rig with faults fails: the message lists the findings.
#define CATCH_CONFIG_MAIN
#include <catch2/catch.hpp>

#include "hollow_probe/io/level_file.hpp"
#include "hollow_probe/io/rig_file.hpp"
#include "hollow_probe/report/survey_text.hpp"

using namespace hollow_probe;

namespace {

const std::string folder = DEMO_FOLDER;

void require_sound(const std::string& rig_file) {
    const auto level = std::get<Level<2>>(load_level(folder + "/culvert.level.toml"));
    const Rig<2> rig = load_rig<2>(folder + "/" + rig_file, level);
    const Survey<2> result = survey<2>(level, rig);
    INFO(survey_text<2>(rig, result));
    REQUIRE(result.grid_poses > 0);
    REQUIRE(result.findings.empty());
}

}  // namespace

TEST_CASE("the keeper's ground sensor is right everywhere in the culvert") {
    require_sound("keeper.rig.toml");
}

TEST_CASE("the first try is not, and the test says where and why", "[.][first-try]") {
    require_sound("keeper-first-try.rig.toml");
}
