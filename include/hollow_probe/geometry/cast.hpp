// Casting one rounded hull along a line against another. A ray is the cast of a point.
#pragma once

#include <optional>

#include "hollow_probe/geometry/rounded_hull.hpp"

namespace hollow_probe {

template <int D>
struct CastHit {
    double distance = 0.0;           // travelled until first touch; 0 when it began inside
    Vec<D> normal = Vec<D>::zero();  // unit, out of the target at the touch
    bool began_inside = false;       // overlapped deeper than rounding at the start
    double depth = 0.0;              // began_inside: penetration depth, the way out being along normal
    Vec<D> point =
        Vec<D>::zero();  // on the target, if known: not yet after flat contacts; see contact_point()
    bool point_known = false;
};

/// Moves `mover` from `start` along unit `direction` by at most `reach` (>= 0, may be infinite) and returns
/// where it first touches `target`, or nothing.
///
/// - Inclusive at the limit: a touch at exactly `reach` is a hit, and so is a ray through an edge or a
/// corner.
/// - A mover that starts in touch is hit at distance 0 if it moves into the target, and not at all if it
/// slides
///   along or leaves. Nor is a round one that only brushes past (normal·direction > -1e-6).
/// - Exact: closed forms only, no iteration. Ray against the planes of the Minkowski difference (the method
/// of
///   M. Cyrus and J. Beck, "Generalized two- and three-dimensional clipping", 1978), then, for rounded
///   shapes, against the cylinders and balls on its edges and corners.
/// - Cost grows with the product of the two point counts.
template <int D>
std::optional<CastHit<D>> cast(const HullView<D>& mover, const Vec<D>& start, const Vec<D>& direction,
                               double reach, const HullView<D>& target);

/// Where a hit of cast() touches, on the target's surface; of a flat contact one of the points, of a mover
/// that began inside the deepest one.
template <int D>
Vec<D> contact_point(const HullView<D>& mover, const Vec<D>& start, const Vec<D>& direction,
                     const HullView<D>& target, const CastHit<D>& hit);

extern template std::optional<CastHit<2>> cast<2>(const HullView<2>&, const Vec<2>&, const Vec<2>&, double,
                                                  const HullView<2>&);
extern template std::optional<CastHit<3>> cast<3>(const HullView<3>&, const Vec<3>&, const Vec<3>&, double,
                                                  const HullView<3>&);

}  // namespace hollow_probe
