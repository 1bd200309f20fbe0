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

}  // namespace

template <int D>
std::optional<LevelHit<D>> first_hit(const Level<D>& level, const LevelCast<D>& request,
                                     const AngleRange& angles) {
    std::optional<LevelHit<D>> best;
    Sweep<D> sweep = sweep_of<D>(request.mover, request.start, request.direction, request.reach);
    sweep.layers = request.layers;
    level.tree().along(sweep, [&](std::uint32_t piece, double limit) {
        const auto hit = cast<D>(request.mover, request.start, request.direction, limit, level.piece(piece));
        if (!hit || (hit->began_inside && request.skip_inside) ||
            !within<D>(angles, hit->normal, level.up())) {
            return limit;
        }
        if (best &&
            (hit->distance > best->distance || (hit->distance == best->distance && piece > best->piece))) {
            return limit;
        }
        best = LevelHit<D>{hit->distance, Vec<D>::Zero(), hit->normal, piece, hit->began_inside, hit->depth};
        return std::min(limit, hit->distance);
    });
    if (best) best->point = touching_point(level, request, *best);
    return best;
}

template std::optional<LevelHit<2>> first_hit<2>(const Level<2>&, const LevelCast<2>&, const AngleRange&);
template std::optional<LevelHit<3>> first_hit<3>(const Level<3>&, const LevelCast<3>&, const AngleRange&);

}  // namespace hollow_probe
