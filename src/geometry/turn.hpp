#pragma once

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

/// Twice the signed area of a, b, c; positive counter-clockwise.
inline double turn(const Vec<2>& a, const Vec<2>& b, const Vec<2>& c) {
    return (b.x() - a.x()) * (c.y() - a.y()) - (b.y() - a.y()) * (c.x() - a.x());
}

}  // namespace hollow_probe
