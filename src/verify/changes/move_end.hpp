// A zone's end towards `along` moved along it, its other end kept.
#pragma once

#include "hollow_probe/rig/rig.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

struct MoveEnd {
    int of_probe = 0;
    double amount = 0.0;  // less than 0: drawn in

    [[nodiscard]] int probe() const { return of_probe; }
    template <int D>
    bool make(Probe<D>& changed, const Rig<D>& rig) const;
    template <int D>
    double unchanged(const Rig<D>&) const {
        return 0.0;
    }
    template <int D>
    double farthest(const Rig<D>& rig, double body_size) const;
    template <int D>
    ChangeWords words(const Rig<D>& rig) const;
    [[nodiscard]] std::string about() const { return "end " + std::to_string(of_probe); }
};

}  // namespace hollow_probe
