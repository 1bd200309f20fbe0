// A level of one's own whose solids are put elsewhere from tick to tick, and which is a level still.
#pragma once

#include "hollow_probe/level/level.hpp"

namespace hollow_probe {

/// For what asks a whole Level, as truths do; MovingLevel is faster where only some solids of a large level
/// move and casts and overlaps are all that is asked.
///
///     ShiftingLevel<2> shifting(level);
///     shifting.place(crate, {0.25, 0.0});   // from where the level has it
///     shifting.at(1.5);                     // solids with paths, where they are at that time
///     shifting.refit();
///     ground(shifting.level(), …);
///
/// A copy of the level, which must outlive it: O(pieces) in time and memory to make. Where things are does
/// not depend on where they were before, to the last digit.
template <int D>
class ShiftingLevel {
  public:
    explicit ShiftingLevel(const Level<D>& level);

    /// Puts a solid `offset` away from where the level has it. Takes effect with refit().
    void place(std::uint32_t solid, const Vec<D>& offset);
    /// Places all solids that have paths. Takes effect with refit().
    void at(double seconds);
    /// O(pieces of the level) if anything was moved, else nothing.
    void refit();

    [[nodiscard]] const Level<D>& level() const { return level_; }
    [[nodiscard]] const Vec<D>& offset(std::uint32_t solid) const { return offsets_[solid]; }

  private:
    const Level<D>* original_;
    Level<D> level_;
    std::vector<Vec<D>> offsets_;          // by solid
    std::vector<Bounds<D>> boxes_;         // by piece
    std::vector<std::uint32_t> on_paths_;  // solids
    bool moved_ = false;
};

extern template class ShiftingLevel<2>;
extern template class ShiftingLevel<3>;

}  // namespace hollow_probe
