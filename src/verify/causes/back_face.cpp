// The probe meets, or passes over, the back of a surface otherwise than the body does.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void backs_taken_otherwise(CauseSearch<D>& search) {
    if (!search.is_line()) return;
    const Faces faces = search.probe().line().faces;
    const bool wants_both = search.too_little() && faces == Faces::front;
    const bool wants_front =
        search.too_much() && search.rig().body.faces == Faces::front && faces == Faces::both;
    if (!wants_both && !wants_front) return;
    const Faces other = wants_both ? Faces::both : Faces::front;
    search.offer(CauseKind::back_face, SetChoice{search.of_probe("faces"), static_cast<std::int64_t>(other)},
                 rank::one_sided);
}

std::string why_back_face(const CauseTold& t) {
    return t.who + " takes the back of a surface otherwise than the body does";
}

}  // namespace

template <int D>
CauseRule<D> back_face() {
    return {CauseKind::back_face, why_back_face, backs_taken_otherwise<D>};
}

template CauseRule<2> back_face<2>();
template CauseRule<3> back_face<3>();

}  // namespace hollow_probe
