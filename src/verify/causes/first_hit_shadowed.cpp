// A first hit that is refused hides it.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void hidden(CauseSearch<D>& search) {
    if (search.too_little() && search.is_line() && search.probe().line().take == Take::first)
        search.offer(CauseKind::first_hit_shadowed,
                     SetChoice{search.of_probe("take"), static_cast<std::int64_t>(Take::all)},
                     rank::first_hit);
}

std::string why_first_hit_shadowed(const CauseTold& t) {
    return t.who + " stops at a refused first hit that hides it";
}

}  // namespace

template <int D>
CauseRule<D> first_hit_shadowed() {
    return {CauseKind::first_hit_shadowed, why_first_hit_shadowed, hidden<D>};
}

template CauseRule<2> first_hit_shadowed<2>();
template CauseRule<3> first_hit_shadowed<3>();

}  // namespace hollow_probe
