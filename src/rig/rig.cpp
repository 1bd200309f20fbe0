#include "hollow_probe/rig/rig.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <set>

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/rig/fields.hpp"
#include "rig/probes_of.hpp"
#include "rig/words.hpp"

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

using Refuse = std::function<void(const std::string&)>;

/// What the limits of single fields leave open.
void check(const Spread& spread, int dimensions, const Refuse& refuse) {
    const bool flat = spread.kind == SpreadKind::ring || spread.kind == SpreadKind::grid;
    if (flat && dimensions == 2) refuse("a spread in 2D is a row or a fan; ring and grid are for 3D");
    const int lines = spread.line_count();
    if (lines > most_lines) refuse("a spread has at most 64 lines");
    if (spread.least < 1 || spread.least > lines)
        refuse("spread.least must be from 1 to the number of its lines");
}

/// Whether something is left of every stance.
template <int D>
void check_inset(const Probe<D>& probe, const Body<D>& body, const Refuse& refuse) {
    if (probe.kind() != ProbeKind::shift || probe.shift().inset == 0.0) return;
    const double inset = probe.shift().inset;
    for (const Stance<D>& stance : body.stances) {
        if (inset >= 0.5 * stance.shape.bounds().size().smallest() ||
            (stance.shape.radius() > 0.0 && inset >= stance.shape.radius()))
            refuse("inset leaves nothing of stance '" + stance.name + "'");
    }
}

template <int D>
void check(const Probe<D>& probe, const Rig<D>& rig) {
    const Refuse refuse = [&](const std::string& why) {
        throw InvalidInput("probe '" + probe.name + "': " + why);
    };
    const Vec<D>* const along = along_of(probe);
    if (along != nullptr && !(std::abs(along->norm() - 1.0) < tolerance::angle))
        refuse("along is not of unit length");
    if (const auto why = broken_limit(probe_fields<D>(), probe, static_cast<std::size_t>(probe.kind())))
        refuse(*why);
    if (probe.is_line()) check(probe.line().spread, D, refuse);
    check_inset<D>(probe, rig.body, refuse);
    for (const std::string& stance : probe.stances) {
        if (!has(rig.body.stances, stance)) refuse("there is no stance '" + stance + "'");
    }
}

/// What a probe follows is a ray or cast of one line, and declared before it.
template <int D>
void check_follows(const Probe<D>& probe, const Rig<D>& rig) {
    if (probe.follows.empty()) return;
    const auto refuse = [&](const std::string& why) {
        throw InvalidInput("probe '" + probe.name + "': it follows '" + probe.follows + "', " + why);
    };
    if (probe.kind() == ProbeKind::contact) refuse("but a contact probe starts nowhere");
    if (probe.is_line() && !probe.line().ignores_body)
        refuse("and meets the body itself: only what starts on the body can");
    for (const Probe<D>& other : rig.probes) {
        if (&other == &probe) break;
        if (other.name != probe.follows) continue;
        if (!other.is_line()) refuse("which has no line to follow: expected a ray or a cast");
        if (other.line().spread.line_count() > 1) refuse("which has several lines: expected one");
        return;
    }
    refuse("which is no probe declared before it");
}

/// Checks the members of one signal, its nested groups included.
template <int D>
class GroupCheck {
  public:
    GroupCheck(const Rig<D>& rig, std::size_t signal) : rig_(rig), signal_(signal) {}

    std::size_t conditions = 0;
    std::size_t groups = 0;

    void check(const Group& group) {
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
            check_condition(member);
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

    void check_condition(const Member& member) const {
        if (const auto why = broken_limit(member_fields(), member, 0))
            refuse("has a condition whose " + *why);
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
    if (const auto why = broken_limit(reflex_fields(), reflex, static_cast<std::size_t>(reflex.kind)))
        refuse(*why);
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
    return probe_kind_words[static_cast<std::size_t>(kind)].data();
}

const char* name_of(Keeps keeps) {
    return keeps_words[static_cast<std::size_t>(keeps)].data();
}

const char* name_of(ReflexKind kind) {
    return reflex_words[static_cast<std::size_t>(kind)].data();
}

std::string name_of(const Reflex& reflex) {
    return reflex.name.empty() ? reflex.on + " " + name_of(reflex.kind) : reflex.name;
}

const char* name_of(Toward toward) {
    return toward_words[static_cast<std::size_t>(toward)].data();
}

const char* name_of(Side side) {
    return side_words[static_cast<std::size_t>(side)].data();
}

void check(const Intent& intent) {
    if (const auto why = broken_limit(intent_fields(), intent, 0)) throw InvalidInput(*why);
    if (!(intent.tallest_step > intent.lowest_step))
        throw InvalidInput("tallest_step must be more than lowest_step");
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
    for (const Probe<D>& probe : rig.probes) {
        check(probe, rig);
        check_follows(probe, rig);
    }
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
        members.check(signal.members);
        conditions += members.conditions;
        groups += members.groups;
        const std::size_t kind = signal.claims ? static_cast<std::size_t>(*signal.claims) : all_claims.size();
        if (const auto why = broken_limit(signal_fields(), signal, kind)) refuse(*why);
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
    any_probe_of<D>(rig, signal.members, [&](const Probe<D>& probe) {
        const Aim* const aim = aim_of(probe);
        if (aim == nullptr || *aim == Aim::fixed) return false;
        toward = *aim == Aim::drive ? Toward::drive : Toward::velocity;
        return true;
    });
    return toward;
}

template <int D>
bool has_memory(const Rig<D>& rig) {
    const bool remembers = std::any_of(rig.probes.begin(), rig.probes.end(), [](const Probe<D>& probe) {
        return (probe.kind() == ProbeKind::zone && probe.zone().keeps != Keeps::set) ||
               probe.reads == Reads::before_move;
    });
    return remembers || rig.reads == Reads::before_move ||
           std::any_of(rig.signals.begin(), rig.signals.end(), [](const Signal& signal) {
               return signal.settle > 0.0 || signal.grace > 0.0 || !signal.mute_after.event.empty();
           });
}

template <int D>
std::vector<std::size_t> followers_of(const Rig<D>& rig, std::size_t probe) {
    std::vector<std::size_t> found = {probe};
    // They are declared after what they follow.
    for (std::size_t i = probe + 1; i < rig.probes.size(); ++i) {
        const auto is_followed = [&](std::size_t k) { return rig.probes[k].name == rig.probes[i].follows; };
        if (std::any_of(found.begin(), found.end(), is_followed)) found.push_back(i);
    }
    found.erase(found.begin());
    return found;
}

template <int D>
ProbeKind Probe<D>::kind() const {
    if (is_line()) return line().shape ? ProbeKind::cast : ProbeKind::ray;
    return static_cast<ProbeKind>(of_kind.index() + 1);
}

template struct Probe<2>;
template struct Probe<3>;
template Toward toward_of<2>(const Rig<2>&, const Signal&);
template Toward toward_of<3>(const Rig<3>&, const Signal&);
template void check<2>(const Rig<2>&);
template void check<3>(const Rig<3>&);
template bool has_memory<2>(const Rig<2>&);
template bool has_memory<3>(const Rig<3>&);
template std::vector<std::size_t> followers_of<2>(const Rig<2>&, std::size_t);
template std::vector<std::size_t> followers_of<3>(const Rig<3>&, std::size_t);

}  // namespace hollow_probe
