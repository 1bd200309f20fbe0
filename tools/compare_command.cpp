// hollow-probe compare: rigs side by side on the same levels.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <memory>

#include "common.hpp"
#include "drills.hpp"
#include "hollow_probe/io/compare_json.hpp"
#include "hollow_probe/report/compare_text.hpp"
#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/page.hpp"
#include "hollow_probe/verify/as_closely.hpp"
#include "interrupt.hpp"

namespace hollow_probe::tool {
namespace {

struct CompareArguments {
    CommonOptions common;
    SurveyFlags flags;
    std::vector<std::string> files;
    std::vector<std::string> drills;
    bool gauges = false;
    std::string allow = "missed=0,false=0";
    std::vector<std::string> levels;  // of the files
    std::vector<std::string> rigs;    // … in the order given
};

/// Plays every drill with the rig in place of its own.
template <int D>
void add_drills(const CompareArguments& arguments, const std::string& rig, DrillLoader& loader,
                RigScore& score) {
    for (const std::string& path : arguments.drills) {
        const AnyDrill any = loader.load(path, rig);
        const auto* const loaded = std::get_if<LoadedDrill<D>>(&any);
        if (loaded == nullptr) throw InputError(path + ": has another number of dimensions than the rigs");
        PlayOptions<D> options;
        options.keep_ticks = false;
        const DrillRecord<D> record = play<D>(*loaded->level, loaded->rig, loaded->drill, options);
        score.broken += record.broken.size();
        for (const SignalFigures& signal : record.figures.signals) {
            if (!signal.claims) continue;
            score.wrong_ticks += signal.missed_ticks + signal.false_ticks;
            score.latency = std::max({score.latency, signal.onset_latency, signal.release_latency});
            score.flicker += signal.flicker;
        }
    }
}

/// Whether a rig is worse than the first by more than is allowed: by measure, or by the poses or shares
/// given.
bool is_worse(const RigScore& score, const RigScore& first, const Allowed& allowed) {
    const auto more = [](const Allowance& allowance, double measure, double before, double share,
                         double share_before, std::size_t poses, std::size_t poses_before) {
        if (allowance.share) return share > share_before + *allowance.share;
        if (allowance.poses > 0) return poses > poses_before + allowance.poses;
        return measure > before + 1e-6 * std::max(before, 1.0);
    };
    const Wrongness& now = score.wrong;
    const Wrongness& was = first.wrong;
    return more(allowed.missed, now.missed, was.missed, now.missed_share(), was.missed_share(),
                now.missed_poses, was.missed_poses) ||
           more(allowed.falsely, now.falsely, was.falsely, now.false_share(), was.false_share(),
                now.false_poses, was.false_poses) ||
           score.broken > first.broken || score.wrong_lines > first.wrong_lines;
}

/// Every place where two rigs differ, the largest first: of the pair shown as A and B, of others by name.
template <int D>
std::vector<SceneNote<D>> places_of_difference(const ComparedRigs<D>& compared,
                                               const ComparedPair<D>& shown) {
    struct Place {
        double measure;
        SceneNote<D> note;
    };
    std::vector<Place> places;
    for (const ComparedPair<D>& pair : compared.pairs) {
        const bool is_shown = &pair == &shown;
        const std::string first = is_shown ? "A" : compared.rigs[pair.first].name;
        const std::string second = is_shown ? "B" : compared.rigs[pair.second].name;
        for (const auto& on : pair.on) {
            const std::string level = pair.on.size() > 1 ? file_name(on.level) + ": " : "";
            for (const RigDifference<D>& one : on.pair.differences)
                places.push_back(
                    {one.measure,
                     {one.verdict, level + difference_place<D>(one, first, second), one.anchor}});
        }
    }
    std::stable_sort(places.begin(), places.end(),
                     [](const Place& a, const Place& b) { return a.measure > b.measure; });
    std::vector<SceneNote<D>> notes;
    notes.reserve(places.size());
    for (Place& place : places) notes.push_back(std::move(place.note));
    return notes;
}

/// The place where two rigs differ most, both drawn over one another; the others in words.
template <int D>
std::string differing_figure(const ComparedRigs<D>& compared, const std::vector<Rig<D>>& rigs,
                             const std::vector<LevelSurveys<D>>& levels, const std::string& name) {
    const RigDifference<D>* most = nullptr;
    const ComparedPair<D>* of = nullptr;
    std::size_t on = 0;
    for (const ComparedPair<D>& pair : compared.pairs) {
        for (std::size_t i = 0; i < pair.on.size(); ++i) {
            for (const RigDifference<D>& one : pair.on[i].pair.differences) {
                if (most != nullptr && one.measure <= most->measure) continue;
                most = &one;
                of = &pair;
                on = i;
            }
        }
    }
    Scene<D> scene;
    scene.level = levels[on].level;
    if (most == nullptr) {
        scene.title = "The rigs say the same wherever they were asked";
        return draw_figure<D>(scene, name);
    }
    const std::string first = compared.rigs[of->first].name;
    const std::string second = compared.rigs[of->second].name;
    const Rig<D> both = both_rigs<D>(rigs[of->first], "A", rigs[of->second], "B");
    scene.rig = &both;
    Pose<D> pose = most->facing.pose(most->anchor);
    for (std::size_t i = 0; i < both.body.stances.size(); ++i) {
        if (both.body.stances[i].name == most->stance) pose.stance = i;
    }
    scene.pose = pose;
    scene.title = fmt::format("A: {} and B: {}, where they differ most about \"{}\" on {}", first, second,
                              most->signal, file_name(levels[on].name));
    scene.notes_title = "Where they differ, the largest place first";
    scene.notes = places_of_difference<D>(compared, *of);
    return draw_figure<D>(scene, name);
}

/// All rigs surveyed on one level, all as closely as the first; nothing where that was interrupted.
template <int D>
std::optional<LevelSurveys<D>> surveyed_on(const CompareArguments& arguments, const std::string& name,
                                           const Level<D>& level, const std::vector<Rig<D>>& rigs,
                                           Interrupt& interrupt) {
    LevelSurveys<D> on{name, &level, {}, survey_options(arguments.common, arguments.flags)};
    on.options.most_tried = 0;  // what would cure them is not asked here
    on.options.stop = [&] { return interrupt.came(); };
    KeptTruths<D> kept;
    for (const Rig<D>& rig : rigs) {
        on.surveys.push_back(survey<D>(level, rig, on.options, kept));
        if (on.surveys.back().end == SurveyEnd::stopped) return std::nullopt;
        on.options = as_closely_as<D>(on.surveys.front(), on.options);
    }
    on.options.stop = {};
    return on;
}

/// What each rig comes to: on the levels, in the drills and on the fixtures.
template <int D>
std::vector<RigScore> scores_of(const CompareArguments& arguments, const std::vector<Rig<D>>& rigs,
                                const std::vector<LevelSurveys<D>>& surveyed) {
    DrillLoader loader;
    std::vector<RigScore> scores;
    for (std::size_t i = 0; i < rigs.size(); ++i) {
        RigScore score = survey_score<D>(rigs[i], i, surveyed);
        add_drills<D>(arguments, arguments.rigs[i], loader, score);
        if (arguments.gauges) {
            GaugeOptions options;
            options.threads = arguments.common.threads;
            const DataSheet<D> sheet = gauge<D>(rigs[i], options);
            score.wrong_lines = static_cast<std::size_t>(
                std::count_if(sheet.rows.begin(), sheet.rows.end(),
                              [](const SheetRow& row) { return row.curves[row.worst].wrong() > 0.0; }));
        }
        scores.push_back(score);
    }
    return scores;
}

template <int D>
int run(const CompareArguments& arguments) {
    std::vector<Level<D>> levels;
    levels.reserve(arguments.levels.size());
    for (const std::string& path : arguments.levels) levels.push_back(load_level_of<D>(path));
    // A rig is read for each level, since layers are held against it; its figures are those of the first.
    std::vector<std::vector<Rig<D>>> rigs_on;
    for (const Level<D>& level : levels) {
        rigs_on.emplace_back();
        for (const std::string& path : arguments.rigs) rigs_on.back().push_back(load_rig<D>(path, level));
    }
    const std::vector<Rig<D>>& rigs = rigs_on.front();
    ComparedRigs<D> compared;
    compared.levels = arguments.levels;
    compared.columns = {!arguments.drills.empty(), arguments.gauges};
    std::vector<LevelSurveys<D>> surveyed;
    Interrupt interrupt;
    for (std::size_t i = 0; i < levels.size(); ++i) {
        auto on = surveyed_on<D>(arguments, arguments.levels[i], levels[i], rigs_on[i], interrupt);
        if (!on) return interrupted;
        surveyed.push_back(std::move(*on));
    }
    std::vector<const Rig<D>*> pointers;
    pointers.reserve(rigs.size());
    for (const Rig<D>& rig : rigs) pointers.push_back(&rig);
    compared.pairs = compare_pairs<D>(pointers, surveyed);
    const std::vector<RigScore> scores = scores_of<D>(arguments, rigs, surveyed);
    const std::vector<std::size_t> front = front_of(scores);
    const Allowed allowed = allowed_from(arguments.allow);
    bool any_worse = false;
    for (std::size_t i = 0; i < rigs.size(); ++i) {
        const bool in_front = std::find(front.begin(), front.end(), i) != front.end();
        const bool worse = i > 0 && is_worse(scores[i], scores[0], allowed);
        any_worse = any_worse || worse;
        compared.rigs.push_back(
            {file_name(arguments.rigs[i]), arguments.rigs[i], scores[i], in_front, worse});
    }
    const std::string words = compare_text<D>(compared, pointers, text_options());
    Outputs outputs;
    const CommonOptions& common = arguments.common;
    if (!common.json.empty()) outputs.add(common.json, compare_json<D>(compared));
    if (!common.figure.empty())
        outputs.add(common.figure, differing_figure<D>(compared, rigs, surveyed, common.figure));
    if (!common.html.empty()) {
        Page page(fmt::format("{} rigs on {}", rigs.size(), file_name(arguments.levels.front())));
        for (std::size_t i = 0; i < rigs.size(); ++i)
            page.add<D>(levels.front(), rigs[i], surveyed.front().surveys[i],
                        {arguments.levels.front(), arguments.rigs[i]});
        page.stand_beside();
        page.say(words);
        outputs.add(common.html, page.finish());
    }
    outputs.write();
    if (common.json != "-") fmt::print("{}", words);
    return any_worse ? wrong_verdicts : all_well;
}

}  // namespace

void add_compare_command(Commands& commands) {
    auto arguments = std::make_shared<CompareArguments>();
    Command command =
        commands.add("compare", "Hold rigs against each other at the same poses of the same levels");
    command
        .option("files", arguments->files,
                "Levels and rigs, in any order; the first rig is what others are held to")
        .required()
        .takes("LEVEL… RIG…");
    command.option("--drill", arguments->drills, "Play this drill with each rig; may be repeated")
        .takes("DRILL");
    command.flag("--gauge", arguments->gauges, "Measure the data sheet of each rig");
    command
        .option(
            "--allow", arguments->allow,
            "How much worse than the first a rig may be before the exit code is 1: missed=N or P%,false=…")
        .with_default()
        .takes("LIMITS");
    add_survey_flags(command, arguments->flags);
    add_common(command, arguments->common);
    command.runs([arguments] {
        check_outputs(arguments->common);
        (void)allowed_from(arguments->allow);  // refused before any work
        const LevelsAndRigs sorted = told_apart("compare", arguments->files);
        arguments->levels = sorted.levels;
        arguments->rigs = sorted.rigs;
        if (arguments->rigs.size() < 2)
            throw InputError(fmt::format("compare: there is {} among the files, expected two rigs at least",
                                         arguments->rigs.empty() ? "no rig" : "one rig"));
        return dimensions_of_rig(arguments->rigs.front()) == 2 ? run<2>(*arguments) : run<3>(*arguments);
    });
}

}  // namespace hollow_probe::tool
