#include "hollow_probe/level/moving_level.hpp"

#include <algorithm>
#include <numeric>

#include "level/cast_query.hpp"

namespace hollow_probe {

template <int D>
MovingLevel<D>::MovingLevel(const Level<D>& level, std::span<const std::uint32_t> moving_solids)
    : level_(&level) {
    std::vector<bool> moves(level.solids().size(), false);
    for (const std::uint32_t solid : moving_solids) {
        if (solid >= moves.size()) {
            throw InvalidInput("the level has no solid number " + std::to_string(solid) + ", only " +
                               std::to_string(moves.size()) + " of them");
        }
        if (moves[solid]) throw InvalidInput("solid '" + level.solids()[solid].name + "' is given twice");
        moves[solid] = true;
        const Solid<D>& its = level.solids()[solid];
        std::vector<std::uint32_t> pieces(its.piece_count);
        std::iota(pieces.begin(), pieces.end(), its.first_piece);
        const std::vector<std::uint8_t> layers(pieces.size(), its.bit);
        Part part;
        part.solid = solid;
        for (const std::uint32_t piece : pieces) part.bounds.grow(level.pieces().bounds(piece));
        part.tree = BoundsTree<D>(level.pieces(), pieces, layers);
        parts_.push_back(std::move(part));
    }
    std::vector<std::uint32_t> pieces;
    std::vector<std::uint8_t> layers;
    for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece) {
        if (moves[level.solid_of(piece)]) continue;
        pieces.push_back(piece);
        layers.push_back(level.bit_of(piece));
    }
    fixed_ = BoundsTree<D>(level.pieces(), pieces, layers);
    std::vector<Bounds<D>> boxes;
    for (const Part& part : parts_) boxes.push_back(part.bounds);
    moving_ = BoundsTree<D>(boxes);
}

template <int D>
std::size_t MovingLevel<D>::part_of(std::uint32_t solid) const {
    const auto found =
        std::find_if(parts_.begin(), parts_.end(), [&](const Part& part) { return part.solid == solid; });
    if (found == parts_.end()) {
        throw InvalidInput("solid number " + std::to_string(solid) + " is not one of those that move");
    }
    return static_cast<std::size_t>(found - parts_.begin());
}

template <int D>
void MovingLevel<D>::place(std::uint32_t solid, const Vec<D>& offset) {
    if (!offset.is_finite()) throw InvalidInput("an offset has a number that is not finite");
    parts_[part_of(solid)].next = offset;
}

template <int D>
void MovingLevel<D>::refit() {
    std::vector<Bounds<D>> boxes;
    for (Part& part : parts_) {
        part.offset = part.next;
        boxes.push_back(part.bounds.moved(part.offset));
    }
    moving_.refit(boxes);
}

template <int D>
std::optional<LevelHit<D>> MovingLevel<D>::first_hit(const LevelCast<D>& cast,
                                                     const AngleRange& angles) const {
    const RayFrame<D> frame(cast.direction);
    CastQuery<D> query = query_of<D>(*level_, fixed_, cast, angles, is_ray(cast) ? &frame : nullptr);
    const Sweep<D> sweep = sweep_of_cast(cast);
    BestHit<D> best = first_of(query, [&](const CastQuery<D>& q, BestHit<D>& found) {
        fixed_.along(sweep,
                     [&](std::uint32_t piece, double limit) { return q.consider(piece, limit, found); });
    });
    Vec<D> offset_of_best = Vec<D>::zero();
    Sweep<D> rest = sweep;
    rest.layers = all_layers;  // the boxes of solids are on none
    if (best.any) rest.reach = std::min(rest.reach, best.hit.distance);
    moving_.along(rest, [&](std::uint32_t number, double limit) {
        const Part& part = parts_[number];
        // Instead of the solid the cast moves, the other way.
        CastQuery<D> relative =
            query_of<D>(*level_, part.tree, cast, angles, is_ray(cast) ? &frame : nullptr);
        relative.start = cast.start - part.offset;
        relative.seams = Seams::reported;
        Sweep<D> own = sweep;
        own.center -= part.offset;
        own.reach = limit;
        part.tree.along(own, [&](std::uint32_t piece, double within) {
            const double now = relative.consider(piece, within, best);
            if (best.any && best.piece == piece) offset_of_best = part.offset;
            return now;
        });
        return best.any ? std::min(limit, best.hit.distance) : limit;
    });
    query.start = cast.start - offset_of_best;
    auto hit = query.finished(best);
    if (hit) hit->point += offset_of_best;
    return hit;
}

template <int D>
std::optional<LevelNeighbour<D>> MovingLevel<D>::nearest(const LevelQuery<D>& query, double within) const {
    std::optional<LevelNeighbour<D>> best;
    const Bounds<D> box = bounds_of(query.shape).moved(query.at);
    const auto take = [&](std::uint32_t piece, const Vec<D>& offset) {
        LevelQuery<D> relative = query;
        relative.at -= offset;
        LevelNeighbour<D> found = neighbour<D>(*level_, relative, piece);
        found.on_level += offset;
        found.on_shape += offset;
        if (found.gap > within) return;
        if (!best || found.gap < best->gap || (found.gap == best->gap && piece < best->piece)) best = found;
    };
    const auto limit_now = [&](double limit) {
        return best ? std::min(limit, std::max(best->gap, 0.0)) : limit;
    };
    fixed_.around(box, within, query.layers, [&](std::uint32_t piece, double limit) {
        take(piece, Vec<D>::zero());
        return limit_now(limit);
    });
    moving_.around(box, limit_now(within), all_layers, [&](std::uint32_t number, double limit) {
        const Part& part = parts_[number];
        part.tree.around(box.moved(-part.offset), limit, query.layers,
                         [&](std::uint32_t piece, double inner) {
                             take(piece, part.offset);
                             return limit_now(inner);
                         });
        return limit_now(limit);
    });
    return best;
}

template class MovingLevel<2>;
template class MovingLevel<3>;

}  // namespace hollow_probe
