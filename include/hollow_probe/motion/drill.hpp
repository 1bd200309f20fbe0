// A drill: what a player does, how the body moves, and what must come of it. Plain data, as a file states it.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

/// How the game moves a body.
enum class Model {
    free,      // by its velocity, through anything: only reflexes keep it out of solids
    slide,     // swept; slides along what it meets and never ends in a solid
    push_out,  // moved first, then pushed out of what it overlaps, one piece after the other
    loose,     // a mass driven by forces, which pushes loose solids and is pushed by them
};
const char* name_of(Model model);  // "free", …

/// What `free` does where a reflex cancels an axis.
enum class Approach {
    cancel,  // it does not move along it in this tick
    creep,   // it moves grain by grain until the signal's shift, placed one grain on, is on
};

/// What becomes of a speed that something stopped.
enum class Stopped {
    lost,  // the part into what stopped it is lost
    kept,  // the game keeps its own speed, whatever the mover did
};

/// When the game looks whether a key was pressed.
enum class Sampled {
    on_tick,   // each tick is told of every press since the one before
    on_frame,  // each frame is told of the presses since the frame before; ticks ask their frame
};

/// A number while the rig remembers ground, and one while it does not; one number stands for both.
struct ByFooting {
    double grounded = 0.0;
    double airborne = 0.0;

    ByFooting() = default;
    ByFooting(double both) : grounded(both), airborne(both) {}  // NOLINT(google-explicit-constructor)
    ByFooting(double on_ground, double in_air) : grounded(on_ground), airborne(in_air) {}
    [[nodiscard]] double at(bool has_ground) const { return has_ground ? grounded : airborne; }
    bool operator==(const ByFooting&) const = default;
};

/// When a body without drive keeps the speed across up that it has.
enum class Coasts {
    never,     // its speed goes to 0, at once or by the acceleration
    airborne,  // while the rig does not remember ground
    always,    // only friction and drag end it
};

/// What is otherwise while the body's ground is of one layer: ice, mud, shallow water.
struct OnLayer {
    std::string layer;
    std::optional<double> top_speed = {};
    std::optional<double> acceleration = {};
    std::optional<double> friction = {};
    std::optional<double> drag = {};
};

struct Motion {
    Model model = Model::slide;
    double gravity = 0.0;     // length per second², against up; >= 0
    double jump_speed = 0.0;  // length per second; >= 0
    ByFooting top_speed;      // that a full drive reaches; >= 0
    ByFooting acceleration;   // length per second² towards the driven speed; 0: at once. Not for loose
    ByFooting drag;           // speed lost per second and speed; >= 0
    Coasts coasts = Coasts::never;
    double friction = 0.0;         // coefficient, on whatever the body touches; not for free
    std::vector<OnLayer> on = {};  // where several name a layer, the last
    Stopped stopped = Stopped::lost;
    bool turns = true;   // the heading follows the drive; else only cues turn it
    double grain = 0.0;  // free: moves are whole multiples of it; 0: any
    Approach approach = Approach::cancel;
    double mass = 80.0;   // loose; > 0
    double force = 0.0;   // loose: of a full drive, mass × length per second²
    double bounce = 0.0;  // loose: part of the speed of approach given back between loose things, 0 to 1
};

/// Something the player does.
template <int D>
struct Cue {
    double at = 0.0;                // seconds; >= 0
    std::optional<Vec<D>> drive;    // from now on; longer than 1 counts as 1, zero lets go
    std::optional<Vec<D>> heading;  // from now on, unless the heading follows the drive
    std::string press = {};         // a key: "jump", or an event the rig knows
    std::string stance = {};        // asked for from now on
};

/// Loose: a solid that can be pushed. It does not turn.
struct LooseSolid {
    std::string solid;
    double mass = 0.0;  // > 0
    double friction = 0.5;
};

struct Expectation {
    enum class Kind { most, least, reaches, never_reaches };
    Kind kind = Kind::most;
    std::string figure;  // most, least: its name, see figure_names()
    std::string signal;  // for figures of signals: of this one; empty: of the worst
    double limit = 0.0;  // inclusive
    std::string area;    // reaches, never_reaches: where the anchor comes, or not
};

template <int D>
struct Drill {
    std::string name;
    Vec<D> at = Vec<D>::zero();
    Vec<D> heading = Vec<D>::unit(0);
    std::string stance = {};       // empty: the body's first
    double tick_rate = 60.0;       // per second
    double frame_rate = 0.0;       // 0: a frame for each tick
    double frame_jitter = 0.0;     // each frame lasts up to so much of itself longer or shorter; 0 to 0.9
    std::uint64_t frame_seed = 0;  // of the jitter
    std::vector<double> frame_lengths = {};  // s, one after the other and again: instead of a rate
    Sampled sampled = Sampled::on_tick;
    double phase = 0.0;    // cues come so many ticks later, 0 to 1: for repeating a drill between ticks
    double seconds = 1.0;  // > 0
    Motion motion;
    std::vector<Cue<D>> cues;  // in any order
    std::vector<LooseSolid> loose;
    std::vector<Expectation> expectations;
};

/// Throws InvalidInput for limits that are not numbers, out of range or of no figure; more than 10 million
/// ticks.
template <int D>
void check(const Drill<D>& drill);

extern template void check<2>(const Drill<2>&);
extern template void check<3>(const Drill<3>&);

}  // namespace hollow_probe
