// The truths there are: what a signal can claim.
#pragma once

#include <array>
#include <optional>
#include <string_view>

namespace hollow_probe {

enum class Claim {
    ground,    // T1: the body stands on footing
    ceiling,   // T2: something overhead
    wall,      // T3: something too steep ahead, that is no step
    step,      // T4: something ahead that can be stepped on
    drop,      // T5: the ground ends ahead
    ledge,     // T6: a wall ahead with a walkable top
    headroom,  // T7: another stance fits here
    blocked,   // T10: the planned move meets something
};
inline constexpr std::array all_claims = {Claim::ground, Claim::ceiling, Claim::wall,     Claim::step,
                                          Claim::drop,   Claim::ledge,   Claim::headroom, Claim::blocked};

/// … and what they are called.
inline constexpr std::array<std::string_view, all_claims.size()> claim_words = {
    "ground", "ceiling", "wall", "step", "drop", "ledge", "headroom", "blocked"};

/// Whether a claim is about a direction.
constexpr bool is_toward(Claim claim) {
    return claim != Claim::ground && claim != Claim::ceiling && claim != Claim::headroom;
}

const char* name_of(Claim claim);                        // "ground", …
const char* name_of(const std::optional<Claim>& claim);  // … or "helper"

}  // namespace hollow_probe
