// In the plane: the outline of a piece grown by a shape, and where an upright line crosses it.
#pragma once

#include <array>
#include <optional>

#include "verify/turning_heights.hpp"

namespace hollow_probe {

/// The anchor of a shape is led along this outline when its core touches that of a piece: the sum of the
/// piece and the shape turned about, which is convex, too. It is walked around side by side of either, the
/// less turned first (M. de Berg, O. Cheong, M. van Kreveld and M. Overmars, "Computational Geometry", 2008,
/// on Minkowski sums).
///
///     const GrownOutline outline(box, foot, up, ramp);
///     const auto touching = outline.within(0.0, 1e-9);  // heights of the box above foot
class GrownOutline {
  public:
    /// Of shapes with few corners: it works on no memory but its own.
    static bool can(const HullView<2>& shape, const HullView<2>& piece) {
        return shape.points.size() <= most_corners && piece.points.size() <= most_corners;
    }

    GrownOutline(const HullView<2>& shape, const Vec<2>& foot, const Vec<2>& up, const HullView<2>& piece);

    /// The heights above `foot` that are inside, or no farther outside than `radius`; nothing if the line
    /// passes by. What it passes by closer than `slack` it touches.
    [[nodiscard]] std::optional<HeightSpan> within(double radius, double slack) const;
    /// … that are more than `depth`, which is 0 or more, inside.
    [[nodiscard]] std::optional<HeightSpan> deeper(double depth) const;

  private:
    static constexpr std::size_t most_corners = 16;

    /// Corners counter-clockwise, the lowest first; across the line, and along it.
    struct Loop {
        std::array<Vec<2>, most_corners> corners;
        std::size_t count = 0;

        template <class Place>
        void take(const HullView<2>& hull, Place place);
        [[nodiscard]] std::size_t sides() const { return count == 1 ? 0 : count; }
        [[nodiscard]] Vec<2> side(std::size_t i) const {
            return corners[i + 1 < count ? i + 1 : 0] - corners[i];
        }
    };

    [[nodiscard]] Vec<2> first() const { return of_piece_.corners[0] + of_shape_.corners[0]; }
    /// Calls visit(from, to) for each side, counter-clockwise from first().
    template <class Visit>
    void for_each_side(Visit visit) const;

    Loop of_piece_;
    Loop of_shape_;
};

}  // namespace hollow_probe
