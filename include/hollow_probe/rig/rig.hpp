// A rig: a body, the probes mounted on it and the signals made from their readings. Plain data, as a file
// states it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/level/claim.hpp"
#include "hollow_probe/level/value.hpp"
#include "hollow_probe/rig/probe.hpp"
#include "hollow_probe/rig/reflex.hpp"
#include "hollow_probe/rig/situation.hpp"

namespace hollow_probe {

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
/// a cast without a shape, a probe that follows none declared before, a reflex on an unknown signal; for more
/// than 64 probes and conditions, or 64 signals and nested groups.
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

/// The probes whose start depends on how far one gets: those that follow it, and those that follow them.
template <int D>
std::vector<std::size_t> followers_of(const Rig<D>& rig, std::size_t probe);

}  // namespace hollow_probe
