#include "level/seams.hpp"

#include <algorithm>
#include <array>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

template <int D>
struct Seam {
    const Level<D>& level;
    const BoundsTree<D>& tree;
    LayerSet layers = 0;
    const HullView<D>& mover;
    Vec<D> at;  // where the mover stands at the touch
    const Vec<D>& direction;
    std::uint32_t piece = 0;
    const CastHit<D>& hit;
    HullView<D> target = level.piece(piece);
    double noise = 1e-12 * magnitude(level.bounds());
    /// A step small against everything in the level and large against rounding.
    double step = std::max(1e-7 * tree.extent(), 100.0 * noise);

    /// How far the mover lies outside of the target's plane with normal n; negative: across it.
    double outside(const Vec<D>& n) const {
        return extent_along(mover, n)[0] + n.dot(at) - extent_along(target, n)[1];
    }

    /// The normals with which the target could have stopped the mover here: it is outside of their planes and
    /// runs against them. Sides of surfaces come before their edges, `first` before all.
    template <class Try>
    bool try_normals(const Vec<D>& first, Try attempt) const {
        const double touch = 10.0 * noise + tolerance::accuracy * step;
        bool done = false;
        const auto consider = [&](const Vec<D>& n) {
            if (done || n.dot(direction) > -tolerance::approaches || outside(n) < -touch) return;
            done = attempt(n);
        };
        if (!level.pieces().is_facet(piece)) consider(first);
        for_each_normal(target, consider);
        if (!done && level.pieces().is_facet(piece)) consider(first);
        return done;
    }

    /// Whether some part of the contact along n is open to the mover.
    bool is_open(const Vec<D>& n) const {
        if (hit.point_known && is_open_at(hit.point, n)) return true;
        // Where else mover and target meet: corners of either that take part, put on the other.
        const double reach = step;
        const double mover_front = extent_along(mover, n)[0];
        const double target_front = extent_along(target, n)[1];
        for (const Vec<D>& p : mover.points) {
            if (n.dot(p) > mover_front + reach) continue;
            if (is_open_at(nearest_on(target, Vec<D>::zero(), p + at), n)) return true;
        }
        for (const Vec<D>& p : target.points) {
            if (n.dot(p) < target_front - reach) continue;
            const Vec<D> x = nearest_on(mover, at, p);
            if ((x - p).norm() <= 4.0 * reach && is_open_at(p, n)) return true;
        }
        return false;
    }

    static Vec<D> nearest_on(const HullView<D>& hull, const Vec<D>& shift, const Vec<D>& point) {
        const HullView<D> dot{{&point, 1}, 0.0, {}, point_topology()};
        return separation<D>(hull, shift, dot).on_a;
    }

    static const HullTopology* point_topology() {
        static const HullTopology none;
        return &none;
    }

    /// No other piece covers the place a step along n from x.
    bool is_open_at(const Vec<D>& x, const Vec<D>& n) const {
        const Vec<D> y = x + step * n;
        const HullView<D> dot{{&y, 1}, 0.0, {}, point_topology()};
        Bounds<D> box;
        box.grow(y);
        bool covered = false;
        tree.overlapping(box.inflated(step), layers, [&](std::uint32_t other) -> bool {
            if (other == piece || level.is_one_way(other)) return true;
            // What lies inside a solid is no side of it, wherever the mover came from.
            const bool own = level.solid_of(other) == level.solid_of(piece);
            covered =
                separation<D>(dot, level.piece(other)).gap <= 0.1 * step && (own || !passes_through(other));
            return !covered;
        });
        return !covered;
    }

    /// What the mover came through hides nothing; what it slides along, or is sunk into by a hair, does.
    bool passes_through(std::uint32_t other) const {
        const double hair = std::max(step, 1e-3 * bounds_of(mover).size().largest());
        return separation<D>(mover, at - 10.0 * hair * direction, level.piece(other)).gap < -hair;
    }

    /// Whether going on would press the mover into the target, and not just past it.
    bool goes_in(const Vec<D>& n) const {
        if (mover.points.size() <= D) return true;  // flat: goes through a surface and is out again
        return overlap_by<D>(mover, at + step * direction, target, -1e-3 * step * n.dot(direction) + noise);
    }
};

}  // namespace

template <int D>
std::optional<CastHit<D>> open_hit(const Level<D>& level, const BoundsTree<D>& tree, LayerSet layers,
                                   const HullView<D>& mover, const Vec<D>& start, const Vec<D>& direction,
                                   std::uint32_t piece, const CastHit<D>& hit) {
    if (level.pieces().is_facet(piece)) {
        // The side of a surface is no seam.
        const Vec<D> side = facet_normal<D>(level.pieces().corners(piece));
        if (std::abs(side.dot(hit.normal)) > 1.0 - tolerance::direction) return hit;
    }
    const Seam<D> seam{level, tree, layers, mover, start + hit.distance * direction, direction, piece, hit};
    CastHit<D> result = hit;
    const bool open = seam.try_normals(hit.normal, [&](const Vec<D>& n) {
        if (!seam.is_open(n) || !seam.goes_in(n)) return false;
        result.normal = n;
        return true;
    });
    if (!open) return std::nullopt;
    return result;
}

template std::optional<CastHit<2>> open_hit<2>(const Level<2>&, const BoundsTree<2>&, LayerSet,
                                               const HullView<2>&, const Vec<2>&, const Vec<2>&,
                                               std::uint32_t, const CastHit<2>&);
template std::optional<CastHit<3>> open_hit<3>(const Level<3>&, const BoundsTree<3>&, LayerSet,
                                               const HullView<3>&, const Vec<3>&, const Vec<3>&,
                                               std::uint32_t, const CastHit<3>&);

}  // namespace hollow_probe
