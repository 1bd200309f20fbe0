// The fields of a shape: the same below a probe's `shape` and a stance.
#pragma once

#include <array>

#include "rig/field_access.hpp"

namespace hollow_probe {

/// Which of the four a shape is written as.
enum class ShapeForm : std::uint8_t { box, ball, capsule, hull };

/// Whether the corners are those of its bounds.
template <int D>
bool is_box(const RoundedHull<D>& shape) {
    const Bounds<D> bounds = shape.bounds();
    for (const Vec<D>& point : shape.points()) {
        for (int axis = 0; axis < D; ++axis) {
            if (point[axis] != bounds.low[axis] && point[axis] != bounds.high[axis]) return false;
        }
    }
    return true;
}

template <int D>
ShapeForm form_of(const RoundedHull<D>& shape) {
    const std::size_t points = shape.points().size();
    if (points == 1) return ShapeForm::ball;
    if (points == 2) return ShapeForm::capsule;
    return points == (D == 2 ? 4U : 8U) && shape.radius() == 0.0 && is_box<D>(shape) ? ShapeForm::box
                                                                                     : ShapeForm::hull;
}

template <int D, ShapeForm Form>
FieldValue radius_of(const RoundedHull<D>& shape) {
    if (form_of<D>(shape) != Form || (Form == ShapeForm::hull && shape.radius() == 0.0)) return {};
    return shape.radius();
}

template <int D>
FieldValue box_size_of(const RoundedHull<D>& shape) {
    if (form_of<D>(shape) != ShapeForm::box) return {};
    return value_of<Vec<D>>(shape.bounds().size());
}

template <int D>
FieldValue capsule_height_of(const RoundedHull<D>& shape) {
    if (form_of<D>(shape) != ShapeForm::capsule) return {};
    return (shape.points()[1] - shape.points()[0]).norm() + 2.0 * shape.radius();
}

template <int D>
FieldValue corners_of(const RoundedHull<D>& shape) {
    if (form_of<D>(shape) != ShapeForm::hull) return {};
    std::vector<std::vector<double>> corners;
    for (const Vec<D>& point : shape.points()) corners.emplace_back(point.data(), point.data() + D);
    return corners;
}

}  // namespace hollow_probe
