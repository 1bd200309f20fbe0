// Flat convex outlines: a face of a piece and a body's projection on to its plane, and what they share.
#pragma once

#include <optional>
#include <vector>

#include "hollow_probe/truth/contact.hpp"

namespace hollow_probe {

/// Coordinates in the plane across a contact's normal: the first along the direction asked for, as far as it
/// lies in the plane. In 2D the plane is a line and the second coordinate is 0.
using Flat = Vec<2>;

template <int D>
struct ContactPlane {
    /// `along` chooses the first axis; where it has no part in the plane any axis does.
    ContactPlane(const Vec<D>& point, const Vec<D>& normal, const Vec<D>& along);

    [[nodiscard]] Flat flat(const Vec<D>& p) const;
    [[nodiscard]] Vec<D> point(const Flat& f) const;

    Vec<D> origin;
    Vec<D> normal;
    Vec<D> first;
    Vec<D> second;  // zero in 2D
};

/// A convex polygon (or segment, or point) inflated by a radius.
struct Outline {
    /// Of any points: their convex hull.
    explicit Outline(std::vector<Flat> points, double radius = 0.0);

    /// To the core; 0 within it.
    [[nodiscard]] double distance(const Flat& p) const;
    [[nodiscard]] bool has(const Flat& p, double slack) const { return distance(p) <= radius + slack; }

    std::vector<Flat> core;  // counter-clockwise
    double radius;
};

/// Points of what two outlines share, among them the farthest along the first axis; `face` has no radius.
/// Empty where they are farther apart than `slack`.
std::vector<Flat> shared_points(const Outline& face, const Outline& other, double slack);

/// Calls visit(corner) for the corners of a piece that lie in the plane of a contact with it, to within
/// `slack` and a millionth of their distance from the contact.
template <int D, class Visit>
void for_each_front_point(const HullView<D>& piece, const Vec<D>& point, const Vec<D>& normal, double slack,
                          Visit visit) {
    constexpr double tilted = 1e-6;  // a face turned by less is in the plane
    for (const Vec<D>& core : piece.points) {
        const Vec<D> p = core + piece.radius * normal;
        if (std::abs(normal.dot(p - point)) <= slack + tilted * (p - point).norm()) visit(p);
    }
}

/// … all of them.
template <int D>
std::vector<Vec<D>> front_of(const HullView<D>& piece, const Vec<D>& point, const Vec<D>& normal,
                             double slack);

}  // namespace hollow_probe
