// It only just brushes an edge.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

/// A hit whose surface the probe runs along, lost when the probe is moved aside by a hair.
template <int D>
void brushes(CauseSearch<D>& search) {
    constexpr double brushing = 0.2;  // of the normal along the probe: less than 12° off
    constexpr double hair = 0.05;     // of the body's size
    if (!search.too_much() || !search.is_line() || search.reading().hit.began_inside) return;
    const Vec<D> along = search.along();
    const Vec<D> normal =
        body_frame<D>(search.facing().heading, search.level().up()).transpose() * search.reading().hit.normal;
    if (std::abs(normal.dot(along)) > brushing) return;
    const Vec<D> aside = (normal - normal.dot(along) * along).normalized();
    search.offer_least(hair * search.unit(), [&](double amount) {
        return ProvenCause<D>{CauseKind::edge_graze,
                              MoveStart<D>{search.probe_number(), Vec<D>(amount * aside), amount}, amount,
                              rank::graze + amount / search.unit()};
    });
}

std::string why_edge_graze(const CauseTold& t) {
    return t.who + " just brushes an edge, by up to " + t.by;
}

}  // namespace

template <int D>
CauseRule<D> edge_graze() {
    return {CauseKind::edge_graze, why_edge_graze, brushes<D>};
}

template CauseRule<2> edge_graze<2>();
template CauseRule<3> edge_graze<3>();

}  // namespace hollow_probe
