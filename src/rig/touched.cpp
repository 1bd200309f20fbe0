#include "hollow_probe/rig/touched.hpp"

#include <algorithm>

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/level/level_query.hpp"

namespace hollow_probe {
namespace {

/// Whether a one-way solid stops what moves along `direction` from there: run against its solid side, and
/// overlapped deeper than `touch` in none of its pieces.
template <int D>
bool stops(const Level<D>& level, const LevelQuery<D>& body, const Vec<D>& direction, std::uint32_t piece,
           double touch) {
    if (!level.is_one_way(piece)) return true;
    if (!level.faces(piece, direction)) return false;
    bool inside = false;
    for_each_neighbour<D>(level, body, -touch, [&](const LevelNeighbour<D>& other) {
        inside = inside || (other.gap < -touch && other.solid == level.solid_of(piece));
    });
    return !inside;
}

}  // namespace

template <int D>
std::vector<MoveContact<D>> touched_by(const Level<D>& level, const MountedRig<D>& rig, const Vec<D>& anchor,
                                       double touch) {
    const std::array<std::pair<Side, Vec<D>>, 3> sides = {
        {{Side::below, -level.up()}, {Side::above, level.up()}, {Side::beside, rig.heading}}};
    std::vector<MoveContact<D>> found;
    for (const auto& [side, direction] : sides) {
        LevelCast<D> cast{rig.body.view(), anchor, direction, touch, rig.meets};
        // Limits are inclusive, and what lies at one must not hang on rounding.
        cast.reach = touch * (1.0 + tolerance::accuracy);
        cast.faces = rig.faces;
        cast.one_way = OneWay::always;  // told here: what the body has sunk into by touch it still stands on
        const std::size_t first = found.size();
        for (const LevelHit<D>& hit : all_hits<D>(level, cast)) {
            if (hit.began_inside && hit.depth > touch) continue;
            if (hit.normal.dot(direction) >= -tolerance::approaches) continue;
            if (!stops<D>(level, {rig.body.view(), anchor, rig.meets}, direction, hit.piece, touch)) continue;
            found.push_back({hit.normal, hit.point, LayerSet{1} << hit.layer, hit.solid, hit.piece, side});
        }
        std::sort(found.begin() + static_cast<std::ptrdiff_t>(first), found.end(),
                  [](const auto& a, const auto& b) { return a.piece < b.piece; });
    }
    return found;
}

template std::vector<MoveContact<2>> touched_by<2>(const Level<2>&, const MountedRig<2>&, const Vec<2>&,
                                                   double);
template std::vector<MoveContact<3>> touched_by<3>(const Level<3>&, const MountedRig<3>&, const Vec<3>&,
                                                   double);

}  // namespace hollow_probe
