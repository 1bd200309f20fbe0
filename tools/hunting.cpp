#include "hunting.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <cstdio>
#include <filesystem>

#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/drill_json.hpp"
#include "hollow_probe/report/drill_text.hpp"
#include "hollow_probe/report/timeline_figure.hpp"
#include "hunts.hpp"

namespace hollow_probe::tool {
namespace {

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
DrillOutcome explained(const HuntWanted& wanted, const LoadedDrill<D>& loaded, const HuntResult<D>& result) {
    DrillOutcome outcome = outcome_of_found(result);
    if (wanted.most_ticks_to_explain == 0) return outcome;
    WhyOptions options;
    options.most_ticks = wanted.most_ticks_to_explain;
    options.threads = wanted.common.threads;
    outcome.why = why_broken<D>(*loaded.level, loaded.rig, *result.found, outcome.broken, options);
    return outcome;
}

}  // namespace

HuntOptions hunt_options(const HuntWanted& wanted) {
    HuntOptions options;
    options.seed = wanted.common.seed;
    options.threads = wanted.common.threads;
    options.most_ticks = wanted.ticks;
    options.most_seconds = wanted.seconds;
    if (wanted.common.tells) options.progress = hunt_progress();
    return options;
}

void add_hunt_outputs(Command& command, HuntWanted& wanted) {
    command
        .option(
            "--write", wanted.write,
            "Where to write the drill that a hunt finds; standard: beside the file, with -found in its name")
        .takes("FILE");
    command
        .option("--try", wanted.most_ticks_to_explain,
                "How many ticks to replay with changes, to say what would mend what was found; 0: none")
        .not_negative()
        .with_default()
        .takes("N");
}

std::string hunt_target(const HuntWanted& wanted) {
    return wanted.write.empty() ? found_name(wanted.file) : wanted.write;
}

template <int D>
int hunt_and_tell(const HuntWanted& wanted, const LoadedDrill<D>& loaded,
                  const std::vector<std::vector<std::string>>& parts) {
    const HuntOptions options = hunt_options(wanted);
    SeriesResult<D> series;
    const HuntResult<D>& result = series.hunt;
    std::string words;
    std::size_t rate = 0;
    // At one rate after the other, until something is found.
    for (const Drill<D>& drill : variants<D>(loaded.drill, wanted.tick_rates, 1)) {
        HuntSeries of_rate;
        of_rate.seeds = wanted.seeds;
        of_rate.sharing = wanted.common.sharing;
        if (rate < parts.size()) of_rate.parts = parts[rate++];
        series = hunt_series<D>(*loaded.level, loaded.rig, drill, options, of_rate);
        if (!wanted.tick_rates.empty()) words += fmt::format("at {}/s: ", plain(drill.tick_rate));
        words += hunt_words(result);
        if (wanted.seeds > 1 && result.found) words += fmt::format("by seed {}\n", series.seed);
        if (result.found) break;
    }
    if (options.progress) fmt::print(stderr, "\r\x1b[K");
    Outputs outputs(wanted.common);
    std::optional<DrillOutcome> fault;
    if (result.found && !result.is_goal) {
        fault = explained(wanted, loaded, result);
        words += why_text(*fault, text_options());
    }
    if (!wanted.common.json.empty())
        outputs.add(wanted.common.json, hunt_json(result, loaded.drill.name, fault));
    if (result.found) {
        const std::string path = hunt_target(wanted);
        outputs.add(path, found_text<D>(wanted.file, path, series.seed, result));
        words += fmt::format("wrote {}\n", path);
        const CommonOptions& common = wanted.common;
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
    if (!result.found && !wanted.common.html.empty()) {
        // Nothing found: the drill as it is, for looking at.
        Page page(loaded.drill.name + ", hunted");
        page.say(words);
        add_to_page<D>(page, loaded, loaded.drill, wanted.file);
        outputs.add(wanted.common.html, page.finish());
    }
    outputs.write();
    if (wanted.common.json != "-") fmt::print("{}", words);
    return result.found.has_value() == result.is_goal ? all_well : wrong_verdicts;
}

template int hunt_and_tell<2>(const HuntWanted&, const LoadedDrill<2>&,
                              const std::vector<std::vector<std::string>>&);
template int hunt_and_tell<3>(const HuntWanted&, const LoadedDrill<3>&,
                              const std::vector<std::vector<std::string>>&);

}  // namespace hollow_probe::tool
