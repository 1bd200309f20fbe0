// A shorter reach is right.
#include "verify/causes/rule.hpp"

namespace hollow_probe {
namespace {

/// Less than nothing is no reach.
constexpr double most_of_reach = 0.999;
/// Just short of the hit.
constexpr double short_of = 1e-10;  // of the body's size

template <int D>
void nearer(CauseSearch<D>& search, double most) {
    const double now = search.mounted_probe().reach;
    search.offer_least(most, [&](double amount) {
        return search.with_reach(CauseKind::reach_long, now - amount, amount / search.unit());
    });
}

template <int D>
void line_too_long(CauseSearch<D>& search) {
    const double now = search.mounted_probe().reach;
    if (search.mounted_probe().least > 1) {
        nearer(search, most_of_reach * now);
        return;
    }
    const double shorter = search.reading().hit.distance - short_of * search.unit();
    if (shorter <= 0.0 || shorter < search.probe().line().reach_per_speed * search.facing().velocity.norm())
        return;
    search.offer(search.with_reach(CauseKind::reach_long, shorter, (now - shorter) / search.unit()));
}

template <int D>
void zone_too_long(CauseSearch<D>& search) {
    const int axis = search.probe().zone().along.abs().largest_axis();
    search.offer_least(most_lost * search.probe().zone().shape.bounds().size()[axis], [&](double amount) {
        return ProvenCause<D>{CauseKind::reach_long, MoveEnd{search.probe_number(), -amount}, amount,
                              amount / search.unit()};
    });
}

/// The signal takes hits that are too far away, or none that are near.
template <int D>
void taken_farther(CauseSearch<D>& search) {
    const double distance = search.reading().hit.distance;
    search.for_each_condition([&](std::size_t number, const MountedCondition& condition) {
        const double shorter = distance - short_of * search.unit();
        if (search.too_much() && shorter > condition.least_distance && condition.most_distance < infinity) {
            const double by = condition.most_distance - distance;
            search.offer(CauseKind::reach_long,
                         SetNumber{search.of_condition(number, "distance", 1), shorter}, by / search.unit(),
                         by);
        }
        if (search.refused() && distance < condition.least_distance)
            search.offer(CauseKind::reach_long,
                         SetNumber{search.of_condition(number, "distance", 0), distance}, rank::angle,
                         condition.least_distance - distance);
    });
}

template <int D>
void too_long(CauseSearch<D>& search) {
    if (search.hit_level() && (search.too_much() || search.refused())) taken_farther(search);
    if (!search.too_much()) return;
    if (search.is_line()) line_too_long(search);
    if (search.is_zone()) zone_too_long(search);
    if (search.is_shift()) nearer(search, search.mounted_probe().reach);
}

std::string why_reach_long(const CauseTold& t) {
    return t.who + " reaches too far, by up to " + t.by;
}

}  // namespace

template <int D>
CauseRule<D> reach_long() {
    return {CauseKind::reach_long, why_reach_long, too_long<D>};
}

template CauseRule<2> reach_long<2>();
template CauseRule<3> reach_long<3>();

}  // namespace hollow_probe
