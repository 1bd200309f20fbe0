// What each cause's file begins with.
#pragma once

#include <algorithm>

#include "verify/causes/cause_search.hpp"
#include "verify/causes/causes.hpp"
#include "verify/causes/ranks.hpp"

namespace hollow_probe {

/// A shape made smaller keeps a tenth of its size: less is no probe.
inline constexpr double most_lost = 0.9;

/// Offers to take one member out of `all` or `none`: those that are signals, or those that are not. What asks
/// for nothing any more would always be on, and is not offered.
template <int D>
void drop_members(CauseSearch<D>& search, CauseKind kind, bool signals, double rank) {
    const Group& group = search.signal().members;
    const std::size_t asked_for = group.any.size() + group.all.size() + group.at_least.of.size();
    const auto is_signal = [&](const Member& member) {
        return std::any_of(search.rig().signals.begin(), search.rig().signals.end(),
                           [&](const Signal& other) { return other.name == member.name; });
    };
    for (const std::size_t list : {std::size_t{1}, std::size_t{2}}) {
        const std::vector<Member>& members = list == 1 ? group.all : group.none;
        for (std::size_t i = 0; i < members.size(); ++i) {
            if (asked_for == (list == 1 ? 1U : 0U) || is_signal(members[i]) != signals) continue;
            search.offer(kind, DropMember{search.signal_number(), list, i}, rank);
        }
    }
}

}  // namespace hollow_probe
