// hollow-probe level: what a level is made of, what is odd about it, and the level saved for other programs.
#include <fmt/format.h>

#include <chrono>
#include <filesystem>
#include <memory>
#include <numeric>

#include "common.hpp"
#include "hollow_probe/io/level_report_json.hpp"
#include "hollow_probe/io/save_mesh.hpp"
#include "hollow_probe/report/figure.hpp"
#include "hollow_probe/report/level_text.hpp"
#include "hollow_probe/report/page.hpp"

namespace hollow_probe::tool {
namespace {

struct LevelArguments {
    CommonOptions common;
    std::string level;
    double gaps = 0.0;
    std::string save;
    std::vector<std::string> solids;
};

/// The index is built once more, for the clock.
template <int D>
IndexFigures measure_index(const Level<D>& level) {
    std::vector<std::uint32_t> items(level.piece_count());
    std::iota(items.begin(), items.end(), 0U);
    const auto start = std::chrono::steady_clock::now();
    const BoundsTree<D> tree(level.pieces(), items, {});
    const std::chrono::duration<double> taken = std::chrono::steady_clock::now() - start;
    return {taken.count()};
}

template <int D>
int run(const LevelArguments& arguments, const Level<D>& level) {
    InspectOptions options;
    options.gap_width = arguments.gaps;
    const LevelReport<D> report = inspect<D>(level, options);
    const IndexFigures index = measure_index(level);
    const std::string name = std::filesystem::path(arguments.level).filename().string();
    const CommonOptions& common = arguments.common;
    const std::string words = level_text<D>(level, report, index, text_options());
    Outputs outputs;
    if (!common.json.empty()) outputs.add(common.json, level_report_json<D>(level, report, index, name));
    Scene<D> scene;
    scene.level = &level;
    scene.title = name;
    if (!common.figure.empty()) outputs.add(common.figure, draw_figure<D>(scene, common.figure));
    if (!common.html.empty()) {
        outputs.add(common.html, figure_page(name, draw_figure<D>(scene, "page.svg"),
                                             level_text<D>(level, report, index)));
    }
    if (!arguments.save.empty()) {
        outputs.add(arguments.save, saved_mesh<D>(level, arguments.save, {arguments.solids}));
    }
    outputs.write();
    if (common.json != "-") {
        fmt::print("{}: {}", name, words);
        if (!arguments.save.empty()) fmt::print("wrote {}\n", arguments.save);
    }
    return all_well;
}

}  // namespace

void add_level_command(Commands& commands) {
    auto arguments = std::make_shared<LevelArguments>();
    Command command =
        commands.add("level", "Say what a level is made of and what is odd about it; save it as a mesh");
    command.option("level", arguments->level, "A level file, or a .gltf, .glb, .obj or .stl file")
        .required()
        .takes("LEVEL");
    command.option("--gaps", arguments->gaps, "Report gaps between neighbours narrower than this")
        .not_negative()
        .takes("WIDTH");
    command.option("--save", arguments->save, "Write the level as a mesh: .glb, .gltf or .obj").takes("FILE");
    command.option("--solid", arguments->solids, "Save only these solids; may be repeated").takes("NAME");
    add_common(command, arguments->common);
    command.runs([arguments] {
        check_outputs(arguments->common, {arguments->save});
        if (!arguments->solids.empty() && arguments->save.empty()) {
            throw InputError("--solid says what to save: it needs --save FILE");
        }
        const AnyLevel level = load_level(arguments->level);
        return std::visit([&](const auto& of_dimension) { return run(*arguments, of_dimension); }, level);
    });
}

}  // namespace hollow_probe::tool
