#include "surveying.hpp"

#include <fmt/format.h>

#include <filesystem>
#include <mutex>
#include <nlohmann/json.hpp>

#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/rig_edit.hpp"
#include "hollow_probe/io/survey_json.hpp"
#include "hollow_probe/report/advice_text.hpp"
#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/page.hpp"
#include "hollow_probe/report/sarif.hpp"
#include "hollow_probe/verify/as_closely.hpp"
#include "hollow_probe/verify/comparison.hpp"
#include "interrupt.hpp"

namespace hollow_probe::tool {
namespace {

/// A change made to the author's file, and read again before anything is replaced.
template <int D>
std::string written(const SurveyWanted& wanted, const Level<D>& level, const Rig<D>& rig,
                    const std::vector<FieldChange>& changes, const std::string& to) {
    if (changes.empty()) throw InputError("--write-fixed: the change is none to a rig file");
    std::string text = with_changes(read_file(wanted.rig, most_rig_bytes), wanted.rig, changes);
    text = extended_from(text, wanted.rig, to);
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
Cured cured_by(const SurveyWanted& wanted, const Level<D>& level, const CauseReport& cause,
               SurveyOptions options, KeptTruths<D>& kept) {
    const Rig<D> rig = rig_from_toml<D>(
        with_changes(read_file(wanted.rig, most_rig_bytes), wanted.rig, cause.edits), wanted.rig, level);
    options.explain = false;
    return {written<D>(wanted, level, rig, cause.edits, wanted.write_cure),
            survey<D>(level, rig, options, kept).wrong};
}

/// What was asked for with --cure, or else the leading change of the worst finding that has one that makes
/// the rig less wrong.
template <int D>
Cured cured_rig(const SurveyWanted& wanted, const Level<D>& level, const Survey<D>& result,
                const SurveyOptions& options, KeptTruths<D>& kept) {
    constexpr int most_surveyed = 4;
    const Choice choice = choice_of(wanted.cure);
    int surveyed = 0;
    for (const ValueErrors<D>& errors : result.values) {
        if (errors.value == Value::none || errors.id != choice.finding) continue;
        const std::size_t number = choice.number.value_or(0);
        if (number >= errors.cures.size())
            throw InputError(fmt::format("--cure: '{}' has {} changes", errors.id, errors.cures.size()));
        Cured cured = cured_by<D>(wanted, level, errors.cures[number].change, options, kept);
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
        Cured cured = cured_by<D>(wanted, level, cause, options, kept);
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
std::string fixed_rig(const SurveyWanted& wanted, const Level<D>& level, const Rig<D>& rig,
                      const Survey<D>& result) {
    std::vector<std::size_t> numbers = wanted.fixes;
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
    return written<D>(wanted, level, fixed, differences<D>(rig, fixed), wanted.write_fixed);
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
std::optional<Before<D>> before_of(const SurveyWanted& wanted, const Level<D>& level, const Rig<D>& rig,
                                   const Survey<D>& result, const SurveyOptions& options,
                                   KeptTruths<D>& kept) {
    if (wanted.before.empty()) return std::nullopt;
    Before<D> before;
    before.rig = load_rig<D>(wanted.before, level);
    before.survey = survey<D>(level, before.rig, options, kept);
    try {
        before.comparison = compare_at<D>(level, before.rig, before.survey, rig, result, options);
    } catch (const InvalidInput& error) {
        before.why_not = error.what();
    }
    return before;
}

template <int D>
std::string before_text(const SurveyWanted& wanted, const Before<D>& before, const Survey<D>& result) {
    std::string text = fmt::format("\nBefore ({}): {} ({} wrong → {}).\n",
                                   std::filesystem::path(wanted.before).filename().string(),
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
std::string with_before(const std::string& json, const SurveyWanted& wanted, const Before<D>& before) {
    auto object = nlohmann::ordered_json::parse(json);
    auto& told = object["before"];
    told["rig"] = std::filesystem::path(wanted.before).filename().string();
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
std::string page_of(const SurveyWanted& wanted, const Level<D>& level, const Rig<D>& rig,
                    const Survey<D>& result, const std::optional<Before<D>>& before) {
    const auto stem = [](const std::string& path) { return std::filesystem::path(path).filename().string(); };
    Page page(stem(wanted.rig) + " on " + stem(wanted.level));
    page.add<D>(level, rig, result, {wanted.level, wanted.rig});
    if (before) {
        page.add<D>(level, before->rig, before->survey, {wanted.level, wanted.before});
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
void add_results(const SurveyWanted& wanted, const Level<D>& level, const Rig<D>& rig,
                 const Survey<D>& result, const std::optional<Before<D>>& before, Outputs& outputs) {
    const CommonOptions& common = wanted.common;
    const std::string level_name = std::filesystem::path(wanted.level).filename().string();
    const std::string rig_name = std::filesystem::path(wanted.rig).filename().string();
    if (!common.json.empty()) {
        std::string json = survey_json<D>(level, rig, result, level_name, rig_name);
        if (before) json = with_before<D>(json, wanted, *before);
        outputs.add(common.json, json);
    }
    if (!common.figure.empty())
        outputs.add(common.figure, survey_figure<D>(level, rig, result, level_name, rig_name, common.figure));
    if (!common.html.empty()) outputs.add(common.html, page_of<D>(wanted, level, rig, result, before));
    if (!wanted.sarif.empty())
        outputs.add(wanted.sarif, sarif_log(sarif_results<D>(
                                      rig, result, read_file(wanted.rig, most_rig_bytes), wanted.rig)));
}

}  // namespace

void add_survey_outputs(Command& command, SurveyWanted& wanted) {
    command
        .option("--before", wanted.before,
                "Another rig: what has changed since, in words, in JSON and on the page")
        .takes("RIG");
    command
        .option("--allow", wanted.allow,
                "How many wrong poses there may be in all before the exit code says so")
        .takes("missed=N,false=N,claims=N")
        .with_default();
    const Option write_cure =
        command
            .option("--write-cure", wanted.write_cure,
                    "Write the rig with the leading cure of the worst finding made, all else as it was")
            .takes("FILE");
    command.option("--cure", wanted.cure, "… of this finding, or this value, instead; ID:2 its second change")
        .takes("ID")
        .needs(write_cure);
    const Option write_fixed =
        command
            .option(
                "--write-fixed", wanted.write_fixed,
                "Write the rig with fixes made, all else as it was: the best set, or those named by --fix")
            .takes("FILE");
    command.option("--fix", wanted.fixes, "… this fix, by its number; may be given several times")
        .takes("N")
        .needs(write_fixed);
    command.option("--sarif", wanted.sarif, "Write the findings as SARIF 2.1.0, at the lines of the rig file")
        .takes("FILE");
}

void check_wanted(const SurveyWanted& wanted) {
    check_outputs(wanted.common, {wanted.write_cure, wanted.write_fixed, wanted.sarif});
    (void)allowed_from(wanted.allow);
}

void refuse_of_survey(const SurveyWanted& wanted, const std::string& why) {
    const std::pair<const char*, const std::string*> whole[] = {{"--before", &wanted.before},
                                                                {"--write-cure", &wanted.write_cure},
                                                                {"--write-fixed", &wanted.write_fixed},
                                                                {"--sarif", &wanted.sarif}};
    for (const auto& [name, value] : whole) {
        if (!value->empty()) throw InputError(fmt::format("{} there is no {}", why, name));
    }
}

template <int D>
int survey_and_tell(const SurveyWanted& wanted, const Level<D>& level, const Rig<D>& rig,
                    SurveyOptions options, KeptTruths<D>& kept, const std::function<void()>& beside) {
    const std::string title = file_name(wanted.rig) + " on " + file_name(wanted.level) + "\n";
    // Ranks go through the same stages: none may end early, or look at rounds of its own.
    const bool alone = !options.sharing;
    std::optional<Interrupt> interrupt;
    std::once_flag said;
    if (alone) {
        interrupt.emplace();
        options.stop = [&] {
            if (!interrupt->came()) return false;
            std::call_once(
                said, [] { fmt::print(stderr, "hollow-probe: interrupted (once more ends it at once)\n"); });
            return true;
        };
    }
    RoundView view;
    std::function<void(const Survey<D>&)> each_round;
    if (alone && view.is_seen() && wanted.common.json != "-")
        each_round = [&](const Survey<D>& round) {
            view.show(title + round_text<D>(rig, round, text_options()));
        };
    const Survey<D> result = survey<D>(level, rig, options, kept, each_round);
    view.clear();
    const bool stopped = result.end == SurveyEnd::stopped;
    // What is surveyed beside it is looked at as closely.
    options.stop = {};
    options = as_closely_as<D>(result, options);
    options.parts = nullptr;
    const std::optional<Before<D>> before =
        stopped ? std::nullopt : before_of<D>(wanted, level, rig, result, options, kept);
    Outputs outputs(wanted.common);
    add_results<D>(wanted, level, rig, result, before, outputs);
    std::optional<Cured> cured;
    if (!wanted.write_cure.empty() && !stopped) {
        cured = cured_rig<D>(wanted, level, result, options, kept);
        outputs.add(wanted.write_cure, cured->text);
    }
    if (!wanted.write_fixed.empty() && !stopped)
        outputs.add(wanted.write_fixed, fixed_rig<D>(wanted, level, rig, result));
    outputs.write();
    if (beside) beside();
    if (wanted.common.json != "-") {
        TextOptions text = text_options();
        text.level_file = wanted.level;
        text.rig_file = wanted.rig;
        fmt::print("{}{}", title, survey_text<D>(rig, result, text));
        if (before) fmt::print("{}", before_text<D>(wanted, *before, result));
        if (cured) {
            fmt::print("\nWritten to {}, and surveyed anew: {} ({} wrong → {}).\n", wanted.write_cure,
                       promise_text(result.wrong, cured->after), poses(result.wrong.poses()),
                       grouped(cured->after.poses()));
        }
    }
    if (stopped) return interrupted;
    return exit_code_of(result, allowed_from(wanted.allow));
}

template int survey_and_tell<2>(const SurveyWanted&, const Level<2>&, const Rig<2>&, SurveyOptions,
                                KeptTruths<2>&, const std::function<void()>&);
template int survey_and_tell<3>(const SurveyWanted&, const Level<3>&, const Rig<3>&, SurveyOptions,
                                KeptTruths<3>&, const std::function<void()>&);

}  // namespace hollow_probe::tool
