// The probe meets the body itself.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void meets_itself(CauseSearch<D>& search) {
    if (search.too_much() && search.reading().own_body)
        search.offer(CauseKind::own_body, SetChoice{search.of_probe("ignores_body"), true}, rank::not_there);
}

std::string why_own_body(const CauseTold& t) {
    return t.who + " meets the body itself";
}

}  // namespace

template <int D>
CauseRule<D> own_body() {
    return {CauseKind::own_body, why_own_body, meets_itself<D>};
}

template CauseRule<2> own_body<2>();
template CauseRule<3> own_body<3>();

}  // namespace hollow_probe
