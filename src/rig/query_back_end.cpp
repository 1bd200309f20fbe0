#include "hollow_probe/rig/query_back_end.hpp"

#include <algorithm>

#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {

namespace {

/// Whether a one-way piece counts as overlapped.
template <int D>
bool counts(const Level<D>& level, const LevelQuery<D>& query, std::uint32_t piece, double least) {
    if (query.one_way != OneWay::as_body) return query.one_way == OneWay::always;
    if (query.moved.is_zero()) return true;  // a resident volume has no side to arrive from
    if (!level.faces(piece, query.moved.normalized())) return false;
    LevelQuery<D> before = query;
    before.at -= query.moved;
    // What it has sunk into no deeper it stands on still, if it moves further in.
    const LevelNeighbour<D> at_start = neighbour<D>(level, before, piece);
    if (at_start.gap < -least && at_start.normal.dot(query.moved.normalized()) >= -tolerance::approaches)
        return false;
    const double most = std::max(least, query.sunk);
    bool deeper = false;
    level.tree().overlapping(bounds_of(query.shape).moved(before.at), query.layers, [&](std::uint32_t other) {
        deeper = deeper || (level.solid_of(other) == level.solid_of(piece) &&
                            neighbour<D>(level, before, other).gap < -most);
    });
    return !deeper;
}

}  // namespace

template <int D>
bool LevelBackEnd<D>::first_hit(const LevelCast<D>& cast, const AngleRange& angles,
                                LevelHit<D>& hit) const noexcept {
    const auto found = hollow_probe::first_hit<D>(*level_, cast, angles);
    if (found) hit = *found;
    return found.has_value();
}

template <int D>
std::size_t LevelBackEnd<D>::overlapping(const LevelQuery<D>& query,
                                         std::span<LevelNeighbour<D>> found) const noexcept {
    // Less is a touch, not an overlap.
    const double least = 1e-12 * (1.0 + query.at.abs().largest());
    std::size_t count = 0;
    bool overflow = false;
    for_each_neighbour<D>(*level_, query, -least, [&](const LevelNeighbour<D>& piece) {
        if (level_->is_one_way(piece.piece) && !counts<D>(*level_, query, piece.piece, least)) return;
        auto* const end = found.data() + std::min(count, found.size());
        auto* const place =
            std::lower_bound(found.data(), end, piece.solid,
                             [](const LevelNeighbour<D>& a, std::uint32_t solid) { return a.solid < solid; });
        if (place != end && place->solid == piece.solid) {
            if (piece.gap < place->gap) *place = piece;
            return;
        }
        if (count < found.size()) {
            std::move_backward(place, end, end + 1);
            *place = piece;
            ++count;
        } else {
            overflow = true;
        }
    });
    return overflow ? count + 1 : count;
}

template class LevelBackEnd<2>;
template class LevelBackEnd<3>;

}  // namespace hollow_probe
