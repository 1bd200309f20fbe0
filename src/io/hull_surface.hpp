// The surface of a rounded hull as triangles.
#pragma once

#include "hollow_probe/geometry/rounded_hull.hpp"
#include "hollow_probe/io/mesh_file.hpp"

namespace hollow_probe {

/// Closed and facing outwards, round parts approximated from inside with so many facets around; a facet is
/// itself. In 2D it lies in the plane z = 0, a segment as a thin triangle.
template <int D>
TriangleMesh hull_surface(const HullView<D>& hull, bool is_facet, int around);

template <>
TriangleMesh hull_surface<2>(const HullView<2>& hull, bool is_facet, int around);
template <>
TriangleMesh hull_surface<3>(const HullView<3>& hull, bool is_facet, int around);

}  // namespace hollow_probe
