// Fast answers for the commonest casts, which leave the hard cases to the general one.
#pragma once

#include <optional>

#include "hollow_probe/geometry/cast.hpp"

namespace hollow_probe {

/// Nothing: a hard case, ask the general cast. Else a hit or, inside the outer optional, a miss.
template <int D>
using QuickAnswer = std::optional<std::optional<CastHit<D>>>;

/// Ray against segment or triangle.
template <int D>
QuickAnswer<D> cast_ray_at_facet(const Vec<D>& origin, const Vec<D>& direction, double reach,
                                 const Vec<D>* corners);

/// A mover with a radius against segment or triangle: balls, and other movers that land on its inside.
template <int D>
QuickAnswer<D> cast_round_at_facet(const HullView<D>& mover, const Vec<D>& start, const Vec<D>& direction,
                                   double reach, const Vec<D>* corners);

/// Hulls without radius, the mover of several points, starting clear of the target.
QuickAnswer<3> cast_polytope(const HullView<3>& mover, const Vec<3>& start, const Vec<3>& direction,
                             double reach, const HullView<3>& target);

}  // namespace hollow_probe
