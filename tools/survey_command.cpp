// hollow-probe survey: a rig's signals against truth, over a level.
#include <fmt/format.h>

#include <filesystem>
#include <memory>
#include <nlohmann/json.hpp>

#include "common.hpp"
#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/rig_edit.hpp"
#include "hollow_probe/io/survey_json.hpp"
#include "hollow_probe/report/advice_text.hpp"
#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/page.hpp"
#include "hollow_probe/report/sarif.hpp"
#include "hollow_probe/verify/comparison.hpp"
#include "interrupt.hpp"
#include "kept_on_disk.hpp"

namespace hollow_probe::tool {
namespace {

struct Arguments {
    CommonOptions common;
    SurveyFlags flags;
    std::string level;
    std::string rig;
    std::string allow = "missed=0,false=0";
    std::string before;
    std::string write_cure;
    std::string cure;
    std::string write_fixed;
    std::string sarif;
    std::string keep;
    std::vector<std::size_t> fixes;
    int most_tried = -1;
};

/// A change made to the author's file, and read again before anything is replaced.
template <int D>
std::string written(const Arguments& arguments, const Level<D>& level, const Rig<D>& rig,
                    const std::vector<FieldChange>& changes, const std::string& to) {
    if (changes.empty()) throw InputError("--write-fixed: the change is none to a rig file");
    std::string text = with_changes(read_file(arguments.rig, most_rig_bytes), arguments.rig, changes);
    text = extended_from(text, arguments.rig, to);
    const Rig<D> again = rig_from_toml<D>(text, to, level);
    if (!differences<D>(rig, again).empty() || again.probes.size() != rig.probes.size())
        throw std::logic_error("the file written would not be read as the rig that was surveyed");
    return text;
}

/// Which of a finding's changes is asked for: "m-52284" the leading one, "m-52284:2" the second.
struct Choice {
    std::string finding;
    std::optional<std::size_t> number;  // from 0
};

Choice choice_of(const std::string& text) {
    const std::size_t colon = text.find(':');
    if (colon == std::string::npos) return {text, std::nullopt};
    const std::string digits = text.substr(colon + 1);
    if (digits.empty() || digits.size() > 3 || digits.find_first_not_of("0123456789") != std::string::npos ||
        std::stoul(digits) == 0)
        throw InputError("--cure: '" + text +
                         "' should be a finding's id, or one with the number of its change: ID:2");
    return {text.substr(0, colon), std::stoul(digits) - 1};
}

/// A rig file with one change made, and how wrong the rig is with it: surveyed anew.
struct Cured {
    std::string text;
    Wrongness after;
};

template <int D>
Cured cured_by(const Arguments& arguments, const Level<D>& level, const CauseReport& cause,
               SurveyOptions options, KeptTruths<D>& kept) {
    const Rig<D> rig =
        rig_from_toml<D>(with_changes(read_file(arguments.rig, most_rig_bytes), arguments.rig, cause.edits),
                         arguments.rig, level);
    options.explain = false;
    return {written<D>(arguments, level, rig, cause.edits, arguments.write_cure),
            survey<D>(level, rig, options, kept).wrong};
}

/// What was asked for with --cure, or else the leading change of the worst finding that has one that makes
/// the rig less wrong.
template <int D>
Cured cured_rig(const Arguments& arguments, const Level<D>& level, const Survey<D>& result,
                const SurveyOptions& options, KeptTruths<D>& kept) {
    constexpr int most_surveyed = 4;
    const Choice choice = choice_of(arguments.cure);
    int surveyed = 0;
    for (const ValueErrors<D>& errors : result.values) {
        if (errors.value == Value::none || errors.id != choice.finding) continue;
        const std::size_t number = choice.number.value_or(0);
        if (number >= errors.cures.size())
            throw InputError(fmt::format("--cure: '{}' has {} changes", errors.id, errors.cures.size()));
        const Cured cured = cured_by<D>(arguments, level, errors.cures[number].change, options, kept);
        const bool spoils = result.wrong.better_than(cured.after);
        if (choice.number || !spoils) return cured;
        throw InputError(fmt::format(
            "--cure: {} takes more than it gives, surveyed anew: {}; ask for it by number: --cure {}:1",
            change_text(errors.cures[number].change), promise_text(result.wrong, cured.after), errors.id));
    }
    for (const Finding<D>& finding : result.findings) {
        if (!choice.finding.empty() && finding.id != choice.finding) continue;
        if (choice.number && *choice.number >= finding.causes.size())
            throw InputError(
                fmt::format("--cure: finding '{}' has {} changes", finding.id, finding.causes.size()));
        const CauseReport& cause = finding.causes[choice.number.value_or(0)];
        if (choice.finding.empty() && !(cause.helps() && cause.can_be_written())) continue;
        if (!cause.can_be_written())
            throw InputError("--cure: no change to the rig file cures finding '" + finding.id + "'" +
                             (cause.parameter.empty() ? "" : ": " + change_text(cause)));
        const Cured cured = cured_by<D>(arguments, level, cause, options, kept);
        if (choice.number || cured.after.better_than(result.wrong)) return cured;
        if (!choice.finding.empty()) {
            throw InputError(fmt::format(
                "--cure: {} takes more than it gives, surveyed anew: {}; ask for it by number: --cure {}:1",
                change_text(cause), promise_text(result.wrong, cured.after), finding.id));
        }
        if (++surveyed == most_surveyed) break;
    }
    if (!choice.finding.empty())
        throw InputError("--cure: there is no finding '" + choice.finding + "' in this survey");
    throw InputError("--write-cure: there is no finding that a change to the rig file cures without harm");
}

/// The rig with the fixes asked for made, else with the best set.
template <int D>
std::string fixed_rig(const Arguments& arguments, const Level<D>& level, const Rig<D>& rig,
                      const Survey<D>& result) {
    std::vector<std::size_t> numbers = arguments.fixes;
    if (numbers.empty() && result.joint) {
        for (const std::size_t fix : result.joint->fixes) numbers.push_back(fix + 1);
    }
    if (numbers.empty() && !result.fixes.empty() && result.fixes.front().apply) numbers = {1};
    if (numbers.empty())
        throw InputError("--write-fixed: no change to the rig file that was tried makes it less wrong");
    Rig<D> fixed = rig;
    for (const std::size_t number : numbers) {
        if (number < 1 || number > result.fixes.size())
            throw InputError(
                fmt::format("--fix: there is no fix {}, expected 1 to {}", number, result.fixes.size()));
        if (!result.fixes[number - 1].apply)
            throw InputError(
                fmt::format("--fix: fix {} is a change to the level, not to the rig file", number));
        fixed = result.fixes[number - 1].apply(fixed);
    }
    return written<D>(arguments, level, fixed, differences<D>(rig, fixed), arguments.write_fixed);
}

/// The rig that was before, and how it did.
template <int D>
struct Before {
    Rig<D> rig;
    Survey<D> survey;
    std::optional<Comparison> comparison;  // over the same poses
    std::string why_not;                   // there is none
};

template <int D>
std::optional<Before<D>> before_of(const Arguments& arguments, const Level<D>& level, const Rig<D>& rig,
                                   const Survey<D>& result, const SurveyOptions& options,
                                   KeptTruths<D>& kept) {
    if (arguments.before.empty()) return std::nullopt;
    Before<D> before;
    before.rig = load_rig<D>(arguments.before, level);
    before.survey = survey<D>(level, before.rig, options, kept);
    try {
        before.comparison = compare_at<D>(level, before.rig, before.survey, rig, result, options);
    } catch (const InvalidInput& error) {
        before.why_not = error.what();
    }
    return before;
}

template <int D>
std::string before_text(const Arguments& arguments, const Before<D>& before, const Survey<D>& result) {
    std::string text = fmt::format("\nBefore ({}): {} ({} wrong → {}).\n",
                                   std::filesystem::path(arguments.before).filename().string(),
                                   promise_text(before.survey.wrong, result.wrong),
                                   poses(before.survey.wrong.poses()), grouped(result.wrong.poses()));
    if (!before.comparison) return text + before.why_not + "\n";
    const Comparison& c = *before.comparison;
    return text + fmt::format(
                      "Over the same {}: {} mended, {} spoiled, {} wrong in both. Findings: {} cured, {} "
                      "new, {} unchanged.\n",
                      poses(c.poses), grouped(c.mended), grouped(c.spoiled), grouped(c.still_wrong),
                      c.cured.size(), c.fresh.size(), c.unchanged.size());
}

/// A survey's JSON with what was before.
template <int D>
std::string with_before(const std::string& json, const Arguments& arguments, const Before<D>& before) {
    auto object = nlohmann::ordered_json::parse(json);
    auto& told = object["before"];
    told["rig"] = std::filesystem::path(arguments.before).filename().string();
    const Wrongness& wrong = before.survey.wrong;
    told["wrong"] = {{"missed", wrong.missed},
                     {"false", wrong.falsely},
                     {"missed_share", wrong.missed_share()},
                     {"false_share", wrong.false_share()},
                     {"missed_poses", wrong.missed_poses},
                     {"false_poses", wrong.false_poses}};
    if (const auto& c = before.comparison) {
        told["same_poses"] = {{"poses", c->poses},
                              {"mended", c->mended},
                              {"spoiled", c->spoiled},
                              {"wrong_in_both", c->still_wrong}};
        told["findings"] = {{"cured", c->cured}, {"new", c->fresh}, {"unchanged", c->unchanged}};
    } else {
        told["not_compared"] = before.why_not;
    }
    return object.dump(2) + "\n";
}

template <int D>
std::string page_of(const Arguments& arguments, const Level<D>& level, const Rig<D>& rig,
                    const Survey<D>& result, const std::optional<Before<D>>& before) {
    const auto stem = [](const std::string& path) { return std::filesystem::path(path).filename().string(); };
    Page page(stem(arguments.rig) + " on " + stem(arguments.level));
    page.add<D>(level, rig, result, {arguments.level, arguments.rig});
    if (before) {
        page.add<D>(level, before->rig, before->survey, {arguments.level, arguments.before});
        if (before->comparison) {
            page.compare(*before->comparison);
        } else {
            page.compare();
        }
    }
    return page.finish();
}

/// What was asked for of a survey: JSON, a figure, a page, a log of findings.
template <int D>
void add_results(const Arguments& arguments, const Level<D>& level, const Rig<D>& rig,
                 const Survey<D>& result, const std::optional<Before<D>>& before, Outputs& outputs) {
    const CommonOptions& common = arguments.common;
    const std::string level_name = std::filesystem::path(arguments.level).filename().string();
    const std::string rig_name = std::filesystem::path(arguments.rig).filename().string();
    if (!common.json.empty()) {
        std::string json = survey_json<D>(level, rig, result, level_name, rig_name);
        if (before) json = with_before<D>(json, arguments, *before);
        outputs.add(common.json, json);
    }
    if (!common.figure.empty())
        outputs.add(common.figure, survey_figure<D>(level, rig, result, level_name, rig_name, common.figure));
    if (!common.html.empty()) outputs.add(common.html, page_of<D>(arguments, level, rig, result, before));
    if (!arguments.sarif.empty())
        outputs.add(arguments.sarif,
                    sarif_log(sarif_results<D>(rig, result, read_file(arguments.rig, most_rig_bytes),
                                               arguments.rig)));
}

template <int D>
int run(const Arguments& arguments, const Level<D>& level) {
    const Rig<D> rig = load_rig<D>(arguments.rig, level);
    SurveyOptions options = survey_options(arguments.common, arguments.flags);
    if (arguments.most_tried >= 0) options.most_tried = static_cast<std::size_t>(arguments.most_tried);
    const std::string title = std::filesystem::path(arguments.rig).filename().string() + " on " +
                              std::filesystem::path(arguments.level).filename().string() + "\n";
    Interrupt interrupt;
    options.stop = [&] { return interrupt.came(); };
    KeptOnDisk<D> on_disk(arguments.keep, level, arguments.flags);
    KeptTruths<D>& kept = on_disk.kept;
    RoundView view;
    std::function<void(const Survey<D>&)> each_round;
    if (view.is_seen() && arguments.common.json != "-")
        each_round = [&](const Survey<D>& round) {
            view.show(title + round_text<D>(rig, round, text_options()));
        };
    const Survey<D> result = survey<D>(level, rig, options, kept, each_round);
    view.clear();
    const bool stopped = result.end == SurveyEnd::stopped;
    // What is surveyed beside it is looked at as closely.
    options.stop = {};
    options.spacing = result.spacing;
    options.budget = 0;
    const std::optional<Before<D>> before =
        stopped ? std::nullopt : before_of<D>(arguments, level, rig, result, options, kept);
    Outputs outputs;
    add_results<D>(arguments, level, rig, result, before, outputs);
    std::optional<Cured> cured;
    if (!arguments.write_cure.empty() && !stopped) {
        cured = cured_rig<D>(arguments, level, result, options, kept);
        outputs.add(arguments.write_cure, cured->text);
    }
    if (!arguments.write_fixed.empty() && !stopped)
        outputs.add(arguments.write_fixed, fixed_rig<D>(arguments, level, rig, result));
    outputs.write();
    on_disk.save();
    if (arguments.common.json != "-") {
        TextOptions text = text_options();
        text.level_file = arguments.level;
        text.rig_file = arguments.rig;
        fmt::print("{}{}", title, survey_text<D>(rig, result, text));
        if (before) fmt::print("{}", before_text<D>(arguments, *before, result));
        if (cured) {
            fmt::print("\nWritten to {}, and surveyed anew: {} ({} wrong → {}).\n", arguments.write_cure,
                       promise_text(result.wrong, cured->after), poses(result.wrong.poses()),
                       grouped(cured->after.poses()));
        }
    }
    if (stopped) return interrupted;
    return exit_code_of(result, allowed_from(arguments.allow));
}

}  // namespace

void add_survey_command(Commands& commands) {
    auto arguments = std::make_shared<Arguments>();
    Command command =
        commands.add("survey", "Hold a rig's signals against truth over poses that cover a level");
    command.option("level", arguments->level, "The level file").required().takes("LEVEL");
    command.option("rig", arguments->rig, "The rig file").required().takes("RIG");
    add_survey_flags(command, arguments->flags);
    command
        .option("--before", arguments->before,
                "Another rig: what has changed since, in words, in JSON and on the page")
        .takes("RIG");
    command
        .option("--keep", arguments->keep,
                "Keep what is true of this level in this folder, and take it from there the next time")
        .takes("FOLDER");
    command
        .option("--allow", arguments->allow,
                "How many wrong poses there may be in all before the exit code says so")
        .takes("missed=N,false=N,claims=N")
        .with_default();
    const Option write_cure =
        command
            .option("--write-cure", arguments->write_cure,
                    "Write the rig with the leading cure of the worst finding made, all else as it was")
            .takes("FILE");
    command
        .option("--cure", arguments->cure,
                "… of this finding, or this value, instead; ID:2 its second change")
        .takes("ID")
        .needs(write_cure);
    const Option write_fixed =
        command
            .option(
                "--write-fixed", arguments->write_fixed,
                "Write the rig with fixes made, all else as it was: the best set, or those named by --fix")
            .takes("FILE");
    command.option("--fix", arguments->fixes, "… this fix, by its number; may be given several times")
        .takes("N")
        .needs(write_fixed);
    command
        .option("--try", arguments->most_tried,
                "How many changed rigs to survey anew for fixes; standard: as many as 2.5 million poses "
                "allow, 2 to 12")
        .not_negative()
        .takes("N");
    command
        .option("--sarif", arguments->sarif,
                "Write the findings as SARIF 2.1.0, at the lines of the rig file")
        .takes("FILE");
    add_common(command, arguments->common);
    command.runs([arguments] {
        check_outputs(arguments->common, {arguments->write_cure, arguments->write_fixed, arguments->sarif});
        (void)allowed_from(arguments->allow);  // refused before any work
        const AnyLevel level = load_level(arguments->level);
        return std::visit([&](const auto& of_dimension) { return run(*arguments, of_dimension); }, level);
    });
}

}  // namespace hollow_probe::tool
