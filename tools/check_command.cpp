// hollow-probe check: the list of surveys, drills and hunts that a team keeps, all at once.
#include <fmt/format.h>

#include <chrono>
#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>

#include "drills.hpp"
#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/suite_file.hpp"
#include "hollow_probe/report/advice_text.hpp"
#include "hollow_probe/report/junit.hpp"
#include "hollow_probe/report/sarif.hpp"
#include "hunts.hpp"

namespace hollow_probe::tool {
namespace {

struct CheckArguments {
    CommonOptions common;
    std::string file;
    std::string junit;
    std::string sarif;
    std::string baseline;
};

using Json = nlohmann::ordered_json;

/// A former result: what passed, and which findings there were. As json_of() writes it.
class Baseline {
  public:
    /// An empty one if there is no such file yet.
    explicit Baseline(const std::string& path) {
        if (path.empty() || !std::filesystem::exists(path)) return;
        constexpr std::size_t most_bytes = 64U << 20U;
        const Json json = Json::parse(read_file(path, most_bytes), nullptr, false);
        try {
            if (json.at("format") != "hollow-probe check 1") throw InputError("another format");
            for (const Json& result : json.at("results")) {
                Case& one =
                    cases_[result.at("kind").get<std::string>() + " " + result.at("name").get<std::string>()];
                one.passed = result.at("passed").get<bool>();
                for (const Json& finding : result.value("findings", Json::array()))
                    one.known.push_back({finding.at("id").get<std::string>(), "in the baseline",
                                         finding.at("measure").get<double>(), false});
            }
        } catch (const std::exception&) {
            throw InputError(
                path + ":1:1: this is no result of check, expected one that --baseline or --json wrote");
        }
    }

    struct Case {
        bool passed = true;
        std::vector<KnownFinding> known;
    };
    [[nodiscard]] const Case* find(const std::string& kind, const std::string& name) const {
        const auto found = cases_.find(kind + " " + name);
        return found == cases_.end() ? nullptr : &found->second;
    }

  private:
    std::map<std::string, Case> cases_;
};

/// A finding as a baseline keeps it.
struct KeptFinding {
    std::string id;
    std::string verdict;
    std::size_t count = 0;
    double measure = 0.0;
};

class Checking {
  public:
    Checking(const CheckArguments& arguments, const std::string& name)
        : arguments_(arguments), page_(name), baseline_(arguments.baseline) {}

    [[nodiscard]] const std::vector<std::vector<KeptFinding>>& findings() const { return findings_; }
    [[nodiscard]] const std::vector<SarifResult>& sarif() const { return sarif_; }

    const std::vector<SuiteResult>& run(const Suite& suite) {
        for (const SuiteSurvey& survey : suite.surveys)
            timed("survey", survey.name, [&] { return check(survey); });
        for (const SuiteDrill& drill : suite.drills) {
            try {
                check(drill);
            } catch (const std::runtime_error& error) {
                timed("drill", stem(drill.file),
                      [&]() -> Failure { throw std::runtime_error(error.what()); });
            }
        }
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

    /// A case that cannot be run fails alone.
    template <class Run>
    void timed(const char* kind, const std::string& name, Run run) {
        const auto begin = std::chrono::steady_clock::now();
        SuiteResult result;
        result.kind = kind;
        result.name = name;
        kept_.clear();
        note_.clear();
        command_.clear();
        file_.clear();
        try {
            const Failure failure = run();
            result.failure = failure.line;
            result.details = failure.details;
        } catch (const std::runtime_error& error) {
            result.failure = error.what();
            result.broken = true;
        }
        const Baseline::Case* const before = baseline_.find(kind, name);
        if (!result.failure.empty() && !result.broken && before != nullptr && !before->passed &&
            std::string_view(kind) != "survey") {
            note_ = "fails as it did in the baseline: " + result.failure;
            result.failure.clear();
            result.details.clear();
        }
        result.note = note_;
        result.command = command_;
        result.file = file_;
        const std::chrono::duration<double> taken = std::chrono::steady_clock::now() - begin;
        result.seconds = taken.count();
        reports_.push_back(std::exchange(report_, std::nullopt));
        findings_.push_back(kept_);
        results_.push_back(std::move(result));
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
        file_ = entry.rig;
        command_ = fmt::format("hollow-probe survey {} {}", shell_word(entry.level), shell_word(entry.rig));
        if (entry.spacing > 0.0) command_ += fmt::format(" --spacing {}", entry.spacing);
        if (entry.headings != 4) command_ += fmt::format(" --headings {}", entry.headings);
        for (const std::string& stance : entry.stances) command_ += " --stance " + shell_word(stance);
        if (!entry.area.empty()) command_ += " --area " + shell_word(entry.area);
        const Rig<D> rig = load_rig<D>(entry.rig, level);
        SurveyOptions options;
        options.spacing = entry.spacing;
        options.headings = entry.headings;
        options.stances = entry.stances;
        options.area = entry.area;
        options.threads = arguments_.common.threads;
        const Survey<D> result =
            survey<D>(level, rig, options);  // throws if nothing is judged: no clean result
        if (reports_more()) report_ = page_.add<D>(level, rig, result, {entry.level, entry.rig});
        for (const Finding<D>& finding : result.findings)
            kept_.push_back({finding.id, name_of(finding.verdict), finding.count, finding.measure});
        if (!arguments_.sarif.empty()) {
            constexpr std::size_t most_bytes = 64U << 20U;
            const auto more = sarif_results<D>(rig, result, read_file(entry.rig, most_bytes), entry.rig);
            sarif_.insert(sarif_.end(), more.begin(), more.end());
        }
        std::vector<KnownFinding> known = entry.known;
        const Baseline::Case* const before = baseline_.find("survey", entry.name);
        if (before != nullptr) known.insert(known.end(), before->known.begin(), before->known.end());
        const AgainstKnown against = hold_against<D>(result, known);
        if (!known.empty()) note_ = against.text();
        const WrongInAll& found = against.rest;
        if (within(found, entry.allowed) && !against.is_worse()) return {};
        return {
            fmt::format(
                "{}{} missed contacts ({:.3g} %) and {} false ones ({:.3g} %) of {} poses, allowed {} and {}",
                known.empty() ? "" : against.text() + ": ", found.missed, 100.0 * found.missed_share,
                found.falsely, 100.0 * found.false_share, result.judged, entry.allowed.missed.text(),
                entry.allowed.falsely.text()),
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
                        file_ = entry.file;
                        command_ = "hollow-probe drill " + shell_word(entry.file);
                        if (!entry.tick_rates.empty())
                            command_ += fmt::format(" --tick-rates {}", drill.tick_rate);
                        if (entry.phases > 1) command_ += fmt::format(" --phases {}", entry.phases);
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
        file_ = entry.drill;
        command_ = fmt::format("hollow-probe hunt {} --seed {} --ticks {}", shell_word(entry.drill),
                               entry.seed, entry.ticks);
        return std::visit(
            [&]<int D>(const LoadedDrill<D>& loaded) -> Failure {
                HuntOptions options;
                options.seed = entry.seed;
                options.most_ticks = entry.ticks;
                options.threads = arguments_.common.threads;
                const HuntResult<D> result = hunt<D>(*loaded.level, loaded.rig, loaded.drill, options);
                if (!result.found && result.is_goal)
                    return {fmt::format("not found in {} ticks", result.ticks), hunt_words(result)};
                if (!result.found || result.is_goal) return {};
                const std::string path = found_name(entry.drill);
                if (reports_more()) report_ = add_to_page<D>(page_, loaded, *result.found, path);
                const std::string details = hunt_words(result);
                try {
                    write_file(path, found_text<D>(entry.drill, path, entry.seed, result));
                } catch (const InputError& error) {
                    // What was found is told all the same.
                    return {found_sentence(result), details + error.what() + "\n"};
                }
                return {found_sentence(result),
                        details + fmt::format("left as {}, seed {}: hollow-probe drill {}\n", path,
                                              entry.seed, shell_word(path))};
            },
            loader_.load(entry.drill));
    }

    const CheckArguments& arguments_;
    DrillLoader loader_;
    std::vector<SuiteResult> results_;
    Page page_;
    std::vector<std::unique_ptr<AnyLevel>> levels_;
    std::optional<std::size_t> report_;  // of what is being checked
    std::vector<std::optional<std::size_t>> reports_;
    int reported_ = 0;
    Baseline baseline_;
    std::vector<std::vector<KeptFinding>> findings_;  // by result
    std::vector<SarifResult> sarif_;
    // Of what is being checked:
    std::vector<KeptFinding> kept_;
    std::string note_;
    std::string command_;
    std::string file_;
};

std::string words_of(const std::vector<SuiteResult>& results, const TextOptions& options) {
    std::string text;
    std::size_t failed = 0;
    for (const SuiteResult& result : results) {
        const bool passed = result.failure.empty();
        failed += passed ? 0 : 1;
        text += fmt::format("{}  {:<7} {}  ({:.2f} s)\n",
                            passed          ? "pass"
                            : result.broken ? "BROKEN"
                                            : "FAIL",
                            result.kind, result.name, result.seconds);
        for (const std::string& line : wrapped(passed ? result.note : result.failure, options.width - 14))
            text += std::string(14, ' ') + line + "\n";
    }
    return text + fmt::format("{} of {} pass\n", results.size() - failed, results.size());
}

std::string json_of(const std::vector<SuiteResult>& results,
                    const std::vector<std::vector<KeptFinding>>& findings, const std::string& name) {
    Json list = Json::array();
    for (std::size_t i = 0; i < results.size(); ++i) {
        const SuiteResult& result = results[i];
        Json one = {{"kind", result.kind}, {"name", result.name}, {"passed", result.failure.empty()}};
        if (!result.failure.empty()) one["failure"] = result.failure;
        if (result.broken) one["broken"] = true;
        if (!result.note.empty()) one["note"] = result.note;
        if (!result.command.empty()) one["command"] = result.command;
        if (result.kind == "survey" && !result.broken) {
            one["findings"] = Json::array();
            for (const KeptFinding& finding : findings[i]) {
                one["findings"].push_back({{"id", finding.id},
                                           {"verdict", finding.verdict},
                                           {"count", finding.count},
                                           {"measure", finding.measure}});
            }
        }
        list.push_back(one);
    }
    return Json{{"format", "hollow-probe check 1"}, {"suite", name}, {"results", list}}.dump(
               2, ' ', false, Json::error_handler_t::replace) +
           "\n";
}

int run(const CheckArguments& arguments) {
    const Suite suite = load_suite(arguments.file);
    const std::string name = std::filesystem::path(arguments.file).filename().string();
    Checking checking(arguments, name);
    const std::vector<SuiteResult>& results = checking.run(suite);
    const bool passed =
        std::all_of(results.begin(), results.end(), [](const SuiteResult& r) { return r.failure.empty(); });
    Outputs outputs;
    const std::string json = json_of(results, checking.findings(), name);
    if (!arguments.common.json.empty()) outputs.add(arguments.common.json, json);
    // What is worse than before does not become the new measure.
    if (!arguments.baseline.empty() && (passed || !std::filesystem::exists(arguments.baseline)))
        outputs.add(arguments.baseline, json);
    if (!arguments.sarif.empty()) outputs.add(arguments.sarif, sarif_log(checking.sarif()));
    if (!arguments.junit.empty()) outputs.add(arguments.junit, junit_xml(name, results));
    if (!arguments.common.html.empty()) outputs.add(arguments.common.html, checking.page());
    outputs.write();
    if (arguments.common.json != "-") fmt::print("{}", words_of(results, text_options()));
    return passed ? all_well : wrong_verdicts;
}

}  // namespace

void add_check_command(Commands& commands) {
    auto arguments = std::make_shared<CheckArguments>();
    Command command = commands.add("check", "Run a suite: the surveys, drills and hunts that must stay well");
    command.option("suite", arguments->file, "The suite file").required().takes("SUITE");
    command.option("--junit", arguments->junit, "Write the results as JUnit XML").takes("FILE");
    command
        .option("--sarif", arguments->sarif,
                "Write the findings as SARIF 2.1.0, at the lines of the rig files")
        .takes("FILE");
    command
        .option("--baseline", arguments->baseline,
                "Fail only for what is worse than in this former result; written if it is not there, and if "
                "nothing is worse")
        .takes("FILE");
    add_common(command, arguments->common);
    command.runs([arguments] {
        if (!arguments->common.figure.empty()) throw InputError("--figure: a suite has no figure of its own");
        check_outputs(arguments->common, {arguments->junit, arguments->sarif, arguments->baseline});
        return run(*arguments);
    });
}

}  // namespace hollow_probe::tool
