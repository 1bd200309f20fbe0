// What a rig is told at each tick, beside where the body is.
#pragma once

#include <cstdint>
#include <optional>
#include <span>

#include "hollow_probe/geometry/bounds_tree.hpp"
#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

/// What the directions and reaches of probes depend on.
template <int D>
struct Situation {
    Vec<D> heading = Vec<D>::unit(0);  // unit, perpendicular to up
    Vec<D> velocity = Vec<D>::zero();  // length per second
    Vec<D> drive = Vec<D>::zero();     // the direction wanted by the player, unit; zero: none
    bool grounded = false;             // what the rig remembers of the tick before
};

/// On which side of the body something is.
enum class Side { below, above, beside };

const char* name_of(Side side);

/// Something the last move touched, as the game's own mover reports it.
template <int D>
struct MoveContact {
    Vec<D> normal = Vec<D>::zero();  // unit, out of what is touched
    Vec<D> point = Vec<D>::zero();
    LayerSet layer = 0;  // its bit
    std::uint32_t solid = 0;
    std::uint32_t piece = 0;
    /// The direction it was looked for in: a contact told twice, below and beside, counts on the side it was
    /// found on alone. Empty: the normal alone decides.
    std::optional<Side> found_along = {};
};

/// One tick of a game.
template <int D>
struct Tick {
    Vec<D> anchor = Vec<D>::zero();  // after the move
    Vec<D> before = Vec<D>::zero();  // before it: where a rig that reads before the move is read
    double seconds = 0.0;            // since the tick before; >= 0
    std::uint64_t events = 0;        // that happened since then, bits of MountedRig::events
    std::span<const MoveContact<D>> contacts = {};  // of the last move
};

}  // namespace hollow_probe
