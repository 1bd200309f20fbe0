// A probe started farther back along its line, its end kept.
#pragma once

#include "hollow_probe/rig/rig.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

struct StartBack {
    int of_probe = 0;
    double amount = 0.0;  // how far back

    [[nodiscard]] int probe() const { return of_probe; }
    template <int D>
    bool make(Probe<D>& changed, const Rig<D>& rig) const;
    template <int D>
    double unchanged(const Rig<D>&) const {
        return 0.0;
    }
    template <int D>
    double farthest(const Rig<D>& rig, double body_size) const;
    /// The number a file has for an amount is the reach; and back.
    template <int D>
    double file_value(const Rig<D>& rig, double of_amount) const;
    template <int D>
    double amount_for(const Rig<D>& rig, double value) const;
    template <int D>
    ChangeWords words(const Rig<D>& rig) const;
    [[nodiscard]] std::string about() const { return "start back " + std::to_string(of_probe); }
};

}  // namespace hollow_probe
