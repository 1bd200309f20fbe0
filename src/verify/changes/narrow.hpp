// A shape made narrower on each side; a rounded one loses radius and keeps its lowest point.
#pragma once

#include "hollow_probe/rig/rig.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

struct Narrow {
    int of_probe = 0;
    double amount = 0.0;  // on each side

    [[nodiscard]] int probe() const { return of_probe; }
    template <int D>
    bool make(Probe<D>& changed, const Rig<D>& rig) const;
    template <int D>
    double unchanged(const Rig<D>&) const {
        return 0.0;
    }
    template <int D>
    double farthest(const Rig<D>& rig, double body_size) const;
    /// The number a file has for an amount is the radius, or the width; and back.
    template <int D>
    double file_value(const Rig<D>& rig, double of_amount) const;
    template <int D>
    double amount_for(const Rig<D>& rig, double value) const;
    template <int D>
    ChangeWords words(const Rig<D>& rig) const;
    [[nodiscard]] std::string about() const { return "narrow " + std::to_string(of_probe); }
};

}  // namespace hollow_probe
