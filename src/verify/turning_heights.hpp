// The heights of a column at which what a shape meets turns steeper, or flatter, than an angle.
#pragma once

#include <algorithm>
#include <cmath>
#include <vector>

#include "hollow_probe/geometry/rounded_hull.hpp"
#include "hollow_probe/level/level.hpp"

namespace hollow_probe {

struct HeightSpan {
    double low = 0.0;
    double high = 0.0;
};

/// A shape, relative to the anchor, that is moved along a line; what it meets counts by the angle of its
/// normal from up, and from the way back.
template <int D>
struct Turning {
    Turning(const RoundedHull<D>& moved, LayerSet seen, const Vec<D>& along, double length, double back,
            std::vector<double> told_apart, std::vector<double> from_way_back = {})
        : shape(moved),
          layers(seen),
          way(along),
          reach(length),
          before(back),
          angles(std::move(told_apart)),
          cosines(angles.size()),
          incidences(std::move(from_way_back)) {
        std::transform(angles.begin(), angles.end(), cosines.begin(),
                       [](double angle) { return std::cos(angle); });
    }

    RoundedHull<D> shape;
    LayerSet layers = 0;
    Vec<D> way = Vec<D>::zero();  // unit
    double reach = 0.0;           // along the way; what is met up to `before` behind the start counts, too
    double before = 0.0;
    std::vector<double> angles;      // from up, radians
    std::vector<double> cosines;     // of these
    std::vector<double> incidences;  // angles from the way back, radians
};

/// Adds to `heights` those of the anchor above `foot` at which the normal of what is met on the way crosses
/// one of the angles from up, or from the way back. Nothing for a way along up: there they are the same at
/// every height.
template <int D>
void add_turning_heights(const Turning<D>& turning, const Vec<D>& foot, const Vec<D>& up,
                         const HullView<D>& piece, std::vector<double>& heights);

enum class OfDeepest { below, above, either };

/// … at which the shortest way out of a piece crosses one of the angles, or turns from against the way to
/// along it, while the shape overlaps the piece; `span` holds no other heights, and lies on that side of the
/// deepest overlap. Where normals turn smoothly in 3D, two changes that undo each other may pass unseen.
template <int D>
void add_inside_heights(const Turning<D>& turning, const Vec<D>& foot, const Vec<D>& up,
                        const HullView<D>& piece, const HeightSpan& span, OfDeepest side, double fine,
                        std::vector<double>& heights);

}  // namespace hollow_probe
