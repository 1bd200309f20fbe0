#include "drills.hpp"

namespace hollow_probe::tool {
namespace {

template <int D>
AnyDrill with_level(const std::shared_ptr<const Level<D>>& level, const std::string& rig,
                    const std::string& path) {
    Rig<D> loaded = load_rig<D>(rig, *level);
    Drill<D> drill = load_drill<D>(path, *level, loaded);
    return LoadedDrill<D>{level, std::move(loaded), std::move(drill)};
}

}  // namespace

AnyDrill DrillLoader::load(const std::string& path, const std::string& rig) {
    DrillFiles files = files_of_drill(path);
    if (!rig.empty()) files.rig = rig;
    if (!levels_.contains(files.level)) {
        AnyLevel loaded = load_level_aloud(files.level);
        std::visit(
            [&]<int D>(Level<D>& level) {
                levels_.emplace(files.level, std::make_shared<const Level<D>>(std::move(level)));
            },
            loaded);
    }
    return std::visit([&](const auto& level) { return with_level(level, files.rig, path); },
                      levels_.at(files.level));
}

}  // namespace hollow_probe::tool
