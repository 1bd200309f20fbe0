// Probes sense it, but another signal it is gated by says no.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void gate_closed(CauseSearch<D>& search) {
    if (!search.missed()) return;
    drop_members(search, CauseKind::gated_off, true, rank::gated_off);
}

}  // namespace

template <int D>
CauseRule<D> gated_off() {
    return {CauseKind::gated_off, nullptr, gate_closed<D>};
}

template CauseRule<2> gated_off<2>();
template CauseRule<3> gated_off<3>();

}  // namespace hollow_probe
