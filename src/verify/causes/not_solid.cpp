// The probe meets a volume that queries find though nothing is there.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void meets_volume(CauseSearch<D>& search) {
    if (!search.too_much() || !search.hit_level()) return;
    const std::uint32_t piece = search.reading().hit.piece;
    if (!search.solid_of(piece).volume) return;
    const std::string& layer = search.level().layers()[search.level().layer_of(piece)];
    search.offer(CauseKind::not_solid, ListName{search.probe_number(), "sees", layer, false}, rank::volume);
}

std::string why_not_solid(const CauseTold& t) {
    return t.who + " meets a volume where nothing solid is";
}

}  // namespace

template <int D>
CauseRule<D> not_solid() {
    return {CauseKind::not_solid, why_not_solid, meets_volume<D>};
}

template CauseRule<2> not_solid<2>();
template CauseRule<3> not_solid<3>();

}  // namespace hollow_probe
