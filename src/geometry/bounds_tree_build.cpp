// Top-down build by the surface area heuristic. A node's range is cut in two again and again, the largest
// part first, until it has eight parts; ranges of up to eight items become blocks. Short ranges are cut at
// multiples of eight, so that blocks are full: a lane not used costs as much as one that is.
#include "geometry/bounds_tree_build.hpp"

#include <tbb/parallel_for.h>
#include <tbb/parallel_reduce.h>

#include <algorithm>
#include <bit>
#include <cstring>

namespace hollow_probe {
namespace {

constexpr std::size_t bin_count = 16;
constexpr std::size_t short_range = 64;         // cut by sorting, not by bins
constexpr std::size_t own_task = 1U << 14U;     // items worth a task of their own
constexpr std::size_t shared_pass = 1U << 17U;  // items worth several threads in one pass
constexpr int sure_depth = 24;                  // below it ranges are halved, which bounds the depth

struct BuildItem {
    alignas(16) std::array<float, 4> low{};
    alignas(16) std::array<float, 4> high{};  // the fourth: the bits of the item's place in the input
};

struct Extent {
    alignas(16) std::array<float, 4> low{infinite, infinite, infinite, infinite};
    alignas(16) std::array<float, 4> high{-infinite, -infinite, -infinite, -infinite};

    static constexpr float infinite = std::numeric_limits<float>::infinity();

    void grow(const float* other_low, const float* other_high) {
        // Four at a time in one register, as compilers see it when it is written like this.
        for (std::size_t i = 0; i < 4; ++i) low[i] = other_low[i] < low[i] ? other_low[i] : low[i];
        for (std::size_t i = 0; i < 4; ++i) high[i] = other_high[i] > high[i] ? other_high[i] : high[i];
    }
    void grow(const Extent& other) { grow(other.low.data(), other.high.data()); }
    void grow(const BuildItem& item) { grow(item.low.data(), item.high.data()); }

    /// Half the surface in 3D, half the outline in 2D.
    template <int D>
    [[nodiscard]] float area() const {
        if (low[0] > high[0]) return 0.0F;
        const float x = high[0] - low[0];
        const float y = high[1] - low[1];
        if constexpr (D == 2) return x + y;
        const float z = high[2] - low[2];
        return x * y + y * z + z * x;
    }
};

struct Range {
    std::size_t first = 0;
    std::size_t last = 0;
    Extent box;
    Extent centers;  // of twice the centers

    [[nodiscard]] std::size_t count() const { return last - first; }
};

float center2(const BuildItem& item, int axis) {
    return item.low[axis] + item.high[axis];
}

void grow_centers(Extent& centers, const BuildItem& item) {
    alignas(16) std::array<float, 4> sum;
    for (std::size_t i = 0; i < 4; ++i) sum[i] = item.low[i] + item.high[i];
    centers.grow(sum.data(), sum.data());
}

template <int D>
struct Bins {
    struct Bin {
        Extent box;
        std::uint32_t count = 0;
    };
    std::array<std::array<Bin, bin_count>, D> at;

    void join(const Bins& other) {
        for (int axis = 0; axis < D; ++axis) {
            for (std::size_t b = 0; b < bin_count; ++b) {
                at[axis][b].box.grow(other.at[axis][b].box);
                at[axis][b].count += other.at[axis][b].count;
            }
        }
    }
};

template <int D>
struct Binning {
    std::array<float, D> start{};
    std::array<float, D> scale{};

    explicit Binning(const Extent& centers) {
        for (int axis = 0; axis < D; ++axis) {
            const float size = centers.high[axis] - centers.low[axis];
            start[axis] = centers.low[axis];
            scale[axis] = size > 0.0F ? static_cast<float>(bin_count) * 0.9999F / size : 0.0F;
            if (!std::isfinite(scale[axis])) scale[axis] = 0.0F;
        }
    }
    [[nodiscard]] std::size_t bin(const BuildItem& item, int axis) const {
        const auto b = static_cast<std::int32_t>((center2(item, axis) - start[axis]) * scale[axis]);
        return static_cast<std::size_t>(std::clamp<std::int32_t>(b, 0, bin_count - 1));
    }
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
        root.blocks.reserve(input_.count / 6 + 1);
        build_node(root, all, 0);
        result.nodes = std::move(root.nodes);
        result.blocks = std::move(root.blocks);
        return result;
    }

  private:
    struct Subtree {
        PageVector<TreeNode<D>> nodes;
        PageVector<TreeBlock<D>> blocks;
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
            });
        result.origin = all.low + 0.5 * all.size();
        result.extent = (0.5 * all.size()).cwiseAbs().maxCoeff();
    }

    Range read_items() {
        Range all = tbb::parallel_reduce(
            tbb::blocked_range<std::size_t>(0, input_.count, shared_pass / 8), Range{},
            [&](const tbb::blocked_range<std::size_t>& range, Range sum) {
                for (std::size_t i = range.begin(); i < range.end(); ++i) {
                    const Bounds<D> box = input_.bounds(i);
                    BuildItem& item = items_[i];
                    for (int axis = 0; axis < D; ++axis) {
                        item.low[axis] = float_below(box.low[axis] - origin_[axis]);
                        item.high[axis] = float_above(box.high[axis] - origin_[axis]);
                    }
                    item.high[3] = std::bit_cast<float>(static_cast<std::uint32_t>(i));
                    grow(sum, item);
                }
                return sum;
            },
            [](Range a, const Range& b) {
                a.box.grow(b.box);
                a.centers.grow(b.centers);
                return a;
            });
        all.last = input_.count;
        return all;
    }

    static void grow(Range& range, const BuildItem& item) {
        range.box.grow(item);
        grow_centers(range.centers, item);
    }

    Range measured(std::size_t first, std::size_t last) const {
        Range range{first, last, {}, {}};
        for (std::size_t i = first; i < last; ++i) grow(range, items_[i]);
        return range;
    }

    /// Appends the node of a range, and all below it, to `out`.
    void build_node(Subtree& out, const Range& range, int depth) {
        std::vector<Range> parts = {range};
        while (parts.size() < 8) {
            std::size_t widest = parts.size();
            float most = -1.0F;
            for (std::size_t i = 0; i < parts.size(); ++i) {
                if (parts[i].count() > 8 && parts[i].box.template area<D>() > most) {
                    most = parts[i].box.template area<D>();
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
        tbb::parallel_for(std::size_t{0}, parts.size(), [&](std::size_t i) {
            if (parts[i].count() > 8) build_node(below[i], parts[i], depth + 1);
        });
        for (std::size_t i = 0; i < parts.size(); ++i) {
            const std::uint32_t child =
                parts[i].count() > 8 ? append(out, below[i]) : add_block(out, parts[i]);
            set_child(out, node, i, parts[i], child, boxes);
        }
        pack<D>(out.nodes[node], boxes);
    }

    std::uint32_t build_part(Subtree& out, const Range& part, int depth) {
        if (part.count() <= 8) return add_block(out, part);
        const auto child = static_cast<std::uint32_t>(out.nodes.size());
        build_node(out, part, depth + 1);
        return child;
    }

    static std::uint32_t append(Subtree& out, Subtree& below) {
        const auto first_node = static_cast<std::uint32_t>(out.nodes.size());
        const auto first_block = static_cast<std::uint32_t>(out.blocks.size());
        for (TreeNode<D>& node : below.nodes) {
            for (std::uint32_t& child : node.child) {
                child += (child & TreeNode<D>::leaf) != 0 ? first_block : first_node;
            }
        }
        out.nodes.insert(out.nodes.end(), below.nodes.begin(), below.nodes.end());
        out.blocks.insert(out.blocks.end(), below.blocks.begin(), below.blocks.end());
        below = {};
        return first_node;
    }

    static void set_child(Subtree& out, std::size_t node, std::size_t place, const Range& part,
                          std::uint32_t child, ChildBoxes<D>& boxes) {
        TreeNode<D>& to = out.nodes[node];
        for (int axis = 0; axis < D; ++axis) {
            boxes.low[place][axis] = part.box.low[axis];
            boxes.high[place][axis] = part.box.high[axis];
        }
        to.child[place] = child;
        std::uint16_t layers = 0;
        if ((child & TreeNode<D>::leaf) != 0) {
            const TreeBlock<D>& block = out.blocks[child & ~TreeNode<D>::leaf];
            for (std::size_t i = 0; i < block.count; ++i) {
                layers = static_cast<std::uint16_t>(layers | 1U << block.layer[i] % 16U);
            }
        } else {
            for (const std::uint16_t below : out.nodes[child].layers) {
                layers = static_cast<std::uint16_t>(layers | below);
            }
        }
        to.layers[place] = layers;
    }

    std::uint32_t add_block(Subtree& out, const Range& part) {
        const auto index = static_cast<std::uint32_t>(out.blocks.size());
        TreeBlock<D>& block = out.blocks.emplace_back();
        std::memset(static_cast<void*>(&block), 0, sizeof block);
        block.count = static_cast<std::uint8_t>(part.count());
        for (std::size_t lane = 0; lane < part.count(); ++lane) {
            const std::size_t i = std::bit_cast<std::uint32_t>(items_[part.first + lane].high[3]);
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
        return index | TreeNode<D>::leaf;
    }

    std::pair<Range, Range> split(const Range& range, int depth) {
        if (depth >= sure_depth) return halve(range);
        return range.count() <= short_range ? split_short(range) : split_long(range);
    }

    /// At the middle of the widest axis; what is left when nothing tells the items apart.
    std::pair<Range, Range> halve(const Range& range) {
        int axis = 0;
        for (int k = 1; k < D; ++k) {
            if (range.centers.high[k] - range.centers.low[k] >
                range.centers.high[axis] - range.centers.low[axis])
                axis = k;
        }
        std::size_t middle = range.first + range.count() / 2;
        middle += (8 - (middle - range.first) % 8) % 8;
        if (middle >= range.last) middle = range.first + 8;
        const auto at = [&](std::size_t i) { return items_.begin() + static_cast<std::ptrdiff_t>(i); };
        std::nth_element(at(range.first), at(middle), at(range.last),
                         [&](const BuildItem& a, const BuildItem& b) { return before(a, b, axis); });
        return {measured(range.first, middle), measured(middle, range.last)};
    }

    static bool before(const BuildItem& a, const BuildItem& b, int axis) {
        const float x = center2(a, axis);
        const float y = center2(b, axis);
        if (x != y) return x < y;
        return std::bit_cast<std::uint32_t>(a.high[3]) < std::bit_cast<std::uint32_t>(b.high[3]);
    }

    /// The best of the cuts after 8, 16, … items in the order of any axis.
    std::pair<Range, Range> split_short(const Range& range) {
        const std::size_t count = range.count();
        std::array<BuildItem, short_range> best_order;
        std::array<BuildItem, short_range> order;
        std::size_t best_cut = 0;
        float best_cost = Extent::infinite;
        for (int axis = 0; axis < D; ++axis) {
            if (!(range.centers.high[axis] > range.centers.low[axis])) continue;
            std::copy_n(items_.begin() + static_cast<std::ptrdiff_t>(range.first), count, order.begin());
            std::sort(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(count),
                      [&](const BuildItem& a, const BuildItem& b) { return before(a, b, axis); });
            std::array<float, short_range / 8 + 1> above{};
            Extent box;
            for (std::size_t i = count; i-- > 0;) {
                box.grow(order[i]);
                if (i % 8 == 0) above[i / 8] = box.area<D>();
            }
            box = {};
            bool better = false;
            for (std::size_t i = 0; i < count; ++i) {
                if (i > 0 && i % 8 == 0) {
                    const float cost = box.area<D>() * static_cast<float>(i / 8) +
                                       above[i / 8] * static_cast<float>((count - i + 7) / 8);
                    if (cost < best_cost) {
                        best_cost = cost;
                        best_cut = i;
                        better = true;
                    }
                }
                box.grow(order[i]);
            }
            if (better) best_order = order;
        }
        if (best_cut == 0) return halve(range);
        std::copy_n(best_order.begin(), count, items_.begin() + static_cast<std::ptrdiff_t>(range.first));
        return {measured(range.first, range.first + best_cut), measured(range.first + best_cut, range.last)};
    }

    std::pair<Range, Range> split_long(const Range& range) {
        const Binning<D> binning(range.centers);
        const Bins<D> bins = fill(range, binning);
        int best_axis = -1;
        std::size_t best_bin = 0;
        float best_cost = Extent::infinite;
        for (int axis = 0; axis < D; ++axis) {
            if (binning.scale[axis] == 0.0F) continue;
            std::array<float, bin_count> above{};
            Extent box;
            std::size_t count = 0;
            for (std::size_t b = bin_count - 1; b > 0; --b) {
                box.grow(bins.at[axis][b].box);
                count += bins.at[axis][b].count;
                above[b] = box.area<D>() * static_cast<float>((count + 7) / 8);
            }
            box = {};
            count = 0;
            for (std::size_t b = 1; b < bin_count; ++b) {
                box.grow(bins.at[axis][b - 1].box);
                count += bins.at[axis][b - 1].count;
                if (count == 0 || count == range.count()) continue;
                const float cost = box.area<D>() * static_cast<float>((count + 7) / 8) + above[b];
                if (cost < best_cost) {
                    best_cost = cost;
                    best_axis = axis;
                    best_bin = b;
                }
            }
        }
        if (best_axis < 0) return halve(range);
        return partition(range,
                         [&](const BuildItem& item) { return binning.bin(item, best_axis) < best_bin; });
    }

    Bins<D> fill(const Range& range, const Binning<D>& binning) const {
        const auto pass = [&](std::size_t first, std::size_t last, Bins<D>& bins) {
            for (std::size_t i = first; i < last; ++i) {
                const BuildItem& item = items_[i];
                for (int axis = 0; axis < D; ++axis) {
                    auto& bin = bins.at[axis][binning.bin(item, axis)];
                    bin.box.grow(item);
                    ++bin.count;
                }
            }
        };
        if (range.count() < shared_pass) {
            Bins<D> bins;
            pass(range.first, range.last, bins);
            return bins;
        }
        return tbb::parallel_reduce(
            tbb::blocked_range<std::size_t>(range.first, range.last, shared_pass / 8), Bins<D>{},
            [&](const tbb::blocked_range<std::size_t>& part, Bins<D> bins) {
                pass(part.begin(), part.end(), bins);
                return bins;
            },
            [](Bins<D> a, const Bins<D>& b) {
                a.join(b);
                return a;
            });
    }

    template <class Left>
    std::pair<Range, Range> partition(const Range& range, Left goes_left) {
        Range left{range.first, range.first, {}, {}};
        Range right{range.last, range.last, {}, {}};
        std::size_t i = range.first;
        std::size_t k = range.last;
        for (;;) {
            while (i < k && goes_left(items_[i])) grow(left, items_[i++]);
            while (i < k && !goes_left(items_[k - 1])) grow(right, items_[--k]);
            if (i >= k) break;
            std::swap(items_[i], items_[k - 1]);
        }
        left.last = i;
        right.first = i;
        return {left, right};
    }

    const TreeInput<D>& input_;
    std::vector<BuildItem> items_;
    Vec<D> origin_ = Vec<D>::Zero();
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
