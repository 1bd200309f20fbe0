// A solid, and all of its role on its layer, met by probes and body alike, or by neither. A change to the
// level: no rig says it.
#pragma once

#include "hollow_probe/level/level.hpp"
#include "verify/changes/words.hpp"

namespace hollow_probe {

struct SetRole {
    int of_probe = 0;  // that would meet it, or not
    std::size_t solid = 0;
    bool met = true;  // by both; else by neither

    [[nodiscard]] int probe() const { return of_probe; }
    template <int D>
    ChangeWords words_in(const Level<D>& level) const;
    [[nodiscard]] std::string about() const {
        return "role " + std::to_string(of_probe) + " " + std::to_string(solid) + (met ? " both" : " none");
    }
};

}  // namespace hollow_probe
