// Casts against a whole level: what a game asks its world, and what probes are made of.
#pragma once

#include <optional>
#include <span>

#include "hollow_probe/geometry/ray_facet.hpp"
#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/level/level.hpp"
#include "hollow_probe/level/one_way.hpp"

namespace hollow_probe {

/// What a mover without radius makes of places where pieces lie flush: stacked boxes, tiles, the triangles of
/// a floor.
enum class Seams {
    passed,    // no hit on the covered side of a piece, nor on an edge between flush neighbours
    reported,  // every piece by itself
};

template <int D>
struct LevelCast {
    HullView<D> mover;  // one point of radius 0 is a ray
    Vec<D> start = Vec<D>::zero();
    Vec<D> direction = Vec<D>::zero();  // unit
    double reach = 0.0;                 // >= 0; inclusive
    LayerSet layers = ~LayerSet{0};
    IfInside if_inside = IfInside::report;
    Seams seams = Seams::passed;
    OneWay one_way = OneWay::as_body;
    Faces faces = Faces::both;
    double sunk = 0.0;  // as_body: so deep the mover may have begun in a one-way solid that it still meets
};

template <int D>
struct LevelHit {
    double distance = 0.0;           // travelled until touch; 0 when it began inside
    Vec<D> point = Vec<D>::zero();   // where it touches, on the level's surface
    Vec<D> normal = Vec<D>::zero();  // unit, out of the level; began_inside: the way out
    std::uint32_t piece = 0;         // of the level, and its solid and layer
    std::uint32_t solid = 0;
    std::uint32_t layer = 0;
    bool began_inside = false;
    double depth = 0.0;  // began_inside: penetration depth
};

/// Hit normals a cast counts, in radians; all ends inclusive to within tolerance::angle.
struct AngleRange {
    double least = 0.0;  // from up
    double most = std::numbers::pi;
    double least_incidence = 0.0;  // from the way back along the cast: 0 is met squarely, π/2 brushed past
    double most_incidence = std::numbers::pi;

    [[nodiscard]] bool everything() const { return any_from_up() && any_incidence(); }
    [[nodiscard]] bool any_from_up() const { return least <= 0.0 && most >= std::numbers::pi; }
    [[nodiscard]] bool any_incidence() const {
        return least_incidence <= 0.0 && most_incidence >= std::numbers::pi;
    }
};

/// The nearest hit whose normal lies within `angles`, other hits passed over; of equally near ones that of
/// the lowest piece number. Semantics of touching and starting inside: see cast(). Allocates nothing.
template <int D>
std::optional<LevelHit<D>> first_hit(const Level<D>& level, const LevelCast<D>& cast,
                                     const AngleRange& angles = {});

/// A cast that is sent again and again from other places: what does not change is worked out once.
template <int D>
struct PreparedCast {
    /// `cast.start` is relative to what the cast is mounted on.
    PreparedCast(RoundedHull<D> shape, const LevelCast<D>& cast);
    /// Prepared anew for another cast of a mover of as many points; allocates nothing.
    void aim(const RoundedHull<D>& shape, const LevelCast<D>& cast) noexcept;

    RoundedHull<D> mover;
    Vec<D> start;
    Vec<D> direction;
    double reach;
    LayerSet layers;
    IfInside if_inside;
    Seams seams;
    OneWay one_way;
    double sunk;
    Faces faces;
    bool is_ray;
    RayFrame<D> frame;
    PreparedSweep<D> sweep;
    Vec<D> middle;  // of the mover, relative to where it is mounted
};

/// The first hit of a prepared cast mounted at `at`. False if there is none: `hit` is then left as it was.
template <int D>
bool first_hit(const Level<D>& level, const PreparedCast<D>& cast, const Vec<D>& at, const AngleRange& angles,
               LevelHit<D>& hit);

/// first_hit() of many casts, hits[i] for casts[i]: in one thread, but about twice as fast on large levels.
/// Allocates nothing. Throws std::invalid_argument when the lists differ in length.
template <int D>
void first_hits(const Level<D>& level, std::span<const LevelCast<D>> casts,
                std::span<std::optional<LevelHit<D>>> hits, const AngleRange& angles = {});

/// The hit on every piece met within reach, nearest first, then by piece number.
template <int D>
std::vector<LevelHit<D>> all_hits(const Level<D>& level, const LevelCast<D>& cast,
                                  const AngleRange& angles = {});

/// Whether a solid that a cast along `direction` starts in, with this way out, is passed over.
template <int D>
bool passes_over(IfInside if_inside, const Vec<D>& way_out, const Vec<D>& direction) {
    return if_inside == IfInside::ignore ||
           (if_inside == IfInside::against && way_out.dot(direction) >= -tolerance::approaches);
}

/// Whether a normal lies within the angles from up.
template <int D>
bool within(const AngleRange& angles, const Vec<D>& normal, const Vec<D>& up) {
    if (angles.any_from_up()) return true;
    const double angle = angle_between<D>(normal, up);
    return angle >= angles.least - tolerance::angle && angle <= angles.most + tolerance::angle;
}
/// … and, being met by a cast along `direction`, within those of incidence.
template <int D>
bool within(const AngleRange& angles, const Vec<D>& normal, const Vec<D>& direction, const Vec<D>& up) {
    if (!within<D>(angles, normal, up)) return false;
    if (angles.any_incidence()) return true;
    const double incidence = angle_between<D>(normal, -direction);
    return incidence >= angles.least_incidence - tolerance::angle &&
           incidence <= angles.most_incidence + tolerance::angle;
}

}  // namespace hollow_probe
