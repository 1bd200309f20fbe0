// The probe sees a layer that does not stop the body.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void sees_too_many(CauseSearch<D>& search) {
    if (!search.too_much() || !search.hit_level()) return;
    const std::uint32_t layer = search.level().layer_of(search.reading().hit.piece);
    if (search.solid_of(search.reading().hit.piece).volume || (search.mounted().meets >> layer & 1U) != 0)
        return;
    search.offer(CauseKind::layer_wrong,
                 ListName{search.probe_number(), "sees", search.level().layers()[layer], false}, rank::layer);
}

std::string why_layer_wrong(const CauseTold& t) {
    return t.who + " sees a layer that does not stop the body";
}

}  // namespace

template <int D>
CauseRule<D> layer_wrong() {
    return {CauseKind::layer_wrong, why_layer_wrong, sees_too_many<D>};
}

template CauseRule<2> layer_wrong<2>();
template CauseRule<3> layer_wrong<3>();

}  // namespace hollow_probe
