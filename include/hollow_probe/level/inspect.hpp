// What is odd about a level's surfaces: the faults that come with exported meshes and drawn outlines.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "hollow_probe/level/level.hpp"

namespace hollow_probe {

enum class Oddity : std::uint8_t {
    zero_area,       // a triangle without area, a segment without length
    duplicate_face,  // a facet with the same corners as another one of its solid, facing the same side
    both_sided,      // … facing the other side: a sheet drawn from both sides
    flipped_normal,  // neighbours that face opposite sides: one edge run through twice in the same direction
    open_edge,       // an edge (2D: end) with a facet on one side only
    nonmanifold_edge,  // an edge (2D: corner) with more than two facets
    narrow_gap,        // apart from a neighbour by less than the width asked for, but apart
    inside_out,        // 3D: a closed surface whose triangles face inwards
};
inline constexpr std::size_t oddity_count = 8;

/// In words, for one and for many: "open edge", "open edges".
const char* name_of(Oddity oddity, bool many = false);

/// One case of an oddity, to look at.
template <int D>
struct OddPlace {
    Oddity oddity = Oddity::zero_area;
    std::uint32_t solid = 0;
    Vec<D> at = Vec<D>::zero();
    double width = 0.0;  // of a narrow gap
};

struct SolidReport {
    std::size_t facets = 0;   // triangles (2D: segments)
    std::size_t convex = 0;   // other pieces
    std::size_t islands = 0;  // parts of the surface that share no corner
    std::array<std::size_t, oddity_count> odd{};
    [[nodiscard]] bool closed() const {
        return facets > 0 && odd[static_cast<std::size_t>(Oddity::open_edge)] == 0;
    }
};

template <int D>
struct LevelReport {
    std::vector<SolidReport> solids;  // as in the level
    std::vector<OddPlace<D>> places;  // the first few of every kind and solid
    [[nodiscard]] std::size_t count(Oddity oddity) const;
};

struct InspectOptions {
    /// Gaps between neighbours narrower than this are reported, from open edges of surfaces to whatever is
    /// near, and between convex pieces of different solids. 0: not looked for.
    double gap_width = 0.0;
    std::size_t places_of_each = 3;
};

/// Corners count as shared if they are at exactly the same place. O(n log n). Throws InvalidInput for a
/// negative width.
template <int D>
LevelReport<D> inspect(const Level<D>& level, const InspectOptions& options = {});

}  // namespace hollow_probe
