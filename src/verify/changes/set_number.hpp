// A field set to another number.
#pragma once

#include "verify/changes/field_place.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

struct SetNumber {
    FieldPlace place;
    double amount = 0.0;  // what the file will have

    [[nodiscard]] int probe() const { return place.probe; }
    template <int D>
    bool make(Probe<D>& changed, const Rig<D>& rig) const;
    template <int D>
    bool make(Rig<D>& rig) const;
    /// The number as it is.
    template <int D>
    double unchanged(const Rig<D>& rig) const;
    /// How far it may go from the number demanded, for bodies of a size.
    template <int D>
    double farthest(const Rig<D>& rig, double body_size) const;
    template <int D>
    ChangeWords words(const Rig<D>& rig) const;
    [[nodiscard]] std::string about() const;
};

}  // namespace hollow_probe
