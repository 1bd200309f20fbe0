#include "truth/landing.hpp"

namespace hollow_probe {

template <int D>
std::optional<Landing<D>> landing_on_piece(const Level<D>& level, const PlacedBody<D>& body,
                                           const Intent& intent, const Noise& noise, std::uint32_t piece) {
    // From close above the piece, so that small numbers stay exact.
    const Vec<D>& up = level.up();
    const HullView<D> hull = level.piece(piece);
    const double top = extent_along(hull, up)[1] + hull.radius;
    const double bottom = up.dot(body.anchor) + extent_along(body.shape, up)[0] - body.shape.radius;
    const double start = top - bottom + intent.touch;
    const auto contact = approach<D>(body.moved(start * up), -up, infinity, intent.touch, level, piece);
    if (!contact) return std::nullopt;
    const double slope = degrees(angle_between<D>(contact->normal, up));
    return Landing<D>{start - contact->gap, *contact,
                      angle_at_most(slope, intent.steepest_footing_degrees, noise)};
}

template <int D>
std::optional<Landing<D>> landing_on(const Level<D>& level, const PlacedBody<D>& body, const Intent& intent,
                                     const Noise& noise, std::uint32_t piece) {
    auto landing = landing_on_piece<D>(level, body, intent, noise, piece);
    if (landing && !on_surface<D>(level, body.moved(landing->height * level.up()), landing->contact))
        landing.reset();
    return landing;
}

template <int D>
std::optional<Landing<D>> first_landing(const Level<D>& level, const PlacedBody<D>& body,
                                        const Intent& intent, const Noise& noise, double ride, double depth,
                                        bool on_footing) {
    const Vec<D>& up = level.up();
    Sweep<D> sweep = sweep_of<D>(body.shape, body.anchor + ride * up, -up, ride + depth + noise.distance);
    sweep.radius += noise.distance;
    sweep.layers = body.meets;
    std::optional<Landing<D>> best;
    level.tree().along(sweep, [&](std::uint32_t piece, double limit) {
        const auto landing = landing_on<D>(level, body, intent, noise, piece);
        if (!landing || landing->height < -depth - noise.distance) return limit;
        if (on_footing && !landing->footing.on) return limit;
        if (landing->height > (landing->footing.on ? ride : 0.0) + noise.distance) return limit;
        const bool level_with = best && std::abs(landing->height - best->height) <= noise.distance;
        const bool better =
            !best || (level_with ? landing->footing.on && !best->footing.on : landing->height > best->height);
        if (better) best = landing;
        return limit;
    });
    return best;
}

template std::optional<Landing<2>> landing_on_piece<2>(const Level<2>&, const PlacedBody<2>&, const Intent&,
                                                       const Noise&, std::uint32_t);
template std::optional<Landing<3>> landing_on_piece<3>(const Level<3>&, const PlacedBody<3>&, const Intent&,
                                                       const Noise&, std::uint32_t);
template std::optional<Landing<2>> landing_on<2>(const Level<2>&, const PlacedBody<2>&, const Intent&,
                                                 const Noise&, std::uint32_t);
template std::optional<Landing<3>> landing_on<3>(const Level<3>&, const PlacedBody<3>&, const Intent&,
                                                 const Noise&, std::uint32_t);
template std::optional<Landing<2>> first_landing<2>(const Level<2>&, const PlacedBody<2>&, const Intent&,
                                                    const Noise&, double, double, bool);
template std::optional<Landing<3>> first_landing<3>(const Level<3>&, const PlacedBody<3>&, const Intent&,
                                                    const Noise&, double, double, bool);

}  // namespace hollow_probe
