#include "verify/changes/set_role.hpp"

#include "hollow_probe/rig/differences.hpp"

namespace hollow_probe {

template <int D>
ChangeWords SetRole::words_in(const Level<D>& level) const {
    const Solid<D>& there = level.solids()[solid];
    return {{},
            "role",
            quoted_text(name_of(there.role)) + " of " + quoted_text(there.name),
            met ? "\"both\"" : "neither: leave it out"};
}

template ChangeWords SetRole::words_in<2>(const Level<2>&) const;
template ChangeWords SetRole::words_in<3>(const Level<3>&) const;

}  // namespace hollow_probe
