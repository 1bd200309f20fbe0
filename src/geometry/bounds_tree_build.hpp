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
    std::vector<TreeNode<D>> nodes;
    std::vector<TreeBlock<D>> blocks;
    Vec<D> origin = Vec<D>::Zero();
    double extent = 0.0;
};

template <int D>
BuiltTree<D> build_tree(const TreeInput<D>& input);

/// Outwards, whatever the rounding mode.
inline float float_below(double x) {
    const float f = static_cast<float>(x);
    return f - std::abs(f) * 1.2e-7F - 1e-37F;
}
inline float float_above(double x) {
    const float f = static_cast<float>(x);
    return f + std::abs(f) * 1.2e-7F + 1e-37F;
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
