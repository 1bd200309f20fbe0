// How a body, or anything of one or more convex parts, is moved through a level.
#pragma once

#include <functional>
#include <span>

#include "hollow_probe/level/level_cast.hpp"
#include "hollow_probe/level/level_query.hpp"

namespace hollow_probe {

/// What moves, and what it is to know of the level.
template <int D>
struct Mover {
    const Level<D>* level = nullptr;
    std::span<const HullView<D>> parts;  // relative to where it is
    LayerSet meets = 0;
    double skin = 0.0;         // the gap it keeps
    double friction = 0.0;     // coefficient
    bool is_in_level = false;  // it is a solid of the level, and not to meet itself
    Vec<D> up = Vec<D>::zero();
    double footing_degrees = 0.0;  // slopes up to this are footing
    bool stands = false;           // what falls on footing stays there instead of sliding down
    bool holds_height = false;     // slopes beyond footing stop it as a wall would: it does not slide up them
    /// Whatever else it may meet on the way, nearer than `reach`; may be empty.
    std::function<std::optional<LevelHit<D>>(const Vec<D>& at, const Vec<D>& direction, double reach)> also =
        {};
    /// Told of every hit and the speed along its normal; returns the speed along the normal after it (0 for
    /// what stands fast). Empty: everything stands fast.
    std::function<double(const LevelHit<D>& hit, double speed)> struck = {};
};

/// The first hit of any part.
template <int D>
std::optional<LevelHit<D>> first_hit(const Mover<D>& mover, const Vec<D>& at, const Vec<D>& direction,
                                     double reach);

/// Where the mover is parted by its skin from what it touches or overlaps, as far as there is room: `at` if
/// there is none. One-way pieces part it if `velocity` does not lead away from them.
template <int D>
Vec<D> parted(const Mover<D>& mover, const Vec<D>& at, const Vec<D>& velocity, double deepest);

/// Moves on with `velocity` for `seconds`, sliding along whatever is met, at a distance of the skin. The
/// velocity loses its part into what was met and, by friction, of the rest as much as that times the
/// coefficient (C. Coulomb's law for impulses). What leads away from a hit, or along it, is not
/// stopped by it. Returns where it ends. Bounded: at most eight hits, then it stays where it is.
template <int D>
Vec<D> slide(const Mover<D>& mover, Vec<D> at, Vec<D>& velocity, double seconds);

/// Moves straight on by `way` until something is met, at a distance of the skin. Returns where it ends;
/// `met`, if given, is whether something was.
template <int D>
Vec<D> sweep(const Mover<D>& mover, const Vec<D>& at, const Vec<D>& way, bool* met = nullptr);

/// Whether some part overlaps a piece, one-way ones left aside, by more than `deeper_than`.
template <int D>
bool is_inside(const Mover<D>& mover, const Vec<D>& at, double deeper_than);

/// Pushes the mover out of every piece it overlaps, one after the other in the level's order, each by its own
/// shortest way, for at most `rounds` over all. The velocity loses its part into each, and friction as in
/// slide(). Returns whether it is free at the end. One-way pieces count if `moved` runs against them and it
/// did not overlap them before.
template <int D>
bool push_out(const Mover<D>& mover, Vec<D>& at, const Vec<D>& moved, Vec<D>* velocity, int rounds);

/// The velocity nearest to `velocity` that leads into none of the planes with these normals.
template <int D>
Vec<D> along_planes(const Vec<D>& velocity, std::span<const Vec<D>> normals);

}  // namespace hollow_probe
