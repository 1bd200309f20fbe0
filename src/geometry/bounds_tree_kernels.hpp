// The inner loops of BoundsTree: float, eight lanes, compiled for several instruction sets.
#pragma once

#include "hollow_probe/geometry/bounds_tree.hpp"

namespace hollow_probe {

/// Where a sweep starts, in the tree's floats. `slack` is a length that covers every rounding of positions on
/// the way.
template <int D>
struct SweepPlace {
    float center[D];
    float slack;
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
void along_gathered_kernel(const Gathered<D>& gathered, const PreparedSweep<D>& sweep,
                           const SweepPlace<D>& place, const TreeVisitor<D>& visitor);
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
