#include "hollow_probe/truth/ground.hpp"

#include "hollow_probe/geometry/separation.hpp"

namespace hollow_probe {

template <int D>
GroundTruth<D> ground(const Level<D>& level, const PlacedBody<D>& body, const Intent& intent,
                      double horizon) {
    constexpr double slack_degrees = 1e-9 * (180.0 / std::numbers::pi);
    const Noise noise = noise_of(body.shape, level);
    const double touch = intent.touch;
    const double steepest = intent.steepest_footing_degrees + slack_degrees;
    GroundTruth<D> truth;
    Margin on{-infinity, -infinity};
    Margin off;
    bool surely_on = false;
    bool maybe_on = false;
    double flattest = infinity;
    const double reach = touch + std::max(horizon, 2.0 * noise.distance);
    for_each_contact(level, body, Vec<D>(-level.up()), reach, touch, [&](const Contact<D>& contact) {
        const double steepness = degrees(angle_between<D>(contact.normal, level.up()));
        const double spare_distance = touch - contact.gap;
        const double spare_degrees = steepest - steepness;
        surely_on = surely_on || (spare_distance > noise.distance && spare_degrees > noise.degrees);
        maybe_on = maybe_on || (spare_distance > -noise.distance && spare_degrees > -noise.degrees);
        if (spare_distance >= 0.0 && spare_degrees >= 0.0) {
            truth.on = true;
            on.distance = std::max(on.distance, spare_distance);
            on.degrees = std::max(on.degrees, spare_degrees);
            const bool flatter = steepness < flattest || (steepness == flattest && truth.support &&
                                                          contact.piece < truth.support->piece);
            if (flatter) {
                flattest = steepness;
                truth.support = contact;
            }
        } else if (spare_degrees >= 0.0) {
            off.distance = std::min(off.distance, -spare_distance);
        } else if (spare_distance >= 0.0) {
            off.degrees = std::min(off.degrees, -spare_degrees);
        }
    });
    truth.margin = truth.on ? on : off;
    truth.decided = truth.on ? surely_on : !maybe_on;
    return truth;
}

template <int D>
ClipTruth<D> clip(const Level<D>& level, const PlacedBody<D>& body, const Intent& intent) {
    const Noise noise = noise_of(body.shape, level);
    ClipTruth<D> truth;
    const Bounds<D> around = bounds_of(body.shape).moved(body.anchor);
    level.tree().overlapping(around, body.meets, [&](std::uint32_t piece) {
        if (level.is_one_way(piece)) return;  // a body may pass through it
        const Separation<D> now = separation<D>(body.shape, body.anchor, level.piece(piece));
        truth.lifted = truth.lifted || (now.gap < -noise.distance && now.normal.dot(level.up()) > 1e-6);
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

template GroundTruth<2> ground<2>(const Level<2>&, const PlacedBody<2>&, const Intent&, double);
template GroundTruth<3> ground<3>(const Level<3>&, const PlacedBody<3>&, const Intent&, double);
template ClipTruth<2> clip<2>(const Level<2>&, const PlacedBody<2>&, const Intent&);
template ClipTruth<3> clip<3>(const Level<3>&, const PlacedBody<3>&, const Intent&);

}  // namespace hollow_probe
