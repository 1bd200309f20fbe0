// Probes read after the move, not before it.
#pragma once

#include "hollow_probe/rig/rig.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

struct ReadAfter {
    template <int D>
    bool make(Rig<D>& rig) const;
    template <int D>
    ChangeWords words(const Rig<D>&) const {
        return {{}, "reads", "before_move", "after_move"};
    }
    [[nodiscard]] std::string about() const { return "read after"; }
};

}  // namespace hollow_probe
