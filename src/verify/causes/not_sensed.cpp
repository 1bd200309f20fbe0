// It is there for the body alone: no probe can meet it.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void there_for_body_alone(CauseSearch<D>& search) {
    const auto& truth = search.truth();
    if (!search.too_little() || !truth.piece || search.solid_of(*truth.piece).role != Role::reference) return;
    search.offer(CauseKind::not_sensed,
                 SetRole{search.probe_number(), search.level().solid_of(*truth.piece), true},
                 rank::not_there);
}

std::string why_not_sensed(const CauseTold&) {
    return std::string("it stops the body but no probe can meet it");
}

}  // namespace

template <int D>
CauseRule<D> not_sensed() {
    return {CauseKind::not_sensed, why_not_sensed, there_for_body_alone<D>};
}

template CauseRule<2> not_sensed<2>();
template CauseRule<3> not_sensed<3>();

}  // namespace hollow_probe
