// A member taken out of one of a signal's groups.
#pragma once

#include "hollow_probe/rig/rig.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

struct DropMember {
    std::size_t signal = 0;
    std::size_t list = 0;   // 0 any, 1 all, 2 none
    std::size_t place = 0;  // in the list

    template <int D>
    bool make(Rig<D>& rig) const;
    template <int D>
    ChangeWords words(const Rig<D>& rig) const;
    [[nodiscard]] std::string about() const {
        return "drop " + std::to_string(list) + " " + std::to_string(place);
    }
};

}  // namespace hollow_probe
