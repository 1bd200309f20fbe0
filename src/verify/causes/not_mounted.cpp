// No probe for it in this stance, or not the one that would tell.
#include <algorithm>

#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

/// Whether a group names a probe, itself or by the signals it names.
template <int D>
bool names(const Group& group, const Rig<D>& rig, const std::string& probe) {
    const auto any_of = [&](const std::vector<Member>& members) {
        return std::any_of(members.begin(), members.end(), [&](const Member& member) {
            if (member.name == probe) return true;
            const auto named = std::find_if(rig.signals.begin(), rig.signals.end(),
                                            [&](const Signal& signal) { return signal.name == member.name; });
            if (named != rig.signals.end()) return names<D>(named->members, rig, probe);
            return !member.group.empty() && names<D>(member.group.front(), rig, probe);
        });
    };
    return any_of(group.any) || any_of(group.all) || any_of(group.none) || any_of(group.at_least.of);
}

template <int D>
void not_mounted_here(CauseSearch<D>& search) {
    const MountedGroup& group = search.mounted().signals[search.signal_number()];
    const std::string& stance = search.rig().body.stances[search.facing().stance].name;
    for (std::size_t i = 0; i < search.mounted().probes.size(); ++i) {
        if (search.mounted().probes[i].mounted) continue;
        if (!names<D>(search.signal().members, search.rig(), search.rig().probes[i].name)) continue;
        search.offer(CauseKind::not_mounted, ListName{static_cast<int>(i), "stances", stance, true},
                     rank::not_mounted);
    }
    // Nothing is mounted that could ever tell.
    const Bits members = group.members();
    if (search.none_named() && members.none())
        search.name({CauseKind::not_mounted, {}, 0.0, rank::not_mounted});
}

std::string why_not_mounted(const CauseTold& t) {
    return t.cause.probe.empty() ? std::string("no probe of it is mounted in this stance")
                                 : t.who + " is not mounted in this stance";
}

}  // namespace

template <int D>
CauseRule<D> not_mounted() {
    return {CauseKind::not_mounted, why_not_mounted, nullptr, not_mounted_here<D>};
}

template CauseRule<2> not_mounted<2>();
template CauseRule<3> not_mounted<3>();

}  // namespace hollow_probe
