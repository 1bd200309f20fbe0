// A name put into a list of a probe, or taken out of it: a layer it sees, a stance it is mounted in.
#pragma once

#include "hollow_probe/rig/rig.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

struct ListName {
    int of_probe = 0;
    std::string_view key;  // "sees" or "stances"
    std::string name;
    bool listed = true;  // put in; else taken out

    [[nodiscard]] int probe() const { return of_probe; }
    template <int D>
    bool make(Probe<D>& changed, const Rig<D>& rig) const;
    template <int D>
    ChangeWords words(const Rig<D>& rig) const;
    [[nodiscard]] std::string about() const;
};

}  // namespace hollow_probe
