// What a rig keeps from tick to tick.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

enum class Keeps;

/// The solids inside one zone.
struct ZoneMemory {
    static constexpr std::size_t most = 32;
    std::array<std::uint32_t, most> inside{};  // ascending; further ones are not told apart
    std::size_t count = 0;
    bool flag = false;  // last_event: told an enter last; until_used: armed

    /// Takes down who is inside now, ascending, at most `most`; `used`: what disarms it has happened since.
    /// Returns whether a zone that keeps so is on.
    bool take(std::span<const std::uint32_t> now, Keeps keeps, bool used) noexcept;
};

struct SignalMemory {
    double held_since = infinity;  // the members have held since then without a break
    double last_on = -infinity;    // the last time it was on, grace left aside
    double muted_until = -infinity;
};

/// One for each body that carries the rig; made by MountedRig::memory(). A new one knows nothing: what holds
/// at its first tick has held since then.
struct RigMemory {
    double seconds = 0.0;               // of all ticks so far
    bool grounded = false;              // whether the first signal that claims ground was on
    std::vector<ZoneMemory> zones;      // one a probe of that kind, in order
    std::vector<SignalMemory> signals;  // one a signal
};

}  // namespace hollow_probe
