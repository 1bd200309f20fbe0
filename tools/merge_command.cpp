// hollow-probe merge: the whole survey, or series of hunts, of its parts.
#include <fmt/format.h>

#include <map>
#include <memory>

#include "hunting.hpp"
#include "parts.hpp"
#include "surveying.hpp"

namespace hollow_probe::tool {
namespace {

struct MergeArguments {
    SurveyWanted survey;
    HuntWanted hunt;
    std::vector<std::string> files;
};

/// What makes a part, but for its number.
template <class Part>
std::string whole_command(Part part) {
    part.part.number = 0;
    return command_of(part);
}

/// All parts of one whole, by number. Throws InputError where they are of several, and where one is missing:
/// with the command that makes it.
template <class Part>
std::vector<Part> parts_of_one(const std::vector<std::string>& files, Part (*load)(const std::string&)) {
    std::map<std::size_t, std::pair<Part, std::string>> parts;
    const std::string build = build_name();
    std::optional<Part> first;
    for (const std::string& file : files) {
        Part part = load(file);
        const auto refuse = [&](const std::string& why) { throw InputError(file + ":1:1: " + why); };
        if (part.build != build)
            refuse("was made by another build of this tool, expected parts of the build that merges them");
        if (!first) first = part;
        if (part.inputs != first->inputs || whole_command(part) != whole_command(*first))
            refuse(fmt::format("is a part of something else ({}) than {} ({})", command_of(part),
                               files.front(), command_of(*first)));
        const std::size_t number = part.part.number;
        const auto [before, is_new] = parts.emplace(number, std::pair(std::move(part), file));
        if (!is_new)
            refuse(fmt::format("is part {} of {}, and so is {}", number + 1, first->part.of,
                               before->second.second));
    }
    constexpr std::size_t most_told = 8;
    std::vector<std::string> missing;
    std::vector<Part> all;
    for (Part part = *first;
         part.part.number = all.size() + missing.size(), part.part.number < part.part.of;) {
        const auto found = parts.find(part.part.number);
        if (found != parts.end()) {
            all.push_back(std::move(found->second.first));
        } else {
            missing.push_back(command_of(part) + " --into FILE");
        }
    }
    if (missing.empty()) return all;
    const std::size_t count = missing.size();
    if (count > most_told) {
        missing.resize(most_told);
        missing.emplace_back("…");
    }
    throw InputError(fmt::format("merge: {} of {} parts missing, expected all of them; made by\n  {}", count,
                                 first->part.of, fmt::join(missing, "\n  ")));
}

/// Refuses files that are no more what the parts were made from.
template <class Part>
void check_inputs(const std::string& inputs, const Part& part, const std::string& files) {
    if (inputs == part.inputs) return;
    throw InputError(
        fmt::format("{}: not what the parts were made from, expected them as they were then; "
                    "parts are made anew by {}",
                    files, command_of(part)));
}

template <int D>
int merge_survey(const SurveyWanted& wanted, const std::vector<PartFile>& parts, const Level<D>& level) {
    const Rig<D> rig = load_rig<D>(wanted.rig, level);
    SurveyOptions options = parts.front().options;
    check_inputs(survey_inputs<D>(level, rig, options), parts.front(),
                 wanted.level + ":1:1: or " + wanted.rig);
    std::vector<std::string> bytes;
    bytes.reserve(parts.size());
    for (const PartFile& part : parts) bytes.push_back(part.found);
    const SurveyParts found(bytes);
    options.parts = &found;
    options.threads = wanted.common.threads;
    options.sharing = wanted.common.sharing;
    if (wanted.common.tells) options.progress = progress_bar("merging");
    KeptTruths<D> kept;
    return survey_and_tell<D>(wanted, level, rig, options, kept);
}

template <int D>
int merge_hunts(const HuntWanted& wanted, const std::vector<HuntPartFile>& parts,
                const LoadedDrill<D>& loaded) {
    check_inputs(hunt_inputs<D>(wanted.file, loaded), parts.front(),
                 wanted.file + ":1:1: or its level, or its rig");
    std::vector<std::vector<std::string>> by_rate(parts.front().found.size());
    for (const HuntPartFile& part : parts) {
        for (std::size_t i = 0; i < by_rate.size() && i < part.found.size(); ++i)
            by_rate[i].push_back(part.found[i]);
    }
    return hunt_and_tell<D>(wanted, loaded, by_rate);
}

int merge_surveys(SurveyWanted wanted, const std::vector<std::string>& files) {
    check_wanted(wanted);
    const std::vector<PartFile> parts = parts_of_one<PartFile>(files, load_part);
    wanted.level = parts.front().level;
    wanted.rig = parts.front().rig;
    const AnyLevel level = load_level(wanted.level);
    return std::visit([&](const auto& of_dimension) { return merge_survey(wanted, parts, of_dimension); },
                      level);
}

int merge_hunts(HuntWanted wanted, const std::vector<std::string>& files) {
    const std::vector<HuntPartFile> parts = parts_of_one<HuntPartFile>(files, load_hunt_part);
    const HuntPartFile& first = parts.front();
    wanted.file = first.drill;
    wanted.ticks = first.ticks;
    wanted.seeds = first.seeds;
    wanted.tick_rates = first.tick_rates;
    wanted.common.seed = first.seed;
    check_outputs(wanted.common, {hunt_target(wanted)});
    DrillLoader loader;
    return std::visit([&](const auto& loaded) { return merge_hunts(wanted, parts, loaded); },
                      loader.load(wanted.file));
}

}  // namespace

void add_merge_command(Commands& commands) {
    auto arguments = std::make_shared<MergeArguments>();
    Command command =
        commands.add("merge", "Make the whole of parts that were made by survey --part, or by hunt --part");
    command.option("parts", arguments->files, "All parts of one survey or hunt, in any order")
        .required()
        .takes("FILE");
    add_survey_outputs(command, arguments->survey);
    add_hunt_outputs(command, arguments->hunt);
    add_outputs(command, arguments->survey.common);
    add_threads(command, arguments->survey.common);
    share_work(command, arguments->survey.common);
    command.runs_on_all_ranks([arguments] {
        if (is_hunt_part(arguments->files.front())) {
            refuse_of_survey(arguments->survey, "merge: of parts of hunts");
            arguments->hunt.common = arguments->survey.common;
            return merge_hunts(arguments->hunt, arguments->files);
        }
        if (!arguments->hunt.write.empty())
            throw InputError("--write: parts of a survey find no drill, expected parts of hunts");
        if (arguments->hunt.most_ticks_to_explain != HuntWanted().most_ticks_to_explain)
            throw InputError("--try: of parts of a survey it is as they were made, expected parts of hunts");
        return merge_surveys(arguments->survey, arguments->files);
    });
}

}  // namespace hollow_probe::tool
