// hollow-probe survey: a rig's signals against truth, over a level.
#include <fmt/format.h>

#include <filesystem>
#include <memory>

#include "common.hpp"
#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/rig_edit.hpp"
#include "hollow_probe/io/survey_json.hpp"
#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/page.hpp"

namespace hollow_probe::tool {
namespace {

constexpr std::size_t most_rig_bytes = 64U << 20U;

struct Arguments {
    CommonOptions common;
    SurveyFlags flags;
    std::string level;
    std::string rig;
    std::string allow = "missed=0,false=0";
    std::string before;
    std::string write_cure;
    std::string cure;
};

/// The rig file with a cure made: the leading one of the finding named, or of the worst one that has one.
template <int D>
std::string cured_rig(const Arguments& arguments, const Survey<D>& result) {
    for (const Finding<D>& finding : result.findings) {
        if (!arguments.cure.empty() && finding.id != arguments.cure) continue;
        for (const CauseReport& cause : finding.causes) {
            if (!cause.edit.key.empty())
                return with_cure(read_file(arguments.rig, most_rig_bytes), arguments.rig, cause);
        }
        if (!arguments.cure.empty())
            throw InputError("--cure: no change to the rig file cures finding '" + arguments.cure + "'");
    }
    if (!arguments.cure.empty())
        throw InputError("--cure: there is no finding '" + arguments.cure + "' in this survey");
    throw InputError("--write-cure: there is no finding that a change to the rig file cures");
}

template <int D>
std::string page_of(const Arguments& arguments, const Level<D>& level, const Rig<D>& rig,
                    const Survey<D>& result) {
    const auto stem = [](const std::string& path) { return std::filesystem::path(path).filename().string(); };
    Page page(stem(arguments.rig) + " on " + stem(arguments.level));
    page.add<D>(level, rig, result, {arguments.level, arguments.rig});
    if (!arguments.before.empty()) {
        const Rig<D> before = load_rig<D>(arguments.before, level);
        const Survey<D> earlier = survey<D>(level, before, survey_options(arguments.common, arguments.flags));
        page.add<D>(level, before, earlier, {arguments.level, arguments.before});
        page.compare();
    }
    return page.finish();
}

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
        outputs.add(arguments.common.html, page_of<D>(arguments, level, rig, result));
    }
    if (!arguments.write_cure.empty()) outputs.add(arguments.write_cure, cured_rig<D>(arguments, result));
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
        ->add_option("--before", arguments->before,
                     "Another rig, for the page to switch to and to count differences from")
        ->type_name("RIG");
    command
        ->add_option("--allow", arguments->allow,
                     "How many wrong poses there may be in all before the exit code says so")
        ->type_name("missed=N,false=N,claims=N")
        ->capture_default_str();
    CLI::Option* const write_cure =
        command
            ->add_option("--write-cure", arguments->write_cure,
                         "Write the rig with the leading cure of the worst finding made, all else as it was")
            ->type_name("FILE");
    command->add_option("--cure", arguments->cure, "… of this finding instead")
        ->type_name("ID")
        ->needs(write_cure);
    add_common(*command, arguments->common);
    command->callback([arguments, &result] {
        check_outputs(arguments->common, {arguments->write_cure});
        (void)allowed_from(arguments->allow);  // refused before any work
        if (!arguments->before.empty() && arguments->common.html.empty())
            throw InputError("--before: is for the page that --html writes");
        const AnyLevel level = load_level(arguments->level);
        result = std::visit([&](const auto& of_dimension) { return run(*arguments, of_dimension); }, level);
    });
}

}  // namespace hollow_probe::tool
