// The signed distance between two rounded hulls, with witness points and normal.
#pragma once

#include "hollow_probe/geometry/rounded_hull.hpp"

namespace hollow_probe {

template <int D>
struct Separation {
    /// Shortest distance between the surfaces; negative when they overlap, and then its absolute value is the
    /// penetration depth: the length of the shortest translation that parts them.
    double gap = 0.0;
    /// Unit direction from b to a: moving a along it parts the two fastest. Where the cores are apart it is
    /// the separating direction of the cores; where they meet, the direction of least penetration.
    Vec<D> normal = Vec<D>::zero();
    /// Nearest points on the two surfaces (deepest points when overlapping). With flat contacts, one of many.
    Vec<D> on_a = Vec<D>::zero();
    Vec<D> on_b = Vec<D>::zero();
    /// The cores (the hulls without their radius) meet, to within rounding.
    bool cores_meet = false;
};

/// Signed distance from a, moved by `shift`, to b. Never fails: degenerate hulls (coincident points, flat
/// triangles) give the distance of what they degenerate to. Where the direction is not unique (concentric
/// balls) one of the equal ones is returned, always the same one.
///
/// Cores apart: E. G. Gilbert, D. W. Johnson, S. S. Keerthi, "A fast procedure for computing the distance
/// between complex objects in three-dimensional space", 1988. Cores meeting: the least overlap over all facet
/// normals of the Minkowski difference, which is exact.
template <int D>
Separation<D> separation(const HullView<D>& a, const Vec<D>& shift, const HullView<D>& b);

template <int D>
Separation<D> separation(const HullView<D>& a, const HullView<D>& b) {
    return separation<D>(a, Vec<D>::zero(), b);
}

/// Whether a, moved by `shift`, and b overlap by more than `depth` (>= 0) whichever way they are parted: the
/// same as separation(a, shift, b).gap < -depth, but quicker where the overlap is much deeper.
template <int D>
bool overlap_by(const HullView<D>& a, const Vec<D>& shift, const HullView<D>& b, double depth);

extern template Separation<2> separation<2>(const HullView<2>&, const Vec<2>&, const HullView<2>&);
extern template Separation<3> separation<3>(const HullView<3>&, const Vec<3>&, const HullView<3>&);
extern template bool overlap_by<2>(const HullView<2>&, const Vec<2>&, const HullView<2>&, double);
extern template bool overlap_by<3>(const HullView<3>&, const Vec<3>&, const HullView<3>&, double);

}  // namespace hollow_probe
