// hollow-probe check: the list of surveys, drills and hunts that a team keeps, all at once.
#include <fmt/format.h>

#include <chrono>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "drills.hpp"
#include "hollow_probe/io/suite_file.hpp"
#include "hollow_probe/report/junit.hpp"
#include "hunts.hpp"

namespace hollow_probe::tool {
namespace {

struct Arguments {
    CommonOptions common;
    std::string file;
    std::string junit;
};

class Checking {
  public:
    Checking(const Arguments& arguments, const std::string& name) : arguments_(arguments), page_(name) {}

    const std::vector<SuiteResult>& run(const Suite& suite) {
        for (const SuiteSurvey& survey : suite.surveys)
            timed("survey", survey.name, [&] { return check(survey); });
        for (const SuiteDrill& drill : suite.drills) check(drill);
        for (const SuiteHunt& hunt : suite.hunts)
            timed("hunt", stem(hunt.drill), [&] { return check(hunt); });
        return results_;
    }

    /// The page with the results and the reports behind them.
    std::string page() {
        page_.add(results_, reports_);
        return page_.finish();
    }

  private:
    /// What failed, in one line and at length; nothing if nothing did.
    struct Failure {
        std::string line;
        std::string details;
    };

    static std::string stem(const std::string& path) {
        return std::filesystem::path(path).filename().string();
    }

    template <class Run>
    void timed(const char* kind, const std::string& name, Run run) {
        const auto begin = std::chrono::steady_clock::now();
        const Failure failure = run();
        const std::chrono::duration<double> taken = std::chrono::steady_clock::now() - begin;
        reports_.push_back(std::exchange(report_, std::nullopt));
        results_.push_back({kind, name, taken.count(), failure.line, failure.details});
    }

    /// Whether one more report goes on the page: as many as it can well hold.
    [[nodiscard]] bool reports_more() {
        constexpr int most = 24;
        return !arguments_.common.html.empty() && ++reported_ <= most;
    }

    Failure check(const SuiteSurvey& entry) {
        // Kept: the page tells levels apart by where they are.
        levels_.push_back(std::make_unique<AnyLevel>(load_level_aloud(entry.level)));
        return std::visit([&](const auto& loaded) { return check(entry, loaded); }, *levels_.back());
    }

    template <int D>
    Failure check(const SuiteSurvey& entry, const Level<D>& level) {
        const Rig<D> rig = load_rig<D>(entry.rig, level);
        SurveyOptions options;
        options.spacing = entry.spacing;
        options.headings = entry.headings;
        options.stances = entry.stances;
        options.area = entry.area;
        options.threads = arguments_.common.threads;
        Survey<D> result;
        try {
            result = survey<D>(level, rig, options);
        } catch (const InvalidInput& nothing) {
            return {nothing.what(), {}};  // nothing was judged: that is no clean result
        }
        if (reports_more()) report_ = page_.add<D>(level, rig, result, {entry.level, entry.rig});
        const WrongInAll found = wrong_in<D>(result);
        if (within(found, entry.allowed)) return {};
        return {
            fmt::format(
                "{} missed contacts ({:.3g} %) and {} false ones ({:.3g} %) of {} poses, allowed {} and {}",
                found.missed, 100.0 * found.missed_share, found.falsely, 100.0 * found.false_share,
                result.judged, entry.allowed.missed.text(), entry.allowed.falsely.text()),
            survey_text<D>(rig, result)};
    }

    void check(const SuiteDrill& entry) {
        std::visit(
            [&]<int D>(const LoadedDrill<D>& loaded) {
                Stage<D> stage(*loaded.level, loaded.rig);
                PlayOptions<D> quick;
                quick.keep_ticks = false;
                for (const Drill<D>& drill : variants<D>(loaded.drill, entry.tick_rates, entry.phases)) {
                    std::string name = stem(entry.file);
                    if (!entry.tick_rates.empty()) name += fmt::format(" at {}/s", plain(drill.tick_rate));
                    if (drill.phase > 0.0) name += fmt::format(" +{}", plain(drill.phase));
                    timed("drill", name, [&] {
                        if (reports_more()) report_ = add_to_page<D>(page_, loaded, drill, entry.file);
                        return failure_of(outcome_of<D>(drill, stage.play(drill, quick)));
                    });
                }
            },
            loader_.load(entry.file));
    }

    static Failure failure_of(const DrillOutcome& outcome) {
        if (outcome.kept()) return {};
        std::string details;
        for (const Broken& broken : outcome.broken) details += broken_sentence(outcome, broken) + "\n";
        return {fmt::format("{} of {} expectations broken: {}", outcome.broken.size(),
                            outcome.expectations.size(), broken_sentence(outcome, outcome.broken.front())),
                details};
    }

    Failure check(const SuiteHunt& entry) {
        return std::visit(
            [&]<int D>(const LoadedDrill<D>& loaded) -> Failure {
                HuntOptions options;
                options.seed = entry.seed;
                options.most_ticks = entry.ticks;
                options.threads = arguments_.common.threads;
                const HuntResult<D> result = hunt<D>(*loaded.level, loaded.rig, loaded.drill, options);
                if (!result.found) return {};
                if (reports_more()) report_ = add_to_page<D>(page_, loaded, *result.found, entry.drill);
                return {broken_sentence(outcome_of_found(result), result.broken), hunt_words(result)};
            },
            loader_.load(entry.drill));
    }

    const Arguments& arguments_;
    DrillLoader loader_;
    std::vector<SuiteResult> results_;
    Page page_;
    std::vector<std::unique_ptr<AnyLevel>> levels_;
    std::optional<std::size_t> report_;  // of what is being checked
    std::vector<std::optional<std::size_t>> reports_;
    int reported_ = 0;
};

std::string words_of(const std::vector<SuiteResult>& results, const TextOptions& options) {
    std::string text;
    std::size_t failed = 0;
    for (const SuiteResult& result : results) {
        const bool passed = result.failure.empty();
        failed += passed ? 0 : 1;
        text += fmt::format("{}  {:<7} {}  ({:.2f} s)\n", passed ? "pass" : "FAIL", result.kind, result.name,
                            result.seconds);
        if (passed) continue;
        for (const std::string& line : wrapped(result.failure, options.width - 14))
            text += std::string(14, ' ') + line + "\n";
    }
    return text + fmt::format("{} of {} pass\n", results.size() - failed, results.size());
}

std::string json_of(const std::vector<SuiteResult>& results, const std::string& name) {
    nlohmann::ordered_json list = nlohmann::ordered_json::array();
    for (const SuiteResult& result : results) {
        nlohmann::ordered_json one = {
            {"kind", result.kind}, {"name", result.name}, {"passed", result.failure.empty()}};
        if (!result.failure.empty()) one["failure"] = result.failure;
        list.push_back(one);
    }
    return nlohmann::ordered_json{{"format", "hollow-probe check 1"}, {"suite", name}, {"results", list}}
               .dump(2) +
           "\n";
}

int run(const Arguments& arguments) {
    const Suite suite = load_suite(arguments.file);
    const std::string name = std::filesystem::path(arguments.file).filename().string();
    Checking checking(arguments, name);
    const std::vector<SuiteResult>& results = checking.run(suite);
    Outputs outputs;
    if (!arguments.common.json.empty()) outputs.add(arguments.common.json, json_of(results, name));
    if (!arguments.junit.empty()) outputs.add(arguments.junit, junit_xml(name, results));
    if (!arguments.common.html.empty()) outputs.add(arguments.common.html, checking.page());
    outputs.write();
    if (arguments.common.json != "-") fmt::print("{}", words_of(results, text_options()));
    const bool passed =
        std::all_of(results.begin(), results.end(), [](const SuiteResult& r) { return r.failure.empty(); });
    return passed ? all_well : wrong_verdicts;
}

}  // namespace

void add_check_command(CLI::App& app, int& result) {
    auto arguments = std::make_shared<Arguments>();
    CLI::App* command =
        app.add_subcommand("check", "Run a suite: the surveys, drills and hunts that must stay well");
    command->add_option("suite", arguments->file, "The suite file")->required()->type_name("SUITE");
    command->add_option("--junit", arguments->junit, "Write the results as JUnit XML")->type_name("FILE");
    add_common(*command, arguments->common);
    command->callback([arguments, &result] {
        if (!arguments->common.figure.empty()) throw InputError("--figure: a suite has no figure of its own");
        check_outputs(arguments->common, {arguments->junit});
        result = run(*arguments);
    });
}

}  // namespace hollow_probe::tool
