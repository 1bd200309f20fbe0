// This file is compiled once for each instruction set; the best one the machine has is taken at run time.
#include "geometry/bounds_tree_split.hpp"

#include <algorithm>
#include <bit>

#define HWY_DISABLED_TARGETS (HWY_SSSE3 | HWY_SSE4 | HWY_AVX3 | HWY_AVX3_DL)
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "geometry/bounds_tree_split.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace hollow_probe::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

using Eight = hn::CappedTag<float, 8>;
using Four = hn::CappedTag<float, 4>;

template <class Box>
HWY_INLINE void grow(Extent& to, const Box& by) {
    const Eight tag;
    for (std::size_t i = 0; i < 8; i += hn::Lanes(tag)) {
        hn::Store(hn::Max(hn::Load(tag, to.v.data() + i), hn::Load(tag, by.v.data() + i)), tag,
                  to.v.data() + i);
    }
}

/// high + low of one register's worth of axes.
HWY_INLINE hn::Vec<Four> center2(const BuildItem& item, std::size_t i) {
    return hn::Sub(hn::Load(Four(), item.v.data() + 4 + i), hn::Load(Four(), item.v.data() + i));
}

HWY_INLINE void grow_centers(Extent& to, const BuildItem& item) {
    const Four tag;
    for (std::size_t i = 0; i < 4; i += hn::Lanes(tag)) {
        const auto center = center2(item, i);
        hn::Store(hn::Max(hn::Load(tag, to.v.data() + i), hn::Neg(center)), tag, to.v.data() + i);
        hn::Store(hn::Max(hn::Load(tag, to.v.data() + 4 + i), center), tag, to.v.data() + 4 + i);
    }
}

void measure(const BuildItem* items, std::size_t count, Extent& box, Extent& centers) {
    for (std::size_t i = 0; i < count; ++i) {
        grow(box, items[i]);
        grow_centers(centers, items[i]);
    }
}

HWY_INLINE void bins_of(const BuildItem& item, const Binning& binning, std::int32_t* bins) {
    const Four tag;
    const hn::RebindToSigned<Four> whole;
    for (std::size_t i = 0; i < 4; i += hn::Lanes(tag)) {
        const auto place = hn::Mul(hn::Sub(center2(item, i), hn::Load(tag, binning.start.data() + i)),
                                   hn::Load(tag, binning.scale.data() + i));
        const auto last = hn::Set(tag, static_cast<float>(bin_count - 1));
        hn::Store(hn::ConvertTo(whole, hn::Min(hn::Max(place, hn::Zero(tag)), last)), whole, bins + i);
    }
}

void bin(const BuildItem* items, std::size_t count, const Binning& binning, Bins& bins) {
    for (std::size_t i = 0; i < count; ++i) {
        alignas(16) std::int32_t places[4];
        bins_of(items[i], binning, places);
        for (std::size_t axis = 0; axis < 3; ++axis) {
            const std::size_t place = static_cast<std::size_t>(places[axis]) % bin_count;
            grow(bins.box[axis][place], items[i]);
            ++bins.count[axis][place];
        }
    }
}

void join(Bins& bins, const Bins& more) {
    for (std::size_t axis = 0; axis < 3; ++axis) {
        for (std::size_t b = 0; b < bin_count; ++b) {
            grow(bins.box[axis][b], more.box[axis][b]);
            bins.count[axis][b] += more.count[axis][b];
        }
    }
}

HWY_INLINE float blocks_in(std::size_t count) {
    const std::size_t whole = (count + 7) / 8;
    return static_cast<float>(whole);
}

void choose(const Bins& bins, std::size_t count, int dimensions, int& best_axis, std::size_t& best_bin) {
    float best_cost = Extent::infinite;
    for (int axis = 0; axis < dimensions; ++axis) {
        std::array<float, bin_count> above{};
        Extent box;
        std::size_t inside = 0;
        for (std::size_t b = bin_count - 1; b > 0; --b) {
            grow(box, bins.box[axis][b]);
            inside += bins.count[axis][b];
            above[b] = inside == 0 ? 0.0F : area_of(box, dimensions) * blocks_in(inside);
        }
        box = {};
        inside = 0;
        for (std::size_t b = 1; b < bin_count; ++b) {
            grow(box, bins.box[axis][b - 1]);
            inside += bins.count[axis][b - 1];
            if (inside == 0 || inside == count) continue;
            const float cost = area_of(box, dimensions) * blocks_in(inside) + above[b];
            if (cost < best_cost) {
                best_cost = cost;
                best_axis = axis;
                best_bin = b;
            }
        }
    }
}

void part(BuildItem* items, std::size_t count, const Binning& binning, const Bins& bins, int axis,
          std::size_t cut_bin, Split& result) {
    const float start = binning.start[axis];
    const float scale = binning.scale[axis];
    // As in bins_of(), in the same order of operations.
    const auto goes_left = [&](const BuildItem& item) {
        return (item.v[4 + axis] - item.v[axis] - start) * scale < static_cast<float>(cut_bin);
    };
    std::size_t i = 0;
    std::size_t k = count;
    for (;;) {
        while (i < k && goes_left(items[i])) grow_centers(result.centers[0], items[i++]);
        while (i < k && !goes_left(items[k - 1])) grow_centers(result.centers[1], items[--k]);
        if (i >= k) break;
        std::swap(items[i], items[k - 1]);
    }
    result.cut = i;
    for (std::size_t b = 0; b < bin_count; ++b) grow(result.box[b < cut_bin ? 0 : 1], bins.box[axis][b]);
}

/// A number that is greater where the float is.
HWY_INLINE std::uint32_t sortable(float x) {
    const auto bits = std::bit_cast<std::uint32_t>(x);
    return (bits & 0x80000000U) != 0 ? ~bits : bits | 0x80000000U;
}

void cut_short(BuildItem* items, std::size_t count, const Extent& centers, int dimensions, Split& result) {
    // Sorted as whole numbers: the center above, the place in the range below.
    using Order = std::array<std::uint64_t, short_range>;
    Order orders[3];
    int best_axis = -1;
    float best_cost = Extent::infinite;
    for (int axis = 0; axis < dimensions; ++axis) {
        if (!(centers.size(axis) > 0.0F)) continue;
        Order& order = orders[axis];
        for (std::size_t i = 0; i < count; ++i) {
            order[i] = std::uint64_t{sortable(items[i].v[4 + axis] - items[i].v[axis])} << 32U | i;
        }
        std::sort(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(count));
        std::array<float, short_range / 8 + 1> above{};
        Extent box;
        for (std::size_t i = count; i-- > 8;) {
            grow(box, items[order[i] & 0xFFU]);
            if (i % 8 == 0) above[i / 8] = area_of(box, dimensions);
        }
        box = {};
        for (std::size_t i = 0; i + 1 < count; ++i) {
            grow(box, items[order[i] & 0xFFU]);
            const std::size_t cut = i + 1;
            if (cut % 8 != 0) continue;
            const float cost =
                area_of(box, dimensions) * blocks_in(cut) + above[cut / 8] * blocks_in(count - cut);
            if (cost < best_cost) {
                best_cost = cost;
                best_axis = axis;
                result.cut = cut;
            }
        }
    }
    if (best_axis < 0) return;
    // NOLINTNEXTLINE(cppcoreguidelines-pro-type-member-init): filled next
    std::array<BuildItem, short_range> ordered;
    for (std::size_t i = 0; i < count; ++i) ordered[i] = items[orders[best_axis][i] & 0xFFU];
    std::copy_n(ordered.begin(), count, items);
    measure(items, result.cut, result.box[0], result.centers[0]);
    measure(items + result.cut, count - result.cut, result.box[1], result.centers[1]);
}

}  // namespace hollow_probe::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace hollow_probe {

HWY_EXPORT(measure);
HWY_EXPORT(bin);
HWY_EXPORT(join);
HWY_EXPORT(choose);
HWY_EXPORT(part);
HWY_EXPORT(cut_short);

void measure_items(const BuildItem* items, std::size_t count, Extent& box, Extent& centers) {
    HWY_DYNAMIC_DISPATCH(measure)(items, count, box, centers);
}
void bin_items(const BuildItem* items, std::size_t count, const Binning& binning, Bins& bins) {
    HWY_DYNAMIC_DISPATCH(bin)(items, count, binning, bins);
}
void join_bins(Bins& bins, const Bins& more) {
    HWY_DYNAMIC_DISPATCH(join)(bins, more);
}
void choose_bin(const Bins& bins, std::size_t count, int dimensions, int& axis, std::size_t& bin) {
    HWY_DYNAMIC_DISPATCH(choose)(bins, count, dimensions, axis, bin);
}
Split part_items(BuildItem* items, std::size_t count, const Binning& binning, const Bins& bins, int axis,
                 std::size_t bin) {
    Split result;
    HWY_DYNAMIC_DISPATCH(part)(items, count, binning, bins, axis, bin, result);
    return result;
}
Split cut_short_range(BuildItem* items, std::size_t count, const Extent& centers, int dimensions) {
    Split result;
    HWY_DYNAMIC_DISPATCH(cut_short)(items, count, centers, dimensions, result);
    return result;
}

}  // namespace hollow_probe
#endif
