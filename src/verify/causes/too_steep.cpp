// What is accepted is steeper than footing, or less steep than a ceiling.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void accepts_too_much(CauseSearch<D>& search) {
    const LineProbe<D>& probe = search.probe().line();
    const double angle = search.hit_angle();
    const double steepest = search.intent().steepest_footing_degrees;
    if (search.claim() == Claim::ground && angle > steepest && probe.accept_most_degrees > steepest &&
        probe.accept_least_degrees <= steepest)
        search.offer(CauseKind::too_steep, SetNumber{search.of_probe("accept.angle", 1), steepest},
                     rank::too_steep, angle - steepest);
    const double flattest = 180.0 - search.intent().ceiling_within_degrees;
    if (search.claim() == Claim::ceiling && angle < flattest && probe.accept_least_degrees < flattest &&
        probe.accept_most_degrees >= flattest)
        search.offer(CauseKind::too_steep, SetNumber{search.of_probe("accept.angle", 0), flattest},
                     rank::too_steep, flattest - angle);
}

template <int D>
void condition_accepts_too_much(CauseSearch<D>& search) {
    const double angle = search.hit_angle();
    const double steepest = search.intent().steepest_footing_degrees;
    if (search.claim() != Claim::ground || angle <= steepest) return;
    search.for_each_condition([&](std::size_t number, const MountedCondition& condition) {
        if (condition.angle.most > radians(steepest))
            search.offer(CauseKind::too_steep, SetNumber{search.of_condition(number, "angle", 1), steepest},
                         rank::condition_too_steep, angle - steepest);
    });
}

/// A contact probe that takes too much for its side.
template <int D>
void side_too_wide(CauseSearch<D>& search) {
    constexpr double part_lost_at_most = 0.999;  // of nothing it could not tell
    const double within = search.probe().contact().within_degrees;
    search.offer_least(part_lost_at_most * within, [&](double amount) {
        return ProvenCause<D>{CauseKind::too_steep, SetNumber{search.of_probe("within"), within - amount},
                              amount, rank::angle};
    });
}

template <int D>
void steep(CauseSearch<D>& search) {
    if (!search.too_much()) return;
    if (search.hit_level()) condition_accepts_too_much(search);
    if (search.is_contact()) side_too_wide(search);
    if (search.is_line() && search.hit_level()) accepts_too_much(search);
}

std::string why_too_steep(const CauseTold& t) {
    return t.who + " accepts what is steeper than footing, by up to " + t.by + "°";
}

}  // namespace

template <int D>
CauseRule<D> too_steep() {
    return {CauseKind::too_steep, why_too_steep, steep<D>};
}

template CauseRule<2> too_steep<2>();
template CauseRule<3> too_steep<3>();

}  // namespace hollow_probe
