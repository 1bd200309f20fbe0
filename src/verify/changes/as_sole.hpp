// A ray downwards made a cast that feels what the body's own rounded sole would stand on, and no more.
#pragma once

#include "hollow_probe/rig/rig.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

struct AsSole {
    int of_probe = 0;
    std::size_t stance = 0;

    [[nodiscard]] int probe() const { return of_probe; }
    template <int D>
    bool make(Probe<D>& changed, const Rig<D>& rig) const;
    template <int D>
    ChangeWords words(const Rig<D>& rig) const;
    [[nodiscard]] std::string about() const {
        return "as sole " + std::to_string(of_probe) + " " + std::to_string(stance);
    }
};

}  // namespace hollow_probe
