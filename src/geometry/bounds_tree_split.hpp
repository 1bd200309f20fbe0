// The inner loops of building a BoundsTree: measuring, binning and parting lists of boxes. 2D boxes are flat
// 3D ones.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <limits>

namespace hollow_probe {

inline constexpr std::size_t bin_count = 16;
inline constexpr std::size_t short_range = 64;  // split by sorting, not by bins

/// Bounds so that growing them is one maximum: the low corner negated, a spare, the high corner, a spare.
struct alignas(32) Extent {
    static constexpr float infinite = std::numeric_limits<float>::infinity();
    std::array<float, 8> v{-infinite, -infinite, -infinite, -infinite,
                           -infinite, -infinite, -infinite, -infinite};

    [[nodiscard]] float low(int axis) const { return -v[axis]; }
    [[nodiscard]] float high(int axis) const { return v[4 + axis]; }
    [[nodiscard]] float size(int axis) const { return v[axis] + v[4 + axis]; }
};

/// An item's box, as an Extent; the last spare has the bits of the item's place in the input.
struct alignas(32) BuildItem {
    std::array<float, 8> v;
};

/// Which bin an item falls into is found from twice its center.
struct Binning {
    alignas(16) std::array<float, 4> start{};
    alignas(16) std::array<float, 4> scale{};  // 0: nothing to tell items apart along this axis
};

struct Bins {
    std::array<std::array<Extent, bin_count>, 3> box;
    std::array<std::array<std::uint32_t, bin_count>, 3> count{};
};

/// The two sides of a split, of which the first has `cut` items; cut 0: none was found.
struct Split {
    std::size_t cut = 0;
    std::array<Extent, 2> box;
    std::array<Extent, 2> centers;  // of twice the centers
};

/// Grows the box and the centers by those of all items.
void measure_items(const BuildItem* items, std::size_t count, Extent& box, Extent& centers);
void bin_items(const BuildItem* items, std::size_t count, const Binning& binning, Bins& bins);
void join_bins(Bins& bins, const Bins& more);
/// Where to cut between bins, by the surface area heuristic over blocks of eight.
void choose_bin(const Bins& bins, std::size_t count, int dimensions, int& axis, std::size_t& bin);
/// Moves the items of the bins below `bin` to the front.
Split part_items(BuildItem* items, std::size_t count, const Binning& binning, const Bins& bins, int axis,
                 std::size_t bin);
/// Sorts up to short_range items along some axis and cuts after 8, 16, … of them, whichever is best.
Split cut_short_range(BuildItem* items, std::size_t count, const Extent& centers, int dimensions);

/// Half the surface of a box in 3D, half the outline in 2D.
inline float area_of(const Extent& box, int dimensions) {
    const float x = box.size(0);
    const float y = box.size(1);
    if (dimensions == 2) return x + y;
    const float z = box.size(2);
    return x * y + y * z + z * x;
}

}  // namespace hollow_probe
