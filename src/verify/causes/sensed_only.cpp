// What the probe meets is there for probes alone.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void there_for_probes_alone(CauseSearch<D>& search) {
    if (!search.too_much() || !search.hit_level()) return;
    const Solid<D>& solid = search.solid_of(search.reading().hit.piece);
    if (solid.role != Role::sensed || solid.volume) return;
    search.offer(CauseKind::sensed_only, SetRole{search.probe_number(), search.reading().hit.solid, false},
                 rank::not_there);
}

std::string why_sensed_only(const CauseTold& t) {
    return t.who + " meets what is there for probes alone and stops no body";
}

}  // namespace

template <int D>
CauseRule<D> sensed_only() {
    return {CauseKind::sensed_only, why_sensed_only, there_for_probes_alone<D>};
}

template CauseRule<2> sensed_only<2>();
template CauseRule<3> sensed_only<3>();

}  // namespace hollow_probe
