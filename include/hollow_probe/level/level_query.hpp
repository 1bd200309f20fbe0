// What of a level a resting shape overlaps, and what is nearest to it.
#pragma once

#include <optional>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/level/level.hpp"
#include "hollow_probe/level/one_way.hpp"

namespace hollow_probe {

/// A shape at rest among the pieces of some layers.
template <int D>
struct LevelQuery {
    HullView<D> shape;
    Vec<D> at = Vec<D>::zero();
    LayerSet layers = all_layers;
    /// For back ends of rigs alone: what is made of one-way solids, and the move that brought the shape here
    /// (zero: none did). as_body leaves out what the move does not run against or overlapped before it.
    OneWay one_way = OneWay::always;
    Vec<D> moved = Vec<D>::zero();
    double sunk = 0.0;  // … overlapped deeper than this
};

/// One piece and how it lies to the shape.
template <int D>
struct LevelNeighbour {
    double gap = 0.0;                  // negative: overlap, by the depth of the shortest way out
    Vec<D> normal = Vec<D>::zero();    // unit, from the piece to the shape: the shortest way apart
    Vec<D> on_level = Vec<D>::zero();  // nearest points; when overlapping the deepest ones
    Vec<D> on_shape = Vec<D>::zero();
    std::uint32_t piece = 0;
    std::uint32_t solid = 0;
    std::uint32_t layer = 0;
};

/// Calls visit(neighbour) for every piece whose gap to the shape is at most `within` (inclusive; 0: touching
/// or overlapping; negative: overlapping at least that deep), each once, in no order. A visitor that returns
/// bool ends the search by returning false. Allocates nothing.
template <int D, class Visit>
void for_each_neighbour(const Level<D>& level, const LevelQuery<D>& query, double within, Visit visit);

/// Whether any piece overlaps the shape by more than `deeper_than`. Touching is no overlap.
template <int D>
bool overlaps(const Level<D>& level, const LevelQuery<D>& query, double deeper_than = 0.0);

/// The nearest piece no farther than `within`, deepest overlap first; of equally near ones that of the lowest
/// number.
template <int D>
std::optional<LevelNeighbour<D>> nearest(const Level<D>& level, const LevelQuery<D>& query,
                                         double within = infinity);

/// How a piece lies to the shape.
template <int D>
LevelNeighbour<D> neighbour(const Level<D>& level, const LevelQuery<D>& query, std::uint32_t piece);

template <int D, class Visit>
void for_each_neighbour(const Level<D>& level, const LevelQuery<D>& query, double within, Visit visit) {
    const Bounds<D> around = bounds_of(query.shape).moved(query.at).inflated(within > 0.0 ? within : 0.0);
    level.tree().overlapping(around, query.layers, [&](std::uint32_t piece) -> bool {
        const LevelNeighbour<D> found = neighbour<D>(level, query, piece);
        if (found.gap > within) return true;
        if constexpr (std::is_same_v<decltype(visit(found)), bool>) {
            return visit(found);
        } else {
            visit(found);
            return true;
        }
    });
}

}  // namespace hollow_probe
