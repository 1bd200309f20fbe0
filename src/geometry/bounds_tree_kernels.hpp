// The inner loops of BoundsTree: float, eight lanes, compiled for several instruction sets.
#pragma once

#include <algorithm>
#include <cmath>

#include "hollow_probe/geometry/bounds_tree.hpp"

namespace hollow_probe {

/// Where a sweep starts, in the tree's floats. `slack` is a length that covers every rounding of positions on
/// the way.
template <int D>
struct SweepPlace {
    float center[D]{};
    float slack = 0.0F;
};

/// A box in the tree's floats, grown by the slack.
template <int D>
struct BoxInFloat {
    float low[D];
    float high[D];
    float center[D];
    float half[D];
    float slack;
    LayerSet layers;
    std::uint16_t folded_layers;
};

/// What roundings of floats cost, with room to spare, as part of the size of the numbers.
inline constexpr float float_slack = 32.0F / 16777216.0F;

/// A sweep put at its place in a tree.
template <int D>
SweepPlace<D> placed(const PreparedSweep<D>& sweep, const Vec<D>& center, const Vec<D>& origin,
                     double extent) {
    SweepPlace<D> place;
    auto farthest = static_cast<float>(extent);
    for (int axis = 0; axis < D; ++axis) {
        place.center[axis] = static_cast<float>(center[axis] - origin[axis]);
        farthest = std::max(farthest, std::abs(place.center[axis]) + sweep.half[axis]);
    }
    place.slack = float_slack * farthest + 1e-30F;
    return place;
}

template <int D>
using TreeVisitor = typename BoundsTree<D>::Visitor;

template <int D>
void along_kernel(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const PreparedSweep<D>& sweep,
                  const SweepPlace<D>& place, const TreeVisitor<D>& visitor);
/// Sweeps that are made when their turn comes.
template <int D>
struct SweepSource {
    const void* context = nullptr;
    PreparedSweep<D> (*make)(const void* context, std::size_t index, SweepPlace<D>& place) = nullptr;
    std::size_t count = 0;
};
template <int D>
using TreeManyVisitor = typename BoundsTree<D>::ManyVisitor;

template <int D>
void along_many_kernel(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const SweepSource<D>& sweeps,
                       const TreeManyVisitor<D>& visitor);
template <int D>
void candidates_kernel(const Gathered<D>& gathered, std::span<const PlacedSweep<D>> sweeps,
                       const Vec<D>& origin, double extent, std::uint8_t* lanes);
template <int D>
void overlapping_kernel(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const BoxInFloat<D>& box,
                        const TreeVisitor<D>& visitor);
template <int D>
void around_kernel(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const BoxInFloat<D>& box,
                   double limit, const TreeVisitor<D>& visitor);
template <int D>
bool gather_kernel(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const BoxInFloat<D>& box,
                   Gathered<D>& out);

}  // namespace hollow_probe
