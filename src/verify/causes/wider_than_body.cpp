// The probe feels beside what the body can stand on.
#include <algorithm>

#include "hollow_probe/geometry/tolerances.hpp"
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

/// How far a probe feels beyond the stance, and how much narrower it could be.
template <int D>
struct Overhang {
    double excess = 0.0;
    double room = 0.0;
    Vec<D> inwards = Vec<D>::zero();

    explicit Overhang(const CauseSearch<D>& search) {
        const Probe<D>& probe = search.probe();
        const Bounds<D> point{Vec<D>::zero(), Vec<D>::zero()};
        const RoundedHull<D>* const shape = shape_of(probe);
        const Bounds<D> feels = (shape != nullptr ? shape->bounds() : point).moved(*from_of(probe));
        const Bounds<D> stance = search.stance().bounds();
        for (int axis = 0; axis < D; ++axis) {
            if (axis == 1) continue;
            excess =
                std::max({excess, feels.high[axis] - stance.high[axis], stance.low[axis] - feels.low[axis]});
            room = std::max(room, 0.5 * feels.size()[axis]);
            inwards[axis] = stance.center()[axis] - feels.center()[axis];
        }
        // What follows another is meant to feel beyond it.
        if (!probe.follows.empty()) excess = 0.0;
    }
};

/// Its shape made narrower; a ray moved inwards.
template <int D>
void feels_beside(CauseSearch<D>& search) {
    const Overhang<D> over(search);
    const bool is_ray = search.probe().kind() == ProbeKind::ray;
    const auto narrower = [&](double amount, double rank) {
        ProvenCause<D> wide{CauseKind::wider_than_body, Narrow{search.probe_number(), amount}, amount, rank};
        if (is_ray) {
            Vec<D> by = Vec<D>::zero();
            if (over.inwards.norm() > 0.0) by = over.inwards.normalized() * amount;
            wide.change = MoveStart<D>{search.probe_number(), by, amount};
        }
        return wide;
    };
    const double noise = tolerance::accuracy * search.unit();
    if (over.excess > noise) {
        const auto at_body = narrower(over.excess, rank::as_wide_as_body);
        if (search.flips(at_body)) {
            search.name(at_body);
            return;
        }
    }
    // As wide as the body is still too wide where the body's sole is rounder than the probe.
    const auto found = search.least(is_ray ? over.inwards.norm() : most_lost * over.room,
                                    [&](double amount) { return narrower(amount, amount / search.unit()); });
    if (found && found->by > noise) search.name(*found);
}

/// A shift of the whole stance.
template <int D>
void stance_too_wide(CauseSearch<D>& search) {
    const RoundedHull<D>& stance = search.stance();
    const double thickest = stance.radius() > 0.0 ? stance.radius() : 0.5 * stance.bounds().size().smallest();
    const double now = search.probe().shift().inset;
    search.offer_least(most_lost * (thickest - now), [&](double amount) {
        return ProvenCause<D>{CauseKind::wider_than_body, SetNumber{search.of_probe("inset"), now + amount},
                              amount, amount / search.unit()};
    });
}

template <int D>
void wide(CauseSearch<D>& search) {
    if (!search.too_much() || search.is_contact()) return;
    if (search.is_shift()) {
        stance_too_wide(search);
    } else {
        feels_beside(search);
    }
}

std::string why_wider_than_body(const CauseTold& t) {
    return t.who + " feels up to " + t.by + " a side beyond what the body " +
           (t.claim == Claim::ground ? "can stand on" : "meets");
}

}  // namespace

template <int D>
CauseRule<D> wider_than_body() {
    return {CauseKind::wider_than_body, why_wider_than_body, wide<D>};
}

template CauseRule<2> wider_than_body<2>();
template CauseRule<3> wider_than_body<3>();

}  // namespace hollow_probe
