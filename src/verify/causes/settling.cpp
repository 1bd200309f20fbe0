// The signal has not yet been on for long enough.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void not_settled(CauseSearch<D>& search) {
    if (!search.remembers() || !search.missed()) return;
    const double settle = search.signal().settle;
    search.offer_least(settle, [&](double amount) {
        return ProvenCause<D>{CauseKind::settling, SetNumber{search.of_signal("settle"), settle - amount},
                              amount, rank::timed};
    });
}

std::string why_settling(const CauseTold& t) {
    return "it has not held for long enough, by up to " + t.by + " s";
}

}  // namespace

template <int D>
CauseRule<D> settling() {
    return {CauseKind::settling, why_settling, nullptr, not_settled<D>};
}

template CauseRule<2> settling<2>();
template CauseRule<3> settling<3>();

}  // namespace hollow_probe
