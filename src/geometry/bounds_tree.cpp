#include "hollow_probe/geometry/bounds_tree.hpp"

#include <algorithm>
#include <cmath>
#include <stdexcept>

#include "geometry/bounds_tree_build.hpp"
#include "geometry/bounds_tree_kernels.hpp"

namespace hollow_probe {
namespace {

std::uint16_t folded(LayerSet layers) {
    layers |= layers >> 32U;
    layers |= layers >> 16U;
    return static_cast<std::uint16_t>(layers & 0xFFFFU);
}

template <int D>
BoxInFloat<D> in_float(const Bounds<D>& box, const Vec<D>& origin, double extent, LayerSet layers) {
    BoxInFloat<D> f{};
    const Vec<D> center = box.center() - origin;
    const Vec<D> half = 0.5 * box.size();
    const double farthest = std::max(extent, (center.abs() + half).largest());
    f.slack = float_slack * static_cast<float>(farthest) + 1e-30F;
    f.layers = layers;
    f.folded_layers = folded(layers);
    for (int axis = 0; axis < D; ++axis) {
        f.center[axis] = static_cast<float>(center[axis]);
        f.half[axis] = static_cast<float>(half[axis]) + f.slack;
        f.low[axis] = f.center[axis] - f.half[axis];
        f.high[axis] = f.center[axis] + f.half[axis];
    }
    return f;
}

}  // namespace

template <int D>
PreparedSweep<D>::PreparedSweep(const Sweep<D>& sweep)
    : radius(static_cast<float>(sweep.radius)),
      reach(sweep.reach),
      layers(sweep.layers),
      folded_layers(folded(sweep.layers)) {
    Vec<D> extent = Vec<D>::constant(sweep.radius);
    for (int k = 0; k < D; ++k) {
        extent += sweep.axes[k].abs();
        if (!sweep.axes[k].is_zero(0.0)) axis_count = k == 0 ? 1 : D;
    }
    if (axis_count == 0 && sweep.radius == 0.0) axis_count = -1;
    for (int axis = 0; axis < D; ++axis) {
        direction[axis] = static_cast<float>(sweep.direction[axis]);
        for (int k = 0; k < D; ++k) axes[k][axis] = static_cast<float>(sweep.axes[k][axis]);
        half[axis] = static_cast<float>(extent[axis]);
        // A direction across the axis would need an infinite inverse, and infinities give NaN.
        constexpr double least = 1e-20;
        const double d = sweep.direction[axis];
        inverse[axis] = static_cast<float>(1.0 / (std::abs(d) < least ? std::copysign(least, d) : d));
    }
}

template <int D>
Sweep<D> sweep_of(const HullView<D>& mover, const Vec<D>& start, const Vec<D>& direction, double reach) {
    Sweep<D> sweep;
    sweep.radius = mover.radius;
    sweep.direction = direction;
    sweep.reach = reach;
    const auto& p = mover.points;
    bool is_box = false;
    if constexpr (D == 3) is_box = p.size() == 8 && mover.topology->directions.size() == 3;
    if (p.size() == 1) {
        sweep.center = p[0];
    } else if (p.size() == 2) {
        sweep.center = 0.5 * (p[0] + p[1]);
        sweep.axes[0] = 0.5 * (p[1] - p[0]);
    } else if (is_box) {
        // Corner i has its k-th coordinate high where bit k of i is set.
        sweep.center = 0.5 * (p[0] + p[7]);
        for (int axis = 0; axis < D; ++axis) sweep.axes[axis] = 0.5 * (p[std::size_t{1} << axis] - p[0]);
    } else {
        Bounds<D> box;
        for (const Vec<D>& point : p) box.grow(point);
        sweep.center = box.center();
        for (int axis = 0; axis < D; ++axis) sweep.axes[axis][axis] = 0.5 * box.size()[axis];
    }
    sweep.center += start;
    return sweep;
}

template <int D>
Sweep<D> sweep_of(const Bounds<D>& mover, const Vec<D>& direction, double reach) {
    Sweep<D> sweep;
    sweep.center = mover.center();
    for (int axis = 0; axis < D; ++axis) sweep.axes[axis][axis] = 0.5 * mover.size()[axis];
    sweep.direction = direction;
    sweep.reach = reach;
    return sweep;
}

template <int D>
BoundsTree<D>::BoundsTree(std::span<const Bounds<D>> boxes) {
    const TreeInput<D> input{boxes.size(), [&](std::size_t i) { return boxes[i]; },
                             [](std::size_t) -> const Vec<D>* { return nullptr; },
                             [](std::size_t i) { return static_cast<std::uint32_t>(i); },
                             [](std::size_t) { return std::uint8_t{0}; }};
    BuiltTree<D> built = build_tree<D>(input);
    nodes_ = std::move(built.nodes);
    blocks_ = std::move(built.blocks);
    origin_ = built.origin;
    extent_ = built.extent;
}

template <int D>
BoundsTree<D>::BoundsTree(const HullStore<D>& hulls, std::span<const std::uint32_t> items,
                          std::span<const std::uint8_t> layer_of_item) {
    const TreeInput<D> input{
        items.size(), [&](std::size_t i) { return hulls.bounds(items[i]); },
        [&](std::size_t i) { return hulls.is_facet(items[i]) ? hulls.corners(items[i]) : nullptr; },
        [&](std::size_t i) { return items[i]; },
        [&](std::size_t i) { return layer_of_item.empty() ? std::uint8_t{0} : layer_of_item[i]; }};
    BuiltTree<D> built = build_tree<D>(input);
    nodes_ = std::move(built.nodes);
    blocks_ = std::move(built.blocks);
    origin_ = built.origin;
    extent_ = built.extent;
}

template <int D>
void BoundsTree<D>::refit(std::span<const Bounds<D>> boxes) {
    extent_ = 0.0;
    for (const Bounds<D>& box : boxes) {
        extent_ =
            std::max({extent_, (box.low - origin_).abs().largest(), (box.high - origin_).abs().largest()});
    }
    for (TreeBlock<D>& block : blocks_) {
        block.facets = 0;
        for (std::size_t lane = 0; lane < block.count; ++lane) {
            set_box_lane<D>(block, lane, boxes[block.item[lane]], origin_);
        }
    }
    for (std::size_t n = nodes_.size(); n-- > 0;) {
        TreeNode<D>& node = nodes_[n];
        ChildBoxes<D> children;
        for (std::size_t i = 0; i < 8; ++i) {
            if (node.layers[i] == 0) continue;
            const bool is_leaf = (node.child[i] & TreeNode<D>::leaf) != 0;
            const std::uint32_t child = node.child[i] & ~TreeNode<D>::leaf;
            for (int axis = 0; axis < D; ++axis) {
                float low = std::numeric_limits<float>::infinity();
                float high = -low;
                const auto grow = [&](float least, float most) {
                    low = std::min(low, least);
                    high = std::max(high, most);
                };
                if (is_leaf) {
                    const TreeBlock<D>& block = blocks_[child];
                    for (std::size_t lane = 0; lane < block.count; ++lane) {
                        const float base = block.base[axis][lane];
                        grow(base, float_above(base + block.edge[0][axis][lane]));
                    }
                } else {
                    for (std::size_t k = 0; k < 8; ++k) {
                        if (nodes_[child].layers[k] == 0) continue;
                        grow(low_of<D>(nodes_[child], axis, k), high_of<D>(nodes_[child], axis, k));
                    }
                }
                children.low[i][axis] = low;
                children.high[i][axis] = high;
            }
        }
        pack<D>(node, children);
    }
}

template <int D>
void BoundsTree<D>::overlapping_(const Bounds<D>& query, LayerSet layers, Visitor visitor) const {
    if (empty() || query.empty()) return;
    overlapping_kernel<D>(nodes_.data(), blocks_.data(), in_float<D>(query, origin_, extent_, layers),
                          visitor);
}

template <int D>
void BoundsTree<D>::along_(const Sweep<D>& sweep, Visitor visitor) const {
    along_(PreparedSweep<D>(sweep), sweep.center, visitor);
}

template <int D>
void BoundsTree<D>::along_(const PreparedSweep<D>& sweep, const Vec<D>& center, Visitor visitor) const {
    if (empty()) return;
    along_kernel<D>(nodes_.data(), blocks_.data(), sweep, placed<D>(sweep, center, origin_, extent_),
                    visitor);
}

template <int D>
void BoundsTree<D>::candidates(const Gathered<D>& gathered, std::span<const PlacedSweep<D>> sweeps,
                               std::span<std::uint8_t> lanes) const {
    if (lanes.size() < sweeps.size() * gathered.count) {
        throw std::invalid_argument("BoundsTree::candidates: no room for all lanes");
    }
    candidates_kernel<D>(gathered, sweeps, origin_, extent_, lanes.data());
}

template <int D>
void BoundsTree<D>::along_many_(std::size_t count, ManyVisitor visitor) const {
    if (empty()) return;
    struct Context {
        const ManyVisitor& visitor;
        const BoundsTree& tree;
    };
    const Context context{visitor, *this};
    const auto make = [](const void* c, std::size_t index, SweepPlace<D>& place) {
        const auto& from = *static_cast<const Context*>(c);
        const Sweep<D> sweep = from.visitor.make(from.visitor.context, index);
        const PreparedSweep<D> prepared(sweep);
        place = placed<D>(prepared, sweep.center, from.tree.origin_, from.tree.extent_);
        return prepared;
    };
    along_many_kernel<D>(nodes_.data(), blocks_.data(), {&context, make, count}, visitor);
}

template <int D>
void BoundsTree<D>::around_(const Bounds<D>& from, double limit, LayerSet layers, Visitor visitor) const {
    if (empty() || from.empty()) return;
    around_kernel<D>(nodes_.data(), blocks_.data(), in_float<D>(from, origin_, extent_, layers), limit,
                     visitor);
}

template <int D>
bool BoundsTree<D>::gather(const Bounds<D>& query, LayerSet layers, Gathered<D>& out) const {
    out.count = 0;
    if (empty() || query.empty()) return true;
    return gather_kernel<D>(nodes_.data(), blocks_.data(), in_float<D>(query, origin_, extent_, layers), out);
}

template Sweep<2> sweep_of<2>(const HullView<2>&, const Vec<2>&, const Vec<2>&, double);
template Sweep<3> sweep_of<3>(const HullView<3>&, const Vec<3>&, const Vec<3>&, double);
template Sweep<2> sweep_of<2>(const Bounds<2>&, const Vec<2>&, double);
template Sweep<3> sweep_of<3>(const Bounds<3>&, const Vec<3>&, double);
template struct PreparedSweep<2>;
template struct PreparedSweep<3>;
template class BoundsTree<2>;
template class BoundsTree<3>;

}  // namespace hollow_probe
