// hollow-probe merge: the whole survey of its parts.
#include <fmt/format.h>

#include <map>
#include <memory>

#include "hollow_probe/io/part_file.hpp"
#include "kept_on_disk.hpp"
#include "surveying.hpp"

namespace hollow_probe::tool {
namespace {

struct Arguments {
    SurveyWanted wanted;
    std::vector<std::string> files;
};

/// Parts of one survey, all of them.
struct Parts {
    PartFile first;  // but for what was found
    std::vector<std::string> found;
};

/// Throws InputError where they are of several surveys, and where one is missing: with the command that makes
/// it.
Parts whole_of(const std::vector<std::string>& files) {
    Parts parts;
    std::map<std::size_t, std::string> file_of;
    const std::string build = build_name();
    for (const std::string& file : files) {
        PartFile part = load_part(file);
        const auto refuse = [&](const std::string& why) { throw InputError(file + ":1:1: " + why); };
        if (part.build != build)
            refuse("was made by another build of this tool, expected parts of the build that merges them");
        if (file_of.empty()) {
            parts.first = part;
            parts.first.found.clear();
        } else if (part.inputs != parts.first.inputs || part.part.of != parts.first.part.of) {
            refuse(fmt::format("is a part of another survey ({}) than {} ({})", command_of(part),
                               files.front(), command_of(parts.first)));
        }
        const auto [before, is_new] = file_of.emplace(part.part.number, file);
        if (!is_new)
            refuse(fmt::format("is part {} of {}, and so is {}", part.part.number + 1, part.part.of,
                               before->second));
        parts.found.push_back(std::move(part.found));
    }
    constexpr std::size_t most_told = 8;
    std::vector<std::string> missing;
    PartFile part = parts.first;
    for (part.part.number = 0; part.part.number < part.part.of; ++part.part.number) {
        if (!file_of.contains(part.part.number) && missing.size() < most_told)
            missing.push_back(command_of(part) + " --into FILE");
    }
    if (!missing.empty())
        throw InputError(fmt::format("merge: {} of {} parts missing, expected all of them; made by\n  {}",
                                     parts.first.part.of - file_of.size(), parts.first.part.of,
                                     fmt::join(missing, "\n  ")));
    return parts;
}

template <int D>
int run(SurveyWanted wanted, const Parts& parts, const Level<D>& level) {
    const Rig<D> rig = load_rig<D>(wanted.rig, level);
    SurveyOptions options = parts.first.options;
    if (survey_inputs<D>(level, rig, options) != parts.first.inputs)
        throw InputError(
            fmt::format("{}:1:1: or {}: is not what the parts were made from, expected it as it "
                        "was then; what they were made by: {}",
                        wanted.level, wanted.rig, command_of(parts.first)));
    const SurveyParts found(parts.found);
    options.parts = &found;
    options.threads = wanted.common.threads;
    options.sharing = wanted.common.sharing;
    options.progress = progress_bar("merging");
    KeptTruths<D> kept;
    return survey_and_tell<D>(wanted, level, rig, options, kept);
}

}  // namespace

void add_merge_command(Commands& commands) {
    auto arguments = std::make_shared<Arguments>();
    Command command = commands.add("merge", "Make the whole survey of parts that were made by survey --part");
    command.option("parts", arguments->files, "All parts of one survey, in any order")
        .required()
        .takes("FILE…");
    add_survey_outputs(command, arguments->wanted);
    add_outputs(command, arguments->wanted.common);
    add_threads(command, arguments->wanted.common);
    share_work(command, arguments->wanted.common);
    command.runs_on_all_ranks([arguments] {
        check_wanted(arguments->wanted);
        const Parts parts = whole_of(arguments->files);
        arguments->wanted.level = parts.first.level;
        arguments->wanted.rig = parts.first.rig;
        const AnyLevel level = load_level(arguments->wanted.level);
        return std::visit(
            [&](const auto& of_dimension) { return run(arguments->wanted, parts, of_dimension); }, level);
    });
}

}  // namespace hollow_probe::tool
