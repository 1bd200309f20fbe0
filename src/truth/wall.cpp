#include "hollow_probe/truth/wall.hpp"

#include "hollow_probe/truth/ground.hpp"
#include "truth/ahead.hpp"
#include "truth/landing.hpp"

namespace hollow_probe {

template <int D>
Decision Ahead<D>::free_for(const PlacedBody<D>& moving, double way) const {
    const Ahead<D> of_moving(level, moving, heading, intent, margins);
    Decision free{true, true, {}};
    for_each_contact(
        level, moving, heading, way + intent.touch, intent.touch, [&](const Contact<D>& contact) {
            if (refused(free)) return;
            Decision in_the_way = both(opposite(at_most(way, contact.gap, noise)), steep(contact));
            if (refused(in_the_way)) return;
            Decision stops = of_moving.stops(of_moving.rise_of(contact));
            if (!granted(stops)) stops = either(stops, of_moving.is_steep_above(contact.piece, way));
            in_the_way = both(in_the_way, stops);
            const bool sure = margins == Margins::left_out && ends_inside(moving, way, contact.piece);
            if (in_the_way.on && !sure) {
                const double from = std::max(contact.gap, 0.0);
                const double depth = deepest_overlap<D>(level, moving, heading, from, way, contact.piece);
                in_the_way.margin.distance = std::min(in_the_way.margin.distance, depth);
                in_the_way.decided = in_the_way.decided && depth > noise.distance;
            }
            free = both(free, opposite(in_the_way));
        });
    return free;
}

template <int D>
Decision Ahead<D>::is_steep_above(std::uint32_t piece, double way) const {
    const PlacedBody<D> raised = body.moved(intent.touch * level.up());
    const auto met = Advance<D>(raised, heading, way + intent.touch, intent.touch, level).to_surface(piece);
    if (!met) return {};
    return both(steep(*met), opposite(at_most(way, met->gap, noise)));
}

template <int D>
double Ahead<D>::higher_after(double way) const {
    if (way <= noise.distance) return 0.0;
    const auto standing = [&](double there, double ride, double depth) {
        const PlacedBody<D> place = body.moved(there * heading);
        const auto landing = first_landing<D>(level, place, intent, noise, ride, depth, true);
        return landing ? std::optional(landing->height) : std::nullopt;
    };
    const double ride = highest_ride(intent, way) + intent.touch;
    const auto now = standing(0.0, intent.touch, intent.touch);
    if (!now) return 0.0;
    // A hair before the riser: what is only grazed there is not stood on.
    const auto then = standing(way - 4.0 * noise.distance, ride, ride);
    return then ? std::clamp(*then - *now, -ride, ride) : 0.0;
}

template <int D>
Decision Ahead<D>::can_be_stepped_on(const Contact<D>& contact, double rise) const {
    const double gap = std::max(contact.gap, 0.0);
    const double stands = higher_after(gap);
    rise -= stands;
    Decision result =
        both(at_most(intent.lowest_step, rise, noise), at_most(rise, intent.tallest_step, noise));
    if (refused(result)) return result;
    const PlacedBody<D> lifted = body.moved(gap * heading + (stands + intent.tallest_step) * level.up());
    result = both(result, at_most(clip<D>(level, lifted, intent).depth, intent.touch, noise));
    if (refused(result)) return result;
    result = both(result, free_for(lifted, tread()));
    if (refused(result)) return result;
    const PlacedBody<D> over = lifted.moved(tread() * heading);
    const auto landing = first_landing<D>(level, over, intent, noise, highest_ride(intent, tread()),
                                          intent.tallest_step + intent.touch);
    if (!landing) return both(result, Decision{});  // nothing to rest on
    result = both(result, landing->footing);
    if (refused(result)) return result;
    const PlacedBody<D> resting = over.moved(landing->height * level.up());
    return both(result, at_most(clip<D>(level, resting, intent).depth, intent.touch, noise));
}

template <int D>
Decision Ahead<D>::is_wall(const Contact<D>& contact, const Decision& steeper) const {
    Decision result = both(steeper, faces(contact));
    if (refused(result)) return result;
    const double rise = rise_of(contact);
    result = both(result, stops(rise));
    if (refused(result)) return result;
    return both(result, opposite(can_be_stepped_on(contact, rise)));
}

namespace {

/// What stops a body on its way: how far ahead, and how high.
template <int D>
struct Blocker {
    Contact<D> contact;
    Decision stops;
    double rise = 0.0;
};

/// What is steep and stops the body within `reach`, in no order.
template <int D>
std::vector<Blocker<D>> blockers_within(const Ahead<D>& ahead, double reach) {
    std::vector<Blocker<D>> blockers;
    ahead.for_each_steep(reach, [&](const Contact<D>& contact, const Decision& steep) {
        if (ahead.refused(steep)) return;
        const double rise = ahead.rise_of(contact);
        const Decision stops = both(steep, ahead.stops(rise));
        if (stops.on || !stops.decided) blockers.push_back({contact, stops, rise});
    });
    return blockers;
}

}  // namespace

template <int D>
StepTruth<D> step(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading,
                  const Intent& intent, Margins margins, const Known<D>* known) {
    const Ahead<D> ahead(level, body, heading, intent, margins, known);
    StepTruth<D> truth;
    const auto blockers = blockers_within<D>(ahead, intent.ahead_step);
    // Only the nearest one: what lies behind it is not walked against.
    double nearest = infinity;
    for (const Blocker<D>& blocker : blockers) {
        if (blocker.stops.on && blocker.stops.decided) nearest = std::min(nearest, blocker.contact.gap);
    }
    for (const Blocker<D>& blocker : blockers) {
        const Contact<D>& contact = blocker.contact;
        if (contact.gap > nearest + ahead.noise.distance || !level.on_layers(contact.piece, body.of))
            continue;
        Decision is_step = both(blocker.stops, at_most(contact.gap, intent.ahead_step, ahead.noise));
        if (!ahead.refused(is_step)) is_step = both(is_step, ahead.can_be_stepped_on(contact, blocker.rise));
        static_cast<Decision&>(truth) = either(truth, is_step);
        if (!is_step.on || (truth.riser && truth.riser->gap <= contact.gap)) continue;
        truth.riser = contact;
        truth.rise = blocker.rise - ahead.higher_after(contact.gap);
    }
    return truth;
}

template <int D>
WallTruth<D> wall(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading,
                  const Intent& intent, Margins margins, const Known<D>* known) {
    const Ahead<D> ahead(level, body, heading, intent, margins, known);
    WallTruth<D> truth;
    ahead.for_each_steep(intent.ahead_wall, [&](const Contact<D>& contact, const Decision& steep) {
        if (ahead.granted(truth) || !level.on_layers(contact.piece, body.of)) return;
        Decision is_wall = both(steep, at_most(contact.gap, intent.ahead_wall, ahead.noise));
        if (!ahead.refused(is_wall)) is_wall = both(is_wall, ahead.is_wall(contact, steep));
        static_cast<Decision&>(truth) = either(truth, is_wall);
        if (is_wall.on && !(truth.contact && truth.contact->gap <= contact.gap)) truth.contact = contact;
    });
    return truth;
}

template <int D>
void look_ahead(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading, const Intent& intent,
                Known<D>& known) {
    const Noise noise = noise_of(body.shape, level);
    known.ahead.clear();
    known.ahead_toward = heading;
    known.ahead_reach = std::max({intent.ahead_wall, intent.ahead_step, intent.ahead_ledge}) +
                        std::max(intent.touch, 2.0 * noise.distance);
    for_each_contact(level, body, heading, known.ahead_reach, intent.touch,
                     [&](const Contact<D>& contact) { known.ahead.push_back(contact); });
}

template struct Ahead<2>;
template struct Ahead<3>;
template StepTruth<2> step<2>(const Level<2>&, const PlacedBody<2>&, const Vec<2>&, const Intent&, Margins,
                              const Known<2>*);
template StepTruth<3> step<3>(const Level<3>&, const PlacedBody<3>&, const Vec<3>&, const Intent&, Margins,
                              const Known<3>*);
template WallTruth<2> wall<2>(const Level<2>&, const PlacedBody<2>&, const Vec<2>&, const Intent&, Margins,
                              const Known<2>*);
template WallTruth<3> wall<3>(const Level<3>&, const PlacedBody<3>&, const Vec<3>&, const Intent&, Margins,
                              const Known<3>*);
template void look_ahead<2>(const Level<2>&, const PlacedBody<2>&, const Vec<2>&, const Intent&, Known<2>&);
template void look_ahead<3>(const Level<3>&, const PlacedBody<3>&, const Vec<3>&, const Intent&, Known<3>&);

}  // namespace hollow_probe
