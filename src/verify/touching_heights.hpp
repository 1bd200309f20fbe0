// From where to where a shape that is moved along up touches a piece.
#pragma once

#include <optional>

#include "hollow_probe/geometry/ray_facet.hpp"
#include "verify/turning_heights.hpp"

namespace hollow_probe {

/// A shape that stands upright on a point, as a ball or a capsule does: its middles, from the lowest to the
/// highest, lie straight above `foot`.
template <int D>
struct Upright {
    Vec<D> foot = Vec<D>::zero();  // square to up
    double radius = 0.0;
    double low = 0.0;
    double high = 0.0;
};
/// Nothing for other shapes. `up` is unit.
template <int D>
std::optional<Upright<D>> upright_of(const HullView<D>& shape, const Vec<D>& up);

/// The heights above `foot` from the first to the last at which the middle of a ball touches a piece.
/// `unsure` beside an edge that is nearly upright: a search tells.
template <int D>
Meets touching_heights_of_ball(const Vec<D>& foot, const Vec<D>& up, double radius, const HullView<D>& piece,
                               HeightSpan& span);

/// The heights of a shape above `foot` at which it touches or overlaps a piece, to about 1e-10 of their size;
/// nothing if the column leads it past the piece. `up` is unit.
template <int D>
std::optional<HeightSpan> touching_heights(const HullView<D>& shape, const Vec<D>& foot, const Vec<D>& up,
                                           const HullView<D>& piece);

/// The heights within `touching`, which are all at which a shape touches a piece, at which it overlaps it
/// deeper than `touch`; the ends lie outside of it, within touch / 2048.
template <int D>
std::optional<HeightSpan> deep_heights(const HullView<D>& shape, const Vec<D>& foot, const Vec<D>& up,
                                       const HullView<D>& piece, const HeightSpan& touching, double touch);

}  // namespace hollow_probe
