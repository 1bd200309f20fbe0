// The probe takes a one-way solid otherwise than the body meets it.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

template <int D>
void taken_otherwise(CauseSearch<D>& search) {
    const auto offer = [&](OneWay other, double rank) {
        if (other == search.mounted_probe().one_way) return;
        search.offer(CauseKind::one_way_side,
                     SetChoice{search.of_probe("one_way"), static_cast<std::int64_t>(other)}, rank);
    };
    if (search.too_little() && search.truth().piece && search.level().is_one_way(*search.truth().piece)) {
        offer(OneWay::as_body, rank::one_sided);
        offer(OneWay::always, rank::one_sided);
    }
    if (search.too_much() && search.hit_level() && search.solid_of(search.reading().hit.piece).one_way) {
        offer(OneWay::as_body, rank::one_sided);
        offer(OneWay::never, rank::one_sided_never);
    }
}

std::string why_one_way_side(const CauseTold& t) {
    return t.who + " takes a one-way solid otherwise than the body meets it";
}

}  // namespace

template <int D>
CauseRule<D> one_way_side() {
    return {CauseKind::one_way_side, why_one_way_side, taken_otherwise<D>};
}

template CauseRule<2> one_way_side<2>();
template CauseRule<3> one_way_side<3>();

}  // namespace hollow_probe
