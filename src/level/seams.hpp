// Telling hits on seams between pieces from hits on what sticks out.
#pragma once

#include <optional>

#include "hollow_probe/geometry/cast.hpp"
#include "hollow_probe/level/level.hpp"

namespace hollow_probe {

/// A hit of a mover without radius on one piece, seen among the pieces around it. Nothing if no part of the
/// contact is open: it is covered by pieces that lie flush (the side of the next floor slab, the edge between
/// two triangles of a floor), or the mover only slides past it. A contact that a face of the piece explains
/// as well as an edge gets the normal of the face.
/// `tree` has the pieces that count as neighbours.
template <int D>
std::optional<CastHit<D>> open_hit(const Level<D>& level, const BoundsTree<D>& tree, LayerSet layers,
                                   const HullView<D>& mover, const Vec<D>& start, const Vec<D>& direction,
                                   std::uint32_t piece, const CastHit<D>& hit);

}  // namespace hollow_probe
