// The probes that a signal is made of, those of the signals it names among them.
#pragma once

#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe {

/// The probe that one follows; none: nullptr.
template <int D>
const Probe<D>* followed_by(const Rig<D>& rig, const Probe<D>& probe) {
    for (const Probe<D>& other : rig.probes) {
        if (!probe.follows.empty() && other.name == probe.follows) return &other;
    }
    return nullptr;
}

/// Whether `holds` does for some probe of a signal's group, or a nested one, or for one that such a probe
/// follows; asked in the order in which they are named. The rig is one that check() passes.
template <int D, class Holds>
bool any_probe_of(const Rig<D>& rig, const Group& group, const Holds& holds) {
    for (const auto* members : {&group.any, &group.all, &group.at_least.of, &group.none}) {
        for (const Member& member : *members) {
            if (member.name.empty()) {
                if (any_probe_of<D>(rig, member.group.front(), holds)) return true;
                continue;
            }
            for (const Probe<D>& probe : rig.probes) {
                if (probe.name != member.name) continue;
                for (const Probe<D>* asked = &probe; asked != nullptr; asked = followed_by(rig, *asked)) {
                    if (holds(*asked)) return true;
                }
            }
            for (const Signal& signal : rig.signals) {
                if (signal.name == member.name && any_probe_of<D>(rig, signal.members, holds)) return true;
            }
        }
    }
    return false;
}

}  // namespace hollow_probe
