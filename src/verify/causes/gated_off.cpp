// Probes sense it, but another signal it is gated by says no.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void gate_closed(CauseSearch<D>& search) {
    if (!search.missed()) return;
    drop_members(search, CauseKind::gated_off, true, rank::gated_off);
}

std::string why_gated_off(const CauseTold&) {
    return std::string("another signal that it is gated by says no though its probes sense it");
}

}  // namespace

template <int D>
CauseRule<D> gated_off() {
    return {CauseKind::gated_off, why_gated_off, nullptr, gate_closed<D>};
}

template CauseRule<2> gated_off<2>();
template CauseRule<3> gated_off<3>();

}  // namespace hollow_probe
