// A level some of whose solids move: lifts, doors, crates.
#pragma once

#include <span>
#include <vector>

#include "hollow_probe/level/level_cast.hpp"
#include "hollow_probe/level/level_query.hpp"

namespace hollow_probe {

/// Two indexes: one over what stays put, made once, and one over the solids that move, re-fitted when they
/// do. Each moving solid keeps an index over its own pieces, which moves along with it.
///
///     MovingLevel<2> moving(level, {lift});
///     moving.place(lift, {0.0, 1.5});       // from where the level has it
///     moving.refit();                       // once a tick
///     const auto hit = moving.first_hit(cast);
///
/// Queries are const, allocate nothing and are safe from any number of threads while nothing is placed. The
/// level must outlive it.
template <int D>
class MovingLevel {
  public:
    /// Throws InvalidInput for a solid the level does not have, and one given twice.
    MovingLevel(const Level<D>& level, std::span<const std::uint32_t> moving_solids);

    /// Moves a solid to `offset` from its place in the level. Takes effect with refit(). Throws InvalidInput
    /// for a solid that is not one of the moving ones and offsets that are not finite.
    void place(std::uint32_t solid, const Vec<D>& offset);
    /// O(moving solids), whatever the number of their pieces.
    void refit();

    /// As in a level without motion. Seams are told among what stays put; every moving piece counts by
    /// itself.
    [[nodiscard]] std::optional<LevelHit<D>> first_hit(const LevelCast<D>& cast,
                                                       const AngleRange& angles = {}) const;
    [[nodiscard]] std::optional<LevelNeighbour<D>> nearest(const LevelQuery<D>& query,
                                                           double within = infinity) const;

    [[nodiscard]] const Level<D>& level() const { return *level_; }
    [[nodiscard]] const Vec<D>& offset(std::uint32_t solid) const { return parts_[part_of(solid)].offset; }

  private:
    struct Part {
        std::uint32_t solid = 0;
        BoundsTree<D> tree;  // over its pieces, at rest
        Bounds<D> bounds;    // at rest
        Vec<D> offset = Vec<D>::zero();
        Vec<D> next = Vec<D>::zero();
    };
    [[nodiscard]] std::size_t part_of(std::uint32_t solid) const;

    const Level<D>* level_;
    BoundsTree<D> fixed_;
    std::vector<Part> parts_;
    BoundsTree<D> moving_;  // over the parts
};

extern template class MovingLevel<2>;
extern template class MovingLevel<3>;

}  // namespace hollow_probe
