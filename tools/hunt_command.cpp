// hollow-probe hunt: a search for inputs that break what is expected of a drill.
#include <fmt/format.h>
#include <unistd.h>

#include <cstdio>
#include <filesystem>

#include "drills.hpp"
#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/drill_json.hpp"
#include "hollow_probe/motion/hunt.hpp"
#include "hollow_probe/report/drill_text.hpp"
#include "hollow_probe/report/timeline_figure.hpp"
#include "hunts.hpp"

namespace hollow_probe::tool {
namespace {

struct Arguments {
    CommonOptions common;
    std::string file;
    std::string write;
    std::size_t ticks = 20'000'000;
    double seconds = 0.0;
    std::vector<double> tick_rates;
    std::uint64_t most_ticks_to_explain = 2'000'000;
};

std::function<void(const HuntProgress&)> hunt_progress() {
    if (isatty(STDERR_FILENO) == 0) return nullptr;
    return [](const HuntProgress& progress) {
        fmt::print(stderr, "\r\x1b[Khunting: {} drills, {} ticks, nearest to a limit {:.0f} %",
                   progress.drills, progress.ticks, 100.0 * std::min(progress.nearest, 1.0));
        std::fflush(stderr);
    };
}

/// What the drill that was found breaks, and why.
template <int D>
DrillOutcome explained(const Arguments& arguments, const LoadedDrill<D>& loaded,
                       const HuntResult<D>& result) {
    DrillOutcome outcome = outcome_of_found(result);
    if (arguments.most_ticks_to_explain == 0) return outcome;
    WhyOptions options;
    options.most_ticks = arguments.most_ticks_to_explain;
    options.threads = arguments.common.threads;
    outcome.why = why_broken<D>(*loaded.level, loaded.rig, *result.found, outcome.broken, options);
    return outcome;
}

template <int D>
int run(const Arguments& arguments, const LoadedDrill<D>& loaded) {
    HuntOptions options;
    options.seed = arguments.common.seed;
    options.threads = arguments.common.threads;
    options.most_ticks = arguments.ticks;
    options.most_seconds = arguments.seconds;
    options.progress = hunt_progress();
    HuntResult<D> result;
    std::string words;
    // At one rate after the other, until something is found.
    for (const Drill<D>& drill : variants<D>(loaded.drill, arguments.tick_rates, 1)) {
        result = hunt<D>(*loaded.level, loaded.rig, drill, options);
        if (!arguments.tick_rates.empty()) words += fmt::format("at {}/s: ", plain(drill.tick_rate));
        words += hunt_words(result);
        if (result.found) break;
    }
    if (options.progress) fmt::print(stderr, "\r\x1b[K");
    Outputs outputs;
    std::optional<DrillOutcome> fault;
    if (result.found && !result.is_goal) {
        fault = explained(arguments, loaded, result);
        words += why_text(*fault, text_options());
    }
    if (!arguments.common.json.empty())
        outputs.add(arguments.common.json, hunt_json(result, loaded.drill.name, fault));
    if (result.found) {
        const std::string path = arguments.write.empty() ? found_name(arguments.file) : arguments.write;
        outputs.add(path, found_text<D>(arguments.file, path, arguments.common.seed, result));
        words += fmt::format("wrote {}\n", path);
        const CommonOptions& common = arguments.common;
        const auto record = play<D>(*loaded.level, loaded.rig, *result.found);
        const auto figure = [&](const std::string& name) {
            return timeline_figure<D>(*loaded.level, loaded.rig, *result.found, record, name,
                                      fault ? fault->why : DrillWhy{});
        };
        if (!common.figure.empty()) outputs.add(common.figure, figure(common.figure));
        if (!common.html.empty()) {
            Page page(loaded.drill.name + ", hunted");
            page.say(words);
            add_to_page<D>(page, loaded, *result.found, path);
            outputs.add(common.html, page.finish());
        }
    }
    if (!result.found && !arguments.common.html.empty()) {
        // Nothing found: the drill as it is, for looking at.
        Page page(loaded.drill.name + ", hunted");
        page.say(words);
        add_to_page<D>(page, loaded, loaded.drill, arguments.file);
        outputs.add(arguments.common.html, page.finish());
    }
    outputs.write();
    if (arguments.common.json != "-") fmt::print("{}", words);
    return result.found.has_value() == result.is_goal ? all_well : wrong_verdicts;
}

}  // namespace

void add_hunt_command(Commands& commands) {
    auto arguments = std::make_shared<Arguments>();
    Command command = commands.add(
        "hunt", "Search for inputs that break what is expected of a drill, or get to where it is to get");
    command.option("drill", arguments->file, "The drill file").required().takes("DRILL");
    command
        .option("--write", arguments->write,
                "Where to write the drill that is found; standard: beside the file, with -found in its name")
        .takes("FILE");
    command.option("--ticks", arguments->ticks, "How many ticks to play before giving up")
        .positive()
        .with_default()
        .takes("N");
    command
        .option("--seconds", arguments->seconds,
                "… or so many seconds: what is found by then depends on the machine")
        .positive()
        .takes("S");
    command
        .option("--tick-rates", arguments->tick_rates,
                "Hunt at each of these rates instead of the drill's own")
        .by_commas()
        .within(1.0, 10000.0)
        .takes("HZ,…");
    command
        .option("--try", arguments->most_ticks_to_explain,
                "How many ticks to replay with changes, to say what would mend what was found; 0: none")
        .not_negative()
        .with_default()
        .takes("N");
    add_common(command, arguments->common);
    command.runs([arguments] {
        const std::string target = arguments->write.empty() ? found_name(arguments->file) : arguments->write;
        check_outputs(arguments->common, {target});
        DrillLoader loader;
        return std::visit([&](const auto& loaded) { return run(*arguments, loaded); },
                          loader.load(arguments->file));
    });
}

}  // namespace hollow_probe::tool
