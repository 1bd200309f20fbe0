// hollow-probe survey: a rig's signals against truth, over a level.
#include <fmt/format.h>

#include <memory>

#include "hollow_probe/io/atomic_file.hpp"
#include "kept_on_disk.hpp"
#include "parts.hpp"
#include "surveying.hpp"

namespace hollow_probe::tool {
namespace {

struct SurveyArguments {
    SurveyWanted wanted;
    SurveyFlags flags;
    std::string keep;
    std::string part;
    std::string into;
    int most_tried = -1;
};

SurveyOptions options_of(const SurveyArguments& arguments) {
    SurveyOptions options = survey_options(arguments.wanted.common, arguments.flags);
    if (arguments.most_tried >= 0) options.most_tried = static_cast<std::size_t>(arguments.most_tried);
    return options;
}

template <int D>
int make_part(const SurveyArguments& arguments, const Level<D>& level, const Rig<D>& rig) {
    PartFile part;
    part.level = arguments.wanted.level;
    part.rig = arguments.wanted.rig;
    part.options = options_of(arguments);
    part.part = part_from(arguments.part);
    part.inputs = survey_inputs<D>(level, rig, part.options);
    part.build = build_name();
    part.found = survey_part<D>(level, rig, part.options, part.part);
    write_file(arguments.into, part_text(part));
    fmt::print("part {} of {} of {} on {} written to {}\n", part.part.number + 1, part.part.of,
               file_name(part.rig), file_name(part.level), arguments.into);
    return all_well;
}

template <int D>
int run(const SurveyArguments& arguments, const Level<D>& level) {
    const Rig<D> rig = load_rig<D>(arguments.wanted.rig, level);
    if (!arguments.part.empty()) return make_part<D>(arguments, level, rig);
    KeptOnDisk<D> on_disk(arguments.keep, level, arguments.flags);
    return survey_and_tell<D>(arguments.wanted, level, rig, options_of(arguments), on_disk.kept, [&] {
        if (arguments.wanted.common.tells) on_disk.save();
    });
}

}  // namespace

void add_survey_command(Commands& commands) {
    auto arguments = std::make_shared<SurveyArguments>();
    Command command =
        commands.add("survey", "Hold a rig's signals against truth over poses that cover a level");
    command.option("level", arguments->wanted.level, "The level file").required().takes("LEVEL");
    command.option("rig", arguments->wanted.rig, "The rig file").required().takes("RIG");
    add_survey_flags(command, arguments->flags);
    command
        .option("--keep", arguments->keep,
                "Keep what is true of this level in this folder, and take it from there the next time")
        .takes("FOLDER");
    command
        .option("--try", arguments->most_tried,
                "How many changed rigs to survey anew for fixes; standard: as many as 2.5 million poses "
                "allow, 2 to 12")
        .not_negative()
        .takes("N");
    add_part_options(command, arguments->part, arguments->into, "the survey");
    add_survey_outputs(command, arguments->wanted);
    add_common(command, arguments->wanted.common);
    share_work(command, arguments->wanted.common);
    command.runs_on_all_ranks([arguments] {
        check_wanted(arguments->wanted);
        if (!arguments->part.empty()) {
            check_part(arguments->part, arguments->wanted.common);
            refuse_of_survey(arguments->wanted, "--part: of a part, before merge,");
            if (!arguments->keep.empty())
                throw InputError("--part: a part keeps nothing, expected no --keep beside it");
            check_outputs({}, {arguments->into});
        }
        const AnyLevel level = load_level(arguments->wanted.level);
        return std::visit([&](const auto& of_dimension) { return run(*arguments, of_dimension); }, level);
    });
}

}  // namespace hollow_probe::tool
