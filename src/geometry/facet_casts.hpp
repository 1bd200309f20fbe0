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

/// Ball against segment or triangle: where it lands on the inside of the facet.
template <int D>
QuickAnswer<D> cast_ball_at_facet(const Vec<D>& center, double radius, const Vec<D>& direction, double reach,
                                  const Vec<D>* corners);

}  // namespace hollow_probe
