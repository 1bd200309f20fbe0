// Members of a signal asked as `any` that were asked as `all`, or the other way.
#pragma once

#include "hollow_probe/rig/rig.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

struct OtherGroup {
    std::size_t signal = 0;
    bool to_any = true;  // else to all

    template <int D>
    bool make(Rig<D>& rig) const;
    template <int D>
    ChangeWords words(const Rig<D>& rig) const;
    [[nodiscard]] std::string about() const { return to_any ? "any for all" : "all for any"; }
};

}  // namespace hollow_probe
