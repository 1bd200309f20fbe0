// The probe looks only where the body would arrive, beyond what is in between.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void looks_beyond(CauseSearch<D>& search) {
    if (search.too_little() && search.is_shift())
        search.offer(CauseKind::stepped_over, AsCast{search.probe_number()}, rank::stepped_over);
}

std::string why_stepped_over(const CauseTold& t) {
    return t.who + " looks only where the body would arrive, beyond what is in between";
}

}  // namespace

template <int D>
CauseRule<D> stepped_over() {
    return {CauseKind::stepped_over, why_stepped_over, looks_beyond<D>};
}

template CauseRule<2> stepped_over<2>();
template CauseRule<3> stepped_over<3>();

}  // namespace hollow_probe
