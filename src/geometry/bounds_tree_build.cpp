// Top-down build by the surface area heuristic. A node's range is cut in two again and again, the largest
// part first, until it has eight parts; ranges of up to eight items become blocks. Short ranges are cut at
// multiples of eight, so that blocks are full: a lane not used costs as much as one that is.
#include "geometry/bounds_tree_build.hpp"

#include <tbb/parallel_for.h>
#include <tbb/parallel_reduce.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>

#include "geometry/bounds_tree_split.hpp"

namespace hollow_probe {
namespace {

constexpr std::size_t own_task = 1U << 14U;     // items worth a task of their own
constexpr std::size_t shared_pass = 1U << 17U;  // items worth several threads in one pass
constexpr int sure_depth = 24;                  // below it ranges are halved, which bounds the depth

struct Range {
    std::size_t first = 0;
    std::size_t last = 0;
    Extent box;
    Extent centers;  // of twice the centers

    [[nodiscard]] std::size_t count() const { return last - first; }
};

template <int D>
class Builder {
  public:
    explicit Builder(const TreeInput<D>& input) : input_(input), items_(input.count) {}

    BuiltTree<D> build() {
        BuiltTree<D> result;
        if (input_.count == 0) return result;
        place_origin(result);
        origin_ = result.origin;
        const Range all = read_items();
        Subtree root;
        root.nodes.reserve(input_.count / 32 + 1);
        root.leaves.reserve(input_.count / 6 + 1);
        build_node(root, all, 0);
        result.nodes = std::move(root.nodes);
        result.blocks.resize(root.leaves.size());
        tbb::parallel_for(
            tbb::blocked_range<std::size_t>(0, root.leaves.size(), 1024),
            [&](const tbb::blocked_range<std::size_t>& range) {
                for (std::size_t i = range.begin(); i < range.end(); ++i) {
                    fill_block(result.blocks[i], root.leaves[i]);
                }
            },
            whole_);
        return result;
    }

  private:
    struct Leaf {
        std::uint32_t first;
        std::uint32_t count;
    };
    struct Subtree {
        PageVector<TreeNode<D>> nodes;
        std::vector<Leaf> leaves;
    };

    void place_origin(BuiltTree<D>& result) const {
        const Bounds<D> all = tbb::parallel_reduce(
            tbb::blocked_range<std::size_t>(0, input_.count, shared_pass / 8), Bounds<D>{},
            [&](const tbb::blocked_range<std::size_t>& range, Bounds<D> sum) {
                for (std::size_t i = range.begin(); i < range.end(); ++i) sum.grow(input_.bounds(i));
                return sum;
            },
            [](Bounds<D> a, const Bounds<D>& b) {
                a.grow(b);
                return a;
            },
            whole_);
        result.origin = all.low + 0.5 * all.size();
        result.extent = (0.5 * all.size()).abs().largest();
    }

    Range read_items() {
        tbb::parallel_for(
            tbb::blocked_range<std::size_t>(0, input_.count, shared_pass / 8),
            [&](const tbb::blocked_range<std::size_t>& range) {
                for (std::size_t i = range.begin(); i < range.end(); ++i) read_item(i);
            },
            whole_);
        Range all = tbb::parallel_reduce(
            tbb::blocked_range<std::size_t>(0, input_.count, shared_pass / 8), Range{},
            [&](const tbb::blocked_range<std::size_t>& range, Range sum) {
                measure_items(&items_[range.begin()], range.size(), sum.box, sum.centers);
                return sum;
            },
            [](Range a, const Range& b) {
                measure_both(a.box, b.box);
                measure_both(a.centers, b.centers);
                return a;
            },
            whole_);
        all.last = input_.count;
        return all;
    }

    void read_item(std::size_t i) {
        const Bounds<D> box = input_.bounds(i);
        BuildItem& item = items_[i];
        item.v.fill(0.0F);
        for (int axis = 0; axis < D; ++axis) {
            item.v[axis] = -float_below(box.low[axis] - origin_[axis]);
            item.v[4 + axis] = float_above(box.high[axis] - origin_[axis]);
        }
        item.v[7] = std::bit_cast<float>(static_cast<std::uint32_t>(i));
    }

    static void measure_both(Extent& to, const Extent& by) {
        for (std::size_t i = 0; i < to.v.size(); ++i) to.v[i] = std::max(to.v[i], by.v[i]);
    }

    Range measured(std::size_t first, std::size_t last) const {
        Range range{first, last, {}, {}};
        measure_items(&items_[first], last - first, range.box, range.centers);
        return range;
    }

    /// Appends the node of a range, and all below it, to `out`.
    void build_node(Subtree& out, const Range& range, int depth) {
        std::vector<Range> parts = {range};
        while (parts.size() < 8) {
            std::size_t widest = parts.size();
            float most = -1.0F;
            for (std::size_t i = 0; i < parts.size(); ++i) {
                if (parts[i].count() > 8 && area_of(parts[i].box, D) > most) {
                    most = area_of(parts[i].box, D);
                    widest = i;
                }
            }
            if (widest == parts.size()) {
                // Areas may be NaN where coordinates are out of all proportion.
                const auto large = std::find_if(parts.begin(), parts.end(),
                                                [](const Range& part) { return part.count() > 8; });
                if (large == parts.end()) break;
                widest = static_cast<std::size_t>(large - parts.begin());
            }
            const auto [left, right] = split(parts[widest], depth);
            parts[widest] = left;
            parts.push_back(right);
        }
        const std::size_t node = out.nodes.size();
        std::memset(static_cast<void*>(&out.nodes.emplace_back()), 0, sizeof(TreeNode<D>));
        ChildBoxes<D> boxes;
        if (range.count() <= own_task) {
            for (std::size_t i = 0; i < parts.size(); ++i) {
                const std::uint32_t child = build_part(out, parts[i], depth);
                set_child(out, node, i, parts[i], child, boxes);
            }
            return pack<D>(out.nodes[node], boxes);
        }
        std::array<Subtree, 8> below;
        tbb::parallel_for(
            std::size_t{0}, parts.size(),
            [&](std::size_t i) {
                if (parts[i].count() > 8) build_node(below[i], parts[i], depth + 1);
            },
            whole_);
        for (std::size_t i = 0; i < parts.size(); ++i) {
            const std::uint32_t child =
                parts[i].count() > 8 ? append(out, below[i]) : add_leaf(out, parts[i]);
            set_child(out, node, i, parts[i], child, boxes);
        }
        pack<D>(out.nodes[node], boxes);
    }

    std::uint32_t build_part(Subtree& out, const Range& part, int depth) {
        if (part.count() <= 8) return add_leaf(out, part);
        const auto child = static_cast<std::uint32_t>(out.nodes.size());
        build_node(out, part, depth + 1);
        return child;
    }

    static std::uint32_t append(Subtree& out, Subtree& below) {
        const auto first_node = static_cast<std::uint32_t>(out.nodes.size());
        const auto first_leaf = static_cast<std::uint32_t>(out.leaves.size());
        for (TreeNode<D>& node : below.nodes) {
            for (std::uint32_t& child : node.child) {
                child += (child & TreeNode<D>::leaf) != 0 ? first_leaf : first_node;
            }
        }
        out.nodes.insert(out.nodes.end(), below.nodes.begin(), below.nodes.end());
        out.leaves.insert(out.leaves.end(), below.leaves.begin(), below.leaves.end());
        below = {};
        return first_node;
    }

    void set_child(Subtree& out, std::size_t node, std::size_t place, const Range& part, std::uint32_t child,
                   ChildBoxes<D>& boxes) const {
        TreeNode<D>& to = out.nodes[node];
        for (int axis = 0; axis < D; ++axis) {
            boxes.low[place][axis] = part.box.low(axis);
            boxes.high[place][axis] = part.box.high(axis);
        }
        to.child[place] = child;
        std::uint16_t layers = 0;
        if ((child & TreeNode<D>::leaf) != 0) {
            for (std::size_t i = part.first; i < part.last; ++i) {
                layers = static_cast<std::uint16_t>(layers | 1U << input_.layer(place_of(items_[i])) % 16U);
            }
        } else {
            for (const std::uint16_t below : out.nodes[child].layers) {
                layers = static_cast<std::uint16_t>(layers | below);
            }
        }
        to.layers[place] = layers;
    }

    static std::uint32_t add_leaf(Subtree& out, const Range& part) {
        const auto index = static_cast<std::uint32_t>(out.leaves.size());
        out.leaves.push_back(
            {static_cast<std::uint32_t>(part.first), static_cast<std::uint32_t>(part.count())});
        return index | TreeNode<D>::leaf;
    }

    static std::size_t place_of(const BuildItem& item) { return std::bit_cast<std::uint32_t>(item.v[7]); }

    void fill_block(TreeBlock<D>& block, const Leaf& leaf) const {
        std::memset(static_cast<void*>(&block), 0, sizeof block);
        block.count = static_cast<std::uint8_t>(leaf.count);
        for (std::size_t lane = 0; lane < leaf.count; ++lane) {
            const std::size_t i = place_of(items_[leaf.first + lane]);
            block.item[lane] = input_.item(i);
            block.layer[lane] = input_.layer(i);
            if (const Vec<D>* corners = input_.corners(i)) {
                block.facets = static_cast<std::uint8_t>(block.facets | 1U << lane);
                for (int axis = 0; axis < D; ++axis) {
                    block.base[axis][lane] = static_cast<float>(corners[0][axis] - origin_[axis]);
                    for (int k = 0; k + 1 < D; ++k) {
                        block.edge[k][axis][lane] =
                            static_cast<float>(corners[k + 1][axis] - corners[0][axis]);
                    }
                }
            } else {
                set_box_lane<D>(block, lane, input_.bounds(i), origin_);
            }
        }
    }

    std::pair<Range, Range> split(const Range& range, int depth) {
        Split split;
        if (depth < sure_depth) {
            split = range.count() <= short_range
                        ? cut_short_range(&items_[range.first], range.count(), range.centers, D)
                        : split_long(range);
        }
        if (split.cut == 0) return halve(range);
        const std::size_t middle = range.first + split.cut;
        return {{range.first, middle, split.box[0], split.centers[0]},
                {middle, range.last, split.box[1], split.centers[1]}};
    }

    /// At the middle of the widest axis; what is left when nothing tells the items apart.
    std::pair<Range, Range> halve(const Range& range) {
        int axis = 0;
        for (int k = 1; k < D; ++k) {
            if (range.centers.size(k) > range.centers.size(axis)) axis = k;
        }
        std::size_t middle = range.first + range.count() / 2;
        middle += (8 - (middle - range.first) % 8) % 8;
        if (middle >= range.last) middle = range.first + 8;
        const auto at = [&](std::size_t i) { return items_.begin() + static_cast<std::ptrdiff_t>(i); };
        std::nth_element(
            at(range.first), at(middle), at(range.last), [&](const BuildItem& a, const BuildItem& b) {
                const float x = a.v[4 + axis] - a.v[axis];
                const float y = b.v[4 + axis] - b.v[axis];
                if (x != y) return x < y;
                return std::bit_cast<std::uint32_t>(a.v[7]) < std::bit_cast<std::uint32_t>(b.v[7]);
            });
        return {measured(range.first, middle), measured(middle, range.last)};
    }

    Split split_long(const Range& range) {
        Binning binning;
        for (int axis = 0; axis < D; ++axis) {
            const float size = range.centers.size(axis);
            binning.start[axis] = range.centers.low(axis);
            binning.scale[axis] = size > 0.0F ? static_cast<float>(bin_count) * 0.9999F / size : 0.0F;
            if (!std::isfinite(binning.scale[axis])) binning.scale[axis] = 0.0F;
        }
        const Bins bins = fill(range, binning);
        int axis = -1;
        std::size_t bin = 0;
        choose_bin(bins, range.count(), D, axis, bin);
        if (axis < 0) return {};
        return part_items(&items_[range.first], range.count(), binning, bins, axis, bin);
    }

    Bins fill(const Range& range, const Binning& binning) const {
        if (range.count() < shared_pass) {
            Bins bins;
            bin_items(&items_[range.first], range.count(), binning, bins);
            return bins;
        }
        return tbb::parallel_reduce(
            tbb::blocked_range<std::size_t>(range.first, range.last, shared_pass / 8), Bins{},
            [&](const tbb::blocked_range<std::size_t>& part, Bins bins) {
                bin_items(&items_[part.begin()], part.size(), binning, bins);
                return bins;
            },
            [](Bins a, const Bins& b) {
                join_bins(a, b);
                return a;
            },
            whole_);
    }

    const TreeInput<D>& input_;
    /// A tree may be built within a loop that something is thrown from: it is built whole even so, or it
    /// could not be looked at.
    mutable tbb::task_group_context whole_{tbb::task_group_context::isolated};
    PageVector<BuildItem> items_;
    Vec<D> origin_ = Vec<D>::zero();
};

}  // namespace

template <int D>
BuiltTree<D> build_tree(const TreeInput<D>& input) {
    return Builder<D>(input).build();
}

template <int D>
void pack(TreeNode<D>& node, const ChildBoxes<D>& boxes) {
    for (int axis = 0; axis < D; ++axis) {
        float least = Extent::infinite;
        float most = -Extent::infinite;
        for (std::size_t i = 0; i < 8; ++i) {
            if (node.layers[i] == 0) continue;
            least = std::min(least, boxes.low[i][axis]);
            most = std::max(most, boxes.high[i][axis]);
        }
        node.origin[axis] = least;
        // A hair more, so that the last step reaches the far side whatever the rounding.
        node.step[axis] = std::max((most - least) * (1.00001F / 255.0F), std::abs(least) * 1e-7F + 1e-37F);
        for (std::size_t i = 0; i < 8; ++i) {
            if (node.layers[i] == 0) {
                node.low[axis][i] = 255;
                node.high[axis][i] = 0;
                continue;
            }
            const auto steps = [&](float x) {
                return std::clamp((x - least) / node.step[axis], 0.0F, 255.0F);
            };
            node.low[axis][i] = static_cast<std::uint8_t>(steps(boxes.low[i][axis]));
            node.high[axis][i] = static_cast<std::uint8_t>(std::ceil(steps(boxes.high[i][axis])));
            while (node.low[axis][i] > 0 && low_of<D>(node, axis, i) > boxes.low[i][axis])
                --node.low[axis][i];
            while (node.high[axis][i] < 255 && high_of<D>(node, axis, i) < boxes.high[i][axis])
                ++node.high[axis][i];
        }
    }
}

template void pack<2>(TreeNode<2>&, const ChildBoxes<2>&);
template void pack<3>(TreeNode<3>&, const ChildBoxes<3>&);
template BuiltTree<2> build_tree<2>(const TreeInput<2>&);
template BuiltTree<3> build_tree<3>(const TreeInput<3>&);

}  // namespace hollow_probe
