// Building the nodes of a BoundsTree.
#pragma once

#include <functional>

#include "hollow_probe/geometry/bounds_tree.hpp"

namespace hollow_probe {

/// What to index, asked for from several threads at once.
template <int D>
struct TreeInput {
    std::size_t count = 0;
    std::function<Bounds<D>(std::size_t)> bounds;       // of the i-th item
    std::function<const Vec<D>*(std::size_t)> corners;  // of a facet; null for boxes
    std::function<std::uint32_t(std::size_t)> item;     // the number to give back
    std::function<std::uint8_t(std::size_t)> layer;
};

template <int D>
struct BuiltTree {
    PageVector<TreeNode<D>> nodes;
    PageVector<TreeBlock<D>> blocks;
    Vec<D> origin = Vec<D>::zero();
    double extent = 0.0;
};

template <int D>
BuiltTree<D> build_tree(const TreeInput<D>& input);

/// Outwards, whatever the rounding mode.
inline float float_below(double x) {
    const auto f = static_cast<float>(x);
    return f - std::abs(f) * 1.2e-7F - 1e-37F;
}
inline float float_above(double x) {
    const auto f = static_cast<float>(x);
    return f + std::abs(f) * 1.2e-7F + 1e-37F;
}

/// The boxes of a node's children before they are packed.
template <int D>
struct ChildBoxes {
    std::array<std::array<float, D>, 8> low{};
    std::array<std::array<float, D>, 8> high{};
};

/// Packs the boxes of the children in use, those with layers.
template <int D>
void pack(TreeNode<D>& node, const ChildBoxes<D>& boxes);

/// … and what they come to be again.
template <int D>
float low_of(const TreeNode<D>& node, int axis, std::size_t child) {
    return node.origin[axis] + static_cast<float>(node.low[axis][child]) * node.step[axis];
}
template <int D>
float high_of(const TreeNode<D>& node, int axis, std::size_t child) {
    return node.origin[axis] + static_cast<float>(node.high[axis][child]) * node.step[axis];
}

template <int D>
void set_box_lane(TreeBlock<D>& block, std::size_t lane, const Bounds<D>& box, const Vec<D>& origin) {
    for (int axis = 0; axis < D; ++axis) {
        block.base[axis][lane] = float_below(box.low[axis] - origin[axis]);
        block.edge[0][axis][lane] = float_above(box.high[axis] - origin[axis] - block.base[axis][lane]);
        if constexpr (D == 3) block.edge[1][axis][lane] = 0.0F;
    }
}

}  // namespace hollow_probe
