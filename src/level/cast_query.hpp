// A cast on its way through the pieces of a level.
#pragma once

#include <algorithm>

#include "hollow_probe/geometry/cast.hpp"
#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/level/level_cast.hpp"
#include "level/seams.hpp"

namespace hollow_probe {

/// The best so far; its point, and a ray's normal, are worked out when it has turned out to be the best of
/// all.
template <int D>
struct BestHit {
    CastHit<D> hit;
    std::uint32_t piece = 0;
    bool any = false;
    bool normal_known = true;
};

/// Whether a cast along `direction` takes a piece for solid.
template <int D>
bool heeds(const Level<D>& level, std::uint32_t piece, OneWay one_way, const Vec<D>& direction) {
    if (one_way == OneWay::as_body) return level.faces(piece, direction);
    return one_way == OneWay::always || !level.is_one_way(piece);
}

/// Whether what meets a facet with this normal, from the facet to itself, comes from behind.
template <int D>
bool is_back(const Vec<D>* corners, const Vec<D>& normal) {
    return facet_normal<D>(corners).dot(normal) < 0.0;
}

/// A cast on its way through the candidates.
template <int D>
struct CastQuery {
    const Level<D>& level;
    const BoundsTree<D>& tree;  // whose pieces are asked, and seams told among
    HullView<D> mover;
    Vec<D> start;
    const Vec<D>& direction;
    const AngleRange& angles;
    IfInside if_inside;
    LayerSet layers;
    Seams seams;
    const RayFrame<D>* frame;  // of a ray, else null
    OneWay one_way;
    Faces faces;
    double sunk;  // see LevelCast

    /// Takes a piece into account; returns how far it is worth to look on.
    double consider(std::uint32_t piece, double limit, BestHit<D>& best) const {
        if (!heeds<D>(level, piece, one_way, direction)) return limit;
        if (frame != nullptr && level.pieces().is_facet(piece)) {
            const Vec<D>* corners = level.pieces().corners(piece);
            double t = 0.0;
            const Meets meets = ray_meets_facet<D>(*frame, start + mover.points[0], limit, corners, t);
            if (meets == Meets::no) return limit;
            if (meets == Meets::yes) {
                if (!is_better(t, piece, best)) return limit;
                if (faces == Faces::front && is_back<D>(corners, -direction)) return limit;
                if (!angles.everything() &&
                    !within<D>(angles, normal_against<D>(corners, direction), direction, level.up())) {
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

    static bool is_better(double distance, std::uint32_t piece, const BestHit<D>& best) {
        return !best.any || distance < best.hit.distance ||
               (distance == best.hit.distance && piece < best.piece);
    }

    /// Whether a hit counts; where a face and an edge both explain it, it gets the normal of the face.
    bool counts(std::uint32_t piece, std::optional<CastHit<D>>& hit) const {
        if (faces == Faces::front && level.pieces().is_facet(piece) &&
            is_back<D>(level.pieces().corners(piece), hit->normal))
            return false;
        if (one_way == OneWay::as_body && level.is_one_way(piece) && !may_stand_on(piece, *hit)) return false;
        if (hit->began_inside) {
            if (passes_over<D>(if_inside, hit->normal, direction)) return false;
        } else if (seams == Seams::passed && mover.radius == 0.0 && level.piece(piece).radius == 0.0) {
            hit = open_hit<D>(level, tree, layers, mover, start, direction, piece, *hit);
            if (!hit) return false;
        }
        return within<D>(angles, hit->normal, direction, level.up());
    }

    /// Whether a body there would stand on a one-way solid: it has begun in none of the solid's pieces deeper
    /// than it may have sunk, and does not move out of the one it has sunk into.
    bool may_stand_on(std::uint32_t piece, const CastHit<D>& hit) const {
        if (hit.began_inside && hit.normal.dot(direction) >= -tolerance::approaches) return false;
        const Bounds<D> box = bounds_of(mover);
        const double most = sunk + tolerance::of_measure(box.size().norm(), magnitude(level.bounds()));
        if (hit.depth > most) return false;
        bool deeper = false;
        tree.overlapping(box.moved(start), layers, [&](std::uint32_t other) {
            deeper = deeper || (level.solid_of(other) == level.solid_of(piece) &&
                                separation<D>(mover, start, level.piece(other)).gap < -most);
        });
        return !deeper;
    }

    /// Whether the best hit, found regardless of seams and angles, counts.
    bool confirms(BestHit<D>& best) const {
        if (!best.normal_known) {
            return angles.everything() ||
                   within<D>(angles, normal_against<D>(level.pieces().corners(best.piece), direction),
                             direction, level.up());
        }
        std::optional<CastHit<D>> hit = best.hit;
        if (!counts(best.piece, hit)) return false;
        best.hit = *hit;
        return true;
    }

    std::optional<CastHit<D>> counted(std::uint32_t piece, double limit) const {
        std::optional<CastHit<D>> hit;
        if (heeds<D>(level, piece, one_way, direction))
            hit = cast<D>(mover, start, direction, limit, level.piece(piece));
        if (hit && !counts(piece, hit)) hit.reset();
        return hit;
    }

    std::optional<LevelHit<D>> finished(BestHit<D>& best) const {
        std::optional<LevelHit<D>> result;
        if (best.any) finish(best, result.emplace());
        return result;
    }

    void finish(BestHit<D>& best, LevelHit<D>& result) const {
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
CastQuery<D> query_of(const Level<D>& level, const BoundsTree<D>& tree, const LevelCast<D>& request,
                      const AngleRange& angles, const RayFrame<D>* frame) {
    return {level,
            tree,
            request.mover,
            request.start,
            request.direction,
            angles,
            request.if_inside,
            request.layers,
            request.seams,
            frame,
            request.one_way,
            request.faces,
            request.sunk};
}

template <int D>
CastQuery<D> query_of(const Level<D>& level, const PreparedCast<D>& cast, const Vec<D>& at,
                      const AngleRange& angles) {
    return {
        level,        level.tree(),   cast.mover.view(), at + cast.start, cast.direction,
        angles,       cast.if_inside, cast.layers,       cast.seams,      cast.is_ray ? &cast.frame : nullptr,
        cast.one_way, cast.faces,     cast.sunk};
}

/// Whether it is quicker to find the first hit of all and then ask whether it counts.
template <int D>
bool asks_later(const CastQuery<D>& query) {
    return query.seams == Seams::passed && query.mover.radius == 0.0 &&
           (query.frame == nullptr || query.angles.everything());
}

/// The query without its doubts about seams and angles.
template <int D>
CastQuery<D> hasty(const CastQuery<D>& query) {
    static constexpr AngleRange all;
    return {query.level,   query.tree,      query.mover,  query.start,     query.direction,
            all,           query.if_inside, query.layers, Seams::reported, query.frame,
            query.one_way, query.faces,     query.sunk};
}

/// The best of all hits that `look(query, best)` passes to consider(). To tell whether a hit lies on a seam
/// takes longer than to find it, and most do not: so the first hit of all is found, and only if that one does
/// not count, every one is asked.
template <int D, class Look>
BestHit<D> first_of(const CastQuery<D>& query, Look look) {
    BestHit<D> best;
    if (asks_later(query)) {
        look(hasty(query), best);
        if (!best.any || query.confirms(best)) return best;
        best = {};
    }
    look(query, best);
    return best;
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

}  // namespace hollow_probe
