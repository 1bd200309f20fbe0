#include "hollow_probe/level/level_cast.hpp"

#include <algorithm>
#include <array>

#include "hollow_probe/geometry/cast.hpp"
#include "level/seams.hpp"

namespace hollow_probe {
namespace {

/// The best so far; its point, and a ray's normal, are worked out when it has turned out to be the best of
/// all.
template <int D>
struct Best {
    CastHit<D> hit;
    std::uint32_t piece = 0;
    bool any = false;
    bool normal_known = true;
};

/// A cast on its way through the candidates.
template <int D>
struct Query {
    const Level<D>& level;
    HullView<D> mover;
    Vec<D> start;
    const Vec<D>& direction;
    const AngleRange& angles;
    bool skip_inside;
    LayerSet layers;
    Seams seams;
    const RayFrame<D>* frame;  // of a ray, else null

    /// Takes a piece into account; returns how far it is worth to look on.
    double consider(std::uint32_t piece, double limit, Best<D>& best) const {
        if (!level.faces(piece, direction)) return limit;
        if (frame != nullptr && level.pieces().is_facet(piece)) {
            const Vec<D>* corners = level.pieces().corners(piece);
            double t = 0.0;
            const Meets meets = ray_meets_facet<D>(*frame, start + mover.points[0], limit, corners, t);
            if (meets == Meets::no) return limit;
            if (meets == Meets::yes) {
                if (!is_better(t, piece, best)) return limit;
                if (!angles.everything() &&
                    !within<D>(angles, normal_against<D>(corners, direction), level.up())) {
                    return limit;
                }
                best.hit.distance = t;
                best.hit.began_inside = false;
                best.hit.depth = 0.0;
                best.piece = piece;
                best.any = true;
                best.normal_known = false;
                return std::min(limit, t);
            }
        }
        auto hit = cast<D>(mover, start, direction, limit, level.piece(piece));
        if (!hit || !is_better(hit->distance, piece, best) || !counts(piece, hit)) return limit;
        best = {*hit, piece, true, true};
        return std::min(limit, hit->distance);
    }

    static bool is_better(double distance, std::uint32_t piece, const Best<D>& best) {
        return !best.any || distance < best.hit.distance ||
               (distance == best.hit.distance && piece < best.piece);
    }

    /// Whether a hit counts; where a face and an edge both explain it, it gets the normal of the face.
    bool counts(std::uint32_t piece, std::optional<CastHit<D>>& hit) const {
        if (hit->began_inside) {
            if (skip_inside || level.is_one_way(piece)) return false;
        } else if (seams == Seams::passed && mover.radius == 0.0 && level.piece(piece).radius == 0.0) {
            hit = open_hit<D>(level, layers, mover, start, direction, piece, *hit);
            if (!hit) return false;
        }
        return within<D>(angles, hit->normal, level.up());
    }

    std::optional<CastHit<D>> counted(std::uint32_t piece, double limit) const {
        std::optional<CastHit<D>> hit;
        if (level.faces(piece, direction)) hit = cast<D>(mover, start, direction, limit, level.piece(piece));
        if (hit && !counts(piece, hit)) hit.reset();
        return hit;
    }

    std::optional<LevelHit<D>> finished(Best<D>& best) const {
        std::optional<LevelHit<D>> result;
        if (best.any) finish(best, result.emplace());
        return result;
    }

    void finish(Best<D>& best, LevelHit<D>& result) const {
        if (!best.normal_known) {
            best.hit.normal = normal_against<D>(level.pieces().corners(best.piece), direction);
            best.hit.point = start + mover.points[0] + best.hit.distance * direction;
            best.hit.point_known = true;
        }
        finish(best.hit, best.piece, result);
    }

    void finish(const CastHit<D>& hit, std::uint32_t piece, LevelHit<D>& result) const {
        result.distance = hit.distance;
        result.point =
            hit.point_known ? hit.point : contact_point<D>(mover, start, direction, level.piece(piece), hit);
        result.normal = hit.normal;
        result.piece = piece;
        result.solid = level.solid_of(piece);
        result.layer = level.layer_of(piece);
        result.began_inside = hit.began_inside;
        result.depth = hit.depth;
    }
};

template <int D>
Query<D> query_of(const Level<D>& level, const LevelCast<D>& request, const AngleRange& angles,
                  const RayFrame<D>* frame) {
    return {level,          request.mover, request.start, request.direction, angles, request.skip_inside,
            request.layers, request.seams, frame};
}

template <int D>
Sweep<D> sweep_of_cast(const LevelCast<D>& request) {
    Sweep<D> sweep = sweep_of<D>(request.mover, request.start, request.direction, request.reach);
    sweep.layers = request.layers;
    return sweep;
}

template <int D>
bool is_ray(const LevelCast<D>& request) {
    return request.mover.points.size() == 1 && request.mover.radius == 0.0;
}

}  // namespace

template <int D>
std::optional<LevelHit<D>> first_hit(const Level<D>& level, const LevelCast<D>& request,
                                     const AngleRange& angles) {
    const RayFrame<D> frame(request.direction);
    const Query<D> query = query_of<D>(level, request, angles, is_ray(request) ? &frame : nullptr);
    Best<D> best;
    level.tree().along(sweep_of_cast(request),
                       [&](std::uint32_t piece, double limit) { return query.consider(piece, limit, best); });
    return query.finished(best);
}

template <int D>
PreparedCast<D>::PreparedCast(RoundedHull<D> shape, const LevelCast<D>& cast)
    : mover(std::move(shape)),
      start(cast.start),
      direction(cast.direction),
      reach(cast.reach),
      layers(cast.layers),
      skip_inside(cast.skip_inside),
      seams(cast.seams),
      is_ray(hollow_probe::is_ray(cast)),
      frame(cast.direction) {
    const Sweep<D> all = sweep_of_cast(cast);
    sweep = PreparedSweep<D>(all);
    middle = all.center;
}

template <int D>
bool first_hit(const Level<D>& level, const Gathered<D>& gathered, const PreparedCast<D>& cast,
               const Vec<D>& at, const AngleRange& angles, LevelHit<D>& hit) {
    const Query<D> query{level,
                         cast.mover.view(),
                         at + cast.start,
                         cast.direction,
                         angles,
                         cast.skip_inside,
                         cast.layers,
                         cast.seams,
                         cast.is_ray ? &cast.frame : nullptr};
    Best<D> best;
    level.tree().along(gathered, cast.sweep, Vec<D>(at + cast.middle),
                       [&](std::uint32_t piece, double limit) { return query.consider(piece, limit, best); });
    if (best.any) query.finish(best, hit);
    return best.any;
}

template <int D>
void first_hits(const Level<D>& level, std::span<const LevelCast<D>> casts,
                std::span<std::optional<LevelHit<D>>> hits, const AngleRange& angles) {
    if (casts.size() != hits.size()) {
        throw std::invalid_argument("first_hits: " + std::to_string(casts.size()) + " casts but room for " +
                                    std::to_string(hits.size()) + " hits");
    }
    // In portions, so that what is found so far has room on the stack.
    constexpr std::size_t portion = 128;
    for (std::size_t first = 0; first < casts.size(); first += portion) {
        const auto part = casts.subspan(first, std::min(portion, casts.size() - first));
        std::array<Best<D>, portion> best;
        std::array<std::optional<RayFrame<D>>, portion> frames;
        const auto query = [&](std::size_t i) {
            return query_of<D>(level, part[i], angles, frames[i] ? &*frames[i] : nullptr);
        };
        level.tree().along_many(
            part.size(),
            [&](std::size_t i) {
                if (is_ray(part[i])) frames[i].emplace(part[i].direction);
                return sweep_of_cast(part[i]);
            },
            [&](std::size_t i, std::uint32_t piece, double limit) {
                return query(i).consider(piece, limit, best[i]);
            },
            [&](std::uint32_t piece) { level.pieces().prefetch(piece); });
        for (std::size_t i = 0; i < part.size(); ++i) hits[first + i] = query(i).finished(best[i]);
    }
}

template <int D>
std::vector<LevelHit<D>> all_hits(const Level<D>& level, const LevelCast<D>& request,
                                  const AngleRange& angles) {
    const Query<D> query = query_of<D>(level, request, angles, nullptr);
    std::vector<LevelHit<D>> hits;
    level.tree().along(sweep_of_cast(request), [&](std::uint32_t piece, double limit) {
        if (const auto hit = query.counted(piece, request.reach))
            query.finish(*hit, piece, hits.emplace_back());
        return limit;
    });
    std::sort(hits.begin(), hits.end(), [](const LevelHit<D>& a, const LevelHit<D>& b) {
        return std::pair(a.distance, a.piece) < std::pair(b.distance, b.piece);
    });
    return hits;
}

template std::optional<LevelHit<2>> first_hit<2>(const Level<2>&, const LevelCast<2>&, const AngleRange&);
template std::optional<LevelHit<3>> first_hit<3>(const Level<3>&, const LevelCast<3>&, const AngleRange&);
template bool first_hit<2>(const Level<2>&, const Gathered<2>&, const PreparedCast<2>&, const Vec<2>&,
                           const AngleRange&, LevelHit<2>&);
template bool first_hit<3>(const Level<3>&, const Gathered<3>&, const PreparedCast<3>&, const Vec<3>&,
                           const AngleRange&, LevelHit<3>&);
template struct PreparedCast<2>;
template struct PreparedCast<3>;
template void first_hits<2>(const Level<2>&, std::span<const LevelCast<2>>,
                            std::span<std::optional<LevelHit<2>>>, const AngleRange&);
template void first_hits<3>(const Level<3>&, std::span<const LevelCast<3>>,
                            std::span<std::optional<LevelHit<3>>>, const AngleRange&);
template std::vector<LevelHit<2>> all_hits<2>(const Level<2>&, const LevelCast<2>&, const AngleRange&);
template std::vector<LevelHit<3>> all_hits<3>(const Level<3>&, const LevelCast<3>&, const AngleRange&);

}  // namespace hollow_probe
