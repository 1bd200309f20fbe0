#include "motion/stage_parts.hpp"

#include <algorithm>

namespace hollow_probe {
namespace {

/// The probes that a signal is made of, its members' members included.
template <int D>
ReadingSet probes_of(const Rig<D>& rig, const std::vector<Member>& members);

template <int D>
ReadingSet probes_of(const Rig<D>& rig, const std::string& name) {
    for (std::size_t i = 0; i < rig.probes.size(); ++i) {
        if (rig.probes[i].name == name) return ReadingSet::of(i);
    }
    for (const Signal& signal : rig.signals) {
        if (signal.name == name) {
            return probes_of(rig, signal.members.any) | probes_of(rig, signal.members.all) |
                   probes_of(rig, signal.members.at_least.of);
        }
    }
    return {};
}

template <int D>
ReadingSet probes_of(const Rig<D>& rig, const std::vector<Member>& members) {
    ReadingSet probes;
    for (const Member& member : members) {
        if (!member.name.empty()) probes |= probes_of(rig, member.name);
        for (const Group& group : member.group) {
            probes |=
                probes_of(rig, group.any) | probes_of(rig, group.all) | probes_of(rig, group.at_least.of);
        }
    }
    return probes;
}

/// Some direction across up.
template <int D>
Vec<D> across(const Vec<D>& up) {
    const int axis = up.abs().smallest_axis();
    return Vec<D>::unit(axis);
}

}  // namespace

template <int D>
ReadingSet probes_of_signal(const Rig<D>& rig, const std::string& signal) {
    return probes_of(rig, signal);
}

template <int D>
StageParts<D>::StageParts(const Level<D>& given_level, const Rig<D>& given_rig)
    : level(given_level), rig((check(given_rig), given_rig)) {
    for (std::size_t i = 0; i < rig.body.stances.size(); ++i)
        mounted.emplace_back(rig, level, i, level_heading<D>(across(level.up()), level.up()));
    for (const Reflex& reflex : rig.reflexes) {
        BoundReflex& bound = reflexes.emplace_back();
        bound.reflex = reflex;
        while (rig.signals[bound.signal].name != reflex.on) ++bound.signal;
        bound.probes = probes_of(rig, reflex.on);
        if (reflex.kind == ReflexKind::refuse_stance) bound.stance = stance_number(reflex.stance);
        gates_jumps = gates_jumps || reflex.kind == ReflexKind::permit_jump;
    }
    for (const Signal& signal : rig.signals) {
        const auto giving = std::find_if(rig.probes.begin(), rig.probes.end(),
                                         [&](const Probe<D>& p) { return p.name == signal.gives_from; });
        value_probes.push_back(static_cast<std::size_t>(giving - rig.probes.begin()));
    }
    feels_contacts = std::any_of(rig.probes.begin(), rig.probes.end(),
                                 [](const Probe<D>& probe) { return probe.kind() == ProbeKind::contact; });
    if (level.has_paths()) shifting.emplace(level);
}

template <int D>
std::size_t StageParts<D>::stance_number(const std::string& name) const {
    for (std::size_t i = 0; i < rig.body.stances.size(); ++i) {
        if (rig.body.stances[i].name == name) return i;
    }
    throw InvalidInput("the body has no stance '" + name + "'");
}

template <int D>
void StageParts<D>::begin() {
    if (!shifting) return;
    // Loose solids may have been pushed in the drill before.
    for (std::uint32_t i = 0; i < level.solids().size(); ++i) {
        if (!level.solids()[i].path) shifting->place(i, Vec<D>::zero());
    }
    set_time(0.0);
}

template ReadingSet probes_of_signal<2>(const Rig<2>&, const std::string&);
template ReadingSet probes_of_signal<3>(const Rig<3>&, const std::string&);
template struct StageParts<2>;
template struct StageParts<3>;

}  // namespace hollow_probe
