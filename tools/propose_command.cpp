// hollow-probe propose: a rig from body and intent alone.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <memory>

#include "common.hpp"
#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/propose_json.hpp"
#include "hollow_probe/io/rig_text.hpp"
#include "hollow_probe/report/advice_text.hpp"
#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/page.hpp"
#include "hollow_probe/report/propose_text.hpp"
#include "numbers.hpp"

namespace hollow_probe::tool {
namespace {

struct ProposeArguments {
    CommonOptions common;
    SurveyFlags flags;
    std::vector<std::string> files;
    std::string body;
    std::vector<std::string> claims = {"ground"};
    std::string write;
    std::vector<std::string> levels;  // of the files
    std::string rig;                  // … with body and intent; empty: by --body
};

/// "capsule:0.3x1.8", "box:0.6x1.5" (3D: x0.6), "ball:0.4"
template <int D>
Stance<D> stance_from(const std::string& text) {
    const std::string expected = D == 2 ? "capsule:RADIUSxHEIGHT, box:WIDTHxHEIGHT or ball:RADIUS"
                                        : "capsule:RADIUSxHEIGHT, box:FORWARDxUPxRIGHT or ball:RADIUS";
    const auto refuse = [&] { throw InputError("--body: '" + text + "' should be " + expected); };
    const std::size_t colon = text.find(':');
    if (colon == std::string::npos) refuse();
    std::vector<double> numbers;
    for (std::size_t start = colon + 1; start <= text.size();) {
        const std::size_t end = std::min(text.find('x', start), text.size());
        numbers.push_back(number_from(text.substr(start, end - start), "--body"));
        start = end + 1;
    }
    const std::string kind = text.substr(0, colon);
    if (kind == "capsule" && numbers.size() == 2)
        return Stance<D>::capsule("upright", numbers[0], numbers[1]);
    if (kind == "ball" && numbers.size() == 1) return Stance<D>::ball("upright", numbers[0]);
    if (kind != "box" || numbers.size() != D) refuse();
    Vec<D> size;
    for (int axis = 0; axis < D; ++axis) size[axis] = numbers[static_cast<std::size_t>(axis)];
    return Stance<D>::box("upright", size);
}

std::vector<Claim> claims_from(const std::vector<std::string>& names) {
    std::vector<Claim> claims;
    for (const std::string& name : names) {
        const auto found = std::find(claim_words.begin(), claim_words.end(), name);
        if (found == claim_words.end())
            throw InputError(fmt::format("--claims: there is no claim '{}', expected some of {}", name,
                                         fmt::join(claim_words, ", ")));
        claims.push_back(all_claims[static_cast<std::size_t>(found - claim_words.begin())]);
    }
    return claims;
}

/// What each chosen probe is for, by its name.
template <int D>
std::map<std::string, std::string> comments_of(const Proposal<D>& proposal) {
    std::map<std::string, std::string> comments;
    for (const ProposedClaim<D>& proposed : proposal.claims) {
        if (!proposed.chosen) continue;
        const TriedFamily<D>& chosen = proposed.families[*proposed.chosen];
        const std::string claim = name_of(std::optional(proposed.claim));
        if (!chosen.probes.empty()) comments.emplace(chosen.probes.front().name, claim + ": " + chosen.what);
        if (!chosen.right())
            comments.emplace(
                chosen.signals.back().name,
                fmt::format("wrong at {} of the levels it was proposed for", poses(chosen.wrong.poses())));
    }
    return comments;
}

/// Body and intent, and the file that has them: the author's, or one made of --body.
template <int D>
std::pair<Rig<D>, std::string> bare_rig(const ProposeArguments& arguments,
                                        const std::vector<Level<D>>& levels) {
    Rig<D> bare;
    if (!arguments.rig.empty()) {
        bare = load_rig<D>(arguments.rig, levels.front());
        if (!bare.probes.empty() || !bare.signals.empty())
            throw InputError(arguments.rig + ": has probes or signals, expected body and intent alone");
        return {bare, read_file(arguments.rig, most_rig_bytes)};
    }
    try {
        bare.body.stances = {stance_from<D>(arguments.body)};
    } catch (const InvalidInput& error) {
        throw InputError(std::string("--body: ") + error.what());
    }
    std::vector<std::string>& meets = bare.body.meets;
    for (const Level<D>& level : levels) {
        for (const std::string& layer : level.layers()) {
            if (std::find(meets.begin(), meets.end(), layer) == meets.end()) meets.push_back(layer);
        }
    }
    return {bare, body_text<D>(bare.body)};
}

template <int D>
int run(const ProposeArguments& arguments, std::vector<Level<D>> levels) {
    auto [bare, text] = bare_rig<D>(arguments, levels);
    ProposeOptions options;
    options.survey = survey_options(arguments.common, arguments.flags);
    options.survey.progress = {};
    options.progress = progress_bar("proposing");
    std::vector<const Level<D>*> pointers;
    pointers.reserve(levels.size());
    for (const Level<D>& level : levels) pointers.push_back(&level);
    const Proposal<D> proposal = propose<D>(pointers, bare, claims_from(arguments.claims), options);
    if (options.progress) options.progress(1.0);
    if (!text.empty() && text.back() != '\n') text += '\n';
    text += blocks_text<D>(proposal.rig, comments_of<D>(proposal));
    // What is written is what was surveyed.
    const Rig<D> again =
        rig_from_toml<D>(text, arguments.write.empty() ? "proposed" : arguments.write, levels.front());
    if (!differences<D>(proposal.rig, again).empty() || again.probes.size() != proposal.rig.probes.size())
        throw std::logic_error("the file written would not be read as the rig that was surveyed");
    std::string on;
    for (const std::string& level : arguments.levels) on += (on.empty() ? "" : ", ") + file_name(level);
    const std::string title =
        "A rig for " + (arguments.rig.empty() ? arguments.body : file_name(arguments.rig)) + " on " + on;
    std::string words = propose_text<D>(title, proposal, text_options());
    Outputs outputs;
    const CommonOptions& common = arguments.common;
    if (!common.json.empty()) outputs.add(common.json, propose_json<D>(arguments.levels, proposal));
    if (!common.figure.empty() || !common.html.empty()) {
        const Survey<D> survey_of_it = survey<D>(levels.front(), proposal.rig, options.survey);
        const std::string level_name = file_name(arguments.levels.front());
        if (!common.figure.empty())
            outputs.add(common.figure, survey_figure<D>(levels.front(), proposal.rig, survey_of_it,
                                                        level_name, "the proposed rig", common.figure));
        if (!common.html.empty()) {
            Page page(title);
            page.add<D>(
                levels.front(), proposal.rig, survey_of_it,
                {arguments.levels.front(), arguments.write.empty() ? "proposed.rig.toml" : arguments.write});
            page.say(words);
            outputs.add(common.html, page.finish());
        }
    }
    if (!arguments.write.empty()) {
        outputs.add(arguments.write, text);
        words += "Written to " + arguments.write + ".\n";
    }
    outputs.write();
    if (common.json != "-") fmt::print("{}", words);
    const bool all_chosen =
        std::all_of(proposal.claims.begin(), proposal.claims.end(),
                    [](const ProposedClaim<D>& claim) { return claim.chosen.has_value(); });
    return all_chosen && proposal.wrong.poses() == 0 ? all_well : wrong_verdicts;
}

template <int D>
int run_on(const ProposeArguments& arguments) {
    std::vector<Level<D>> levels;
    for (const std::string& path : arguments.levels) levels.push_back(load_level_of<D>(path));
    return run<D>(arguments, std::move(levels));
}

}  // namespace

void add_propose_command(Commands& commands) {
    auto arguments = std::make_shared<ProposeArguments>();
    Command command = commands.add(
        "propose", "Design a rig from body and intent: the cheapest probes that keep each claim");
    command.option("files", arguments->files, "Levels, and a rig file with body and intent alone, or --body")
        .required()
        .takes("LEVEL… [RIG]");
    command.option("--body", arguments->body, "capsule:0.3x1.8, box:0.6x1.5 or ball:0.4; it meets all layers")
        .takes("SHAPE");
    command
        .option("--claims", arguments->claims,
                "What the rig is to tell: ground, ceiling, wall, …; standard: ground")
        .by_commas()
        .takes("CLAIM,…");
    command.option("--write", arguments->write, "Write the rig, with what each probe is for").takes("FILE");
    add_survey_flags(command, arguments->flags);
    add_common(command, arguments->common);
    command.runs([arguments] {
        check_outputs(arguments->common, {arguments->write});
        (void)claims_from(arguments->claims);
        const LevelsAndRigs sorted = told_apart("propose", arguments->files);
        if (sorted.rigs.size() > 1)
            throw InputError("propose: there are two rigs or more among the files, expected one at most");
        arguments->levels = sorted.levels;
        arguments->rig = sorted.rigs.empty() ? "" : sorted.rigs.front();
        if (arguments->rig.empty() == arguments->body.empty())
            throw InputError("propose: say what the body is, either by a rig file or with --body");
        const AnyLevel first = load_level(arguments->levels.front());
        return std::holds_alternative<Level<2>>(first) ? run_on<2>(*arguments) : run_on<3>(*arguments);
    });
}

}  // namespace hollow_probe::tool
