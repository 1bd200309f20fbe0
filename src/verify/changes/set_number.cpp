#include "verify/changes/set_number.hpp"

#include <cmath>

#include "hollow_probe/rig/differences.hpp"

namespace hollow_probe {

template <int D>
bool SetNumber::make(Probe<D>& changed, const Rig<D>&) const {
    return set_value<D>(changed, place, amount);
}

template <int D>
bool SetNumber::make(Rig<D>& rig) const {
    return set_value<D>(rig, place, amount);
}

template <int D>
double SetNumber::unchanged(const Rig<D>& rig) const {
    return number_at<D>(rig, place).value_or(0.0);
}

template <int D>
double SetNumber::farthest(const Rig<D>& rig, double body_size) const {
    const FieldFacts facts = facts_of<D>(rig, place);
    if (amount <= unchanged<D>(rig)) return facts.limits.least;
    if (std::isfinite(facts.limits.most)) return facts.limits.most;
    constexpr double seconds_more = 1.0;
    return amount + (facts.unit == Unit::seconds ? seconds_more : body_size);
}

template <int D>
ChangeWords SetNumber::words(const Rig<D>& rig) const {
    return {probe_named<D>(rig, place), path_of<D>(rig, place), file_number(unchanged<D>(rig)),
            file_number(amount), amount};
}

std::string SetNumber::about() const {
    return "number " + std::to_string(place.probe) + " " + std::to_string(place.condition) + " " +
           std::string(place.key) + " " + std::to_string(place.part);
}

template bool SetNumber::make<2>(Probe<2>&, const Rig<2>&) const;
template bool SetNumber::make<3>(Probe<3>&, const Rig<3>&) const;
template bool SetNumber::make<2>(Rig<2>&) const;
template bool SetNumber::make<3>(Rig<3>&) const;
template double SetNumber::unchanged<2>(const Rig<2>&) const;
template double SetNumber::unchanged<3>(const Rig<3>&) const;
template double SetNumber::farthest<2>(const Rig<2>&, double) const;
template double SetNumber::farthest<3>(const Rig<3>&, double) const;
template ChangeWords SetNumber::words<2>(const Rig<2>&) const;
template ChangeWords SetNumber::words<3>(const Rig<3>&) const;

}  // namespace hollow_probe
