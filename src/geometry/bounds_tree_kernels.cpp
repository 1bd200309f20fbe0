// Traversal and leaf tests of BoundsTree. This file is compiled once for each instruction set; the best one
// the machine has is taken at run time.
//
// Leaf tests pass over an item only if a plane parts it from the whole sweep by more than a margin over all
// roundings: along a facet, the planes through the direction of travel and an edge (T. Möller, B. Trumbore,
// "Fast, minimum storage ray/triangle intersection", 1997, whose barycentric coordinates are the distances
// from them), its own plane, and the sides of its box. Comparisons are written so that a NaN keeps the item.
#include "geometry/bounds_tree_kernels.hpp"

#include <bit>
#include <cmath>

#define HWY_DISABLED_TARGETS (HWY_SSSE3 | HWY_SSE4 | HWY_AVX3_DL)
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "geometry/bounds_tree_kernels.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace hollow_probe::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

using Tag = hn::CappedTag<float, 8>;
using Lanes = hn::Vec<Tag>;

constexpr std::size_t stack_size = 256;  // the builder keeps trees shallow enough

struct Entry {
    std::uint32_t child;
    float enters;
};

template <class Mask>
HWY_INLINE unsigned bits_of(Mask mask) {
    std::uint8_t bits = 0;
    hn::StoreMaskBits(Tag(), mask, &bits);
    return bits;
}

/// Reaches that are not finite stay so; others grow over their rounding.
HWY_INLINE float reach_in_float(double reach, float slack) {
    return static_cast<float>(reach) * 1.000001F + slack;
}

/// The slabs of a box are entered and left at plane · inverse + bias.
template <int D>
struct Slabs {
    float inverse[D]{};
    float near[D]{};
    float far[D]{};
};

template <int D>
HWY_INLINE Slabs<D> slabs_of(const PreparedSweep<D>& sweep, const SweepPlace<D>& place) {
    Slabs<D> slabs;
    for (int axis = 0; axis < D; ++axis) {
        const float half = sweep.half[axis] + place.slack;
        const float grown = sweep.inverse[axis] >= 0.0F ? half : -half;
        slabs.inverse[axis] = sweep.inverse[axis];
        slabs.near[axis] = -(place.center[axis] + grown) * slabs.inverse[axis];
        slabs.far[axis] = (grown - place.center[axis]) * slabs.inverse[axis];
    }
    return slabs;
}

/// The items with bounds low … high that a sweep enters within `limit`; when, goes to `enters`.
template <int D>
HWY_INLINE unsigned entered(const float (&low)[D][8], const float (&high)[D][8], const Slabs<D>& slabs,
                            float limit, float* enters) {
    const Tag tag;
    unsigned result = 0;
    for (std::size_t i = 0; i < 8; i += hn::Lanes(tag)) {
        Lanes enter = hn::Zero(tag);
        Lanes leave = hn::Set(tag, limit);
        for (int axis = 0; axis < D; ++axis) {
            const bool forward = slabs.inverse[axis] >= 0.0F;
            const float* near = forward ? low[axis] : high[axis];
            const float* far = forward ? high[axis] : low[axis];
            const Lanes inverse = hn::Set(tag, slabs.inverse[axis]);
            enter =
                hn::Max(enter, hn::MulAdd(hn::Load(tag, near + i), inverse, hn::Set(tag, slabs.near[axis])));
            leave =
                hn::Min(leave, hn::MulAdd(hn::Load(tag, far + i), inverse, hn::Set(tag, slabs.far[axis])));
        }
        hn::Store(enter, tag, enters + i);
        result |= bits_of(hn::Not(hn::Gt(enter, hn::Mul(leave, hn::Set(tag, 1.000001F))))) << i;
    }
    return result;
}

HWY_INLINE Lanes steps(const std::uint8_t* packed) {
    const hn::RebindToSigned<Tag> whole;
    return hn::ConvertTo(Tag(), hn::PromoteTo(whole, hn::LoadU(hn::Rebind<std::uint8_t, Tag>(), packed)));
}

/// … and the same for the children of a node.
template <int D>
HWY_INLINE unsigned entered(const TreeNode<D>& node, const Slabs<D>& slabs, float limit, float* enters) {
    const Tag tag;
    float stride[D];
    float near_bias[D];
    float far_bias[D];
    for (int axis = 0; axis < D; ++axis) {
        const float start = node.origin[axis] * slabs.inverse[axis];
        stride[axis] = node.step[axis] * slabs.inverse[axis];
        near_bias[axis] = start + slabs.near[axis];
        far_bias[axis] = start + slabs.far[axis];
    }
    unsigned result = 0;
    for (std::size_t i = 0; i < 8; i += hn::Lanes(tag)) {
        Lanes enter = hn::Zero(tag);
        Lanes leave = hn::Set(tag, limit);
        for (int axis = 0; axis < D; ++axis) {
            const bool forward = slabs.inverse[axis] >= 0.0F;
            const std::uint8_t* near = forward ? node.low[axis] : node.high[axis];
            const std::uint8_t* far = forward ? node.high[axis] : node.low[axis];
            const Lanes per_step = hn::Set(tag, stride[axis]);
            enter = hn::Max(enter, hn::MulAdd(steps(near + i), per_step, hn::Set(tag, near_bias[axis])));
            leave = hn::Min(leave, hn::MulAdd(steps(far + i), per_step, hn::Set(tag, far_bias[axis])));
        }
        hn::Store(enter, tag, enters + i);
        result |= bits_of(hn::Not(hn::Gt(enter, hn::Mul(leave, hn::Set(tag, 1.000001F))))) << i;
    }
    return result;
}

template <int D>
struct Vector {
    Lanes at[D];
};

template <int D>
HWY_INLINE Lanes dot(const Vector<D>& a, const Vector<D>& b) {
    Lanes sum = hn::Mul(a.at[0], b.at[0]);
    for (int i = 1; i < D; ++i) sum = hn::MulAdd(a.at[i], b.at[i], sum);
    return sum;
}

HWY_INLINE Vector<3> cross(const Vector<3>& a, const Vector<3>& b) {
    return {{hn::NegMulAdd(a.at[2], b.at[1], hn::Mul(a.at[1], b.at[2])),
             hn::NegMulAdd(a.at[0], b.at[2], hn::Mul(a.at[2], b.at[0])),
             hn::NegMulAdd(a.at[1], b.at[0], hn::Mul(a.at[0], b.at[1]))}};
}

template <int D>
HWY_INLINE Vector<D> minus(const Vector<D>& a, const Vector<D>& b) {
    Vector<D> result;
    for (int i = 0; i < D; ++i) result.at[i] = hn::Sub(a.at[i], b.at[i]);
    return result;
}

template <int D>
HWY_INLINE Lanes sum_of_sizes(const Vector<D>& a) {
    Lanes sum = hn::Abs(a.at[0]);
    for (int i = 1; i < D; ++i) sum = hn::Add(sum, hn::Abs(a.at[i]));
    return sum;
}

template <int D>
HWY_INLINE Vector<D> everywhere(const float (&v)[D]) {
    Vector<D> result;
    for (int i = 0; i < D; ++i) result.at[i] = hn::Set(Tag(), v[i]);
    return result;
}

template <int D>
HWY_INLINE Vector<D> load(const float (&rows)[D][8], std::size_t i) {
    Vector<D> result;
    for (int axis = 0; axis < D; ++axis) result.at[axis] = hn::Load(Tag(), rows[axis] + i);
    return result;
}

/// What is known of a mover when its kernel is compiled: a ray, or how many of its axes are not zero.
constexpr int thin = -1;

/// How far the mover extends to either side along n, times |n|.
template <int axes, int D>
HWY_INLINE Lanes extent(const PreparedSweep<D>& sweep, const Vector<D>& n) {
    if constexpr (axes == thin) {
        return hn::Zero(Tag());
    } else {
        Lanes sum = hn::Mul(hn::Set(Tag(), sweep.radius), hn::Sqrt(dot<D>(n, n)));
        for (int k = 0; k < axes; ++k) {
            sum = hn::Add(sum, hn::Abs(dot<D>(n, everywhere<D>(sweep.axes[k]))));
        }
        return sum;
    }
}

/// The box around an item, from the corner and edges it is kept as.
template <int D>
HWY_INLINE void box_of(const TreeBlock<D>& block, std::size_t i, Vector<D>& low, Vector<D>& high) {
    for (int axis = 0; axis < D; ++axis) {
        const Lanes base = hn::Load(Tag(), block.base[axis] + i);
        Lanes least = hn::Zero(Tag());
        Lanes most = hn::Zero(Tag());
        for (int k = 0; k + 1 < D; ++k) {
            const Lanes edge = hn::Load(Tag(), block.edge[k][axis] + i);
            least = hn::Min(least, edge);
            most = hn::Max(most, edge);
        }
        low.at[axis] = hn::Add(base, least);
        high.at[axis] = hn::Add(base, most);
    }
}

/// The lanes of a block whose boxes the sweep enters.
template <int D>
HWY_INLINE unsigned boxes_entered(const TreeBlock<D>& block, const PreparedSweep<D>& sweep,
                                  const SweepPlace<D>& place, float limit) {
    alignas(32) float low[D][8];
    alignas(32) float high[D][8];
    alignas(32) float enters[8];
    for (std::size_t i = 0; i < 8; i += hn::Lanes(Tag())) {
        Vector<D> least;
        Vector<D> most;
        box_of<D>(block, i, least, most);
        for (int axis = 0; axis < D; ++axis) {
            hn::Store(least.at[axis], Tag(), low[axis] + i);
            hn::Store(most.at[axis], Tag(), high[axis] + i);
        }
    }
    return entered<D>(low, high, slabs_of<D>(sweep, place), limit, enters);
}

/// Lanes that a plane parts from the sweep, as if all were facets; `unsure` gets those that lie so nearly
/// along the direction that their planes say nothing.
template <int axes, int D>
HWY_INLINE unsigned parted(const TreeBlock<D>& block, const PreparedSweep<D>& sweep,
                           const SweepPlace<D>& place, float limit, unsigned& unsure) {
    const Tag tag;
    const Lanes slack = hn::Set(tag, place.slack);
    const Lanes reach = hn::Set(tag, limit);
    const Vector<D> direction = everywhere<D>(sweep.direction);
    unsigned apart_bits = 0;
    unsigned unsure_bits = 0;
    for (std::size_t i = 0; i < 8; i += hn::Lanes(tag)) {
        const Vector<D> from_base = minus<D>(everywhere<D>(place.center), load<D>(block.base, i));
        Lanes det;
        Lanes edges_size;
        Vector<D> normal;
        hn::Mask<Tag> apart;
        if constexpr (D == 3) {
            const Vector<3> e1 = load<3>(block.edge[0], i);
            const Vector<3> e2 = load<3>(block.edge[1], i);
            const Vector<3> across2 = cross(direction, e2);
            const Vector<3> across1 = cross(direction, e1);
            const Lanes size1 = sum_of_sizes<3>(e1);
            const Lanes size2 = sum_of_sizes<3>(e2);
            det = dot<3>(e1, across2);
            edges_size = hn::Mul(size1, size2);
            normal = cross(e1, e2);
            const Lanes u = hn::CopySign(hn::Set(tag, 1.0F), det);
            const Lanes along2 = hn::Mul(u, dot<3>(from_base, across2));
            const Lanes along1 = hn::Mul(u, hn::Neg(dot<3>(from_base, across1)));
            const Lanes rest = hn::Sub(hn::Sub(hn::Abs(det), along2), along1);
            Lanes margin2 = hn::Mul(slack, size2);
            Lanes margin1 = hn::Mul(slack, size1);
            Lanes margin0 = hn::Add(margin1, margin2);
            if constexpr (axes != thin) {
                margin2 = hn::Add(margin2, extent<axes, 3>(sweep, across2));
                margin1 = hn::Add(margin1, extent<axes, 3>(sweep, across1));
                margin0 = hn::Add(margin0, extent<axes, 3>(sweep, minus<3>(across2, across1)));
            }
            apart = hn::Or(hn::Or(hn::Lt(along2, hn::Neg(margin2)), hn::Lt(along1, hn::Neg(margin1))),
                           hn::Lt(rest, hn::Neg(margin0)));
            if constexpr (axes == 1) {
                // Beside the plane through the direction and the axis, from which the mover is a radius away.
                const Vector<3> aside = cross(direction, everywhere<3>(sweep.axes[0]));
                const Lanes most = hn::MulAdd(hn::Set(tag, sweep.radius), hn::Sqrt(dot<3>(aside, aside)),
                                              hn::Mul(slack, sum_of_sizes<3>(aside)));
                const Lanes at0 = hn::Neg(dot<3>(from_base, aside));
                const Lanes at1 = hn::Add(at0, dot<3>(e1, aside));
                const Lanes at2 = hn::Add(at0, dot<3>(e2, aside));
                apart = hn::Or(apart, hn::Gt(hn::Min(at0, hn::Min(at1, at2)), most));
                apart = hn::Or(apart, hn::Lt(hn::Max(at0, hn::Max(at1, at2)), hn::Neg(most)));
            }
        } else {
            const Vector<2> e = load<2>(block.edge[0], i);
            const Vector<2> aside = {{hn::Neg(direction.at[1]), direction.at[0]}};
            det = dot<2>(aside, e);
            edges_size = sum_of_sizes<2>(e);
            normal = {{hn::Neg(e.at[1]), e.at[0]}};
            const Lanes first = hn::Neg(dot<2>(aside, from_base));
            const Lanes second = hn::Add(first, det);
            const Lanes margin = hn::Add(slack, extent<axes, 2>(sweep, aside));
            apart = hn::Or(hn::Gt(hn::Min(first, second), margin),
                           hn::Lt(hn::Max(first, second), hn::Neg(margin)));
        }
        const Lanes size = hn::Abs(det);
        const hn::Mask<Tag> flat = hn::Not(hn::Gt(size, hn::Mul(hn::Set(tag, float_slack), edges_size)));
        // Its own plane: the height above it goes from `height` at the start down to height - reach·size.
        const Lanes height = hn::Mul(hn::CopySign(hn::Set(tag, 1.0F), det), dot<D>(from_base, normal));
        const Lanes margin = hn::Add(hn::Mul(slack, edges_size), extent<axes, D>(sweep, normal));
        apart = hn::Or(apart, hn::Or(hn::Lt(height, hn::Neg(margin)),
                                     hn::Gt(hn::NegMulAdd(reach, size, height), margin)));
        apart_bits |= bits_of(apart) << i;
        unsure_bits |= bits_of(flat) << i;
    }
    unsure = unsure_bits;
    return apart_bits & ~unsure_bits;
}

/// Calls call(axes), a compile-time number, for the mover of a sweep.
template <int D, class Call>
HWY_INLINE void with_axes(const PreparedSweep<D>& sweep, Call call) {
    switch (sweep.axis_count) {
        case thin:
            return call(std::integral_constant<int, thin>());
        case 0:
            return call(std::integral_constant<int, 0>());
        case 1:
            return call(std::integral_constant<int, 1>());
        default:
            return call(std::integral_constant<int, D>());
    }
}

/// The lanes a sweep may meet within `limit`.
template <int axes, int D>
HWY_INLINE unsigned candidates(const TreeBlock<D>& block, const PreparedSweep<D>& sweep,
                               const SweepPlace<D>& place, float limit) {
    unsigned lanes = (1U << block.count) - 1U;
    unsigned unsure = 0;
    if (block.facets != 0) lanes &= ~(parted<axes, D>(block, sweep, place, limit, unsure) & block.facets);
    const unsigned by_box = axes != thin ? lanes : lanes & (unsure | ~unsigned{block.facets});
    if (by_box != 0) lanes &= ~by_box | boxes_entered<D>(block, sweep, place, limit);
    return lanes;
}

template <class Visitor>
HWY_INLINE bool offer(const std::uint32_t* items, const std::uint8_t* layers, unsigned lanes, LayerSet wanted,
                      const Visitor& visitor, double& limit) {
    bool nearer = false;
    for (; lanes != 0; lanes &= lanes - 1U) {
        const int lane = std::countr_zero(lanes);
        if ((wanted >> layers[lane] & 1U) == 0) continue;
        const double now = visitor.visit(visitor.context, items[lane], limit);
        nearer = nearer || now < limit;
        limit = now;
        if (limit < 0.0) return true;  // the visitor has seen enough
    }
    return nearer;
}

/// Puts the children on the stack, the nearest on top.
template <int D>
HWY_INLINE void push(const TreeNode<D>& node, unsigned mask, const float* enters, std::uint16_t folded_layers,
                     Entry* stack, std::size_t& depth) {
    const std::size_t floor = depth;
    for (; mask != 0; mask &= mask - 1U) {
        const int i = std::countr_zero(mask);
        if ((node.layers[i] & folded_layers) == 0) continue;
        const Entry entry{node.child[i], enters[i]};
        std::size_t place = depth++;
        while (place > floor && stack[place - 1].enters < entry.enters) {
            stack[place] = stack[place - 1];
            --place;
        }
        stack[place] = entry;
    }
}

template <int axes, int D>
void along(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const PreparedSweep<D>& sweep,
           const SweepPlace<D>& place, const TreeVisitor<D>& visitor) {
    const Slabs<D> slabs = slabs_of<D>(sweep, place);
    Entry stack[stack_size];
    std::size_t depth = 0;
    stack[depth++] = {0, 0.0F};
    double limit = sweep.reach;
    float reach = reach_in_float(limit, place.slack);
    while (depth > 0) {
        const Entry entry = stack[--depth];
        if (entry.enters > reach) continue;
        if ((entry.child & TreeNode<D>::leaf) != 0) {
            const TreeBlock<D>& block = blocks[entry.child & ~TreeNode<D>::leaf];
            const unsigned lanes = candidates<axes, D>(block, sweep, place, reach);
            if (lanes != 0 && offer(block.item, block.layer, lanes, sweep.layers, visitor, limit)) {
                reach = reach_in_float(limit, place.slack);
            }
            continue;
        }
        const TreeNode<D>& node = nodes[entry.child];
        alignas(32) float enters[8];
        const unsigned mask = entered<D>(node, slabs, reach, enters);
        push<D>(node, mask, enters, sweep.folded_layers, stack, depth);
    }
}

template <int D>
void along_either(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const PreparedSweep<D>& sweep,
                  const SweepPlace<D>& place, const TreeVisitor<D>& visitor) {
    with_axes<D>(sweep, [&](auto axes) { along<axes(), D>(nodes, blocks, sweep, place, visitor); });
}

/// One of the sweeps under way in along_many.
template <int D>
struct Traveller {  // NOLINT(cppcoreguidelines-pro-type-member-init): filled when it sets out
    PreparedSweep<D> sweep;
    Slabs<D> slabs;
    SweepPlace<D> place;
    std::size_t index;
    double limit;
    float reach;
    std::size_t depth;  // of the stack
    unsigned lanes;     // of `block`, to be visited
    const TreeBlock<D>* block;
    Entry stack[stack_size];
};

template <class T>
HWY_INLINE void fetch(const T* place) {
    for (std::size_t byte = 0; byte < sizeof(T); byte += 64) {
        __builtin_prefetch(reinterpret_cast<const char*>(place) + byte);
    }
}

/// Goes one node or block further. False when it has arrived.
template <int D>
HWY_INLINE bool step(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, Traveller<D>& t,
                     const TreeManyVisitor<D>& visitor) {
    if (t.lanes != 0) {
        const TreeBlock<D>& block = *t.block;
        for (; t.lanes != 0; t.lanes &= t.lanes - 1U) {
            const int lane = std::countr_zero(t.lanes);
            if ((t.sweep.layers >> block.layer[lane] & 1U) == 0) continue;
            t.limit = visitor.visit(visitor.context, t.index, block.item[lane], t.limit);
        }
        t.reach = reach_in_float(t.limit, t.place.slack);
    } else {
        while (t.depth > 0 && t.stack[t.depth - 1].enters > t.reach) --t.depth;
        if (t.depth == 0) return false;
        const Entry entry = t.stack[--t.depth];
        if ((entry.child & TreeNode<D>::leaf) != 0) {
            t.block = &blocks[entry.child & ~TreeNode<D>::leaf];
            with_axes<D>(t.sweep, [&](auto axes) {
                t.lanes = candidates<axes(), D>(*t.block, t.sweep, t.place, t.reach);
            });
            for (unsigned lanes = t.lanes; lanes != 0; lanes &= lanes - 1U) {
                visitor.prepare(visitor.context, t.block->item[std::countr_zero(lanes)]);
            }
            if (t.lanes != 0) return true;
        } else {
            const TreeNode<D>& node = nodes[entry.child];
            alignas(32) float enters[8];
            const unsigned mask = entered<D>(node, t.slabs, t.reach, enters);
            push<D>(node, mask, enters, t.sweep.folded_layers, t.stack, t.depth);
        }
    }
    if (t.depth > 0) {
        const std::uint32_t next = t.stack[t.depth - 1].child;
        if ((next & TreeNode<D>::leaf) != 0) {
            fetch(&blocks[next & ~TreeNode<D>::leaf]);
        } else {
            fetch(&nodes[next]);
        }
    }
    return true;
}

template <int D>
void along_many(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const SweepSource<D>& sweeps,
                const TreeManyVisitor<D>& visitor) {
    constexpr std::size_t at_once = 8;
    Traveller<D> travellers[at_once];
    std::size_t under_way = 0;
    std::size_t next = 0;
    const auto start = [&](Traveller<D>& t) {
        t.index = next;
        t.sweep = sweeps.make(sweeps.context, next++, t.place);
        t.slabs = slabs_of<D>(t.sweep, t.place);
        t.limit = t.sweep.reach;
        t.reach = reach_in_float(t.limit, t.place.slack);
        t.stack[0] = {0, 0.0F};
        t.depth = 1;
        t.lanes = 0;
    };
    while (under_way < at_once && next < sweeps.count) start(travellers[under_way++]);
    while (under_way > 0) {
        for (std::size_t i = 0; i < under_way;) {
            if (step<D>(nodes, blocks, travellers[i], visitor)) {
                ++i;
            } else if (next < sweeps.count) {
                start(travellers[i]);
            } else if (--under_way != i) {
                travellers[i] = travellers[under_way];
            }
        }
    }
}

template <int D>
void gathered_candidates(const Gathered<D>& gathered, std::span<const PlacedSweep<D>> sweeps,
                         const Vec<D>& origin, double extent, std::uint8_t* lanes) {
    for (const PlacedSweep<D>& placed_sweep : sweeps) {
        const PreparedSweep<D>& sweep = *placed_sweep.sweep;
        const SweepPlace<D> place = placed<D>(sweep, placed_sweep.center, origin, extent);
        const float reach = reach_in_float(sweep.reach, place.slack);
        with_axes<D>(sweep, [&](auto axes) {
            for (std::size_t b = 0; b < gathered.count; ++b) {
                *lanes++ =
                    static_cast<std::uint8_t>(candidates<axes(), D>(gathered.blocks[b], sweep, place, reach));
            }
        });
    }
}

/// The bounds of a node's children.
template <int D>
HWY_INLINE void box_of(const TreeNode<D>& node, std::size_t i, Vector<D>& low, Vector<D>& high) {
    for (int axis = 0; axis < D; ++axis) {
        const Lanes step = hn::Set(Tag(), node.step[axis]);
        const Lanes origin = hn::Set(Tag(), node.origin[axis]);
        low.at[axis] = hn::MulAdd(steps(node.low[axis] + i), step, origin);
        high.at[axis] = hn::MulAdd(steps(node.high[axis] + i), step, origin);
    }
}

/// The boxes of a node that meet `box`.
template <int D>
HWY_INLINE unsigned met(const TreeNode<D>& node, const BoxInFloat<D>& box) {
    const Tag tag;
    unsigned result = 0;
    for (std::size_t i = 0; i < 8; i += hn::Lanes(tag)) {
        Vector<D> low;
        Vector<D> high;
        box_of<D>(node, i, low, high);
        auto apart = hn::MaskFromVec(hn::Zero(tag));
        for (int axis = 0; axis < D; ++axis) {
            apart = hn::Or(apart, hn::Gt(low.at[axis], hn::Set(tag, box.high[axis])));
            apart = hn::Or(apart, hn::Lt(high.at[axis], hn::Set(tag, box.low[axis])));
        }
        result |= bits_of(hn::Not(apart)) << i;
    }
    return result;
}

/// The lanes of a block whose boxes, and planes if they are facets, meet `box`.
template <int D>
HWY_INLINE unsigned met(const TreeBlock<D>& block, const BoxInFloat<D>& box) {
    const Tag tag;
    unsigned apart_bits = 0;
    unsigned beside_plane = 0;
    for (std::size_t i = 0; i < 8; i += hn::Lanes(tag)) {
        Vector<D> low;
        Vector<D> high;
        box_of<D>(block, i, low, high);
        auto apart = hn::MaskFromVec(hn::Zero(tag));
        for (int axis = 0; axis < D; ++axis) {
            apart = hn::Or(apart, hn::Gt(low.at[axis], hn::Set(tag, box.high[axis])));
            apart = hn::Or(apart, hn::Lt(high.at[axis], hn::Set(tag, box.low[axis])));
        }
        apart_bits |= bits_of(apart) << i;
        const Vector<D> from_base = minus<D>(everywhere<D>(box.center), load<D>(block.base, i));
        Vector<D> normal;
        Lanes size = hn::Zero(tag);
        if constexpr (D == 3) {
            const Vector<3> e1 = load<3>(block.edge[0], i);
            const Vector<3> e2 = load<3>(block.edge[1], i);
            normal = cross(e1, e2);
            size = hn::Mul(sum_of_sizes<3>(e1), sum_of_sizes<3>(e2));
        } else {
            const Vector<2> e = load<2>(block.edge[0], i);
            normal = {{hn::Neg(e.at[1]), e.at[0]}};
            size = sum_of_sizes<2>(e);
        }
        Lanes margin = hn::Mul(hn::Set(tag, box.slack), size);
        for (int axis = 0; axis < D; ++axis) {
            margin = hn::MulAdd(hn::Abs(normal.at[axis]), hn::Set(tag, box.half[axis]), margin);
        }
        beside_plane |= bits_of(hn::Gt(hn::Abs(dot<D>(from_base, normal)), margin)) << i;
    }
    return ((1U << block.count) - 1U) & ~apart_bits & ~(beside_plane & block.facets);
}

/// Calls visit(block, lanes) for every block with lanes that meet the box; it returns false to stop.
template <int D, class Visit>
HWY_INLINE void for_each_met(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const BoxInFloat<D>& box,
                             const Visit& visit) {
    std::uint32_t stack[stack_size];
    std::size_t depth = 0;
    stack[depth++] = 0;
    while (depth > 0) {
        const std::uint32_t top = stack[--depth];
        if ((top & TreeNode<D>::leaf) != 0) {
            const TreeBlock<D>& block = blocks[top & ~TreeNode<D>::leaf];
            const unsigned lanes = met<D>(block, box);
            if (lanes != 0 && !visit(block, lanes)) return;
            continue;
        }
        const TreeNode<D>& node = nodes[top];
        for (unsigned mask = met<D>(node, box); mask != 0; mask &= mask - 1U) {
            const int i = std::countr_zero(mask);
            if ((node.layers[i] & box.folded_layers) != 0) stack[depth++] = node.child[i];
        }
    }
}

template <int D>
void overlapping(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const BoxInFloat<D>& box,
                 const TreeVisitor<D>& visitor) {
    for_each_met<D>(nodes, blocks, box, [&](const TreeBlock<D>& block, unsigned lanes) {
        double limit = 0.0;
        offer(block.item, block.layer, lanes, box.layers, visitor, limit);
        return limit >= 0.0;
    });
}

template <int D>
bool gather(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const BoxInFloat<D>& box,
            Gathered<D>& out) {
    out.count = 0;
    std::uint8_t filled = 8;
    bool fits = true;
    for_each_met<D>(nodes, blocks, box, [&](const TreeBlock<D>& block, unsigned lanes) {
        for (; lanes != 0; lanes &= lanes - 1U) {
            const int lane = std::countr_zero(lanes);
            if ((box.layers >> block.layer[lane] & 1U) == 0) continue;
            if (filled == 8) {
                if (out.count == Gathered<D>::most_blocks) return fits = false;
                out.blocks[out.count].facets = 0;
                ++out.count;
                filled = 0;
            }
            TreeBlock<D>& to = out.blocks[out.count - 1];
            for (int axis = 0; axis < D; ++axis) {
                to.base[axis][filled] = block.base[axis][lane];
                for (int k = 0; k + 1 < D; ++k) to.edge[k][axis][filled] = block.edge[k][axis][lane];
            }
            to.item[filled] = block.item[lane];
            to.layer[filled] = block.layer[lane];
            to.facets = static_cast<std::uint8_t>(to.facets | (block.facets >> lane & 1U) << filled);
            to.count = ++filled;
        }
        return true;
    });
    // Lanes not filled take part in the arithmetic, though not in the answer.
    if (out.count > 0) {
        TreeBlock<D>& last = out.blocks[out.count - 1];
        for (std::size_t lane = filled; lane < 8; ++lane) {
            for (int axis = 0; axis < D; ++axis) {
                last.base[axis][lane] = 0.0F;
                for (int k = 0; k + 1 < D; ++k) last.edge[k][axis][lane] = 0.0F;
            }
        }
    }
    return fits;
}

/// Distances from the box, squared, a little too small rather than too great.
template <int D>
HWY_INLINE Lanes distance_from(const BoxInFloat<D>& box, const Vector<D>& low, const Vector<D>& high) {
    const Tag tag;
    Lanes sum = hn::Zero(tag);
    for (int axis = 0; axis < D; ++axis) {
        const Lanes below = hn::Sub(low.at[axis], hn::Set(tag, box.high[axis]));
        const Lanes above = hn::Sub(hn::Set(tag, box.low[axis]), high.at[axis]);
        const Lanes apart = hn::Max(hn::Max(below, above), hn::Zero(tag));
        sum = hn::MulAdd(apart, apart, sum);
    }
    return hn::Mul(sum, hn::Set(tag, 0.99999F));
}

template <int D>
void around(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const BoxInFloat<D>& box, double limit,
            const TreeVisitor<D>& visitor) {
    const Tag tag;
    Entry stack[stack_size];
    std::size_t depth = 0;
    stack[depth++] = {0, 0.0F};
    const auto squared = [&] {
        const float reach = reach_in_float(limit, box.slack);
        return reach * reach;
    };
    float within = squared();
    while (depth > 0) {
        const Entry entry = stack[--depth];
        if (entry.enters > within) continue;
        alignas(32) float distances[8];
        unsigned lanes = 0;
        const auto measure = [&](const auto& box_at) {
            for (std::size_t i = 0; i < 8; i += hn::Lanes(tag)) {
                Vector<D> low;
                Vector<D> high;
                box_at(i, low, high);
                const Lanes distance = distance_from<D>(box, low, high);
                hn::Store(distance, tag, distances + i);
                lanes |= bits_of(hn::Not(hn::Gt(distance, hn::Set(tag, within)))) << i;
            }
        };
        if ((entry.child & TreeNode<D>::leaf) != 0) {
            const TreeBlock<D>& block = blocks[entry.child & ~TreeNode<D>::leaf];
            measure([&](std::size_t i, Vector<D>& low, Vector<D>& high) { box_of<D>(block, i, low, high); });
            lanes &= (1U << block.count) - 1U;
            if (lanes != 0 && offer(block.item, block.layer, lanes, box.layers, visitor, limit)) {
                within = squared();
            }
            continue;
        }
        const TreeNode<D>& node = nodes[entry.child];
        measure([&](std::size_t i, Vector<D>& low, Vector<D>& high) { box_of<D>(node, i, low, high); });
        push<D>(node, lanes, distances, box.folded_layers, stack, depth);
    }
}

// Highway dispatches plain functions, so the templates get names.
// NOLINTBEGIN(bugprone-macro-parentheses): the argument is a number in names and template arguments.
#define HOLLOW_PROBE_KERNELS(D)                                                                             \
    void along_##D(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const PreparedSweep<D>& sweep,     \
                   const SweepPlace<D>& place, const TreeVisitor<D>& visitor) {                             \
        along_either<D>(nodes, blocks, sweep, place, visitor);                                              \
    }                                                                                                       \
    void along_many_##D(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const SweepSource<D>& sweeps, \
                        const TreeManyVisitor<D>& visitor) {                                                \
        along_many<D>(nodes, blocks, sweeps, visitor);                                                      \
    }                                                                                                       \
    void candidates_##D(const Gathered<D>& gathered, std::span<const PlacedSweep<D>> sweeps,                \
                        const Vec<D>& origin, double extent, std::uint8_t* lanes) {                         \
        gathered_candidates<D>(gathered, sweeps, origin, extent, lanes);                                    \
    }                                                                                                       \
    void overlapping_##D(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const BoxInFloat<D>& box,    \
                         const TreeVisitor<D>& visitor) {                                                   \
        overlapping<D>(nodes, blocks, box, visitor);                                                        \
    }                                                                                                       \
    void around_##D(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const BoxInFloat<D>& box,         \
                    double limit, const TreeVisitor<D>& visitor) {                                          \
        around<D>(nodes, blocks, box, limit, visitor);                                                      \
    }                                                                                                       \
    bool gather_##D(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const BoxInFloat<D>& box,         \
                    Gathered<D>& out) {                                                                     \
        return gather<D>(nodes, blocks, box, out);                                                          \
    }

HOLLOW_PROBE_KERNELS(2)
HOLLOW_PROBE_KERNELS(3)
#undef HOLLOW_PROBE_KERNELS
// NOLINTEND(bugprone-macro-parentheses)

}  // namespace hollow_probe::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace hollow_probe {

// NOLINTBEGIN(bugprone-macro-parentheses)
#define HOLLOW_PROBE_DISPATCH(D)                                                                          \
    HWY_EXPORT(along_##D);                                                                                \
    HWY_EXPORT(along_many_##D);                                                                           \
    HWY_EXPORT(candidates_##D);                                                                           \
    HWY_EXPORT(overlapping_##D);                                                                          \
    HWY_EXPORT(around_##D);                                                                               \
    HWY_EXPORT(gather_##D);                                                                               \
    template <>                                                                                           \
    void along_kernel<D>(const TreeNode<D>* nodes, const TreeBlock<D>* blocks,                            \
                         const PreparedSweep<D>& sweep, const SweepPlace<D>& place,                       \
                         const TreeVisitor<D>& visitor) {                                                 \
        HWY_DYNAMIC_DISPATCH(along_##D)(nodes, blocks, sweep, place, visitor);                            \
    }                                                                                                     \
    template <>                                                                                           \
    void along_many_kernel<D>(const TreeNode<D>* nodes, const TreeBlock<D>* blocks,                       \
                              const SweepSource<D>& sweeps, const TreeManyVisitor<D>& visitor) {          \
        HWY_DYNAMIC_DISPATCH(along_many_##D)(nodes, blocks, sweeps, visitor);                             \
    }                                                                                                     \
    template <>                                                                                           \
    void candidates_kernel<D>(const Gathered<D>& gathered, std::span<const PlacedSweep<D>> sweeps,        \
                              const Vec<D>& origin, double extent, std::uint8_t* lanes) {                 \
        HWY_DYNAMIC_DISPATCH(candidates_##D)(gathered, sweeps, origin, extent, lanes);                    \
    }                                                                                                     \
    template <>                                                                                           \
    void overlapping_kernel<D>(const TreeNode<D>* nodes, const TreeBlock<D>* blocks,                      \
                               const BoxInFloat<D>& box, const TreeVisitor<D>& visitor) {                 \
        HWY_DYNAMIC_DISPATCH(overlapping_##D)(nodes, blocks, box, visitor);                               \
    }                                                                                                     \
    template <>                                                                                           \
    void around_kernel<D>(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const BoxInFloat<D>& box, \
                          double limit, const TreeVisitor<D>& visitor) {                                  \
        HWY_DYNAMIC_DISPATCH(around_##D)(nodes, blocks, box, limit, visitor);                             \
    }                                                                                                     \
    template <>                                                                                           \
    bool gather_kernel<D>(const TreeNode<D>* nodes, const TreeBlock<D>* blocks, const BoxInFloat<D>& box, \
                          Gathered<D>& out) {                                                             \
        return HWY_DYNAMIC_DISPATCH(gather_##D)(nodes, blocks, box, out);                                 \
    }

HOLLOW_PROBE_DISPATCH(2)
HOLLOW_PROBE_DISPATCH(3)
#undef HOLLOW_PROBE_DISPATCH
// NOLINTEND(bugprone-macro-parentheses)

}  // namespace hollow_probe
#endif
