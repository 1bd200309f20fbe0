// Seeing one more layer that stops the body senses it.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void sees_too_few(CauseSearch<D>& search) {
    if (!search.too_little()) return;
    const Level<D>& level = search.level();
    for (std::size_t layer = 0; layer < level.layers().size(); ++layer) {
        const LayerSet bit = LayerSet{1} << layer;
        if ((search.mounted().meets & bit) == 0 || (search.mounted_probe().sees & bit) != 0) continue;
        const auto& truth = search.truth();
        const bool supports = truth.piece && level.layer_of(*truth.piece) == layer;
        search.offer(CauseKind::layer_unseen,
                     ListName{search.probe_number(), "sees", level.layers()[layer], true},
                     supports ? rank::layer : rank::other_layer);
    }
}

/// A condition on the reading asks for other layers.
template <int D>
void layer_refused(CauseSearch<D>& search) {
    if (!search.refused() || !search.hit_level()) return;
    search.for_each_condition([&](std::size_t number, const MountedCondition& condition) {
        if ((condition.layers >> search.reading().hit.layer & 1U) == 0)
            search.offer(CauseKind::layer_unseen, SetChoice{search.of_condition(number, "layers"), {}},
                         rank::angle);
    });
}

template <int D>
void unseen(CauseSearch<D>& search) {
    sees_too_few(search);
    layer_refused(search);
}

std::string why_layer_unseen(const CauseTold& t) {
    return t.who + " does not see its layer";
}

}  // namespace

template <int D>
CauseRule<D> layer_unseen() {
    return {CauseKind::layer_unseen, why_layer_unseen, unseen<D>};
}

template CauseRule<2> layer_unseen<2>();
template CauseRule<3> layer_unseen<3>();

}  // namespace hollow_probe
