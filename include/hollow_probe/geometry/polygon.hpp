// Simple 2D polygons: checked, and cut into convex parts.
#pragma once

#include <vector>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

/// Cuts a simple polygon (either winding) into few convex parts whose union is exactly the polygon: ears are
/// clipped (G. H. Meisters, "Polygons have ears", 1975), then triangles are merged while they stay convex (S.
/// Hertel, K. Mehlhorn, "Fast triangulation of simple polygons", 1983). Corners that repeat or lie in a
/// straight edge are dropped; no part has more than 64. About n log n for n corners, more where many edges
/// lie above one another or ears span much of the polygon. Throws InvalidInput naming the corner or edges at
/// fault (numbered from 1) when fewer than three corners remain, an edge touches or crosses another one, or
/// the area is zero.
std::vector<std::vector<Vec<2>>> convex_parts(const std::vector<Vec<2>>& corners);

}  // namespace hollow_probe
