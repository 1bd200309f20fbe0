// It only just brushes an edge.
#include <cmath>

#include "hollow_probe/truth/wall.hpp"
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
    const Vec<D> normal = body_frame<D>(search.facing().heading, search.level().up()).transposed() *
                          search.reading().hit.normal;
    if (std::abs(normal.dot(along)) > brushing) return;
    const Vec<D> aside = (normal - normal.dot(along) * along).normalized();
    search.offer_least(hair * search.unit(), [&](double amount) {
        return ProvenCause<D>{CauseKind::edge_graze,
                              MoveStart<D>{search.probe_number(), amount * aside, amount}, amount,
                              rank::graze + amount / search.unit()};
    });
}

/// What is brushed past is no wall: a wall is met no more slantingly than this.
template <int D>
void met_aslant(CauseSearch<D>& search) {
    const double most = degrees(std::acos(least_facing_of_wall));
    const bool of_wall = search.claim() == Claim::wall || search.claim() == Claim::ledge;
    if (!of_wall || !search.too_much() || !search.is_line() || !search.hit_level()) return;
    const double incidence = search.hit_incidence();
    if (incidence > most && search.probe().line().accept_most_incidence_degrees > most)
        search.offer(CauseKind::edge_graze, SetNumber{search.of_probe("accept.incidence", 1), most},
                     rank::met_aslant, incidence - most);
}

template <int D>
void grazes(CauseSearch<D>& search) {
    met_aslant(search);
    brushes(search);
}

std::string why_edge_graze(const CauseTold& t) {
    const bool by_angle = t.cause.parameter.starts_with("accept.incidence");
    return t.who + " just brushes an edge, by up to " + t.by + (by_angle ? "°" : "");
}

}  // namespace

template <int D>
CauseRule<D> edge_graze() {
    return {CauseKind::edge_graze, why_edge_graze, grazes<D>};
}

template CauseRule<2> edge_graze<2>();
template CauseRule<3> edge_graze<3>();

}  // namespace hollow_probe
