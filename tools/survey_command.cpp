// hollow-probe survey: a rig's signals against truth, over a level.
#include <fmt/format.h>

#include <filesystem>
#include <memory>

#include "common.hpp"
#include "hollow_probe/io/survey_json.hpp"
#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/page.hpp"

namespace hollow_probe::tool {
namespace {

struct Arguments {
    CommonOptions common;
    SurveyFlags flags;
    std::string level;
    std::string rig;
    std::string allow = "missed=0,false=0";
};

template <int D>
int run(const Arguments& arguments, const Level<D>& level) {
    const Rig<D> rig = load_rig<D>(arguments.rig, level);
    const Survey<D> result = survey<D>(level, rig, survey_options(arguments.common, arguments.flags));
    const std::string level_name = std::filesystem::path(arguments.level).filename().string();
    const std::string rig_name = std::filesystem::path(arguments.rig).filename().string();
    Outputs outputs;
    if (!arguments.common.json.empty()) {
        outputs.add(arguments.common.json, survey_json<D>(level, rig, result, level_name, rig_name));
    }
    if (!arguments.common.figure.empty()) {
        outputs.add(arguments.common.figure,
                    survey_figure<D>(level, rig, result, level_name, rig_name, arguments.common.figure));
    }
    if (!arguments.common.html.empty()) {
        outputs.add(arguments.common.html, survey_page<D>(level, rig, result, level_name, rig_name));
    }
    outputs.write();
    if (arguments.common.json != "-") {
        fmt::print("{} on {}\n{}", rig_name, level_name, survey_text<D>(rig, result, text_options()));
    }
    return exit_code_of(result, allowed_from(arguments.allow));
}

}  // namespace

void add_survey_command(CLI::App& app, int& result) {
    auto arguments = std::make_shared<Arguments>();
    CLI::App* command =
        app.add_subcommand("survey", "Hold a rig's signals against truth over poses that cover a level");
    command->add_option("level", arguments->level, "The level file")->required()->type_name("LEVEL");
    command->add_option("rig", arguments->rig, "The rig file")->required()->type_name("RIG");
    add_survey_flags(*command, arguments->flags);
    command
        ->add_option("--allow", arguments->allow,
                     "How many wrong poses there may be in all before the exit code says so")
        ->type_name("missed=N,false=N")
        ->capture_default_str();
    add_common(*command, arguments->common);
    command->callback([arguments, &result] {
        check_outputs(arguments->common);
        (void)allowed_from(arguments->allow);  // refused before any work
        const AnyLevel level = load_level(arguments->level);
        result = std::visit([&](const auto& of_dimension) { return run(*arguments, of_dimension); }, level);
    });
}

}  // namespace hollow_probe::tool
