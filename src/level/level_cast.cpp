#include "hollow_probe/level/level_cast.hpp"

#include <algorithm>
#include <array>

#include "hollow_probe/geometry/cast.hpp"

namespace hollow_probe {
namespace {

/// The best so far; its point is worked out when it has turned out to be the best of all.
template <int D>
struct Best {
    CastHit<D> hit;
    std::uint32_t piece = 0;
    bool any = false;
};

template <int D>
LevelHit<D> finished(const Level<D>& level, const LevelCast<D>& request, const CastHit<D>& hit,
                     std::uint32_t piece) {
    LevelHit<D> result;
    result.distance = hit.distance;
    result.point =
        contact_point<D>(request.mover, request.start, request.direction, level.piece(piece), hit);
    result.normal = hit.normal;
    result.piece = piece;
    result.solid = level.solid_of(piece);
    result.layer = level.layer_of(piece);
    result.began_inside = hit.began_inside;
    result.depth = hit.depth;
    return result;
}

template <int D>
std::optional<LevelHit<D>> finished(const Level<D>& level, const LevelCast<D>& request, const Best<D>& best) {
    if (!best.any) return std::nullopt;
    return finished(level, request, best.hit, best.piece);
}

/// The hit on one piece, if it counts.
template <int D>
std::optional<CastHit<D>> counted(const Level<D>& level, const LevelCast<D>& request, const AngleRange& angles,
                                  std::uint32_t piece, double limit) {
    auto hit = cast<D>(request.mover, request.start, request.direction, limit, level.piece(piece));
    if (hit && ((hit->began_inside && request.skip_inside) || !within<D>(angles, hit->normal, level.up()))) {
        hit.reset();
    }
    return hit;
}

/// Takes a piece into account; returns how far it is worth to look on.
template <int D>
double consider(const Level<D>& level, const LevelCast<D>& request, const AngleRange& angles,
                std::uint32_t piece, double limit, Best<D>& best) {
    const auto hit = counted(level, request, angles, piece, limit);
    if (!hit) return limit;
    if (best.any && (hit->distance > best.hit.distance ||
                     (hit->distance == best.hit.distance && piece > best.piece))) {
        return limit;
    }
    best = {*hit, piece, true};
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
    Best<D> best;
    level.tree().along(sweep_of_cast(request), [&](std::uint32_t piece, double limit) {
        return consider(level, request, angles, piece, limit, best);
    });
    return finished(level, request, best);
}

template <int D>
std::optional<LevelHit<D>> first_hit(const Level<D>& level, const Gathered<D>& gathered,
                                     const LevelCast<D>& request, const AngleRange& angles) {
    Best<D> best;
    level.tree().along(gathered, sweep_of_cast(request), [&](std::uint32_t piece, double limit) {
        return consider(level, request, angles, piece, limit, best);
    });
    return finished(level, request, best);
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
        level.tree().along_many(
            part.size(), [&](std::size_t i) { return sweep_of_cast(part[i]); },
            [&](std::size_t i, std::uint32_t piece, double limit) {
                return consider(level, part[i], angles, piece, limit, best[i]);
            },
            [&](std::uint32_t piece) { level.pieces().prefetch(piece); });
        for (std::size_t i = 0; i < part.size(); ++i) hits[first + i] = finished(level, part[i], best[i]);
    }
}

template <int D>
std::vector<LevelHit<D>> all_hits(const Level<D>& level, const LevelCast<D>& request,
                                  const AngleRange& angles) {
    std::vector<LevelHit<D>> hits;
    level.tree().along(sweep_of_cast(request), [&](std::uint32_t piece, double limit) {
        if (const auto hit = counted(level, request, angles, piece, request.reach)) {
            hits.push_back(finished(level, request, *hit, piece));
        }
        return limit;
    });
    std::sort(hits.begin(), hits.end(), [](const LevelHit<D>& a, const LevelHit<D>& b) {
        return std::pair(a.distance, a.piece) < std::pair(b.distance, b.piece);
    });
    return hits;
}

template std::optional<LevelHit<2>> first_hit<2>(const Level<2>&, const LevelCast<2>&, const AngleRange&);
template std::optional<LevelHit<3>> first_hit<3>(const Level<3>&, const LevelCast<3>&, const AngleRange&);
template std::optional<LevelHit<2>> first_hit<2>(const Level<2>&, const Gathered<2>&, const LevelCast<2>&,
                                                 const AngleRange&);
template std::optional<LevelHit<3>> first_hit<3>(const Level<3>&, const Gathered<3>&, const LevelCast<3>&,
                                                 const AngleRange&);
template void first_hits<2>(const Level<2>&, std::span<const LevelCast<2>>,
                            std::span<std::optional<LevelHit<2>>>, const AngleRange&);
template void first_hits<3>(const Level<3>&, std::span<const LevelCast<3>>,
                            std::span<std::optional<LevelHit<3>>>, const AngleRange&);
template std::vector<LevelHit<2>> all_hits<2>(const Level<2>&, const LevelCast<2>&, const AngleRange&);
template std::vector<LevelHit<3>> all_hits<3>(const Level<3>&, const LevelCast<3>&, const AngleRange&);

}  // namespace hollow_probe
