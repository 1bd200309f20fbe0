// The truths there are: what a signal can claim.
#pragma once

#include <array>

namespace hollow_probe {

enum class Claim {
    ground,    // T1: the body stands on footing
    ceiling,   // T2: something overhead
    wall,      // T3: something too steep ahead, that is no step
    step,      // T4: something ahead that can be stepped on
    drop,      // T5: the ground ends ahead
    ledge,     // T6: a wall ahead with a walkable top
    headroom,  // T7: another stance fits here
};
inline constexpr std::array all_claims = {Claim::ground, Claim::ceiling, Claim::wall,    Claim::step,
                                          Claim::drop,   Claim::ledge,   Claim::headroom};

const char* name_of(Claim claim);  // "ground", …

}  // namespace hollow_probe
