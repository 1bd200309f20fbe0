// hollow-probe drill: a rig's body moved as a script says, tick by tick.
#include <fmt/format.h>

#include <filesystem>
#include <optional>

#include "drills.hpp"
#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/drill_json.hpp"
#include "hollow_probe/io/rig_edit.hpp"
#include "hollow_probe/io/timeline.hpp"
#include "hollow_probe/report/drill_text.hpp"
#include "hollow_probe/report/timeline_figure.hpp"

namespace hollow_probe::tool {
namespace {

struct DrillArguments {
    CommonOptions common;
    std::vector<std::string> files;
    std::vector<double> tick_rates;
    std::size_t phases = 1;
    std::string timeline;
    bool details = false;
    std::uint64_t most_ticks = 2'000'000;
    std::string write_cure;
    std::size_t cure = 0;
};

/// The drill whose broken expectations are explained, and the files it was read from.
struct Explained {
    AnyDrill drill;
    DrillFiles files;
    std::size_t outcome = 0;
};

/// Each broken drill's first variant that breaks is explained.
void explain(const DrillArguments& arguments, const std::vector<Explained>& broken,
             std::vector<DrillOutcome>& outcomes) {
    WhyOptions options;
    options.most_ticks = arguments.most_ticks;
    options.threads = arguments.common.threads;
    const auto progress = progress_bar("Replaying with changes");
    for (std::size_t i = 0; i < broken.size(); ++i) {
        if (progress) progress(static_cast<double>(i) / static_cast<double>(broken.size()));
        DrillOutcome& outcome = outcomes[broken[i].outcome];
        std::visit(
            [&]<int D>(const LoadedDrill<D>& loaded) {
                outcome.why = why_broken<D>(*loaded.level, loaded.rig, loaded.drill, outcome.broken, options);
            },
            broken[i].drill);
    }
    if (progress) progress(1.0);
}

/// The rig file with one cure of the first drill that is explained made, and everything else as its author
/// wrote it.
std::string cured_rig(const DrillArguments& arguments, const std::vector<Explained>& broken,
                      const std::vector<DrillOutcome>& outcomes) {
    constexpr std::size_t most_rig_bytes = 64U << 20U;
    if (broken.empty()) throw InputError("--write-cure: no drill breaks an expectation");
    const DrillWhy& why = outcomes[broken.front().outcome].why;
    const std::string& rig = broken.front().files.rig;
    const auto write = [&](const std::vector<FieldChange>& edits) {
        return extended_from(with_changes(read_file(rig, most_rig_bytes), rig, edits), rig,
                             arguments.write_cure);
    };
    if (arguments.cure == 0 && !why.together_edits.empty()) return write(why.together_edits);
    std::size_t number = arguments.cure;
    for (std::size_t i = 0; number == 0 && i < why.cures.size(); ++i) {
        if (why.cures[i].helps() && !why.cures[i].edits.empty()) number = i + 1;
    }
    if (number == 0) throw InputError("--write-cure: no change to the rig file mends the drill without harm");
    if (number > why.cures.size())
        throw InputError(
            fmt::format("--cure: there is no cure {}, expected 1 to {}", number, why.cures.size()));
    const DrillCure& cure = why.cures[number - 1];
    if (cure.edits.empty())
        throw InputError(
            fmt::format("--cure: cure {} is of a {}, which has to be written by hand", number, cure.table));
    return write(cure.edits);
}

/// The drill replayed with the rig as it was written, read again: what came of it, in words.
std::string replayed(const DrillArguments& arguments, const std::string& text, const Explained& broken,
                     const DrillOutcome& before) {
    return std::visit(
        [&]<int D>(const LoadedDrill<D>& loaded) {
            const Rig<D> rig = rig_from_toml<D>(text, arguments.write_cure, *loaded.level);
            PlayOptions<D> quick;
            quick.keep_ticks = false;
            const auto record = play<D>(*loaded.level, rig, loaded.drill, quick);
            return fmt::format(
                "\nWritten to {}, and {} replayed: broken {} of {} → {}, wrong ticks {} → {}.\n",
                arguments.write_cure, before.name, before.broken.size(), before.expectations.size(),
                record.broken.size(), wrong_ticks(before.figures).all(), wrong_ticks(record.figures).all());
        },
        broken.drill);
}

/// One variant of a drill, to be drawn and written out.
template <int D>
void add_outputs(const DrillArguments& arguments, const LoadedDrill<D>& loaded, const Drill<D>& drill,
                 const DrillWhy& why, Outputs& outputs) {
    const CommonOptions& common = arguments.common;
    if (common.figure.empty() && arguments.timeline.empty()) return;
    PlayOptions<D> all;
    all.keep_readings = !arguments.timeline.empty();
    const auto record = play<D>(*loaded.level, loaded.rig, drill, all);
    if (!common.figure.empty()) {
        outputs.add(common.figure,
                    timeline_figure<D>(*loaded.level, loaded.rig, drill, record, common.figure, why));
    }
    if (arguments.timeline.ends_with(".csv")) {
        outputs.add(arguments.timeline, timeline_csv<D>(loaded.rig, record));
    } else if (!arguments.timeline.empty()) {
        outputs.add(arguments.timeline, timeline_json_lines<D>(loaded.rig, record));
    }
}

/// All variants of the drills, up to as many as a page can well hold.
std::string page_of(const DrillArguments& arguments, DrillLoader& loader,
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
    const bool explained = std::any_of(outcomes.begin(), outcomes.end(), [](const DrillOutcome& o) {
        return !o.why.first.empty() || !o.why.cures.empty();
    });
    if (count > 1 || explained) page.say(drill_text(outcomes));
    if (count > most)
        page.say(drill_text(outcomes) + fmt::format("The first {} can be played here.\n", most));
    return page.finish();
}

int run(const DrillArguments& arguments) {
    DrillLoader loader;
    std::vector<DrillOutcome> outcomes;
    // What figures and timelines are of: the first drill that breaks an expectation, else the first.
    std::optional<AnyDrill> shown;
    bool shown_breaks = false;
    std::vector<Explained> broken;
    for (const std::string& file : arguments.files) {
        std::visit(
            [&]<int D>(LoadedDrill<D> loaded) {
                Stage<D> stage(*loaded.level, loaded.rig);
                PlayOptions<D> quick;
                quick.keep_ticks = false;
                bool explains = arguments.most_ticks == 0;
                for (const Drill<D>& drill :
                     variants<D>(loaded.drill, arguments.tick_rates, arguments.phases)) {
                    outcomes.push_back(outcome_of<D>(drill, stage.play(drill, quick)));
                    const bool breaks = !outcomes.back().kept();
                    if (breaks && !explains) {
                        explains = true;
                        broken.push_back({LoadedDrill<D>{loaded.level, loaded.rig, drill},
                                          files_of_drill(file), outcomes.size() - 1});
                    }
                    if (shown && (shown_breaks || !breaks)) continue;
                    shown_breaks = breaks;
                    loaded.drill = drill;
                    shown = loaded;
                }
            },
            loader.load(file));
    }
    explain(arguments, broken, outcomes);
    Outputs outputs;
    std::string written;
    if (!arguments.write_cure.empty()) {
        const std::string rig = cured_rig(arguments, broken, outcomes);
        written = replayed(arguments, rig, broken.front(), outcomes[broken.front().outcome]);
        outputs.add(arguments.write_cure, rig);
    }
    if (!arguments.common.json.empty()) outputs.add(arguments.common.json, drill_json(outcomes));
    const DrillWhy why = broken.empty() ? DrillWhy{} : outcomes[broken.front().outcome].why;
    std::visit([&](const auto& loaded) { add_outputs(arguments, loaded, loaded.drill, why, outputs); },
               *shown);
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
        fmt::print("{}", written);
    }
    const bool kept =
        std::all_of(outcomes.begin(), outcomes.end(), [](const DrillOutcome& o) { return o.kept(); });
    return kept ? all_well : wrong_verdicts;
}

}  // namespace

void add_drill_command(Commands& commands) {
    auto arguments = std::make_shared<DrillArguments>();
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
    command
        .option("--try", arguments->most_ticks,
                "How many ticks to replay with changes, to say what would mend a broken drill; 0: none")
        .not_negative()
        .with_default()
        .takes("N");
    const Option write_cure = command
                                  .option("--write-cure", arguments->write_cure,
                                          "Write the rig with what mends the first broken drill made, all "
                                          "else as it was: the leading cure, "
                                          "or those that do it one after the other")
                                  .takes("FILE");
    command.option("--cure", arguments->cure, "… this cure instead, by its number")
        .positive()
        .takes("N")
        .needs(write_cure);
    add_common(command, arguments->common);
    command.runs([arguments] {
        check_outputs(arguments->common, {arguments->timeline, arguments->write_cure});
        const std::string& timeline = arguments->timeline;
        if (!timeline.empty() && !timeline.ends_with(".csv") && !timeline.ends_with(".jsonl"))
            throw InputError("--timeline: '" + timeline + "' must end in .csv or .jsonl");
        return run(*arguments);
    });
}

}  // namespace hollow_probe::tool
