#include "hollow_probe/level/level_cast.hpp"

#include "hollow_probe/geometry/cast.hpp"
#include "hollow_probe/geometry/separation.hpp"

namespace hollow_probe {
namespace {

template <int D>
Vec<D> touching_point(const Level<D>& level, const LevelCast<D>& request, const LevelHit<D>& hit) {
    const Vec<D> moved = request.start + hit.distance * request.direction;
    if (request.mover.points.size() == 1 && !hit.began_inside) {
        return request.mover.points[0] + moved - request.mover.radius * hit.normal;
    }
    return separation<D>(request.mover, moved, level.piece(hit.piece)).on_b;
}

/// Takes a piece into account; returns how far it is worth to look on.
template <int D>
double consider(const Level<D>& level, const LevelCast<D>& request, const AngleRange& angles,
                std::uint32_t piece, double limit, std::optional<LevelHit<D>>& best) {
    const auto hit = cast<D>(request.mover, request.start, request.direction, limit, level.piece(piece));
    if (!hit || (hit->began_inside && request.skip_inside) || !within<D>(angles, hit->normal, level.up())) {
        return limit;
    }
    if (best &&
        (hit->distance > best->distance || (hit->distance == best->distance && piece > best->piece))) {
        return limit;
    }
    best = LevelHit<D>{hit->distance, Vec<D>::Zero(), hit->normal, piece, hit->began_inside, hit->depth};
    return std::min(limit, hit->distance);
}

template <int D>
Sweep<D> sweep_of_cast(const LevelCast<D>& request) {
    Sweep<D> sweep = sweep_of<D>(request.mover, request.start, request.direction, request.reach);
    sweep.layers = request.layers;
    return sweep;
}

}  // namespace

template <int D>
std::optional<LevelHit<D>> first_hit(const Level<D>& level, const LevelCast<D>& request,
                                     const AngleRange& angles) {
    std::optional<LevelHit<D>> best;
    level.tree().along(sweep_of_cast(request), [&](std::uint32_t piece, double limit) {
        return consider(level, request, angles, piece, limit, best);
    });
    if (best) best->point = touching_point(level, request, *best);
    return best;
}

template <int D>
void first_hits(const Level<D>& level, std::span<const LevelCast<D>> casts,
                std::span<std::optional<LevelHit<D>>> hits, const AngleRange& angles) {
    if (casts.size() != hits.size()) {
        throw std::invalid_argument("first_hits: " + std::to_string(casts.size()) + " casts but room for " +
                                    std::to_string(hits.size()) + " hits");
    }
    std::fill(hits.begin(), hits.end(), std::nullopt);
    level.tree().along_many(
        casts.size(), [&](std::size_t i) { return sweep_of_cast(casts[i]); },
        [&](std::size_t i, std::uint32_t piece, double limit) {
            return consider(level, casts[i], angles, piece, limit, hits[i]);
        },
        [&](std::uint32_t piece) { level.pieces().prefetch(piece); });
    for (std::size_t i = 0; i < casts.size(); ++i) {
        if (hits[i]) hits[i]->point = touching_point(level, casts[i], *hits[i]);
    }
}

template std::optional<LevelHit<2>> first_hit<2>(const Level<2>&, const LevelCast<2>&, const AngleRange&);
template std::optional<LevelHit<3>> first_hit<3>(const Level<3>&, const LevelCast<3>&, const AngleRange&);
template void first_hits<2>(const Level<2>&, std::span<const LevelCast<2>>,
                            std::span<std::optional<LevelHit<2>>>, const AngleRange&);
template void first_hits<3>(const Level<3>&, std::span<const LevelCast<3>>,
                            std::span<std::optional<LevelHit<3>>>, const AngleRange&);

}  // namespace hollow_probe
