// A longer reach senses it.
#include <algorithm>
#include <cmath>

#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

/// Whether a point could be reached from where the body stands by footing alone. A reach so long that it
/// feels the next floor down would turn the signal on, but that floor is not what was missed.
template <int D>
bool on_same_ground(const CauseSearch<D>& search, const Vec<D>& point) {
    const auto& truth = search.truth();
    if (!truth.piece || search.claim() != Claim::ground) return true;  // no footing is wanted
    constexpr double steepest_degrees = 80.0;                          // beyond which a tangent says nothing
    const Vec<D>& up = search.level().up();
    const Vec<D> way = point - truth.point;
    const double rise = way.dot(up);
    const double run = (way - rise * up).norm();
    const double steepest = radians(std::min(search.intent().steepest_footing_degrees, steepest_degrees));
    return std::abs(rise) <= run * std::tan(steepest) + search.intent().touch;
}

template <int D>
void farther(CauseSearch<D>& search) {
    const double now = search.mounted_probe().reach;
    search.offer_least(search.unit(), [&](double amount) {
        return search.with_reach(CauseKind::reach_short, now + amount, amount / search.unit());
    });
}

/// A line's first hit beyond its reach.
template <int D>
void line_too_short(CauseSearch<D>& search) {
    if (search.mounted_probe().least > 1) {
        farther(search);
        return;
    }
    const double now = search.mounted_probe().reach;
    const auto longest = search.with_reach(CauseKind::reach_short, now + search.unit(), 0.0);
    const Reading<D> far = search.reading_with(longest);
    if (!far.on || far.hit.distance <= now || !on_same_ground(search, far.hit.point)) return;
    search.offer(search.with_reach(CauseKind::reach_short, far.hit.distance,
                                   (far.hit.distance - now) / search.unit()));
}

template <int D>
void zone_too_short(CauseSearch<D>& search) {
    search.offer_least(search.unit(), [&](double amount) {
        return ProvenCause<D>{CauseKind::reach_short, MoveEnd{search.probe_number(), amount}, amount,
                              amount / search.unit()};
    });
}

template <int D>
void stance_too_small(CauseSearch<D>& search) {
    const double inset = search.probe().shift().inset;
    search.offer_least(inset, [&](double amount) {
        return ProvenCause<D>{CauseKind::reach_short, SetNumber{search.of_probe("inset"), inset - amount},
                              amount, amount / search.unit()};
    });
}

/// The signal asks for nearer hits than there is.
template <int D>
void asked_nearer(CauseSearch<D>& search) {
    const double distance = search.reading().hit.distance;
    search.for_each_condition([&](std::size_t number, const MountedCondition& condition) {
        if (distance > condition.most_distance)
            search.offer(CauseKind::reach_short,
                         SetNumber{search.of_condition(number, "distance", 1), distance}, rank::angle,
                         distance - condition.most_distance);
    });
}

template <int D>
void too_short(CauseSearch<D>& search) {
    if (search.refused() && search.hit_level()) asked_nearer(search);
    if (!search.too_little() || search.is_latched_off()) return;
    if (search.is_line()) line_too_short(search);
    if (search.is_zone()) zone_too_short(search);
    if (search.is_shift()) {
        farther(search);
        stance_too_small(search);
    }
}

std::string why_reach_short(const CauseTold& t) {
    return t.who + " is too short by " + t.by;
}

}  // namespace

template <int D>
CauseRule<D> reach_short() {
    return {CauseKind::reach_short, why_reach_short, too_short<D>};
}

template CauseRule<2> reach_short<2>();
template CauseRule<3> reach_short<3>();

}  // namespace hollow_probe
