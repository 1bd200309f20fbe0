// Where probes send their queries: a Level of ours, or the game's own world.
#pragma once

#include <concepts>
#include <span>

#include "hollow_probe/level/level_cast.hpp"
#include "hollow_probe/level/level_query.hpp"

namespace hollow_probe {

/// What a world must answer for a rig to run on it.
///
/// - first_hit(cast, angles, hit): the nearest hit of a swept shape (one point of radius 0 is a ray) whose
///   normal is within() `angles`, on the layers in `cast.layers`; false if there is none, `hit` then being of
///   no meaning. What the mover overlaps at the start is a hit at distance 0, or passed over:
///   see cast.if_inside.
/// - overlapping(query, found): the solids that a resting shape overlaps (touching is no overlap), one
///   entry a solid, the deepest of its pieces, ascending by `solid`; returns how many there are, and fills in
///   as many as there is room for.
///
/// Neither may throw; for a rig's evaluation to be free of allocation and locks, so must they be.
template <class World, int D>
concept QueryBackEnd = requires(const World& world, const LevelCast<D>& cast, const AngleRange& angles,
                                LevelHit<D>& hit, const LevelQuery<D>& query,
                                std::span<LevelNeighbour<D>> found) {
    { world.first_hit(cast, angles, hit) }
    noexcept->std::same_as<bool>;
    { world.overlapping(query, found) }
    noexcept->std::same_as<std::size_t>;
};

/// Queries answered by a Level, which must outlive it.
template <int D>
class LevelBackEnd {
  public:
    explicit LevelBackEnd(const Level<D>& level) : level_(&level) {}

    bool first_hit(const LevelCast<D>& cast, const AngleRange& angles, LevelHit<D>& hit) const noexcept;
    std::size_t overlapping(const LevelQuery<D>& query, std::span<LevelNeighbour<D>> found) const noexcept;
    [[nodiscard]] const Level<D>& level() const { return *level_; }

  private:
    const Level<D>* level_;
};

extern template class LevelBackEnd<2>;
extern template class LevelBackEnd<3>;

}  // namespace hollow_probe
