#include "hollow_probe/rig/rig.hpp"

#include <algorithm>
#include <set>

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

template <int D>
void check(const Probe<D>& probe, const Rig<D>& rig) {
    const auto refuse = [&](const std::string& why) {
        throw InvalidInput("probe '" + probe.name + "': " + why);
    };
    if ((probe.kind == ProbeKind::cast) != probe.shape.has_value()) {
        refuse("a cast needs a shape, a ray must not have one");
    }
    if (!probe.from.allFinite()) refuse("from has a number that is not finite");
    if (!(std::abs(probe.along.norm() - 1.0) < 1e-9)) refuse("along is not of unit length");
    if (!std::isfinite(probe.reach) || probe.reach <= 0.0) refuse("reach must be more than 0");
    if (!(0.0 <= probe.accept_least_degrees && probe.accept_least_degrees <= probe.accept_most_degrees &&
          probe.accept_most_degrees <= 180.0)) {
        refuse("accept.angle must be two angles from 0 to 180, the lower first");
    }
    for (const std::string& stance : probe.stances) {
        if (!has(rig.body.stances, stance)) refuse("there is no stance '" + stance + "'");
    }
}

}  // namespace

const char* name_of(ProbeKind kind) {
    return kind == ProbeKind::ray ? "ray" : "cast";
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
    for (const Signal& signal : rig.signals) {
        if (!signal.stance.empty() && !has(rig.body.stances, signal.stance)) {
            throw InvalidInput("signal '" + signal.name + "': there is no stance '" + signal.stance + "'");
        }
        if (signal.claims == Claim::headroom && signal.stance.empty()) {
            throw InvalidInput("signal '" + signal.name +
                               "' claims headroom but does not say for which stance: expected 'stance'");
        }
        if (signal.any.empty() && signal.all.empty() && signal.none.empty() && signal.at_least.of.empty()) {
            throw InvalidInput("signal '" + signal.name +
                               "' has no members: expected any, all, none or at_least");
        }
        if (!signal.at_least.of.empty() &&
            (signal.at_least.count < 1 || signal.at_least.count > signal.at_least.of.size())) {
            throw InvalidInput("signal '" + signal.name +
                               "': at_least.count must be from 1 to the number of its probes");
        }
        for (const auto* group : {&signal.any, &signal.all, &signal.none, &signal.at_least.of}) {
            for (const std::string& member : *group) {
                if (!has(rig.probes, member)) {
                    throw InvalidInput("signal '" + signal.name + "': there is no probe '" + member + "'");
                }
            }
        }
    }
}

template void check<2>(const Rig<2>&);
template void check<3>(const Rig<3>&);

}  // namespace hollow_probe
