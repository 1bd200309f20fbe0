#include "hollow_probe/truth/ground.hpp"

#include <algorithm>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {

namespace {

/// Some piece approached within touch along `direction` whose normal is within `widest` degrees of the
/// opposite direction.
template <int D>
ContactTruth<D> touched(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& direction,
                        double touch, double widest, double horizon) {
    const Noise noise = noise_of(body.shape, level);
    ContactTruth<D> truth;
    double squarest = infinity;
    const double reach = touch + std::max(horizon, 2.0 * noise.distance);
    truth.clips = for_each_contact(level, body, direction, reach, touch, [&](const Contact<D>& contact) {
        if (!level.on_layers(contact.piece, body.of)) return;
        const double angle = degrees(angle_between<D>(contact.normal, -direction));
        const Decision counts = both(at_most(contact.gap, touch, noise), angle_at_most(angle, widest, noise));
        static_cast<Decision&>(truth) = either(truth, counts);
        if (!counts.on) return;
        // Of pieces that share an edge the first, however rounding has it.
        const double slack = degrees(tolerance::angle);
        const bool squarer = angle < squarest - slack || (angle <= squarest + slack && truth.contact &&
                                                          contact.piece < truth.contact->piece);
        squarest = std::min(squarest, angle);
        if (squarer) truth.contact = contact;
    });
    return truth;
}

}  // namespace

template <int D>
ContactTruth<D> ground(const Level<D>& level, const PlacedBody<D>& body, const Intent& intent,
                       double horizon) {
    return touched<D>(level, body, -level.up(), intent.touch, intent.steepest_footing_degrees, horizon);
}

template <int D>
ContactTruth<D> ceiling(const Level<D>& level, const PlacedBody<D>& body, const Intent& intent,
                        double horizon) {
    return touched<D>(level, body, level.up(), intent.touch, intent.ceiling_within_degrees, horizon);
}

template <int D>
ClipTruth<D> clip(const Level<D>& level, const PlacedBody<D>& body, const Intent& intent) {
    const Noise noise = noise_of(body.shape, level);
    ClipTruth<D> truth;
    const Bounds<D> around = bounds_of(body.shape).moved(body.anchor);
    level.tree().overlapping(around, body.meets, [&](std::uint32_t piece) {
        if (level.is_one_way(piece)) return;  // a body may pass through it
        const HullView<D> hull = level.piece(piece);
        const Separation<D> now = separation<D>(body.shape, body.anchor, hull);
        if (body.front_faces && hull.normals.empty() &&
            facet_normal<D>(hull.points.data()).dot(now.normal) < 0.0)
            return;  // it comes from behind
        truth.lifted =
            truth.lifted || (now.gap < -noise.distance && now.normal.dot(level.up()) > tolerance::approaches);
        truth.lowered = truth.lowered ||
                        (now.gap < -noise.distance && now.normal.dot(level.up()) < -tolerance::approaches);
        const bool deeper =
            -now.gap > truth.depth || (-now.gap == truth.depth && truth.piece && piece < *truth.piece);
        if (!deeper) return;
        truth.depth = -now.gap;
        truth.piece = piece;
    });
    truth.on = truth.depth > intent.touch;
    truth.margin = std::abs(truth.depth - intent.touch);
    truth.decided = truth.margin > noise.distance;
    return truth;
}

template ContactTruth<2> ground<2>(const Level<2>&, const PlacedBody<2>&, const Intent&, double);
template ContactTruth<2> ceiling<2>(const Level<2>&, const PlacedBody<2>&, const Intent&, double);
template ContactTruth<3> ground<3>(const Level<3>&, const PlacedBody<3>&, const Intent&, double);
template ContactTruth<3> ceiling<3>(const Level<3>&, const PlacedBody<3>&, const Intent&, double);
template ClipTruth<2> clip<2>(const Level<2>&, const PlacedBody<2>&, const Intent&);
template ClipTruth<3> clip<3>(const Level<3>&, const PlacedBody<3>&, const Intent&);

}  // namespace hollow_probe
