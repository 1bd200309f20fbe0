// Views of a level: a plane to draw on, and the outlines and sections of rounded hulls on it.
#pragma once

#include "hollow_probe/geometry/rounded_hull.hpp"
#include "report/canvas.hpp"

namespace hollow_probe {

/// What is to the right of up on a page. A level whose up points down its axis, as in pictures, is drawn as
/// the picture is: not mirrored.
inline Vec<2> right_of(const Vec<2>& up) {
    return up.y() < 0.0 ? Vec<2>(-up.y(), up.x()) : Vec<2>(up.y(), -up.x());
}

using Outline = std::vector<Vec<2>>;

/// A flat picture of D-space: what lies along `right` and `up` of the page, at a scale. In 3D things are seen
/// from the side that `away` points away from, cut at the plane through `center`.
template <int D>
struct View {
    Rect frame;  // on the page, in pixels
    Vec<D> right = Vec<D>::zero();
    Vec<D> up = Vec<D>::zero();
    Vec<D> away = Vec<D>::zero();    // 3D: into the page; zero in 2D
    Vec<D> center = Vec<D>::zero();  // shown in the middle of the frame
    double scale = 1.0;              // pixels per unit
    double cut = 0.0;                // 3D: depth along `away` of the cutting plane

    [[nodiscard]] Vec<2> flat(const Vec<D>& p) const { return {right.dot(p), up.dot(p)}; }
    [[nodiscard]] double depth(const Vec<D>& p) const { return away.dot(p); }
    [[nodiscard]] Vec<2> page(const Vec<2>& p) const {
        const Vec<2> c = flat(center);
        return {frame.x + 0.5 * frame.width + scale * (p.x() - c.x()),
                frame.y + 0.5 * frame.height - scale * (p.y() - c.y())};
    }
    [[nodiscard]] Vec<2> at(const Vec<D>& p) const { return page(flat(p)); }
    [[nodiscard]] Outline page(const Outline& outline) const {
        Outline result;
        for (const Vec<2>& p : outline) result.push_back(page(p));
        return result;
    }
    /// Shows the rectangle of flat coordinates with a margin in pixels around it.
    void fit(const Vec<2>& low, const Vec<2>& high, double margin);
};

/// The convex hull of flat points, grown by a radius with round corners; counter-clockwise.
Outline rounded_outline(Outline points, double radius);

/// A hull's shadow on the page, moved by `shift`.
template <int D>
Outline shadow(const View<D>& view, const HullView<D>& hull, const Vec<D>& shift);

/// The section of a 3D hull at the view's cutting plane; empty if it is not cut, two points for a flat hull.
Outline section(const View<3>& view, const HullView<3>& hull);

}  // namespace hollow_probe
