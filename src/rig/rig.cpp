#include "hollow_probe/rig/rig.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <set>

#include "rig/probes_of.hpp"

namespace hollow_probe {
namespace {

template <class Named>
void require_distinct(const std::vector<Named>& things, const char* what) {
    std::set<std::string> names;
    for (const Named& thing : things) {
        if (!names.insert(thing.name).second) {
            throw InvalidInput(std::string(what) + " '" + thing.name + "' is named twice");
        }
    }
}

template <class Named>
bool has(const std::vector<Named>& things, const std::string& name) {
    return std::any_of(things.begin(), things.end(), [&](const Named& thing) { return thing.name == name; });
}

void check(const Spread& spread, int dimensions, const std::function<void(const std::string&)>& refuse) {
    const auto positive = [](double x) { return std::isfinite(x) && x > 0.0; };
    switch (spread.kind) {
        case SpreadKind::none:
            break;
        case SpreadKind::row:
            if (!positive(spread.width)) refuse("spread.row.width must be more than 0");
            break;
        case SpreadKind::fan:
            if (!positive(spread.degrees) || spread.degrees > 360.0)
                refuse("spread.fan.degrees must be more than 0 and at most 360");
            break;
        case SpreadKind::ring:
            if (!positive(spread.radius)) refuse("spread.ring.radius must be more than 0");
            break;
        case SpreadKind::grid:
            if (!(spread.size[0] >= 0.0 && spread.size[1] >= 0.0)) refuse("spread.grid.size is negative");
            if (spread.counts[0] < 1 || spread.counts[1] < 1 || spread.counts[0] > most_lines ||
                spread.counts[1] > most_lines)
                refuse("spread.grid.counts must each be 1 to 64");
            break;
    }
    const bool flat = spread.kind == SpreadKind::ring || spread.kind == SpreadKind::grid;
    if (flat && dimensions == 2) refuse("a spread in 2D is a row or a fan; ring and grid are for 3D");
    if (!flat && spread.kind != SpreadKind::none && spread.count < 2) refuse("a spread has at least 2 lines");
    const int lines = spread.line_count();
    if (lines > most_lines) refuse("a spread has at most 64 lines");
    if (spread.least < 1 || spread.least > lines)
        refuse("spread.least must be from 1 to the number of its lines");
}

template <int D>
void check(const Probe<D>& probe, const Rig<D>& rig) {
    const auto refuse = [&](const std::string& why) {
        throw InvalidInput("probe '" + probe.name + "': " + why);
    };
    const bool needs_shape = probe.kind == ProbeKind::cast || probe.kind == ProbeKind::zone;
    if (needs_shape != probe.shape.has_value()) {
        refuse(needs_shape ? std::string("a ") + name_of(probe.kind) + " needs a shape"
                           : std::string("a ") + name_of(probe.kind) + " must not have a shape");
    }
    if (!probe.from.allFinite()) refuse("from has a number that is not finite");
    if (!(std::abs(probe.along.norm() - 1.0) < 1e-9)) refuse("along is not of unit length");
    const bool is_line = probe.kind == ProbeKind::ray || probe.kind == ProbeKind::cast;
    const auto length = [&](double x) { return std::isfinite(x) && x >= 0.0; };
    if (is_line && (!length(probe.reach) || (probe.reach == 0.0 && probe.reach_per_speed == 0.0)))
        refuse("reach must be more than 0");
    if (!length(probe.reach)) refuse("reach must be 0 or more");
    if (probe.reach_grounded && !(length(*probe.reach_grounded) && *probe.reach_grounded > 0.0))
        refuse("reach.grounded must be more than 0");
    if (!length(probe.reach_per_speed)) refuse("reach.per_speed must be 0 or more");
    if (!is_line && probe.spread.kind != SpreadKind::none) refuse("only rays and casts can be spread");
    check(probe.spread, D, refuse);
    if (!length(probe.inset)) refuse("inset must be 0 or more");
    for (const Stance<D>& stance : rig.body.stances) {
        if (probe.kind != ProbeKind::shift || probe.inset == 0.0) break;
        if (probe.inset >= 0.5 * stance.shape.bounds().size().minCoeff() ||
            (stance.shape.radius() > 0.0 && probe.inset >= stance.shape.radius()))
            refuse("inset leaves nothing of stance '" + stance.name + "'");
    }
    if (!(probe.side_within_degrees > 0.0 && probe.side_within_degrees <= 90.0))
        refuse("within must be more than 0 and at most 90 degrees");
    if (!(0.0 <= probe.accept_least_degrees && probe.accept_least_degrees <= probe.accept_most_degrees &&
          probe.accept_most_degrees <= 180.0)) {
        refuse("accept.angle must be two angles from 0 to 180, the lower first");
    }
    for (const std::string& stance : probe.stances) {
        if (!has(rig.body.stances, stance)) refuse("there is no stance '" + stance + "'");
    }
}

/// Checks the members of one signal, its nested groups included.
template <int D>
class GroupCheck {
  public:
    GroupCheck(const Rig<D>& rig, std::size_t signal) : rig_(rig), signal_(signal) {}

    std::size_t conditions = 0;
    std::size_t groups = 0;

    template <class Members>
    void check(const Members& group) {
        if (group.any.empty() && group.all.empty() && group.none.empty() && group.at_least.of.empty())
            refuse("has no members: expected any, all, none or at_least");
        const auto& counted = group.at_least;
        if (!counted.of.empty() && (counted.count < 1 || counted.count > counted.of.size()))
            refuse("has an at_least.count that is not from 1 to the number of its probes");
        for (const auto* members : {&group.any, &group.all, &group.none, &counted.of}) {
            for (const Member& member : *members) check_member(member);
        }
    }

  private:
    [[noreturn]] void refuse(const std::string& why) const {
        throw InvalidInput("signal '" + rig_.signals[signal_].name + "' " + why);
    }

    void check_member(const Member& member) {
        if (member.name.empty()) {
            if (member.group.size() != 1) refuse("has a member without a name that is no group either");
            if (member.has_condition()) refuse("has a condition on a group: expected it on a probe");
            if (++depth_ > 8) refuse("has groups nested more than 8 deep");
            ++groups;
            check(member.group.front());
            --depth_;
            return;
        }
        if (has(rig_.probes, member.name)) {
            if (member.has_condition()) ++conditions;
            const auto& angle = member.angle_degrees;
            if (angle && !(0.0 <= (*angle)[0] && (*angle)[0] <= (*angle)[1] && (*angle)[1] <= 180.0))
                refuse("has a condition whose angles are not from 0 to 180, the lower first");
            if (member.distance &&
                !(0.0 <= (*member.distance)[0] && (*member.distance)[0] <= (*member.distance)[1]))
                refuse("has a condition whose distances are not 0 or more, the lower first");
            return;
        }
        for (std::size_t i = 0; i < rig_.signals.size(); ++i) {
            if (rig_.signals[i].name != member.name) continue;
            if (i >= signal_)
                refuse("has the member '" + member.name + "', a signal declared later or itself");
            if (member.has_condition()) refuse("has a condition on a signal: expected it on a probe");
            return;
        }
        refuse("has a member there is not: there is no probe '" + member.name + "'");
    }

    const Rig<D>& rig_;
    std::size_t signal_;
    int depth_ = 0;
};

template <int D>
void check(const Reflex& reflex, const Rig<D>& rig) {
    const auto refuse = [&](const std::string& why) {
        throw InvalidInput("reflex '" + std::string(name_of(reflex.kind)) + "' on '" + reflex.on +
                           "': " + why);
    };
    if (!has(rig.signals, reflex.on)) refuse("there is no such signal");
    if (!std::isfinite(reflex.speed) || reflex.speed < 0.0) refuse("speed must be 0 or more");
    const bool moves = reflex.kind == ReflexKind::lift_over || reflex.kind == ReflexKind::hug_ground;
    if (moves && !(std::isfinite(reflex.by) && reflex.by > 0.0)) refuse("by must be more than 0");
    if (reflex.kind == ReflexKind::refuse_stance && !has(rig.body.stances, reflex.stance))
        refuse("there is no stance '" + reflex.stance + "'");
}

}  // namespace

Member::Member(std::string named) : name(std::move(named)) {}
Member::Member(const char* named) : name(named) {}

// Written out: the three contain each other, and clang 14 does not survive a default of that.
bool Member::operator==(const Member& other) const {
    return name == other.name && angle_degrees == other.angle_degrees && distance == other.distance &&
           layers == other.layers && group == other.group;
}
bool AtLeast::operator==(const AtLeast& other) const {
    return count == other.count && of == other.of;
}
bool Group::operator==(const Group& other) const {
    return any == other.any && all == other.all && none == other.none && at_least == other.at_least;
}

const char* name_of(ProbeKind kind) {
    static constexpr std::array names = {"ray", "cast", "zone", "shift", "contact"};
    return names[static_cast<std::size_t>(kind)];
}

const char* name_of(Keeps keeps) {
    static constexpr std::array names = {"set", "last_event", "until_used"};
    return names[static_cast<std::size_t>(keeps)];
}

const char* name_of(ReflexKind kind) {
    static constexpr std::array names = {"permit_jump", "zero_fall",   "stop_rise",  "cancel_drive",
                                         "cancel_axis", "hold_height", "press_down", "lift_over",
                                         "hug_ground",  "carry_along", "turn_back",  "refuse_stance"};
    return names[static_cast<std::size_t>(kind)];
}

const char* name_of(Toward toward) {
    static constexpr std::array names = {"heading", "drive", "velocity"};
    return names[static_cast<std::size_t>(toward)];
}

const char* name_of(Side side) {
    static constexpr std::array names = {"below", "above", "beside"};
    return names[static_cast<std::size_t>(side)];
}

template <int D>
void check(const Rig<D>& rig) {
    if (rig.body.stances.empty()) throw InvalidInput("the body has no stance: expected at least one");
    check(rig.intent);
    if (rig.probes.size() > most_probes || rig.signals.size() > most_signals) {
        throw InvalidInput("a rig has at most " + std::to_string(most_probes) + " probes and " +
                           std::to_string(most_signals) + " signals");
    }
    require_distinct(rig.body.stances, "stance");
    require_distinct(rig.probes, "probe");
    require_distinct(rig.signals, "signal");
    for (const Probe<D>& probe : rig.probes) check(probe, rig);
    std::size_t conditions = 0;
    std::size_t groups = 0;
    for (std::size_t i = 0; i < rig.signals.size(); ++i) {
        const Signal& signal = rig.signals[i];
        const auto refuse = [&](const std::string& why) {
            throw InvalidInput("signal '" + signal.name + "': " + why);
        };
        if (has(rig.probes, signal.name)) refuse("a probe has that name, too");
        if (!signal.stance.empty() && !has(rig.body.stances, signal.stance))
            refuse("there is no stance '" + signal.stance + "'");
        if (signal.claims == Claim::headroom && signal.stance.empty())
            refuse("it claims headroom but does not say for which stance: expected 'stance'");
        GroupCheck<D> members(rig, i);
        members.check(signal);
        conditions += members.conditions;
        groups += members.groups;
        const auto seconds = [](double x) { return std::isfinite(x) && x >= 0.0; };
        if (!seconds(signal.settle)) refuse("settle must be 0 seconds or more");
        if (!seconds(signal.grace)) refuse("grace must be 0 seconds or more");
        if (!seconds(signal.mute_after.seconds)) refuse("mute_after.seconds must be 0 or more");
        if (signal.gives != Value::none && !has(rig.probes, signal.gives_from))
            refuse("it gives a value from '" + signal.gives_from + "', which is no probe");
        if (!signal.claims && (signal.gives != Value::none || !signal.of.empty() || signal.toward))
            refuse("it claims nothing: gives, of and toward are for signals that claim a truth");
    }
    for (const Reflex& reflex : rig.reflexes) check(reflex, rig);
    if (rig.probes.size() + conditions > most_probes)
        throw InvalidInput("a rig has at most 64 probes and conditions on probes in all");
    if (rig.signals.size() + groups > most_signals)
        throw InvalidInput("a rig has at most 64 signals and nested groups in all");
}

template <int D>
Toward toward_of(const Rig<D>& rig, const Signal& signal) {
    Toward toward = signal.toward.value_or(Toward::heading);
    if (signal.toward) return toward;
    any_probe_of<D>(rig, signal, [&](const Probe<D>& probe) {
        if (probe.aim != Aim::fixed) toward = probe.aim == Aim::drive ? Toward::drive : Toward::velocity;
        return probe.aim != Aim::fixed;
    });
    return toward;
}

template <int D>
bool has_memory(const Rig<D>& rig) {
    const bool remembers = std::any_of(rig.probes.begin(), rig.probes.end(), [](const Probe<D>& probe) {
        return (probe.kind == ProbeKind::zone && probe.keeps != Keeps::set) ||
               probe.reads == Reads::before_move;
    });
    return remembers || rig.reads == Reads::before_move ||
           std::any_of(rig.signals.begin(), rig.signals.end(), [](const Signal& signal) {
               return signal.settle > 0.0 || signal.grace > 0.0 || !signal.mute_after.event.empty();
           });
}

template Toward toward_of<2>(const Rig<2>&, const Signal&);
template Toward toward_of<3>(const Rig<3>&, const Signal&);
template void check<2>(const Rig<2>&);
template void check<3>(const Rig<3>&);
template bool has_memory<2>(const Rig<2>&);
template bool has_memory<3>(const Rig<3>&);

}  // namespace hollow_probe
