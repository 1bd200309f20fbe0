// Shapes and levels as pages draw them.
#pragma once

#include "hollow_probe/geometry/hull_wire.hpp"
#include "io/hull_surface.hpp"
#include "io/json.hpp"
#include "report/packed.hpp"
#include "report/projection.hpp"

namespace hollow_probe {

/// The outline of a 2D hull in the level's own coordinates.
inline Outline outline_of(const HullView<2>& hull) {
    return rounded_outline(Outline(hull.points.begin(), hull.points.end()), hull.radius);
}

inline void pack_edges(const HullView<3>& hull, Packed& packed) {
    for_each_wire<3>(hull, 24, [&](const Vec<3>& from, const Vec<3>& to) {
        packed.add<3>(from);
        packed.add<3>(to);
    });
}

inline void pack_surface(const HullView<3>& hull, bool is_facet, Packed& packed) {
    const TriangleMesh mesh = hull_surface<3>(hull, is_facet, 20);
    for (const auto& triangle : mesh.triangles) {
        for (const std::uint32_t corner : triangle) packed.add<3>(mesh.vertices[corner]);
    }
}

/// A shape by itself: 2D its outline, 3D triangles and edges.
template <int D>
Json shape_data(const HullView<D>& hull) {
    if constexpr (D == 2) {
        Json list = Json::array();
        for (const Vec<2>& p : outline_of(hull)) list.push_back(numbers_of<2>(p));
        return list;
    } else {
        Packed triangles;
        Packed edges;
        pack_surface(hull, false, triangles);
        pack_edges(hull, edges);
        return {{"triangles", triangles.text()}, {"edges", edges.text()}};
    }
}

}  // namespace hollow_probe
