#include "hollow_probe/study/fixture.hpp"

#include "study/fixture_maker.hpp"

namespace hollow_probe {

template <int D>
std::vector<Fixture<D>> fixtures_of(const Rig<D>& rig, const FixtureOptions& options) {
    const auto maker = std::make_shared<const FixtureMaker<D>>(rig, options);
    FixtureCollection<D> all(maker);
    add_grounds<D>(maker, all);
    add_obstacles<D>(maker, all);
    add_motions<D>(maker, all);
    return std::move(all.all_);
}

template <int D>
std::vector<SheetLine> sheet_lines(const std::vector<Fixture<D>>& fixtures) {
    std::vector<SheetLine> lines;
    const std::vector<double> both = {0.0, 180.0};
    const std::vector<double> around =
        D == 2 ? both : std::vector<double>{0.0, 45.0, 90.0, 135.0, 180.0, 225.0, 270.0, 315.0};
    const auto add = [&](const std::string& name, const std::string& fixture, const std::string& axis,
                         std::vector<double> degrees,
                         const std::vector<std::pair<std::string, double>>& with = {}) {
        for (std::size_t i = 0; i < fixtures.size(); ++i) {
            if (fixtures[i].name != fixture) continue;
            SheetLine line{name, i, 0, {}, std::move(degrees)};
            for (std::size_t k = 0; k < fixtures[i].axes.size(); ++k) {
                const FixtureAxis& each = fixtures[i].axes[k];
                double value = each.standard;
                for (const auto& [other, fixed] : with) {
                    if (other == each.name) value = std::clamp(fixed, each.least, each.most);
                }
                line.values.push_back(value);
                if (each.name == axis) line.axis = k;
            }
            lines.push_back(std::move(line));
            return;
        }
    };
    constexpr bool solid = D == 3;
    add("floor", "floor", "gap", around);
    add("slope up", "slope", "angle", {0.0});
    add("slope down", "slope", "angle", {180.0});
    if (solid) add("slope across", "slope", "angle", {90.0, 270.0});
    add("lip ahead", "lip", "overhang", {0.0});
    add("lip behind", "lip", "overhang", {180.0});
    if (solid) add("lip beside", "lip", "overhang", {90.0, 270.0});
    if (solid) add("corner", "corner", "overhang", around);
    add("slot below", "slot", "width", around);
    add("ridge", "ridge", "angle", around);
    add("valley", "valley", "angle", around);
    add("one-way deck", "deck", "height", around);
    add("seam ahead", "seam", "offset", {0.0});
    add("seam, flush", "seam", "distance", {0.0});
    add("wall ahead", "wall", "distance", {0.0});
    if (solid) add("wall at 40°", "wall", "distance", {40.0, 320.0});
    if (solid) add("wall at 80°", "wall", "distance", {80.0, 280.0});
    add("wall leaning", "wall", "steepness", {0.0});
    add("step up", "step", "rise", {0.0});
    add("step ahead", "step", "distance", {0.0});
    add("drop depth", "drop", "depth", {0.0});
    add("drop ahead", "drop", "distance", {0.0});
    add("gap ahead", "gap", "width", {0.0});
    add("beam ahead", "lintel", "clearance", {0.0});
    add("ceiling", "ceiling", "gap", around);
    add("ceiling, sloped", "ceiling", "angle", around);
    add("ledge height", "ledge", "height", {0.0});
    add("ledge depth", "ledge", "depth", {0.0});
    add("ledge ahead", "ledge", "distance", {0.0});
    add("low passage", "passage", "clearance", {0.0});
    add("landing", "landing", "speed", {0.0});
    add("lift up", "lift up", "pace", {0.0});
    add("lift down", "lift down", "pace", {0.0});
    return lines;
}

template struct Fixture<2>;
template struct Fixture<3>;
template std::vector<Fixture<2>> fixtures_of<2>(const Rig<2>&, const FixtureOptions&);
template std::vector<Fixture<3>> fixtures_of<3>(const Rig<3>&, const FixtureOptions&);
template std::vector<SheetLine> sheet_lines<2>(const std::vector<Fixture<2>>&);
template std::vector<SheetLine> sheet_lines<3>(const std::vector<Fixture<3>>&);

}  // namespace hollow_probe
