// A rig: a body, the probes mounted on it and the signals made from their readings. Plain data, as a file
// states it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/level/claim.hpp"
#include "hollow_probe/level/one_way.hpp"
#include "hollow_probe/level/value.hpp"
#include "hollow_probe/rig/reflex.hpp"
#include "hollow_probe/rig/situation.hpp"
#include "hollow_probe/rig/spread.hpp"

namespace hollow_probe {

enum class ProbeKind {
    ray,
    cast,     // a shape swept along a line
    zone,     // a resident overlap volume
    shift,    // the stance itself, placed where it is planned to be
    contact,  // what the last move touched
};
enum class Take {
    first,  // only the first hit is considered: one that is refused hides what lies behind it
    all,    // any hit that is accepted
};
/// Where `along` comes from.
enum class Aim {
    fixed,     // `along`, in body coordinates
    drive,     // where the player wants to go; without a drive the probe is not read
    velocity,  // where the body moves; at rest the probe is not read
};
/// How the game remembers what a zone was told.
enum class Keeps {
    set,         // on while any solid is inside
    last_event,  // one flag: each enter sets it, each leave clears it, whatever else is inside
    until_used,  // any enter arms it, only the event `used_by` clears it
};
/// Which part of a planned displacement a shift makes.
enum class ShiftAxes { both, across_up, along_up };
enum class Match {
    includes,  // some contact is on that side
    only,      // there are contacts, and all are on that side
};

/// When the game reads its probes within a tick.
enum class Reads {
    after_move,   // where the body has arrived
    before_move,  // where it was before it moved: a tick late
};

/// A sensor on the body. Positions and directions are in body coordinates: (forward, up) in 2D, (forward, up,
/// right) in 3D, from the anchor. What a kind does not use is left alone.
template <int D>
struct Probe {
    std::string name;
    ProbeKind kind = ProbeKind::ray;
    std::optional<RoundedHull<D>> shape;  // cast and zone: the shape, around `from`
    Vec<D> from = Vec<D>::Zero();
    Vec<D> along = -Vec<D>::Unit(1);    // unit
    double reach = 0.0;                 // > 0, inclusive; shift: how far the stance is moved, >= 0
    std::vector<std::string> sees;      // layers
    double accept_least_degrees = 0.0;  // angle of the hit normal from up, both ends inclusive
    double accept_most_degrees = 180.0;
    Take take = Take::first;
    IfInside if_inside = IfInside::report;
    std::vector<std::string> stances = {};  // where it is mounted; empty means in every stance

    Aim aim = Aim::fixed;
    std::optional<double> reach_grounded = {};  // instead of `reach` while the rig remembers ground
    double reach_per_speed = 0.0;               // seconds: added to the reach for each unit of speed; >= 0
    Spread spread = {};                         // ray and cast: several at once
    OneWay one_way = OneWay::as_body;
    bool ignores_body = true;           // false: it meets the body itself where it sees the body's own layer
    Keeps keeps = Keeps::set;           // zone
    std::string used_by = "jump";       // zone, until_used: the event that clears it
    ShiftAxes axes = ShiftAxes::both;   // shift
    double inset = 0.0;                 // shift: the stance is smaller by this much on every side; >= 0
    Side side = Side::below;            // contact
    Match match = Match::includes;      // contact
    double side_within_degrees = 45.0;  // contact: of straight up (below) or down (above); else it is beside
    std::optional<Reads> reads = {};    // when; empty: as the rig does
    Faces faces = Faces::both;          // ray and cast: of meshes and polylines
};

const char* name_of(ProbeKind kind);
const char* name_of(Keeps keeps);

struct Group;

/// One member of a group: a probe, a signal declared before, or a group of its own.
struct Member {
    Member() = default;
    Member(std::string named);  // NOLINT(google-explicit-constructor): a name is the commonest member
    Member(const char* named);  // NOLINT(google-explicit-constructor)

    std::string name;  // empty: the group
    /// Conditions on a probe's reading, beyond the probe's own: inclusive at both ends. Off without a hit.
    std::optional<std::array<double, 2>> angle_degrees;  // of the hit normal from up
    std::optional<std::array<double, 2>> distance;       // from the probe's start to the hit
    std::vector<std::string> layers;                     // of the hit; empty: any
    std::vector<Group> group;                            // one, where name is empty

    bool operator==(const Member& other) const;
    [[nodiscard]] bool has_condition() const { return angle_degrees || distance || !layers.empty(); }
};

/// At least so many of these on.
struct AtLeast {
    std::size_t count = 1;
    std::vector<Member> of;  // empty: not asked for

    bool operator==(const AtLeast& other) const;
};

/// Everything given must hold: at least one of `any` on, each of `all` on, each of `none` off. Probes not
/// mounted in the present stance are left out.
struct Group {
    std::vector<Member> any;
    std::vector<Member> all;
    std::vector<Member> none;
    AtLeast at_least;

    bool operator==(const Group& other) const;
};

/// After an event a signal stays off for a while.
struct MuteAfter {
    std::string event;     // empty: never
    double seconds = 0.0;  // >= 0
};

/// The direction a signal is about.
enum class Toward { heading, drive, velocity };

const char* name_of(Toward toward);

/// A named yes/no made from readings.
struct Signal {
    std::string name;
    std::optional<Claim> claims = Claim::ground;  // empty: a helper of other signals, not judged
    Group members;
    std::string stance = {};  // headroom: the one that is to fit; ledge: that is to have room; else unused

    double settle = 0.0;  // seconds its members must hold before it turns on; >= 0
    double grace = 0.0;   // seconds it stays on after; >= 0
    MuteAfter mute_after = {};
    Value gives = Value::none;
    std::string gives_from = {};        // the probe whose reading the value is taken from
    std::vector<std::string> of = {};   // layers its truth is limited to; empty: all the body meets
    std::optional<Toward> toward = {};  // empty: what its probes aim by
};

inline constexpr std::size_t most_probes = 64;
inline constexpr std::size_t most_signals = 64;

template <int D>
struct Rig {
    Body<D> body;
    Intent intent;
    std::vector<Probe<D>> probes;
    std::vector<Signal> signals;
    std::vector<Reflex> reflexes = {};  // in the order in which the game runs them
    Reads reads = Reads::after_move;
};

/// Throws InvalidInput for whatever makes a rig meaningless: no stance, names given twice, a signal without
/// members or naming neither a probe nor an earlier signal, a probe in no known stance, limits out of range,
/// a cast without a shape, a reflex on an unknown signal; for more than 64 probes and conditions, or 64
/// signals and nested groups.
template <int D>
void check(const Rig<D>& rig);

/// Throws InvalidInput for limits that are not numbers, are out of range or out of order.
void check(const Intent& intent);

/// The direction a signal is about: as given, or what the first of its probes (or of its members' probes)
/// aims by that aims by drive or velocity; else the heading.
template <int D>
Toward toward_of(const Rig<D>& rig, const Signal& signal);

/// Whether what the rig says at a tick depends on the ticks before.
template <int D>
bool has_memory(const Rig<D>& rig);

}  // namespace hollow_probe
