// A rig: a body, the probes mounted on it and the signals made from their readings. Plain data, as a file
// states it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/level/claim.hpp"

namespace hollow_probe {

enum class ProbeKind { ray, cast };
enum class Take {
    first,  // only the first hit is considered: one that is refused hides what lies behind it
    all,    // any hit that is accepted
};
enum class IfInside {
    report,  // a solid the probe starts in is a hit at distance 0, its normal the shortest way out
    ignore,  // solids the probe starts in are passed over
};

/// A sensor on the body. Positions and directions are in body coordinates: (forward, up) in 2D, (forward, up,
/// right) in 3D, from the anchor.
template <int D>
struct Probe {
    std::string name;
    ProbeKind kind = ProbeKind::ray;
    std::optional<RoundedHull<D>> shape;  // cast: the shape, around `from`
    Vec<D> from = Vec<D>::Zero();
    Vec<D> along = -Vec<D>::Unit(1);    // unit
    double reach = 0.0;                 // > 0, inclusive
    std::vector<std::string> sees;      // layers
    double accept_least_degrees = 0.0;  // angle of the hit normal from up, both ends inclusive
    double accept_most_degrees = 180.0;
    Take take = Take::first;
    IfInside if_inside = IfInside::report;
    std::vector<std::string> stances;  // where it is mounted; empty means in every stance
};

const char* name_of(ProbeKind kind);

/// At least so many of these probes on.
struct AtLeast {
    std::size_t count = 1;
    std::vector<std::string> of;  // empty: not asked for
};

/// A named yes/no made from readings. Every group given must hold: at least one of `any` on, each of `all`
/// on, each of `none` off. Probes not mounted in the present stance are left out of their groups.
struct Signal {
    std::string name;
    Claim claims = Claim::ground;
    std::vector<std::string> any;
    std::vector<std::string> all;
    std::vector<std::string> none;
    std::string stance = {};  // headroom: the one that is to fit; ledge: that is to have room; else unused
    AtLeast at_least = {};
};

inline constexpr std::size_t most_probes = 64;
inline constexpr std::size_t most_signals = 64;

template <int D>
struct Rig {
    Body<D> body;
    Intent intent;
    std::vector<Probe<D>> probes;
    std::vector<Signal> signals;
};

/// Throws InvalidInput for whatever makes a rig meaningless: no stance, names given twice, a signal without
/// members or naming no probe, a probe in no known stance, limits out of range, a cast without a shape.
template <int D>
void check(const Rig<D>& rig);

}  // namespace hollow_probe
