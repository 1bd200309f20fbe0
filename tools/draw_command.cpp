// hollow-probe draw: a level, a body at a pose, its probes, and a survey's verdicts.
#include <fmt/format.h>

#include <filesystem>
#include <memory>

#include "common.hpp"
#include "hollow_probe/io/readings_json.hpp"
#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/page.hpp"

namespace hollow_probe::tool {
namespace {

struct Arguments {
    CommonOptions common;
    SurveyFlags flags;
    std::string level;
    std::string rig;
    std::vector<double> at;
    std::vector<double> heading;
    std::string start;
    bool verdicts = false;
};

template <int D>
Vec<D> vector_of(const std::vector<double>& numbers, const char* option) {
    if (numbers.size() != D) {
        throw InputError(
            fmt::format("{}: has {} numbers, expected {} for this level", option, numbers.size(), D));
    }
    Vec<D> result;
    for (int axis = 0; axis < D; ++axis) result[axis] = numbers[static_cast<std::size_t>(axis)];
    if (!result.allFinite()) throw InputError(fmt::format("{}: has a number that is not finite", option));
    return result;
}

template <int D>
std::size_t chosen_stance(const Arguments& arguments, const Rig<D>& rig) {
    if (arguments.flags.stances.empty()) return 0;
    for (std::size_t i = 0; i < rig.body.stances.size(); ++i) {
        if (rig.body.stances[i].name == arguments.flags.stances.front()) return i;
    }
    throw InputError("--stance: there is no stance '" + arguments.flags.stances.front() + "'");
}

/// From --at, --start, the survey's worst finding or the level's first start point, in this order.
template <int D>
Pose<D> chosen_pose(const Arguments& arguments, const Level<D>& level, const Rig<D>& rig,
                    const Survey<D>* survey) {
    Pose<D> pose;
    pose.stance = chosen_stance(arguments, rig);
    const StartPoint<D>* start = level.starts().empty() ? nullptr : &level.starts().front();
    if (!arguments.start.empty()) {
        start = level.find_start(arguments.start);
        if (start == nullptr) {
            std::string known;
            for (const auto& other : level.starts()) known += (known.empty() ? "" : ", ") + other.name;
            throw InputError("--start: there is no start point '" + arguments.start + "', expected one of " +
                             (known.empty() ? "none: the level has no start points" : known));
        }
    }
    const bool free_choice = arguments.at.empty() && arguments.start.empty();
    if (free_choice && survey != nullptr && !survey->findings.empty()) {
        const SurveyPose<D>& worst = survey->findings.front().worst;
        return survey->facings[worst.facing].pose(worst.anchor);
    }
    if (arguments.at.empty() && start == nullptr) {
        throw InputError("the level has no start points: say where the body stands with --at");
    }
    pose.anchor = arguments.at.empty() ? start->at : vector_of<D>(arguments.at, "--at");
    if (!arguments.heading.empty()) {
        pose.heading = level_heading<D>(vector_of<D>(arguments.heading, "--heading"), level.up());
    } else if (start != nullptr) {
        pose.heading = start->heading;
    } else {
        pose.heading =
            level_heading<D>(std::abs(level.up()[0]) < 0.9 ? Vec<D>::Unit(0) : Vec<D>::Unit(1), level.up());
    }
    return pose;
}

template <int D>
int run(const Arguments& arguments, const Level<D>& level) {
    Scene<D> scene;
    scene.level = &level;
    scene.title = std::filesystem::path(arguments.level).filename().string();
    std::optional<Rig<D>> rig;
    std::optional<Survey<D>> result;
    if (!arguments.rig.empty()) {
        rig = load_rig<D>(arguments.rig, level);
        scene.rig = &*rig;
        scene.title = std::filesystem::path(arguments.rig).filename().string() + " on " + scene.title;
        if (arguments.verdicts) {
            result = survey<D>(level, *rig, survey_options(arguments.common, arguments.flags));
            scene.survey = &*result;
        }
        scene.pose = chosen_pose<D>(arguments, level, *rig, scene.survey);
        if (result && !result->findings.empty() && arguments.at.empty() && arguments.start.empty()) {
            scene.finding = &result->findings.front();
        }
    } else if (arguments.verdicts || !arguments.at.empty() || !arguments.start.empty()) {
        throw InputError("--verdicts, --at and --start need a rig file");
    }
    Outputs outputs;
    if (!arguments.common.figure.empty()) {
        outputs.add(arguments.common.figure, draw_figure<D>(scene, arguments.common.figure));
    }
    if (!arguments.common.html.empty()) {
        outputs.add(arguments.common.html, figure_page(scene.title, draw_figure<D>(scene, "page.svg")));
    }
    if (!arguments.common.json.empty()) {
        if (!rig) throw InputError("--json gives a rig's readings: it needs a rig file");
        outputs.add(arguments.common.json, readings_json<D>(level, *rig, *scene.pose));
    }
    outputs.write();
    if (arguments.common.json != "-") {
        for (const std::string& path : {arguments.common.figure, arguments.common.html}) {
            if (!path.empty()) fmt::print("wrote {}\n", path);
        }
    }
    return all_well;
}

}  // namespace

void add_draw_command(CLI::App& app, int& result) {
    auto arguments = std::make_shared<Arguments>();
    CLI::App* command =
        app.add_subcommand("draw", "Draw a level, a body with its probes, and a survey's verdicts");
    command->add_option("level", arguments->level, "The level file")->required()->type_name("LEVEL");
    command->add_option("rig", arguments->rig, "The rig file; without it only the level is drawn")
        ->type_name("RIG");
    command->add_option("--at", arguments->at, "Where the body's anchor stands, e.g. 3.5,0")
        ->delimiter(',')
        ->type_name("X,Y[,Z]");
    command
        ->add_option("--start", arguments->start,
                     "Stand at this start point of the level; standard: the first")
        ->type_name("NAME");
    command
        ->add_option("--heading", arguments->heading,
                     "Where the body looks; standard: as the start point says")
        ->delimiter(',')
        ->type_name("X,Y[,Z]");
    command->add_flag("--verdicts", arguments->verdicts,
                      "Survey the rig and mark every verdict; without --at or --start the body stands at the "
                      "worst finding");
    add_survey_flags(*command, arguments->flags);
    add_common(*command, arguments->common);
    command->callback([arguments, &result] {
        const CommonOptions& common = arguments->common;
        if (common.figure.empty() && common.html.empty() && common.json.empty()) {
            throw InputError("draw: nothing to write; expected --figure FILE.svg or .png, --html or --json");
        }
        check_outputs(common);
        const AnyLevel level = load_level(arguments->level);
        result = std::visit([&](const auto& of_dimension) { return run(*arguments, of_dimension); }, level);
    });
}

}  // namespace hollow_probe::tool
