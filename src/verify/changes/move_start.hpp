// A probe's `from` moved.
#pragma once

#include "hollow_probe/rig/rig.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

template <int D>
struct MoveStart {
    int of_probe = 0;
    Vec<D> by = Vec<D>::zero();  // body coordinates
    double amount = 0.0;         // its length

    [[nodiscard]] int probe() const { return of_probe; }
    bool make(Probe<D>& changed, const Rig<D>&) const {
        *from_of(changed) += by;
        return true;
    }
    [[nodiscard]] double unchanged(const Rig<D>&) const { return 0.0; }
    [[nodiscard]] double farthest(const Rig<D>&, double body_size) const { return amount + body_size; }
    void set_amount(double other) {
        if (amount != 0.0) by *= other / amount;
        amount = other;
    }
    [[nodiscard]] ChangeWords words(const Rig<D>& rig) const;
    [[nodiscard]] std::string about() const { return "start " + std::to_string(of_probe); }
};

extern template struct MoveStart<2>;
extern template struct MoveStart<3>;

}  // namespace hollow_probe
