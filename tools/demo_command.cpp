// hollow-probe demo: the Saltmarsh pumping station, surveyed and run through with a first try and a sound
// rig.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <filesystem>
#include <memory>

#include "common.hpp"
#include "demo_data.hpp"
#include "drills.hpp"
#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/drill_json.hpp"
#include "hollow_probe/io/survey_json.hpp"
#include "hollow_probe/report/drill_text.hpp"
#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/timeline_figure.hpp"

namespace hollow_probe::tool {
namespace {

namespace fs = std::filesystem;

struct DemoArguments {
    CommonOptions common;
    std::string folder = "hollow-probe-demo";
};

template <int D>
void run(const DemoArguments& arguments, const Level<D>& level, const std::string& level_name,
         const std::string& rig_name) {
    const fs::path folder = arguments.folder;
    const Rig<D> rig = load_rig<D>((folder / rig_name).string(), level);
    SurveyFlags flags;
    if (D == 3) flags.spacing = 0.3;
    const Survey<D> result = survey<D>(level, rig, survey_options(arguments.common, flags));
    const std::string stem =
        rig_name.substr(0, rig_name.find('.')) + "-on-" + level_name.substr(0, level_name.find('.'));
    const std::string figure = (folder / (stem + ".png")).string();
    write_file(figure, survey_figure<D>(level, rig, result, level_name, rig_name, figure));
    write_file((folder / (stem + ".json")).string(),
               survey_json<D>(level, rig, result, level_name, rig_name));
    Page page(rig_name + " on " + level_name);
    page.add<D>(level, rig, result, {level_name, rig_name, D == 3 ? " --spacing 0.3" : ""});
    write_file((folder / (stem + ".html")).string(), page.finish());
    TextOptions text = text_options();
    text.most_findings = 4;
    fmt::print("── {} on {}\n\n{}\n", rig_name, level_name, survey_text<D>(rig, result, text));
}

/// Plays a drill, leaves its timeline as a figure and its result beside it.
DrillOutcome play_drill(DrillLoader& loader, const fs::path& folder, const std::string& name) {
    return std::visit(
        [&]<int D>(const LoadedDrill<D>& loaded) {
            const auto record = play<D>(*loaded.level, loaded.rig, loaded.drill);
            DrillOutcome outcome = outcome_of<D>(loaded.drill, record);
            const std::string stem = (folder / loaded.drill.name).string();
            write_file(stem + ".png",
                       timeline_figure<D>(*loaded.level, loaded.rig, loaded.drill, record, stem + ".png"));
            write_file(stem + ".json", drill_json({outcome}));
            return outcome;
        },
        loader.load((folder / name).string()));
}

/// A command as a user would type it in the folder, and what it says.
void show(const fs::path& folder, const std::vector<std::string>& words) {
    static constexpr std::array<std::string_view, 5> endings = {".toml", ".png", ".json", ".html", ".glb"};
    std::vector<std::string> arguments = {"hollow-probe"};
    std::string typed = "$ hollow-probe";
    for (const std::string& word : words) {
        const std::string_view view = word;
        const bool is_file = std::any_of(endings.begin(), endings.end(),
                                         [&](std::string_view e) { return view.ends_with(e); });
        arguments.push_back(is_file ? (folder / word).string() : word);
        typed += " " + word;
    }
    fmt::print("── {}\n\n", typed);
    std::vector<char*> argv;
    argv.reserve(arguments.size());
    for (std::string& argument : arguments) argv.push_back(argument.data());
    if (run_command_line(static_cast<int>(argv.size()), argv.data(), Ranks::alone()) == bad_input)
        throw std::logic_error("the demo's own command was refused: " + typed);
    fmt::print("\n");
}

/// The designer's half: measured, tuned, mended, compared. How many files it leaves.
std::size_t design(const fs::path& folder) {
    show(folder, {"gauge", "keeper-first-try.rig.toml", "--figure", "keeper-first-try-sheet.png"});
    show(folder,
         {"tune", "culvert.level.toml", "keeper-first-try.rig.toml", "--write", "keeper-tuned.rig.toml"});
    // What numbers alone cannot mend: a ray where a cast is needed, a layer that is not seen.
    show(folder, {"survey", "culvert.level.toml", "keeper-tuned.rig.toml", "--budget", "20000",
                  "--write-fixed", "keeper-clean.rig.toml"});
    show(folder, {"survey", "pumphouse.level.toml", "keeper-first-try-3d.rig.toml", "--budget", "20000",
                  "--write-fixed", "keeper-clean-3d.rig.toml"});
    show(folder, {"compare", "culvert.level.toml", "keeper-first-try.rig.toml", "keeper-tuned.rig.toml",
                  "keeper-clean.rig.toml", "--figure", "keepers-compared.png"});
    show(folder, {"compare", "pumphouse.level.toml", "keeper-first-try-3d.rig.toml",
                  "keeper-clean-3d.rig.toml", "--budget", "20000"});
    return 5;
}

}  // namespace

void add_demo_command(Commands& commands) {
    auto arguments = std::make_shared<DemoArguments>();
    Command command = commands.add("demo",
                                   "Write the demo levels, rigs and drills to a folder, survey and "
                                   "play them, and leave figures and results beside them");
    command.option("--out", arguments->folder, "The folder, made if it is not there")
        .with_default()
        .takes("FOLDER");
    command.option("--threads", arguments->common.threads, "Threads to use, 0 for all cores")
        .within(0, 1024)
        .with_default()
        .takes("N");
    command.runs([arguments] {
        const fs::path folder = arguments->folder;
        std::error_code error;
        fs::create_directories(folder, error);
        if (error) throw InputError(folder.string() + ":1:1: cannot be made: " + error.message());
        std::size_t files = 0;
        for (const EmbeddedFile& file : demo_data()) {
            write_file((folder / file.name).string(), file.content);
            ++files;
        }
        struct Pair {
            const char* level;
            const char* rig;
        };
        for (const Pair& pair : {Pair{"culvert.level.toml", "keeper-first-try.rig.toml"},
                                 Pair{"culvert.level.toml", "keeper.rig.toml"},
                                 Pair{"pumphouse.level.toml", "keeper-first-try-3d.rig.toml"},
                                 Pair{"pumphouse.level.toml", "keeper-3d.rig.toml"}}) {
            const AnyLevel level = load_level_aloud((folder / pair.level).string());
            std::visit([&](const auto& of_dimension) { run(*arguments, of_dimension, pair.level, pair.rig); },
                       level);
            files += 3;
        }
        DrillLoader loader;
        std::vector<DrillOutcome> drills;
        Page page("the two rigs in motion");
        for (const char* name : {"crossing-first-try.drill.toml", "crossing.drill.toml"}) {
            drills.push_back(play_drill(loader, folder, name));
            std::visit(
                [&](const auto& loaded) { add_to_page(page, loaded, loaded.drill, std::string(name)); },
                loader.load((folder / name).string()));
            files += 2;
        }
        write_file((folder / "crossing.html").string(), page.finish());
        ++files;
        fmt::print("── the two rigs in motion\n\n{}\n", drill_text(drills, text_options()));
        files += design(folder);
        fmt::print(
            "Made {} files in {}: levels, rigs, drills, a figure (.png), a page (.html) and a result (.json) "
            "for each of 4 surveys and 2 drills; a data sheet, a tuned rig, two that are clean and a "
            "comparison.\nTo look at "
            "first: "
            "{}\nAnd by hand: hollow-probe live {} {} --open\n",
            files, folder.string(), (folder / "keeper-first-try-on-culvert.html").string(),
            (folder / "culvert.level.toml").string(), (folder / "keeper-first-try.rig.toml").string());
        return all_well;
    });
}

}  // namespace hollow_probe::tool
