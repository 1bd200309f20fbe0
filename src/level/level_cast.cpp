#include "hollow_probe/level/level_cast.hpp"

#include <algorithm>
#include <array>
#include <bit>

#include "level/cast_query.hpp"

namespace hollow_probe {
template <int D>
std::optional<LevelHit<D>> first_hit(const Level<D>& level, const LevelCast<D>& request,
                                     const AngleRange& angles) {
    const RayFrame<D> frame(request.direction);
    const CastQuery<D> query =
        query_of<D>(level, level.tree(), request, angles, is_ray(request) ? &frame : nullptr);
    BestHit<D> best = first_of(query, [&](const CastQuery<D>& q, BestHit<D>& found) {
        level.tree().along(sweep_of_cast(request), [&](std::uint32_t piece, double limit) {
            return q.consider(piece, limit, found);
        });
    });
    return query.finished(best);
}

template <int D>
PreparedCast<D>::PreparedCast(RoundedHull<D> shape, const LevelCast<D>& cast)
    : mover(std::move(shape)),
      start(cast.start),
      direction(cast.direction),
      reach(cast.reach),
      layers(cast.layers),
      if_inside(cast.if_inside),
      seams(cast.seams),
      one_way(cast.one_way),
      sunk(cast.sunk),
      faces(cast.faces),
      is_ray(hollow_probe::is_ray(cast)),
      frame(cast.direction) {
    const Sweep<D> all = sweep_of_cast(cast);
    sweep = PreparedSweep<D>(all);
    middle = all.center;
}

template <int D>
void PreparedCast<D>::aim(const RoundedHull<D>& shape, const LevelCast<D>& cast) noexcept {
    mover = shape;
    start = cast.start;
    direction = cast.direction;
    reach = cast.reach;
    layers = cast.layers;
    if_inside = cast.if_inside;
    seams = cast.seams;
    one_way = cast.one_way;
    sunk = cast.sunk;
    faces = cast.faces;
    is_ray = hollow_probe::is_ray(cast);
    frame = RayFrame<D>(cast.direction);
    const Sweep<D> all = sweep_of_cast(cast);
    sweep = PreparedSweep<D>(all);
    middle = all.center;
}

template <int D>
bool first_hit(const Level<D>& level, const PreparedCast<D>& cast, const Vec<D>& at, const AngleRange& angles,
               LevelHit<D>& hit) {
    const CastQuery<D> query = query_of<D>(level, cast, at, angles);
    BestHit<D> best = first_of(query, [&](const CastQuery<D>& q, BestHit<D>& found) {
        level.tree().along(cast.sweep, at + cast.middle, [&](std::uint32_t piece, double limit) {
            return q.consider(piece, limit, found);
        });
    });
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
        std::array<BestHit<D>, portion> best;
        std::array<std::optional<RayFrame<D>>, portion> frames;
        const auto query = [&](std::size_t i) {
            return query_of<D>(level, level.tree(), part[i], angles, frames[i] ? &*frames[i] : nullptr);
        };
        level.tree().along_many(
            part.size(),
            [&](std::size_t i) {
                if (is_ray(part[i])) frames[i].emplace(part[i].direction);
                return sweep_of_cast(part[i]);
            },
            [&](std::size_t i, std::uint32_t piece, double limit) {
                const CastQuery<D> q = query(i);
                return (asks_later(q) ? hasty(q) : q).consider(piece, limit, best[i]);
            },
            [&](std::uint32_t piece) { level.pieces().prefetch(piece); });
        for (std::size_t i = 0; i < part.size(); ++i) {
            const CastQuery<D> q = query(i);
            const bool counts = !best[i].any || !asks_later(q) || q.confirms(best[i]);
            hits[first + i] = counts ? q.finished(best[i]) : first_hit<D>(level, part[i], angles);
        }
    }
}

template <int D>
std::vector<LevelHit<D>> all_hits(const Level<D>& level, const LevelCast<D>& request,
                                  const AngleRange& angles) {
    const CastQuery<D> query = query_of<D>(level, level.tree(), request, angles, nullptr);
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
template bool first_hit<2>(const Level<2>&, const PreparedCast<2>&, const Vec<2>&, const AngleRange&,
                           LevelHit<2>&);
template bool first_hit<3>(const Level<3>&, const PreparedCast<3>&, const Vec<3>&, const AngleRange&,
                           LevelHit<3>&);
template struct PreparedCast<2>;
template struct PreparedCast<3>;
template void first_hits<2>(const Level<2>&, std::span<const LevelCast<2>>,
                            std::span<std::optional<LevelHit<2>>>, const AngleRange&);
template void first_hits<3>(const Level<3>&, std::span<const LevelCast<3>>,
                            std::span<std::optional<LevelHit<3>>>, const AngleRange&);
template std::vector<LevelHit<2>> all_hits<2>(const Level<2>&, const LevelCast<2>&, const AngleRange&);
template std::vector<LevelHit<3>> all_hits<3>(const Level<3>&, const LevelCast<3>&, const AngleRange&);

}  // namespace hollow_probe
