// From where to where a shape that is moved along up touches a piece.
#pragma once

#include <optional>

#include "verify/turning_heights.hpp"

namespace hollow_probe {

/// The heights of a shape above `foot` at which it touches or overlaps a piece, to about 1e-10 of their size;
/// nothing if the column leads it past the piece. `up` is unit.
template <int D>
std::optional<HeightSpan> touching_heights(const HullView<D>& shape, const Vec<D>& foot, const Vec<D>& up,
                                           const HullView<D>& piece);

extern template std::optional<HeightSpan> touching_heights<2>(const HullView<2>&, const Vec<2>&,
                                                              const Vec<2>&, const HullView<2>&);
extern template std::optional<HeightSpan> touching_heights<3>(const HullView<3>&, const Vec<3>&,
                                                              const Vec<3>&, const HullView<3>&);

}  // namespace hollow_probe
