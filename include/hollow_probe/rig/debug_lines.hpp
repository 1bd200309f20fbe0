// A rig at a pose as plain lines, for a game to draw over its world.
#pragma once

#include <span>
#include <vector>

#include "hollow_probe/rig/mount.hpp"

namespace hollow_probe {

/// What a line shows.
enum class LinePart : std::uint8_t {
    body,         // the outline of the stance
    heading,      // from the body's middle, half its size long
    way,          // of a probe: from its start to its hit, or to the end of its reach
    beyond,       // what is left of its reach past the hit
    start_shape,  // the cast shape where it starts
    end_shape,    // … where it hit, or at the end of its reach; a zone or shift where it rests
    normal,       // of the hit, out of what was hit, a tenth of the body's size long
};

template <int D>
struct DebugLine {
    Vec<D> from = Vec<D>::zero();
    Vec<D> to = Vec<D>::zero();
    LinePart part = LinePart::body;
    std::size_t probe = 0;  // its number, for parts of probes
    bool on = false;        // the probe is
};

/// Appends the lines of a rig with its anchor at `anchor`, as aimed, and of what it read there: `readings` as
/// evaluate() or tick() filled them. Round shapes have `around` corners, at least 3. Of probes with several
/// lines the reading tells the nearest hit alone: its line is the one that ends there. Allocates only where
/// `lines` has no room.
///
///     std::vector<DebugLine<3>> lines;
///     append_debug_lines<3>(mounted, anchor, readings, lines);
///     for (const DebugLine<3>& line : lines) my_draw(line.from, line.to, my_color(line));
template <int D>
void append_debug_lines(const MountedRig<D>& rig, const Vec<D>& anchor, std::span<const Reading<D>> readings,
                        std::vector<DebugLine<D>>& lines, int around = 24);

extern template void append_debug_lines<2>(const MountedRig<2>&, const Vec<2>&, std::span<const Reading<2>>,
                                           std::vector<DebugLine<2>>&, int);
extern template void append_debug_lines<3>(const MountedRig<3>&, const Vec<3>&, std::span<const Reading<3>>,
                                           std::vector<DebugLine<3>>&, int);

}  // namespace hollow_probe
