// The small numbers of the geometry, each with what it is a tolerance of. Lengths among them are parts of
// what is computed with: of the sizes of shapes, whose differences are rounded, and of the greatest
// coordinate, which was rounded before.
#pragma once

namespace hollow_probe::tolerance {

// Of directions: cosines and sines, or radians, which are the same when small.

/// A move runs against a surface only where normal·direction < -approaches; what slides along it, brushes
/// past or leaves does not touch it.
inline constexpr double approaches = 1e-6;
/// Angles this close to a limit are at the limit: a 45° ramp is within 45° however its corners are rounded.
inline constexpr double angle = 1e-9;
/// Unit vectors whose cosine is this close to 1 are one direction; a sine or a component below it is 0.
inline constexpr double direction = 1e-12;
/// A speed along a normal below this is none: quotients by it would be rounding alone.
inline constexpr double speed = 1e-14;
/// Triangles with a lesser sine at a corner are needles: their plane is known by few digits.
inline constexpr double needle = 1e-6;

// Of lengths, as parts of the size of what is looked at.

/// What distances and points are promised to (closed forms are held against it).
inline constexpr double accuracy = 1e-9;
/// Cores that come this near meet: the difference of their closest points has no direction any more.
inline constexpr double cores_meet = 1e-10;
/// Lengths whose squares are compared: below this part of the longest a side is none.
inline constexpr double side = 1e-12;

/// How far rounding moves a touch that a closed form finds.
constexpr double of_cast(double size, double magnitude) {
    return 1e-13 * size + 1e-15 * magnitude;
}
/// … that an iteration ends at.
constexpr double of_root(double size, double magnitude) {
    return 1e-12 * size + 1e-15 * magnitude;
}
/// Lengths so close to a limit are rounding, not measurements: of a body of that size in such a level.
constexpr double of_measure(double size, double magnitude) {
    return accuracy * size + direction * magnitude;
}

// Of time, in ticks.

/// Times this close to a tick are at the tick.
inline constexpr double tick = 1e-9;
/// … times that were written as decimals and parsed again.
inline constexpr double written_tick = 1e-6;

}  // namespace hollow_probe::tolerance
