#include "hollow_probe/geometry/bounds_tree.hpp"

#include <algorithm>
#include <numeric>

namespace hollow_probe {
namespace {

constexpr std::uint32_t leaf_size = 4;
constexpr int bin_count = 16;

/// What a ray's chance of meeting a box is proportional to: its surface, in 2D its outline.
template <int D>
double surface(const Bounds<D>& bounds) {
    if (bounds.empty()) return 0.0;
    const Vec<D> size = bounds.size();
    if constexpr (D == 2) return size.x() + size.y();
    return size.x() * size.y() + size.y() * size[D - 1] + size[D - 1] * size.x();
}

template <int D>
struct Split {
    int axis = -1;
    double at = 0.0;
};

template <int D>
Split<D> best_split(std::span<const Bounds<D>> boxes, std::span<const std::uint32_t> order,
                    const Bounds<D>& centers) {
    Split<D> best;
    double best_cost = infinity;
    for (int axis = 0; axis < D; ++axis) {
        const double low = centers.low[axis];
        const double width = centers.high[axis] - low;
        if (!(width > 0.0)) continue;
        std::array<Bounds<D>, bin_count> bins;
        std::array<double, bin_count> counts{};
        for (const std::uint32_t index : order) {
            const double place = (boxes[index].center()[axis] - low) / width * bin_count;
            const auto bin = static_cast<std::size_t>(std::clamp(static_cast<int>(place), 0, bin_count - 1));
            bins[bin].grow(boxes[index]);
            counts[bin] += 1.0;
        }
        std::array<double, bin_count> right_cost{};
        Bounds<D> right;
        double right_count = 0.0;
        for (std::size_t bin = bin_count - 1; bin > 0; --bin) {
            right.grow(bins[bin]);
            right_count += counts[bin];
            right_cost[bin] = surface(right) * right_count;
        }
        Bounds<D> left;
        double left_count = 0.0;
        for (std::size_t bin = 0; bin + 1 < bin_count; ++bin) {
            left.grow(bins[bin]);
            left_count += counts[bin];
            const double cost = surface(left) * left_count + right_cost[bin + 1];
            if (cost < best_cost) {
                best_cost = cost;
                best = {axis, low + width * static_cast<double>(bin + 1) / bin_count};
            }
        }
    }
    return best;
}

}  // namespace

template <int D>
BoundsTree<D>::BoundsTree(std::span<const Bounds<D>> boxes) : order_(boxes.size()) {
    if (boxes.empty()) return;
    std::iota(order_.begin(), order_.end(), 0U);
    nodes_.reserve(boxes.size());
    nodes_.emplace_back();
    build(boxes, 0, 0, static_cast<std::uint32_t>(boxes.size()), 0);
}

template <int D>
void BoundsTree<D>::build(std::span<const Bounds<D>> boxes, std::uint32_t node, std::uint32_t first,
                          std::uint32_t last, int level) {
    Bounds<D> bounds;
    Bounds<D> centers;
    for (std::uint32_t i = first; i < last; ++i) {
        bounds.grow(boxes[order_[i]]);
        centers.grow(boxes[order_[i]].center());
    }
    nodes_[node].bounds = bounds;
    nodes_[node].first = first;
    nodes_[node].count = last - first;
    if (last - first <= leaf_size) return;
    const auto begin = order_.begin() + first;
    const auto end = order_.begin() + last;
    auto middle = begin + (last - first) / 2;
    // Below half the allowed depth the split is by count, so that no input can exhaust the query's stack.
    const Split<D> split = level < most_levels / 2
                               ? best_split<D>(boxes, std::span(order_).subspan(first, last - first), centers)
                               : Split<D>{};
    if (split.axis >= 0) {
        const auto parted = std::partition(
            begin, end, [&](std::uint32_t i) { return boxes[i].center()[split.axis] < split.at; });
        if (parted != begin && parted != end) middle = parted;
    }
    const auto left = static_cast<std::uint32_t>(nodes_.size());
    nodes_.emplace_back();
    nodes_.emplace_back();
    nodes_[node].first = left;
    nodes_[node].count = 0;
    const auto middle_index = static_cast<std::uint32_t>(middle - order_.begin());
    build(boxes, left, first, middle_index, level + 1);
    build(boxes, left + 1, middle_index, last, level + 1);
}

template class BoundsTree<2>;
template class BoundsTree<3>;

}  // namespace hollow_probe
