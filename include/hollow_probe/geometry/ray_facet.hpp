// Rays at segments (2D) and triangles (3D): the query everything else waits for.
#pragma once

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

/// What a direction needs for being cast at many facets.
template <int D>
struct RayFrame;

template <>
struct RayFrame<2> {
    explicit RayFrame(const Vec<2>& unit) : direction(unit), aside(-unit.y(), unit.x()) {}
    Vec<2> direction;
    Vec<2> aside;
};

template <>
struct RayFrame<3> {
    explicit RayFrame(const Vec<3>& unit);
    Vec<3> direction;
    // The axis the ray is most along, the two others, and the shear that turns the ray into that axis.
    int x = 0;
    int y = 1;
    int z = 2;
    double shear_x = 0.0;
    double shear_y = 0.0;
    double inverse = 0.0;
};

enum class Meets { no, yes, unsure };

/// Whether a ray from `origin` meets the facet with these corners within `reach`, inclusive to within
/// rounding, edges and corners included; `distance` is then how far away. `unsure` for facets seen nearly
/// edge-on and rays that pass an edge within rounding: cast() decides those.
///
/// Two facets that share an edge are never both missed by a ray between them (S. Woop, C. Benthin, I. Wald,
/// "Watertight ray/triangle intersection", 2013).
template <int D>
Meets ray_meets_facet(const RayFrame<D>& frame, const Vec<D>& origin, double reach, const Vec<D>* corners,
                      double& distance);

/// The unit normal of a facet on the side a direction comes from; zero if it has no area.
template <int D>
Vec<D> normal_against(const Vec<D>* corners, const Vec<D>& direction);

}  // namespace hollow_probe
