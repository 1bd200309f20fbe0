// The spatial index: a bounding volume hierarchy of eight children a node, over boxes and facets.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <type_traits>
#include <vector>

#include "hollow_probe/geometry/hull_store.hpp"
#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

/// One bit for each layer, at most 64 of them.
using LayerSet = std::uint64_t;
inline constexpr std::size_t most_layers = 64;
inline constexpr LayerSet all_layers = ~LayerSet{0};

/// A shape on its way, as the index sees it: a core held by center ± axes (any combination of them), inflated
/// by a radius. All zero is a ray.
template <int D>
struct Sweep {
    Vec<D> center = Vec<D>::zero();
    std::array<Vec<D>, D> axes = zeros();
    double radius = 0.0;
    Vec<D> direction = Vec<D>::zero();  // unit
    double reach = 0.0;                 // >= 0; may be infinite
    LayerSet layers = all_layers;

    static std::array<Vec<D>, D> zeros() {
        std::array<Vec<D>, D> result;
        result.fill(Vec<D>::zero());
        return result;
    }
};

/// The sweep of a hull standing at `start`: exact for points, segments and parallelepipeds, a box around
/// other cores.
template <int D>
Sweep<D> sweep_of(const HullView<D>& mover, const Vec<D>& start, const Vec<D>& direction, double reach);

/// The sweep of a box.
template <int D>
Sweep<D> sweep_of(const Bounds<D>& mover, const Vec<D>& direction, double reach);

/// A sweep in floats, without its place, for those who send the same one from many places.
template <int D>
struct PreparedSweep {
    PreparedSweep() = default;
    explicit PreparedSweep(const Sweep<D>& sweep);

    float direction[D]{};
    float inverse[D]{};  // of the direction, kept finite
    float axes[D][D]{};
    float half[D]{};  // of the box around the mover
    float radius = 0.0F;
    double reach = 0.0;
    LayerSet layers = 0;
    std::uint16_t folded_layers = 0;
    int axis_count = 0;  // of the mover: -1 a ray, 0 a ball, 1 a capsule, D any other
};

/// Eight children. Their bounds are kept in steps of 1/255 of the node's own box, rounded outwards (H.
/// Ylitie, T. Karras, S. Laine, "Efficient incoherent ray traversal on GPUs through compressed wide BVHs",
/// 2017), so that a node is two cache lines. Positions are relative to the tree's origin.
template <int D>
struct alignas(64) TreeNode {
    static constexpr std::uint32_t leaf = 0x80000000U;
    float origin[D];
    float step[D];
    std::uint8_t low[D][8];
    std::uint8_t high[D][8];
    std::uint32_t child[8];   // a node, or a block with the leaf bit
    std::uint16_t layers[8];  // bit l % 16 for every layer l below; 0 for an empty place
};

/// Up to eight items: facets as a corner and the edges from it, boxes as their low corner and size.
template <int D>
struct alignas(32) TreeBlock {
    float base[D][8];
    float edge[D - 1][D][8];
    std::uint32_t item[8];
    std::uint8_t layer[8];
    std::uint8_t count;
    std::uint8_t facets;  // one bit a lane
};

/// Blocks gathered around one place, to be swept through many times; see BoundsTree::gather().
template <int D>
struct Gathered {  // NOLINT(cppcoreguidelines-pro-type-member-init): gather() fills what it counts
    static constexpr std::size_t most_blocks = 48;
    std::array<TreeBlock<D>, most_blocks> blocks;
    std::size_t count = 0;
};

/// A prepared sweep and where it starts.
template <int D>
struct PlacedSweep {
    const PreparedSweep<D>* sweep = nullptr;
    Vec<D> center;
};

/// Finds the boxes and facets that a box overlaps, that a moving shape may meet, or that lie near, in time
/// logarithmic in their number for ordinary scenes. What it finds are candidates: all that are truly met, and
/// a few more, since it works in float with a margin over every rounding; the caller decides exactly. Queries
/// are const, allocate nothing and are safe from any number of threads.
///
///     BoundsTree<2> tree(boxes);
///     tree.overlapping(query, all_layers, [&](std::uint32_t item) { ... });
///
/// The leaf tests run in SIMD, eight items at a time, in the best instruction set the machine has.
template <int D>
class BoundsTree {
  public:
    BoundsTree() = default;
    explicit BoundsTree(std::span<const Bounds<D>> boxes);
    /// Over the hulls with the given numbers. `layer_of_item` has the layer of every item, or is empty: all
    /// on layer 0.
    ///
    /// Split by the surface area heuristic over binned centers (I. Wald, "On fast construction of SAH-based
    /// bounding volume hierarchies", 2007), on all threads. The same tree for any number of them. O(n log n).
    BoundsTree(const HullStore<D>& hulls, std::span<const std::uint32_t> items,
               std::span<const std::uint8_t> layer_of_item);

    /// Moves the items, keeping the tree's shape; facets are from now on told by their boxes alone. O(n). For
    /// things that move a little; a tree of things strewn far from where they were is slow, never wrong.
    void refit(std::span<const Bounds<D>> boxes);

    [[nodiscard]] std::size_t node_count() const { return nodes_.size(); }
    [[nodiscard]] std::size_t bytes() const {
        return nodes_.size() * sizeof(TreeNode<D>) + blocks_.size() * sizeof(TreeBlock<D>);
    }
    [[nodiscard]] bool empty() const { return blocks_.empty(); }

    /// Calls visit(item) for every item whose box overlaps `query` (touching counts), each once. A visitor
    /// that returns bool ends the search by returning false.
    template <class Visit>
    void overlapping(const Bounds<D>& query, LayerSet layers, Visit visit) const {
        overlapping_(query, layers, Caller<Visit, 0>(visit));
    }

    /// Calls visit(item, limit) for every item the sweep may meet within its reach, roughly nearest first;
    /// visit returns the new, never greater, limit. Items beyond it are skipped.
    template <class Visit>
    void along(const Sweep<D>& sweep, Visit visit) const {
        along_(sweep, Caller<Visit, 1>(visit));
    }
    /// … for a prepared sweep that starts at `center`.
    template <class Visit>
    void along(const PreparedSweep<D>& sweep, const Vec<D>& center, Visit visit) const {
        along_(sweep, center, Caller<Visit, 1>(visit));
    }

    /// along() for `count` sweeps, sweep i being make(i). Several are under way at once, so that one computes
    /// while others wait for memory: about twice as fast where the level is larger than the cache.
    /// visit(sweep number, item, limit) is as in along(); prepare(item) is called some time before it. All in
    /// the calling thread.
    template <class Make, class Visit, class Prepare>
    void along_many(std::size_t count, Make make, Visit visit, Prepare prepare) const {
        struct All {
            Make& make;
            Visit& visit;
            Prepare& prepare;
        } all{make, visit, prepare};
        along_many_(
            count,
            {&all, [](void* c, std::size_t sweep) -> Sweep<D> { return static_cast<All*>(c)->make(sweep); },
             [](void* c, std::size_t sweep, std::uint32_t item, double limit) -> double {
                 return static_cast<All*>(c)->visit(sweep, item, limit);
             },
             [](void* c, std::uint32_t item) { static_cast<All*>(c)->prepare(item); }});
    }

    /// Calls visit(item, limit) for every item whose box is no farther than `limit` from the box `from`,
    /// roughly nearest first; visit returns the new, never greater, limit.
    template <class Visit>
    void around(const Bounds<D>& from, double limit, LayerSet layers, Visit visit) const {
        around_(from, limit, layers, Caller<Visit, 1>(visit));
    }

    /// Copies all items whose boxes overlap `query` to `out`. False when they do not fit: out is then
    /// useless.
    bool gather(const Bounds<D>& query, LayerSet layers, Gathered<D>& out) const;

    /// Which gathered items each sweep may meet within its reach: bit k of lanes[i * gathered.count + b] is
    /// for sweep i and item k of block b. `lanes` has room for all of them. Layers are left to the caller.
    void candidates(const Gathered<D>& gathered, std::span<const PlacedSweep<D>> sweeps,
                    std::span<std::uint8_t> lanes) const;

    /// Where the floats are relative to, and how far from it they reach.
    [[nodiscard]] const Vec<D>& origin() const { return origin_; }
    [[nodiscard]] double extent() const { return extent_; }
    [[nodiscard]] const PageVector<TreeNode<D>>& nodes() const { return nodes_; }
    [[nodiscard]] const PageVector<TreeBlock<D>>& blocks() const { return blocks_; }

    /// A visitor without its type, as the queries take it.
    struct Visitor {
        void* context = nullptr;
        double (*visit)(void* context, std::uint32_t item, double limit) = nullptr;
    };
    struct ManyVisitor {
        void* context = nullptr;
        Sweep<D> (*make)(void* context, std::size_t sweep) = nullptr;
        double (*visit)(void* context, std::size_t sweep, std::uint32_t item, double limit) = nullptr;
        void (*prepare)(void* context, std::uint32_t item) = nullptr;
    };

  private:
    template <class Visit, int takes_limit>
    struct Caller {
        explicit Caller(Visit& visit) : context(&visit) {}
        operator Visitor() const {  // NOLINT(google-explicit-constructor)
            return {
                context, [](void* c, std::uint32_t item, double limit) -> double {
                    if constexpr (takes_limit != 0) {
                        return (*static_cast<Visit*>(c))(item, limit);
                    } else if constexpr (std::is_same_v<decltype((*static_cast<Visit*>(c))(item)), bool>) {
                        return (*static_cast<Visit*>(c))(item) ? limit : -1.0;
                    } else {
                        (*static_cast<Visit*>(c))(item);
                        return limit;
                    }
                }};
        }
        void* context;
    };

    void overlapping_(const Bounds<D>& query, LayerSet layers, Visitor visitor) const;
    void along_(const Sweep<D>& sweep, Visitor visitor) const;
    void along_(const PreparedSweep<D>& sweep, const Vec<D>& center, Visitor visitor) const;
    void along_many_(std::size_t count, ManyVisitor visitor) const;
    void around_(const Bounds<D>& from, double limit, LayerSet layers, Visitor visitor) const;

    PageVector<TreeNode<D>> nodes_;  // the root first; children after their parents
    PageVector<TreeBlock<D>> blocks_;
    Vec<D> origin_ = Vec<D>::zero();
    double extent_ = 0.0;
};

extern template struct PreparedSweep<2>;
extern template struct PreparedSweep<3>;
extern template class BoundsTree<2>;
extern template class BoundsTree<3>;

}  // namespace hollow_probe
