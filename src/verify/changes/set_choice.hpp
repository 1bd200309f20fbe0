// A field set to another word, flag, count or direction.
#pragma once

#include "verify/changes/field_place.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

struct SetChoice {
    FieldPlace place;
    FieldValue to;  // nothing: the key is left out

    [[nodiscard]] int probe() const { return place.probe; }
    template <int D>
    bool make(Probe<D>& changed, const Rig<D>& rig) const;
    template <int D>
    bool make(Rig<D>& rig) const;
    template <int D>
    ChangeWords words(const Rig<D>& rig) const;
    [[nodiscard]] std::string about() const;
};

}  // namespace hollow_probe
