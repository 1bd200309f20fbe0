// The spatial index: a binary bounding volume hierarchy over axis-aligned boxes.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <utility>
#include <vector>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

/// Finds the boxes that a box overlaps, or that a moving box meets, in time logarithmic in their number for
/// ordinary scenes. Queries are const, allocate nothing and are safe from any number of threads.
///
///     BoundsTree<2> tree(boxes);
///     tree.overlapping(query, [&](std::uint32_t index) { ... });
template <int D>
class BoundsTree {
  public:
    BoundsTree() = default;
    /// Splits by the surface area heuristic over binned centers (I. Wald, "On fast construction of SAH-based
    /// bounding volume hierarchies", 2007). O(n log n).
    explicit BoundsTree(std::span<const Bounds<D>> boxes);

    [[nodiscard]] std::size_t node_count() const { return nodes_.size(); }
    [[nodiscard]] std::size_t bytes() const {
        return nodes_.size() * sizeof(Node) + order_.size() * sizeof(std::uint32_t);
    }

    /// Calls visit(index) for every box that overlaps `query` (touching counts), each once.
    template <class Visit>
    void overlapping(const Bounds<D>& query, Visit visit) const;

    /// Calls visit(index, limit) for every box that `mover` meets while travelling along `direction` by at
    /// most `limit`, roughly nearest first; visit returns the new, never greater, limit. Boxes beyond it are
    /// skipped.
    template <class Visit>
    void along(const Bounds<D>& mover, const Vec<D>& direction, double limit, Visit visit) const;

  private:
    static constexpr int most_levels = 64;

    struct Node {
        Bounds<D> bounds;
        std::uint32_t first = 0;  // leaf: place in order_; inner: the left child, the right one following it
        std::uint32_t count = 0;  // leaf: number of boxes; inner: 0
    };

    void build(std::span<const Bounds<D>> boxes, std::uint32_t node, std::uint32_t first, std::uint32_t last,
               int level);

    /// The distance at which the mover's center enters a box grown by the mover's half size; infinity if
    /// never.
    static double entry(const Bounds<D>& box, const Vec<D>& center, const Vec<D>& half,
                        const Vec<D>& direction, double limit) {
        double enters = 0.0;
        double leaves = limit;
        for (int axis = 0; axis < D; ++axis) {
            // A margin over rounding, so that a box that is only just touched is never lost.
            const double slack = 1e-12 * (std::abs(center[axis]) + std::abs(box.low[axis]) +
                                          std::abs(box.high[axis]) + half[axis]);
            const double low = box.low[axis] - half[axis] - slack - center[axis];
            const double high = box.high[axis] + half[axis] + slack - center[axis];
            if (direction[axis] == 0.0) {
                if (low > 0.0 || high < 0.0) return infinity;
                continue;
            }
            const double a = low / direction[axis];
            const double b = high / direction[axis];
            enters = std::max(enters, std::min(a, b));
            leaves = std::min(leaves, std::max(a, b));
        }
        return enters <= leaves + 1e-12 * std::abs(leaves) ? enters : infinity;
    }

    std::vector<Node> nodes_;
    std::vector<std::uint32_t> order_;
};

template <int D>
template <class Visit>
void BoundsTree<D>::overlapping(const Bounds<D>& query, Visit visit) const {
    if (nodes_.empty()) return;
    std::array<std::uint32_t, most_levels + 1> stack{};
    std::size_t depth = 0;
    stack[depth++] = 0;
    while (depth > 0) {
        const Node& node = nodes_[stack[--depth]];
        if (!node.bounds.overlaps(query)) continue;
        if (node.count > 0) {
            for (std::uint32_t i = 0; i < node.count; ++i) visit(order_[node.first + i]);
        } else {
            stack[depth++] = node.first + 1;
            stack[depth++] = node.first;
        }
    }
}

template <int D>
template <class Visit>
void BoundsTree<D>::along(const Bounds<D>& mover, const Vec<D>& direction, double limit, Visit visit) const {
    if (nodes_.empty()) return;
    const Vec<D> center = mover.center();
    const Vec<D> half = 0.5 * mover.size();
    std::array<std::pair<std::uint32_t, double>, most_levels + 1> stack{};
    std::size_t depth = 0;
    const double at_root = entry(nodes_[0].bounds, center, half, direction, limit);
    if (at_root == infinity) return;
    stack[depth++] = {0, at_root};
    while (depth > 0) {
        const auto [index, enters] = stack[--depth];
        if (enters > limit) continue;
        const Node& node = nodes_[index];
        if (node.count > 0) {
            for (std::uint32_t i = 0; i < node.count; ++i) limit = visit(order_[node.first + i], limit);
            continue;
        }
        double left = entry(nodes_[node.first].bounds, center, half, direction, limit);
        double right = entry(nodes_[node.first + 1].bounds, center, half, direction, limit);
        std::uint32_t near = node.first;
        std::uint32_t far = node.first + 1;
        if (right < left) {
            std::swap(left, right);
            std::swap(near, far);
        }
        if (right != infinity) stack[depth++] = {far, right};
        if (left != infinity) stack[depth++] = {near, left};
    }
}

extern template class BoundsTree<2>;
extern template class BoundsTree<3>;

}  // namespace hollow_probe
