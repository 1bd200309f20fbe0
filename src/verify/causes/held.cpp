// A latch or a grace keeps it on.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void latched_on(CauseSearch<D>& search) {
    if (search.too_much() && search.is_zone() && search.probe().zone().keeps != Keeps::set &&
        search.reading().on)
        search.offer(CauseKind::held, SetChoice{search.of_probe("keeps"), std::int64_t{0}}, rank::latched);
}

template <int D>
void within_grace(CauseSearch<D>& search) {
    if (!search.remembers() || search.missed()) return;
    const double grace = search.signal().grace;
    search.offer_least(grace, [&](double amount) {
        return ProvenCause<D>{CauseKind::held, SetNumber{search.of_signal("grace"), grace - amount}, amount,
                              rank::timed};
    });
}

std::string why_held(const CauseTold& t) {
    return t.cause.by > 0.0 ? "its grace keeps it on, by up to " + t.by + " s"
                            : t.who + " is kept on by its latch";
}

}  // namespace

template <int D>
CauseRule<D> held() {
    return {CauseKind::held, why_held, latched_on<D>, within_grace<D>};
}

template CauseRule<2> held<2>();
template CauseRule<3> held<3>();

}  // namespace hollow_probe
