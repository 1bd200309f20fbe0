// hollow-probe drill: a rig's body moved as a script says, tick by tick.
#include <fmt/format.h>

#include <filesystem>
#include <optional>

#include "drills.hpp"
#include "hollow_probe/io/drill_json.hpp"
#include "hollow_probe/io/timeline.hpp"
#include "hollow_probe/report/drill_text.hpp"
#include "hollow_probe/report/timeline_figure.hpp"

namespace hollow_probe::tool {
namespace {

struct Arguments {
    CommonOptions common;
    std::vector<std::string> files;
    std::vector<double> tick_rates;
    std::size_t phases = 1;
    std::string timeline;
    bool details = false;
};

/// One variant of a drill, to be drawn and written out.
template <int D>
void add_outputs(const Arguments& arguments, const LoadedDrill<D>& loaded, const Drill<D>& drill,
                 Outputs& outputs) {
    const CommonOptions& common = arguments.common;
    if (common.figure.empty() && arguments.timeline.empty()) return;
    PlayOptions<D> all;
    all.keep_readings = !arguments.timeline.empty();
    const auto record = play<D>(*loaded.level, loaded.rig, drill, all);
    if (!common.figure.empty()) {
        outputs.add(common.figure,
                    timeline_figure<D>(*loaded.level, loaded.rig, drill, record, common.figure));
    }
    if (arguments.timeline.ends_with(".csv")) {
        outputs.add(arguments.timeline, timeline_csv<D>(loaded.rig, record));
    } else if (!arguments.timeline.empty()) {
        outputs.add(arguments.timeline, timeline_json_lines<D>(loaded.rig, record));
    }
}

/// All variants of the drills, up to as many as a page can well hold.
std::string page_of(const Arguments& arguments, DrillLoader& loader,
                    const std::vector<DrillOutcome>& outcomes) {
    constexpr std::size_t most = 24;
    Page page(arguments.files.size() == 1 ? std::filesystem::path(arguments.files[0]).filename().string()
                                          : fmt::format("{} drills", arguments.files.size()));
    std::size_t count = 0;
    for (const std::string& file : arguments.files) {
        std::visit(
            [&]<int D>(const LoadedDrill<D>& loaded) {
                for (const Drill<D>& drill :
                     variants<D>(loaded.drill, arguments.tick_rates, arguments.phases)) {
                    if (++count <= most) add_to_page<D>(page, loaded, drill, file);
                }
            },
            loader.load(file));
    }
    if (count > 1) page.say(drill_text(outcomes));
    if (count > most)
        page.say(drill_text(outcomes) + fmt::format("The first {} can be played here.\n", most));
    return page.finish();
}

int run(const Arguments& arguments) {
    DrillLoader loader;
    std::vector<DrillOutcome> outcomes;
    // What figures and timelines are of: the first drill that breaks an expectation, else the first.
    std::optional<AnyDrill> shown;
    bool shown_breaks = false;
    for (const std::string& file : arguments.files) {
        std::visit(
            [&]<int D>(LoadedDrill<D> loaded) {
                Stage<D> stage(*loaded.level, loaded.rig);
                PlayOptions<D> quick;
                quick.keep_ticks = false;
                for (const Drill<D>& drill :
                     variants<D>(loaded.drill, arguments.tick_rates, arguments.phases)) {
                    outcomes.push_back(outcome_of<D>(drill, stage.play(drill, quick)));
                    const bool breaks = !outcomes.back().kept();
                    if (shown && (shown_breaks || !breaks)) continue;
                    shown_breaks = breaks;
                    loaded.drill = drill;
                    shown = loaded;
                }
            },
            loader.load(file));
    }
    Outputs outputs;
    if (!arguments.common.json.empty()) outputs.add(arguments.common.json, drill_json(outcomes));
    std::visit([&](const auto& loaded) { add_outputs(arguments, loaded, loaded.drill, outputs); }, *shown);
    if (!arguments.common.html.empty())
        outputs.add(arguments.common.html, page_of(arguments, loader, outcomes));
    outputs.write();
    if (arguments.common.json != "-") {
        const TextOptions text = text_options();
        fmt::print("{}", drill_text(outcomes, text));
        for (const DrillOutcome& outcome : outcomes) {
            if (!arguments.details && outcomes.size() > 1) break;
            fmt::print("\n{}{}", outcomes.size() > 1 ? name_of(outcome) + "\n" : "",
                       figures_text(outcome, text));
        }
    }
    const bool kept =
        std::all_of(outcomes.begin(), outcomes.end(), [](const DrillOutcome& o) { return o.kept(); });
    return kept ? all_well : wrong_verdicts;
}

}  // namespace

void add_drill_command(Commands& commands) {
    auto arguments = std::make_shared<Arguments>();
    Command command =
        commands.add("drill", "Move a rig's body as a script says, and hold it to what is expected");
    command.option("drill", arguments->files, "Drill files").required().takes("DRILL...");
    command.option("--tick-rates", arguments->tick_rates, "Play each drill at these rates instead of its own")
        .by_commas()
        .within(1.0, 10000.0)
        .takes("HZ,…");
    command
        .option("--phases", arguments->phases,
                "Play each drill so many times, its cues each time a part of a tick later")
        .within(1, 64)
        .with_default()
        .takes("N");
    command
        .option(
            "--timeline", arguments->timeline,
            "Write the first drill that breaks an expectation, else the first, tick by tick: .csv or .jsonl")
        .takes("FILE");
    command.flag("--details", arguments->details,
                 "Tell all figures of every drill, not only of a single one");
    add_common(command, arguments->common);
    command.runs([arguments] {
        check_outputs(arguments->common, {arguments->timeline});
        const std::string& timeline = arguments->timeline;
        if (!timeline.empty() && !timeline.ends_with(".csv") && !timeline.ends_with(".jsonl"))
            throw InputError("--timeline: '" + timeline + "' must end in .csv or .jsonl");
        return run(*arguments);
    });
}

}  // namespace hollow_probe::tool
