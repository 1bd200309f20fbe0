// A shift made a cast of the stance along the way it would be put at the end of.
#pragma once

#include "hollow_probe/rig/rig.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

struct AsCast {
    int of_probe = 0;

    [[nodiscard]] int probe() const { return of_probe; }
    /// False where it is mounted in stances of several shapes, or the stance is inset: no file says that.
    template <int D>
    bool make(Probe<D>& changed, const Rig<D>& rig) const;
    /// … of the shape it has in one stance.
    template <int D>
    static void make_of(Probe<D>& changed, const RoundedHull<D>& shape);
    template <int D>
    ChangeWords words(const Rig<D>& rig) const;
    [[nodiscard]] std::string about() const { return "as cast " + std::to_string(of_probe); }
};

}  // namespace hollow_probe
