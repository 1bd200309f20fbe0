// The walking body: its stances, where it is, and what the game means by footing.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "hollow_probe/geometry/rounded_hull.hpp"
#include "hollow_probe/level/one_way.hpp"

namespace hollow_probe {

/// One of the body's shapes, in body coordinates: (forward, up) in 2D, (forward, up, right) in 3D, the anchor
/// (the bottom-centre point) being the origin.
template <int D>
struct Stance {
    std::string name;
    RoundedHull<D> shape;

    /// An upright capsule of overall `height` standing on the anchor; height >= 2 radius, equal gives a ball.
    static Stance capsule(std::string name, double radius, double height);
    /// A box of `size` (forward, up, right) standing on the anchor.
    static Stance box(std::string name, const Vec<D>& size);
    static Stance ball(std::string name, double radius);
    /// Convex points in body coordinates, the lowest of them at height 0 within 1e-9 of the size.
    static Stance hull(std::string name, std::vector<Vec<D>> points, double radius = 0.0);
};

template <int D>
struct Body {
    std::vector<std::string> meets;  // layers that stop it
    std::vector<Stance<D>> stances;  // at least one
    std::string layer = {};          // that the game's queries find the body itself on; empty: on none
    bool turns = true;               // its heading follows its drive
    Faces faces = Faces::both;       // of meshes and polylines: the sides that stop it
};

/// Where a body is.
template <int D>
struct Pose {
    Vec<D> anchor = Vec<D>::zero();
    Vec<D> heading = Vec<D>::unit(0);  // unit, perpendicular to up
    std::size_t stance = 0;
    Vec<D> velocity = Vec<D>::zero();  // length per second
    Vec<D> drive = Vec<D>::zero();     // the direction wanted by the player, unit; zero: none
    bool grounded = false;             // what the game remembers of the tick before
};

/// What the game does wrong on purpose. A wrong verdict within is forgiven: counted apart, and right.
struct Forgiveness {
    double late = 0.0;            // seconds a signal may go on saying what was true
    double early = 0.0;           // seconds a signal may say beforehand what will be true
    double hold = 0.0;            // a larger touch for ground while contact is remembered; length
    double after_take_off = 0.0;  // seconds in which ground need not be told after a jump

    [[nodiscard]] bool any() const { return late > 0.0 || early > 0.0 || hold > 0.0 || after_take_off > 0.0; }
};

/// What the player can do besides walking, stepping and falling.
struct Moves {
    double jump_height = 0.0;  // of the anchor, at its highest; >= 0
    double jump_length = 0.0;  // across up, at the height of the take-off; >= 0
};

/// What the game means by ground: the parameters of truth. Lengths in the level's unit.
struct Intent {
    double touch = 0.02;                     // largest gap that still counts as contact; > 0
    double steepest_footing_degrees = 45.0;  // inclusive, 0 to 90
    double ceiling_within_degrees = 60.0;    // of the normal from straight down; inclusive, 0 to 90
    double lowest_step = 0.05;               // what rises less stops the body as a wall does; >= 0
    double tallest_step = 0.35;              // > lowest_step
    double ahead_step = 0.02;                // how near a step counts; >= 0
    double tread = 0.0;                      // how far on to a step the body must get; 0: half its width
    double ahead_wall = 0.02;                // how near a wall counts; >= 0
    double ahead_drop = 0.5;                 // how near a drop counts; >= 0
    double deepest_drop = 0.6;               // how deep the ground may fall off below the feet; >= 0
    double ahead_ledge = 0.5;                // how near a ledge counts; >= 0
    std::array<double, 2> ledge_between = {0.5, 1.5};  // heights of its edge above the anchor, inclusive
    double ahead_move = 0.0;                 // blocked: the planned move, a length; 0: by time and speed
    double ahead_move_seconds = 1.0 / 60.0;  // … the speed times this
    Forgiveness forgive = {};
    Moves moves = {};  // what places count as reached; no truth depends on it

    /// The planned move at a speed.
    [[nodiscard]] double planned_move(double speed) const {
        return ahead_move > 0.0 ? ahead_move : ahead_move_seconds * speed;
    }
};

/// The map from body coordinates to the level's: columns forward, up and (3D) right. In 2D a heading to the
/// left mirrors the body, so that forward stays forward.
template <int D>
Mat<D> body_frame(const Vec<D>& heading, const Vec<D>& up);

extern template struct Stance<2>;
extern template struct Stance<3>;

}  // namespace hollow_probe
