// hollow-probe draw: a level, a body at a pose, its probes, and a survey's verdicts.
#include <fmt/format.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <chrono>
#include <cstdio>
#include <filesystem>
#include <map>
#include <memory>
#include <set>
#include <thread>

#include "common.hpp"
#include "hollow_probe/io/readings_json.hpp"
#include "hollow_probe/io/save_pose.hpp"
#include "hollow_probe/report/block_view.hpp"
#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/page.hpp"
#include "hollow_probe/verify/judge.hpp"

namespace hollow_probe::tool {
namespace {

struct DrawArguments {
    CommonOptions common;
    SurveyFlags flags;
    std::string level;
    std::string rig;
    std::vector<double> at;
    std::vector<double> heading;
    std::string start;
    std::vector<double> drive;
    std::vector<double> velocity;
    std::string remembers = "nothing";
    std::string arrival = "stood";
    double speed = 0.0;
    double time = 0.0;
    bool verdicts = false;
    bool text = false;
    bool watch = false;
    std::string model;
};

template <int D>
Vec<D> vector_of(const std::vector<double>& numbers, const char* option) {
    if (numbers.size() != D) {
        throw InputError(
            fmt::format("{}: has {} numbers, expected {} for this level", option, numbers.size(), D));
    }
    Vec<D> result;
    for (int axis = 0; axis < D; ++axis) result[axis] = numbers[static_cast<std::size_t>(axis)];
    if (!result.is_finite()) throw InputError(fmt::format("{}: has a number that is not finite", option));
    return result;
}

template <int D>
std::size_t chosen_stance(const DrawArguments& arguments, const Rig<D>& rig) {
    if (arguments.flags.stances.empty()) return 0;
    for (std::size_t i = 0; i < rig.body.stances.size(); ++i) {
        if (rig.body.stances[i].name == arguments.flags.stances.front()) return i;
    }
    throw InputError("--stance: there is no stance '" + arguments.flags.stances.front() + "'");
}

/// From --at, --start, the survey's worst finding or the level's first start point, in this order.
template <int D>
Pose<D> chosen_pose(const DrawArguments& arguments, const Level<D>& level, const Rig<D>& rig,
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
    if (!arguments.drive.empty()) {
        pose.drive = vector_of<D>(arguments.drive, "--drive");
        if (pose.drive.norm() > 0.0) pose.drive.normalize();
    }
    if (!arguments.velocity.empty()) pose.velocity = vector_of<D>(arguments.velocity, "--velocity");
    pose.grounded = arguments.remembers == "ground";
    if (arguments.speed > 0.0 && arguments.arrival == "stood")
        throw InputError("--speed: a body that stood has none, expected --arrival walked, fell or jumped");
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
            level_heading<D>(std::abs(level.up()[0]) < 0.9 ? Vec<D>::unit(0) : Vec<D>::unit(1), level.up());
    }
    return pose;
}

/// The state in which a survey would judge the pose. Without a velocity it moves as it arrived.
template <int D>
Facing<D> facing_of(const DrawArguments& arguments, const Vec<D>& up, Pose<D>& pose) {
    Facing<D> facing;
    for (const Arrival arrival : {Arrival::stood, Arrival::walked, Arrival::fell, Arrival::jumped})
        if (arguments.arrival == name_of(arrival)) facing.arrival = arrival;
    if (arguments.speed > 0.0 && arguments.velocity.empty()) {
        pose.velocity = arguments.speed * (facing.arrival == Arrival::walked ? pose.heading
                                           : facing.arrival == Arrival::fell ? -up
                                                                             : up);
    }
    facing.stance = pose.stance;
    facing.heading = pose.heading;
    facing.velocity = pose.velocity;
    facing.drive = pose.drive;
    facing.grounded = pose.grounded;
    facing.seconds = arguments.time;
    return facing;
}

/// As large as the terminal, less the lines that words need.
BlockOptions block_options() {
    BlockOptions options;
    options.color = text_options().color;
    winsize size{};
    if (isatty(STDOUT_FILENO) != 0 && ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 && size.ws_col > 0) {
        options.columns = size.ws_col;
        options.rows = std::max<std::size_t>(size.ws_row, 20) - 10;
    }
    return options;
}

template <int D>
int run(const DrawArguments& arguments, const Level<D>& given) {
    const std::optional<Level<D>> later =
        given.has_paths() && arguments.time != 0.0 ? std::optional(given.at(arguments.time)) : std::nullopt;
    const Level<D>& level = later ? *later : given;
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
        const Facing<D> facing = facing_of<D>(arguments, level.up(), *scene.pose);
        scene.judged = judge_at<D>(given, *rig, facing, scene.pose->anchor, 1.0 / arguments.flags.tick_rate);
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
        outputs.add(arguments.common.json, readings_json<D>(level, *rig, *scene.pose, scene.judged));
    }
    if (!arguments.model.empty()) {
        if (!rig) throw InputError("--model shows a body and its probes: it needs a rig file");
        outputs.add(arguments.model, saved_pose<D>(level, *rig, *scene.pose, arguments.model));
    }
    outputs.write();
    if (arguments.common.json != "-") {
        if (arguments.text) fmt::print("{}\n{}", scene.title, block_view<D>(scene, block_options()));
        for (const std::string& path : {arguments.common.figure, arguments.common.html, arguments.model}) {
            if (!path.empty()) fmt::print("wrote {}\n", path);
        }
    }
    return all_well;
}

int draw_once(const DrawArguments& arguments) {
    const AnyLevel level = load_level_aloud(arguments.level);
    return std::visit([&](const auto& of_dimension) { return run(arguments, of_dimension); }, level);
}

/// When the files were last written that a picture may depend on: all beside the level and the rig, since
/// both may name others, but for what is written here.
std::map<std::filesystem::path, std::filesystem::file_time_type> state_of_files(
    const DrawArguments& arguments) {
    namespace fs = std::filesystem;
    const CommonOptions& common = arguments.common;
    std::set<fs::path> written;
    for (const std::string& path : {common.figure, common.html, common.json, arguments.model})
        if (!path.empty() && path != "-") written.insert(fs::absolute(path).lexically_normal());
    std::map<fs::path, fs::file_time_type> state;
    for (const std::string& file : {arguments.level, arguments.rig}) {
        if (file.empty()) continue;
        std::error_code gone;
        for (const auto& entry : fs::directory_iterator(fs::absolute(file).parent_path(), gone)) {
            const fs::path path = entry.path().lexically_normal();
            const std::string name = path.filename().string();
            // What is being written goes by another name until it is whole.
            const bool kept = !written.contains(path) && !name.starts_with(".") && !name.ends_with(".part") &&
                              entry.is_regular_file(gone);
            if (kept) state[path] = entry.last_write_time(gone);
        }
    }
    return state;
}

/// Draws anew whenever a file is saved, until it is interrupted. What is wrong with a file is told, and the
/// picture before stays.
[[noreturn]] void watch(const DrawArguments& arguments) {
    using namespace std::chrono_literals;
    while (true) {
        const auto drawn = state_of_files(arguments);
        try {
            draw_once(arguments);
        } catch (const std::exception& error) {
            fmt::print(stderr, "{}\n", error.what());
        }
        std::fflush(stdout);
        auto seen = drawn;
        for (auto now = seen;; now = state_of_files(arguments)) {
            // Changed, and at rest again: what is half written is not read.
            if (now != drawn && now == seen) break;
            seen = now;
            std::this_thread::sleep_for(30ms);
        }
    }
}

}  // namespace

void add_draw_command(Commands& commands) {
    auto arguments = std::make_shared<DrawArguments>();
    Command command = commands.add("draw", "Draw a level, a body with its probes, and a survey's verdicts");
    command.option("level", arguments->level, "The level file").required().takes("LEVEL");
    command.option("rig", arguments->rig, "The rig file; without it only the level is drawn").takes("RIG");
    command.option("--at", arguments->at, "Where the body's anchor stands, e.g. 3.5,0")
        .by_commas()
        .takes("X,Y[,Z]");
    command.option("--start", arguments->start, "Stand at this start point of the level; standard: the first")
        .takes("NAME");
    command.option("--heading", arguments->heading, "Where the body looks; standard: as the start point says")
        .by_commas()
        .takes("X,Y[,Z]");
    command.option("--drive", arguments->drive, "Where the player wants to go").by_commas().takes("X,Y[,Z]");
    command.option("--velocity", arguments->velocity, "How the body moves").by_commas().takes("X,Y[,Z]");
    command.option("--remembers", arguments->remembers, "What the rig remembers of the tick before")
        .one_of({"ground", "nothing"})
        .with_default();
    command.option("--arrival", arguments->arrival, "How the body came there, for rigs that remember")
        .one_of({"stood", "walked", "fell", "jumped"})
        .with_default();
    command.option("--speed", arguments->speed, "… at this speed, where no velocity is given")
        .not_negative()
        .takes("SPEED");
    command.option("--time", arguments->time, "The time, where the level has solids that move")
        .takes("SECONDS");
    command.flag("--verdicts", arguments->verdicts,
                 "Survey the rig and mark every verdict; without --at or --start the body stands at the "
                 "worst finding");
    command.flag("--text", arguments->text, "Paint it in block characters, for a terminal");
    command.flag("--watch", arguments->watch,
                 "Go on, and draw anew whenever the level, the rig or a file beside them is saved");
    command
        .option("--model", arguments->model,
                "Write the body, its probes and what they hit as a model: .glb or .gltf")
        .takes("FILE");
    add_survey_flags(command, arguments->flags);
    add_common(command, arguments->common);
    command.runs([arguments] {
        const CommonOptions& common = arguments->common;
        if (common.figure.empty() && common.html.empty() && common.json.empty() && arguments->model.empty() &&
            !arguments->text) {
            throw InputError(
                "draw: nothing to write; expected --figure FILE.svg or .png, --text, --html, --model or "
                "--json");
        }
        const std::string& model = arguments->model;
        if (!model.empty() && !model.ends_with(".glb") && !model.ends_with(".gltf"))
            throw InputError("--model: '" + model + "' must end in .glb or .gltf");
        check_outputs(common, {model});
        if (arguments->watch) watch(*arguments);
        return draw_once(*arguments);
    });
}

}  // namespace hollow_probe::tool
