// Probes sense it, but another signal it is gated by says no.
#include <algorithm>

#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void gate_closed(CauseSearch<D>& search) {
    if (!search.missed()) return;
    const Group& group = search.signal().members;
    const std::size_t positive = group.any.size() + group.all.size() + group.at_least.of.size();
    const auto is_signal = [&](const Member& member) {
        return std::any_of(search.rig().signals.begin(), search.rig().signals.end(),
                           [&](const Signal& other) { return other.name == member.name; });
    };
    for (const std::size_t list : {std::size_t{1}, std::size_t{2}}) {
        const std::vector<Member>& members = list == 1 ? group.all : group.none;
        for (std::size_t i = 0; i < members.size(); ++i) {
            if (positive == (list == 1 ? 1U : 0U) || !is_signal(members[i])) continue;
            search.offer(CauseKind::gated_off, DropMember{search.signal_number(), list, i}, rank::gated_off);
        }
    }
}

}  // namespace

template <int D>
CauseRule<D> gated_off() {
    return {CauseKind::gated_off, nullptr, gate_closed<D>};
}

template CauseRule<2> gated_off<2>();
template CauseRule<3> gated_off<3>();

}  // namespace hollow_probe
