#include <hollow_probe/io/level_file.hpp>
#include <hollow_probe/io/rig_file.hpp>
#include <hollow_probe/report/figure.hpp>

int main() {
    using namespace hollow_probe;
    const auto level = std::get<Level<2>>(level_from_toml(
        "format = \"hollow-probe level 1\"\ndimensions = 2\nlayers = [\"m\"]\n"
        "[[solid]]\nname = \"floor\"\nlayer = \"m\"\nbox = { center = [0, -0.5], size = [4, 1] }\n",
        "level"));
    const auto rig = rig_from_toml<2>(
        "format = \"hollow-probe rig 1\"\ndimensions = 2\n[body]\nmeets = [\"m\"]\n"
        "[[body.stance]]\nname = \"s\"\nball = { radius = 0.3 }\n"
        "[[probe]]\nname = \"p\"\nkind = \"ray\"\nfrom = [0, 0.3]\nreach = 0.32\nsees = [\"m\"]\n"
        "[[signal]]\nname = \"g\"\nclaims = \"ground\"\nany = [\"p\"]\n",
        "rig", level);
    const auto result = survey<2>(level, rig);
    const std::string figure = survey_figure<2>(level, rig, result, "level", "rig", "x.png");
    return result.findings.size() == 2 && !figure.empty() ? 0 : 1;
}
