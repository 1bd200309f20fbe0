// What a rig keeps from tick to tick.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

/// The solids inside one zone.
struct ZoneMemory {
    static constexpr std::size_t most = 32;
    std::array<std::uint32_t, most> inside{};  // ascending; further ones are not told apart
    std::size_t count = 0;
    bool flag = false;  // last_event: told an enter last; until_used: armed
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
