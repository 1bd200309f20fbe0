// A signal that another one must hold for, too.
#pragma once

#include "hollow_probe/rig/rig.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

struct GateBy {
    std::size_t signal = 0;
    std::size_t by = 0;  // a signal declared before

    template <int D>
    bool make(Rig<D>& rig) const;
    template <int D>
    ChangeWords words(const Rig<D>& rig) const;
    [[nodiscard]] std::string about() const { return "gate " + std::to_string(by); }
};

}  // namespace hollow_probe
