// The probe hits it, but its angle is refused.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void probe_refuses(CauseSearch<D>& search) {
    const double angle = search.hit_angle();
    const LineProbe<D>& probe = search.probe().line();
    const bool too_high = angle > probe.accept_most_degrees;
    const double by = too_high ? angle - probe.accept_most_degrees : probe.accept_least_degrees - angle;
    const bool no_footing =
        search.claim() == Claim::ground && angle > search.intent().steepest_footing_degrees + 1e-6;
    if (by > 0.0)
        search.offer(CauseKind::angle_refused,
                     SetNumber{search.of_probe("accept.angle", too_high ? 1 : 0), angle},
                     no_footing ? rank::beyond_intent + by / 90.0 : rank::angle, by);
    const double incidence = search.hit_incidence();
    const bool too_slanting = incidence > probe.accept_most_incidence_degrees;
    const double beyond = too_slanting ? incidence - probe.accept_most_incidence_degrees
                                       : probe.accept_least_incidence_degrees - incidence;
    if (beyond > 0.0)
        search.offer(CauseKind::angle_refused,
                     SetNumber{search.of_probe("accept.incidence", too_slanting ? 1 : 0), incidence},
                     rank::angle, beyond);
}

template <int D>
void condition_refuses(CauseSearch<D>& search) {
    const double angle = search.hit_angle();
    search.for_each_condition([&](std::size_t number, const MountedCondition& condition) {
        const double most = degrees(condition.angle.most);
        const double least = degrees(condition.angle.least);
        if (angle > most)
            search.offer(CauseKind::angle_refused, SetNumber{search.of_condition(number, "angle", 1), angle},
                         rank::angle, angle - most);
        if (angle < least)
            search.offer(CauseKind::angle_refused, SetNumber{search.of_condition(number, "angle", 0), angle},
                         rank::angle, least - angle);
    });
}

/// A contact probe that takes too little for its side.
template <int D>
void side_too_narrow(CauseSearch<D>& search) {
    const double within = search.probe().contact().within_degrees;
    search.offer_least(90.0 - within, [&](double amount) {
        return ProvenCause<D>{CauseKind::angle_refused, SetNumber{search.of_probe("within"), within + amount},
                              amount, rank::angle};
    });
}

template <int D>
void refuses(CauseSearch<D>& search) {
    if (search.refused() && search.hit_level()) condition_refuses(search);
    if (!search.too_little()) return;
    if (search.is_contact()) side_too_narrow(search);
    if (search.is_line() && search.reading().met) probe_refuses(search);
}

std::string why_angle_refused(const CauseTold& t) {
    return t.who + " refuses its angle, by up to " + t.by + "°";
}

}  // namespace

template <int D>
CauseRule<D> angle_refused() {
    return {CauseKind::angle_refused, why_angle_refused, refuses<D>};
}

template CauseRule<2> angle_refused<2>();
template CauseRule<3> angle_refused<3>();

}  // namespace hollow_probe
