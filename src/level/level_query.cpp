#include "hollow_probe/level/level_query.hpp"

#include <algorithm>

namespace hollow_probe {

template <int D>
LevelNeighbour<D> neighbour(const Level<D>& level, const LevelQuery<D>& query, std::uint32_t piece) {
    const Separation<D> apart = separation<D>(query.shape, query.at, level.piece(piece));
    return {apart.gap, apart.normal,          apart.on_b,           apart.on_a,
            piece,     level.solid_of(piece), level.layer_of(piece)};
}

template <int D>
bool overlaps(const Level<D>& level, const LevelQuery<D>& query, double deeper_than) {
    bool found = false;
    const double noise = 1e-12 * magnitude(level.bounds());
    const double most = -std::max(deeper_than, noise);
    for_each_neighbour<D>(level, query, most, [&](const LevelNeighbour<D>& near) {
        found = near.gap < most;
        return !found;
    });
    return found;
}

template <int D>
std::optional<LevelNeighbour<D>> nearest(const Level<D>& level, const LevelQuery<D>& query, double within) {
    std::optional<LevelNeighbour<D>> best;
    const Bounds<D> box = bounds_of(query.shape).moved(query.at);
    level.tree().around(box, within, query.layers, [&](std::uint32_t piece, double limit) {
        const LevelNeighbour<D> found = neighbour<D>(level, query, piece);
        const bool is_better = found.gap <= within && (!best || found.gap < best->gap ||
                                                       (found.gap == best->gap && piece < best->piece));
        if (is_better) best = found;
        // Boxes that overlap may still hold a deeper overlap: only what is apart is passed over.
        return best ? std::min(limit, std::max(best->gap, 0.0)) : limit;
    });
    return best;
}

template LevelNeighbour<2> neighbour<2>(const Level<2>&, const LevelQuery<2>&, std::uint32_t);
template LevelNeighbour<3> neighbour<3>(const Level<3>&, const LevelQuery<3>&, std::uint32_t);
template bool overlaps<2>(const Level<2>&, const LevelQuery<2>&, double);
template bool overlaps<3>(const Level<3>&, const LevelQuery<3>&, double);
template std::optional<LevelNeighbour<2>> nearest<2>(const Level<2>&, const LevelQuery<2>&, double);
template std::optional<LevelNeighbour<3>> nearest<3>(const Level<3>&, const LevelQuery<3>&, double);

}  // namespace hollow_probe
