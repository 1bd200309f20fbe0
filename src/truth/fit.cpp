#include "hollow_probe/truth/fit.hpp"

#include "hollow_probe/geometry/separation.hpp"

namespace hollow_probe {

template <int D>
HeadroomTruth<D> headroom(const Level<D>& level, const PlacedBody<D>& body, const HullView<D>& stance,
                          const Intent& intent, double horizon) {
    const Noise noise = noise_of(stance, level);
    HeadroomTruth<D> truth;
    double deepest = -infinity;
    const Vec<D> way = bounds_of(stance).center() - bounds_of(body.shape).center();
    const auto stops = [&](std::uint32_t piece) {
        if (!level.is_one_way(piece)) return true;
        return way.norm() > noise.distance && level.faces(piece, way.normalized()) &&
               !inside_solid<D>(level, body, piece, intent.touch);
    };
    const Bounds<D> around = bounds_of(stance).moved(body.anchor);
    level.tree().overlapping(around.inflated(horizon), body.meets, [&](std::uint32_t piece) {
        if (!level.on_layers(piece, body.of) || !stops(piece)) return;
        const double depth = -separation<D>(stance, body.anchor, level.piece(piece)).gap;
        if (depth < deepest || (depth == deepest && truth.piece && piece > *truth.piece)) return;
        deepest = depth;
        truth.piece = piece;
    });
    static_cast<Decision&>(truth) = at_most(deepest, intent.touch, noise);
    if (truth.on) truth.piece.reset();
    return truth;
}

template <int D>
TunnelTruth<D> tunnel(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& move,
                      const Intent& intent) {
    TunnelTruth<D> truth;
    const double way = move.norm();
    if (way == 0.0) return truth;
    const Vec<D> direction = move / way;
    const Noise noise = noise_of(body.shape, level);
    Bounds<D> swept = bounds_of(body.shape).moved(body.anchor);
    // What overlaps the body's box along some axis by less than touch, all the way, is never deeper than
    // that.
    const double inwards =
        std::min(std::max(intent.touch - noise.distance, 0.0), 0.49 * swept.size().smallest());
    swept.grow(swept.moved(move));
    level.tree().overlapping(swept.inflated(-inwards), body.meets, [&](std::uint32_t piece) {
        if (!level.faces(piece, direction)) return;
        const auto at = [&](double t) {
            return separation<D>(body.shape, body.anchor + t * direction, level.piece(piece));
        };
        const Separation<D> start = at(0.0);
        if (-start.gap > intent.touch) return;
        if (level.is_one_way(piece) && inside_solid<D>(level, body, piece, intent.touch)) return;
        // A concave function lies below its tangents, and so below where those at both ends meet.
        const double deepens = -start.normal.dot(direction);
        if (-start.gap + way * std::max(deepens, 0.0) < intent.touch - noise.distance) return;
        const Separation<D> end = at(way);
        if (-end.gap > intent.touch) return;
        const double rises = end.normal.dot(direction);
        double bound =
            std::min(-start.gap + way * std::max(deepens, 0.0), -end.gap + way * std::max(rises, 0.0));
        if (deepens > 0.0 && rises > 0.0) {
            const double meet = (way * rises - end.gap + start.gap) / (deepens + rises);
            bound = -start.gap + std::clamp(meet, 0.0, way) * deepens;
        }
        if (bound < intent.touch - noise.distance) return;
        const double deepest = deepest_overlap<D>(level, body, direction, 0.0, way, piece);
        static_cast<Decision&>(truth) = either(truth, opposite(at_most(deepest, intent.touch, noise)));
        if (deepest <= intent.touch || deepest <= truth.depth) return;
        truth.depth = deepest;
        truth.piece = piece;
    });
    return truth;
}

template HeadroomTruth<2> headroom<2>(const Level<2>&, const PlacedBody<2>&, const HullView<2>&,
                                      const Intent&, double);
template HeadroomTruth<3> headroom<3>(const Level<3>&, const PlacedBody<3>&, const HullView<3>&,
                                      const Intent&, double);
template TunnelTruth<2> tunnel<2>(const Level<2>&, const PlacedBody<2>&, const Vec<2>&, const Intent&);
template TunnelTruth<3> tunnel<3>(const Level<3>&, const PlacedBody<3>&, const Vec<3>&, const Intent&);

}  // namespace hollow_probe
