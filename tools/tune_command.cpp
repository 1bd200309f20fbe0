// hollow-probe tune: values that are right, in the middle of what is right.
#include <fmt/format.h>

#include <filesystem>
#include <memory>

#include "common.hpp"
#include "drills.hpp"
#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/rig_edit.hpp"
#include "hollow_probe/io/tune_json.hpp"
#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/front.hpp"
#include "hollow_probe/report/page.hpp"
#include "hollow_probe/report/tune_text.hpp"
#include "numbers.hpp"

namespace hollow_probe::tool {
namespace {

struct TuneArguments {
    CommonOptions common;
    SurveyFlags flags;
    std::vector<std::string> files;
    std::vector<std::string> free;
    std::vector<std::string> drills;
    std::vector<std::string> held;
    std::string write;
    double missed_weight = 1.0;
    double severity_weight = 1.0;
    std::size_t most_tried = 0;
    bool front = false;
    std::size_t pick = 0;
    std::vector<std::string> levels;  // of the files
    std::string rig;
};

FreeSetting free_from(const std::string& text) {
    const std::size_t equals = text.find('=');
    if (equals == std::string::npos) return {text, {}};
    const std::size_t colon = text.find(':', equals);
    if (equals == 0 || colon == std::string::npos)
        throw InputError("--free: '" + text + "' should be SETTING or SETTING=FROM:TO");
    return {text.substr(0, equals),
            std::array{number_from(text.substr(equals + 1, colon - equals - 1), "--free"),
                       number_from(text.substr(colon + 1), "--free")}};
}

template <int D>
std::vector<Level<D>> loaded_levels(const std::vector<std::string>& paths) {
    std::vector<Level<D>> levels;
    levels.reserve(paths.size());
    for (const std::string& path : paths) levels.push_back(load_level_of<D>(path));
    return levels;
}

/// The drills' levels, and how many expectations a rig breaks on them.
template <int D>
std::function<std::size_t(const Rig<D>&)> broken_counter(const TuneArguments& arguments) {
    if (arguments.drills.empty()) return {};
    auto all = std::make_shared<std::vector<LoadedDrill<D>>>();
    DrillLoader loader;
    for (const std::string& path : arguments.drills) {
        AnyDrill drill = loader.load(path, arguments.rig);
        if (!std::holds_alternative<LoadedDrill<D>>(drill))
            throw InputError(path + ": has another number of dimensions than the rig");
        all->push_back(std::move(std::get<LoadedDrill<D>>(drill)));
    }
    return [all](const Rig<D>& rig) {
        PlayOptions<D> options;
        options.keep_ticks = false;
        std::size_t broken = 0;
        for (const LoadedDrill<D>& one : *all)
            broken += play<D>(*one.level, rig, one.drill, options).broken.size();
        return broken;
    };
}

/// The author's file with the new values, read again before anything is replaced.
template <int D>
std::string written(const TuneArguments& arguments, const Level<D>& level, const Rig<D>& rig,
                    const Rig<D>& tuned) {
    std::string text = read_file(arguments.rig, most_rig_bytes);
    const auto changes = differences<D>(rig, tuned);
    if (!changes.empty()) text = with_changes(text, arguments.rig, changes);
    text = extended_from(text, arguments.rig, arguments.write);
    if (!differences<D>(tuned, rig_from_toml<D>(text, arguments.write, level)).empty())
        throw std::logic_error("the file written would not be read as the rig that was surveyed");
    return text;
}

/// What is free, on which terms, as the command line has it.
template <int D>
TuneOptions<D> tune_options(const TuneArguments& arguments) {
    constexpr std::size_t enough_for_a_front = 3000;
    TuneOptions<D> options;
    options.survey = survey_options(arguments.common, arguments.flags);
    options.missed_weight = arguments.missed_weight;
    options.severity_weight = arguments.severity_weight;
    if (arguments.most_tried > 0) {
        options.most_tried = arguments.most_tried;
    } else if (arguments.front) {
        options.most_tried = enough_for_a_front;
    }
    options.held_part = arguments.held.empty() ? 0.1 : 0.0;
    options.progress = progress_bar(arguments.front ? "trading off" : "tuning");
    options.survey.progress = {};
    options.tell_left = true;
    for (const std::string& text : arguments.free) options.free.push_back(free_from(text));
    options.broken = broken_counter<D>(arguments);
    return options;
}

std::string title_of(const TuneArguments& arguments, const char* done) {
    std::string on;
    for (const std::string& level : arguments.levels) on += (on.empty() ? "" : ", ") + file_name(level);
    return file_name(arguments.rig) + " " + done + " " + on;
}

/// The trade-off instead of one answer.
template <int D>
int run_front(const TuneArguments& arguments, const std::vector<Level<D>>& levels, const Rig<D>& rig) {
    const TuneOptions<D> options = tune_options<D>(arguments);
    std::vector<const Level<D>*> pointers;
    pointers.reserve(levels.size());
    for (const Level<D>& level : levels) pointers.push_back(&level);
    const TuningFront<D> front = tuning_front<D>(pointers, rig, options);
    if (options.progress) options.progress(1.0);
    const std::string title = title_of(arguments, "traded off on");
    std::string words = front_text<D>(title, front, text_options());
    const CommonOptions& common = arguments.common;
    Outputs outputs(arguments.common);
    if (!common.json.empty()) outputs.add(common.json, front_json<D>(arguments.levels, arguments.rig, front));
    if (!common.figure.empty()) outputs.add(common.figure, front_figure<D>(title, front, common.figure));
    if (!common.html.empty()) {
        if (front.rigs.empty()) throw InputError("--html: there is nothing to show: no rig was found");
        Page page(title);
        const std::size_t shown = arguments.pick > 0 ? arguments.pick : 1;
        if (shown > front.rigs.size())
            throw InputError(
                fmt::format("--pick: there is no rig {}, expected 1 to {}", shown, front.rigs.size()));
        const Rig<D>& picked = front.rigs[shown - 1].rig;
        page.add<D>(levels.front(), picked, survey<D>(levels.front(), picked, options.survey),
                    {arguments.levels.front(), arguments.write.empty() ? arguments.rig : arguments.write});
        page.add<D>(levels.front(), rig, survey<D>(levels.front(), rig, options.survey),
                    {arguments.levels.front(), arguments.rig});
        page.compare();
        page.say(words);
        outputs.add(common.html, page.finish());
    }
    if (!arguments.write.empty()) {
        if (arguments.pick > front.rigs.size())
            throw InputError(fmt::format("--pick: there is no rig {}, expected 1 to {}", arguments.pick,
                                         front.rigs.size()));
        outputs.add(arguments.write,
                    written<D>(arguments, levels.front(), rig, front.rigs[arguments.pick - 1].rig));
        words += fmt::format("Number {} written to {}.\n", arguments.pick, arguments.write);
    }
    outputs.write();
    if (common.json != "-") fmt::print("{}", words);
    const bool any_right = std::any_of(front.rigs.begin(), front.rigs.end(), [](const FrontRig<D>& one) {
        return one.wrong.poses() == 0 && one.broken == 0;
    });
    return any_right ? all_well : wrong_verdicts;
}

template <int D>
int run(const TuneArguments& arguments) {
    const std::vector<Level<D>> levels = loaded_levels<D>(arguments.levels);
    const std::vector<Level<D>> held = loaded_levels<D>(arguments.held);
    const Rig<D> rig = load_rig<D>(arguments.rig, levels.front());
    for (const auto* const list : {&levels, &held}) {
        for (const Level<D>& level : *list) (void)load_rig<D>(arguments.rig, level);
    }
    if (arguments.front) return run_front<D>(arguments, levels, rig);
    const TuneOptions<D> options = tune_options<D>(arguments);
    std::vector<const Level<D>*> pointers;
    pointers.reserve(levels.size());
    for (const Level<D>& level : levels) pointers.push_back(&level);
    TunedRig<D> tuned = tune<D>(pointers, rig, options);
    if (options.progress) options.progress(1.0);
    // Levels kept back are told as the places kept back would be.
    for (const Level<D>& level : held) {
        SurveyOptions quick = options.survey;
        quick.explain = false;
        const auto add = [&](const Rig<D>& one, Wrongness& sum) {
            const Wrongness wrong = survey<D>(level, one, quick).wrong;
            sum.missed += wrong.missed;
            sum.falsely += wrong.falsely;
        };
        add(rig, tuned.held_before);
        add(tuned.rig, tuned.held_after);
    }
    const std::string title = title_of(arguments, "tuned on");
    std::string words = tune_text<D>(title, tuned, text_options());
    Outputs outputs(arguments.common);
    const CommonOptions& common = arguments.common;
    if (!common.json.empty()) outputs.add(common.json, tune_json<D>(arguments.levels, arguments.rig, tuned));
    if (!common.figure.empty() || !common.html.empty()) {
        const Survey<D> before = survey<D>(levels.front(), rig, options.survey);
        const Survey<D> after = survey<D>(levels.front(), tuned.rig, options.survey);
        if (!common.figure.empty())
            outputs.add(common.figure, survey_figure<D>(levels.front(), tuned.rig, after,
                                                        file_name(arguments.levels.front()),
                                                        file_name(arguments.rig) + ", tuned", common.figure));
        if (!common.html.empty()) {
            Page page(title);
            page.add<D>(
                levels.front(), tuned.rig, after,
                {arguments.levels.front(), arguments.write.empty() ? arguments.rig : arguments.write});
            page.add<D>(levels.front(), rig, before, {arguments.levels.front(), arguments.rig});
            page.compare();
            page.say(words);
            outputs.add(common.html, page.finish());
        }
    }
    if (!arguments.write.empty()) {
        outputs.add(arguments.write, written<D>(arguments, levels.front(), rig, tuned.rig));
        words += tuned.better() ? "Written to " + arguments.write + ".\n"
                                : "Written to " + arguments.write + " as it was.\n";
    }
    outputs.write();
    if (common.json != "-") fmt::print("{}", words);
    return tuned.right() ? all_well : wrong_verdicts;
}

}  // namespace

void add_tune_command(Commands& commands) {
    auto arguments = std::make_shared<TuneArguments>();
    Command command =
        commands.add("tune", "Search settings of a rig for values that are right, with room on both sides");
    command.option("files", arguments->files, "Levels and one rig, in any order")
        .required()
        .takes("LEVEL… RIG");
    command
        .option("--free", arguments->free,
                "What may be otherwise, as probe.sole.reach=0.1:0.6; may be repeated. Standard: what "
                "findings' causes name")
        .takes("SETTING[=FROM:TO]");
    command.option("--drill", arguments->drills, "Keep this drill's expectations; may be repeated")
        .takes("DRILL");
    command
        .option("--held", arguments->held,
                "Do not tune on this level, but tell what comes of it there; standard: a tenth of the places")
        .takes("LEVEL");
    command
        .option("--missed-weight", arguments->missed_weight,
                "What a missed contact counts beside a false one")
        .positive()
        .with_default()
        .takes("W");
    command
        .option("--severity-weight", arguments->severity_weight,
                "What is wrong by the body's size counts so much more than what is wrong by a hair")
        .within(0.0, 1000.0)
        .with_default()
        .takes("W");
    command
        .option("--try", arguments->most_tried, "How many rigs may be tried; standard: 10000, a front 3000")
        .positive()
        .takes("N");
    const Option front = command.flag("--front", arguments->front,
                                      "Tell the trade-off of missed, false and effort instead of one answer");
    command.option("--pick", arguments->pick, "Of the trade-off, the rig to write or to show")
        .positive()
        .takes("N")
        .needs(front);
    command
        .option("--write", arguments->write, "Write the rig with these values, all else as the author has it")
        .takes("FILE");
    add_survey_flags(command, arguments->flags);
    add_common(command, arguments->common);
    share_work(command, arguments->common);
    command.runs_on_all_ranks([arguments] {
        check_outputs(arguments->common, {arguments->write});
        if (arguments->front && !arguments->write.empty() && arguments->pick == 0)
            throw InputError("--write: of a trade-off, --pick says which rig");
        const LevelsAndRigs sorted = told_apart("tune", arguments->files);
        if (sorted.rigs.size() != 1)
            throw InputError(fmt::format("tune: there {} among the files, expected one",
                                         sorted.rigs.empty() ? "is no rig" : "are two rigs or more"));
        arguments->levels = sorted.levels;
        arguments->rig = sorted.rigs.front();
        return dimensions_of_rig(arguments->rig) == 2 ? run<2>(*arguments) : run<3>(*arguments);
    });
}

}  // namespace hollow_probe::tool
