// A sensor on the body: what all kinds of probes have in common, and what each kind is made of.
#pragma once

#include <optional>
#include <string>
#include <type_traits>
#include <variant>
#include <vector>

#include "hollow_probe/geometry/rounded_hull.hpp"
#include "hollow_probe/level/one_way.hpp"
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

const char* name_of(ProbeKind kind);
const char* name_of(Keeps keeps);

// Positions and directions are in body coordinates: (forward, up) in 2D, (forward, up, right) in 3D, from the
// anchor.

/// A ray; with a shape a cast.
template <int D>
struct LineProbe {
    std::optional<RoundedHull<D>> shape = {};  // around `from`
    Vec<D> from = Vec<D>::zero();
    Vec<D> along = -Vec<D>::unit(1);  // unit
    Aim aim = Aim::fixed;
    double reach = 0.0;                         // > 0, inclusive
    std::optional<double> reach_grounded = {};  // instead of `reach` while the rig remembers ground
    double reach_per_speed = 0.0;               // seconds: added to the reach for each unit of speed; >= 0
    double accept_least_degrees = 0.0;          // angle of the hit normal from up, both ends inclusive
    double accept_most_degrees = 180.0;
    double accept_least_incidence_degrees = 0.0;  // angle of the hit normal from the way back, both inclusive
    double accept_most_incidence_degrees = 180.0;
    Take take = Take::first;
    IfInside if_inside = IfInside::report;
    Spread spread = {};  // several at once
    OneWay one_way = OneWay::as_body;
    bool ignores_body = true;   // false: it meets the body itself where it sees the body's own layer
    Faces faces = Faces::both;  // of meshes and polylines
};

/// A volume that is told what enters and leaves it.
template <int D>
struct ZoneProbe {
    RoundedHull<D> shape;  // around `from`
    Vec<D> from = Vec<D>::zero();
    Vec<D> along = -Vec<D>::unit(1);  // unit: the end that cures move
    OneWay one_way = OneWay::as_body;
    Keeps keeps = Keeps::set;
    std::string used_by = "jump";  // until_used: the event that clears it
};

/// The stance, moved by `reach` along `along`: it is on where that place is taken.
template <int D>
struct ShiftProbe {
    Vec<D> along = Vec<D>::unit(0);  // unit
    Aim aim = Aim::fixed;
    double reach = 0.0;                         // >= 0
    std::optional<double> reach_grounded = {};  // instead of `reach` while the rig remembers ground
    double reach_per_speed = 0.0;               // seconds: added for each unit of speed; >= 0
    OneWay one_way = OneWay::as_body;
    ShiftAxes axes = ShiftAxes::both;
    double inset = 0.0;  // the stance is smaller by this much on every side; >= 0
};

/// What the last move touched.
struct ContactProbe {
    Side side = Side::below;
    Match match = Match::includes;
    double within_degrees = 45.0;  // of straight up (below) or down (above); else it is beside
};

/// A sensor on the body.
///
///     Probe<2> sole{"sole", {"masonry"}, LineProbe<2>{.from = {0.0, 0.4}, .reach = 0.42}};
///     sole.line().accept_most_degrees = 45.0;
template <int D>
struct Probe {
    using Vector = Vec<D>;
    using Shape = RoundedHull<D>;

    std::string name = {};
    std::vector<std::string> sees = {};  // layers
    std::variant<LineProbe<D>, ZoneProbe<D>, ShiftProbe<D>, ContactProbe> of_kind = LineProbe<D>{};
    std::vector<std::string> stances = {};  // where it is mounted; empty means in every stance
    std::optional<Reads> reads = {};        // when; empty: as the rig does
    /// A ray or cast declared before, of one line: this one starts where that one's hit leaves it, moved
    /// along that line as far as it got. Where that one is off, or not mounted, this one is not read, and
    /// off. Contact probes follow nothing. Empty: it starts on the body.
    std::string follows = {};

    [[nodiscard]] ProbeKind kind() const;
    [[nodiscard]] bool is_line() const { return std::holds_alternative<LineProbe<D>>(of_kind); }

    /// What it is made of. Throws std::bad_variant_access if it is of another kind.
    [[nodiscard]] LineProbe<D>& line() { return std::get<LineProbe<D>>(of_kind); }
    [[nodiscard]] const LineProbe<D>& line() const { return std::get<LineProbe<D>>(of_kind); }
    [[nodiscard]] ZoneProbe<D>& zone() { return std::get<ZoneProbe<D>>(of_kind); }
    [[nodiscard]] const ZoneProbe<D>& zone() const { return std::get<ZoneProbe<D>>(of_kind); }
    [[nodiscard]] ShiftProbe<D>& shift() { return std::get<ShiftProbe<D>>(of_kind); }
    [[nodiscard]] const ShiftProbe<D>& shift() const { return std::get<ShiftProbe<D>>(of_kind); }
    [[nodiscard]] ContactProbe& contact() { return std::get<ContactProbe>(of_kind); }
    [[nodiscard]] const ContactProbe& contact() const { return std::get<ContactProbe>(of_kind); }
};

// What several kinds have under one name: a pointer to it, or nullptr where this kind has none.

template <class Member, class SomeProbe, class Pick>
auto* shared_member(SomeProbe& probe, Pick pick) {
    using Pointer = std::conditional_t<std::is_const_v<SomeProbe>, const Member*, Member*>;
    return std::visit(
        [&](auto& kind) -> Pointer {
            if constexpr (std::is_invocable_v<Pick, decltype(kind)>) {
                return &pick(kind);
            } else {
                return nullptr;
            }
        },
        probe.of_kind);
}

template <class SomeProbe>
auto* shape_of(SomeProbe& probe) {
    using Shape = typename SomeProbe::Shape;
    using Pointer = std::conditional_t<std::is_const_v<SomeProbe>, const Shape*, Shape*>;
    if (probe.is_line()) return probe.line().shape ? Pointer(&*probe.line().shape) : nullptr;
    return probe.kind() == ProbeKind::zone ? Pointer(&probe.zone().shape) : nullptr;
}
template <class SomeProbe>
auto* from_of(SomeProbe& probe) {
    return shared_member<typename SomeProbe::Vector>(
        probe, [](auto& kind) -> decltype((kind.from)) { return kind.from; });
}
template <class SomeProbe>
auto* along_of(SomeProbe& probe) {
    return shared_member<typename SomeProbe::Vector>(
        probe, [](auto& kind) -> decltype((kind.along)) { return kind.along; });
}
template <class SomeProbe>
auto* aim_of(SomeProbe& probe) {
    return shared_member<Aim>(probe, [](auto& kind) -> decltype((kind.aim)) { return kind.aim; });
}
template <class SomeProbe>
auto* reach_of(SomeProbe& probe) {
    return shared_member<double>(probe, [](auto& kind) -> decltype((kind.reach)) { return kind.reach; });
}
template <class SomeProbe>
auto* reach_grounded_of(SomeProbe& probe) {
    return shared_member<std::optional<double>>(
        probe, [](auto& kind) -> decltype((kind.reach_grounded)) { return kind.reach_grounded; });
}
template <class SomeProbe>
auto* reach_per_speed_of(SomeProbe& probe) {
    return shared_member<double>(
        probe, [](auto& kind) -> decltype((kind.reach_per_speed)) { return kind.reach_per_speed; });
}
template <class SomeProbe>
auto* one_way_of(SomeProbe& probe) {
    return shared_member<OneWay>(probe, [](auto& kind) -> decltype((kind.one_way)) { return kind.one_way; });
}

}  // namespace hollow_probe
