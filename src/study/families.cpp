#include "study/families.hpp"

#include "study/family_maker.hpp"

namespace hollow_probe {

template <int D>
std::vector<TriedFamily<D>> families_of(const Rig<D>& bare, Claim claim, const std::string& standing) {
    FamilyMaker<D> maker(bare, claim, standing);
    switch (claim) {
        case Claim::ground:
            add_ground_families<D>(maker);
            break;
        case Claim::ceiling:
            add_ceiling_families<D>(maker);
            break;
        case Claim::wall:
            add_wall_families<D>(maker);
            break;
        case Claim::blocked:
            add_blocked_families<D>(maker);
            break;
        case Claim::drop:
            add_drop_families<D>(maker);
            break;
        case Claim::headroom:
            add_headroom_families<D>(maker);
            break;
        case Claim::step:
            add_step_families<D>(maker);
            break;
        case Claim::ledge:
            add_ledge_families<D>(maker);
            break;
    }
    return maker.take();
}

template <int D>
std::vector<std::string> tunable(const TriedFamily<D>& family) {
    std::vector<std::string> paths;
    for (const Probe<D>& probe : family.probes) {
        const std::string own = "probe." + probe.name + ".";
        if (!probe.is_line()) continue;
        const LineProbe<D>& line = probe.line();
        paths.push_back(own + (line.reach_per_speed > 0.0 ? "reach.per_speed" : "reach"));
        if (std::abs(line.along[1]) > 0.5 && line.from[0] != 0.0) paths.push_back(own + "from[0]");
        if (line.accept_least_degrees > 0.0) paths.push_back(own + "accept.angle[0]");
    }
    return paths;
}

template std::vector<TriedFamily<2>> families_of<2>(const Rig<2>&, Claim, const std::string&);
template std::vector<TriedFamily<3>> families_of<3>(const Rig<3>&, Claim, const std::string&);
template std::vector<std::string> tunable<2>(const TriedFamily<2>&);
template std::vector<std::string> tunable<3>(const TriedFamily<3>&);

}  // namespace hollow_probe
