#include "hollow_probe/geometry/polygon.hpp"

#include <algorithm>
#include <optional>

namespace hollow_probe {
namespace {

using Polygon = std::vector<Vec<2>>;

double turn(const Vec<2>& a, const Vec<2>& b, const Vec<2>& c) {
    return (b.x() - a.x()) * (c.y() - a.y()) - (b.y() - a.y()) * (c.x() - a.x());
}

/// c lies within the box of a and b; for c in line with them, on the segment.
bool between(const Vec<2>& a, const Vec<2>& b, const Vec<2>& c) {
    return std::min(a.x(), b.x()) <= c.x() && c.x() <= std::max(a.x(), b.x()) &&
           std::min(a.y(), b.y()) <= c.y() && c.y() <= std::max(a.y(), b.y());
}

bool segments_meet(const Vec<2>& a, const Vec<2>& b, const Vec<2>& c, const Vec<2>& d) {
    const double abc = turn(a, b, c);
    const double abd = turn(a, b, d);
    const double cda = turn(c, d, a);
    const double cdb = turn(c, d, b);
    if (((abc > 0) != (abd > 0)) && ((cda > 0) != (cdb > 0)) && abc != 0 && abd != 0 && cda != 0 &&
        cdb != 0) {
        return true;
    }
    return (abc == 0 && between(a, b, c)) || (abd == 0 && between(a, b, d)) ||
           (cda == 0 && between(c, d, a)) || (cdb == 0 && between(c, d, b));
}

void refuse_crossing_edges(const Polygon& corners) {
    const std::size_t count = corners.size();
    for (std::size_t i = 0; i < count; ++i) {
        for (std::size_t k = i + 1; k < count; ++k) {
            const Vec<2>& a = corners[i];
            const Vec<2>& b = corners[(i + 1) % count];
            const Vec<2>& c = corners[k];
            const Vec<2>& d = corners[(k + 1) % count];
            bool crosses = false;
            if (k == i + 1 || (i == 0 && k == count - 1)) {
                // Neighbours share a corner; they may not fold back over each other.
                const Vec<2>& shared = k == i + 1 ? b : a;
                const Vec<2>& from = k == i + 1 ? a : b;
                const Vec<2>& to = k == i + 1 ? d : c;
                crosses = turn(from, shared, to) == 0 && (from - shared).dot(to - shared) > 0;
            } else {
                crosses = segments_meet(a, b, c, d);
            }
            if (crosses) {
                throw InvalidInput("polygon crosses itself: edge " + std::to_string(i + 1) + " meets edge " +
                                   std::to_string(k + 1) +
                                   "; expected edges that meet only at shared corners");
            }
        }
    }
}

Polygon without_straight_corners(Polygon corners) {
    bool changed = true;
    while (changed && corners.size() >= 3) {
        changed = false;
        for (std::size_t i = 0; i < corners.size() && corners.size() >= 3; ++i) {
            const Vec<2>& a = corners[(i + corners.size() - 1) % corners.size()];
            const Vec<2>& b = corners[i];
            const Vec<2>& c = corners[(i + 1) % corners.size()];
            if (a == b || (turn(a, b, c) == 0 && (a - b).dot(c - b) < 0)) {
                corners.erase(corners.begin() + static_cast<std::ptrdiff_t>(i));
                changed = true;
            }
        }
    }
    return corners;
}

std::vector<Polygon> ears(Polygon rest) {
    constexpr double straight = 1e-12;  // sine of an angle taken for none
    std::vector<Polygon> triangles;
    while (rest.size() > 3) {
        const std::size_t count = rest.size();
        std::optional<std::size_t> ear;
        std::optional<std::size_t> straight_corner;
        double best = -infinity;  // of all ears the plumpest, so that no needles are cut
        for (std::size_t i = 0; i < count; ++i) {
            const Vec<2>& a = rest[(i + count - 1) % count];
            const Vec<2>& b = rest[i];
            const Vec<2>& c = rest[(i + 1) % count];
            const double longest = std::max({(b - a).norm(), (c - b).norm(), (a - c).norm()});
            // Cutting may leave corners in line, as below the noses of a stair; they go without a triangle.
            if (std::abs(turn(a, b, c)) <= straight * longest * longest) {
                straight_corner = i;
                break;
            }
            if (turn(a, b, c) < 0) continue;
            const bool free = std::none_of(rest.begin(), rest.end(), [&](const Vec<2>& p) {
                if (p == a || p == b || p == c) return false;
                return turn(a, b, p) >= 0 && turn(b, c, p) >= 0 && turn(c, a, p) >= 0;
            });
            if (!free) continue;
            const double plumpness = turn(a, b, c) / (longest * longest);
            if (plumpness > best) {
                best = plumpness;
                ear = i;
            }
        }
        if (straight_corner) {
            rest.erase(rest.begin() + static_cast<std::ptrdiff_t>(*straight_corner));
            continue;
        }
        if (!ear) throw InvalidInput("polygon cannot be cut into convex parts: it touches itself");
        triangles.push_back({rest[(*ear + count - 1) % count], rest[*ear], rest[(*ear + 1) % count]});
        rest.erase(rest.begin() + static_cast<std::ptrdiff_t>(*ear));
    }
    if (std::abs(turn(rest[0], rest[1], rest[2])) > straight * (rest[2] - rest[0]).squaredNorm())
        triangles.push_back(rest);
    return triangles;
}

/// The two polygons joined over a shared edge, if they share one and the whole is convex.
std::optional<Polygon> joined(const Polygon& p, const Polygon& q) {
    for (std::size_t i = 0; i < p.size(); ++i) {
        for (std::size_t k = 0; k < q.size(); ++k) {
            if (p[i] != q[(k + 1) % q.size()] || p[(i + 1) % p.size()] != q[k]) continue;
            Polygon whole;
            for (std::size_t m = 1; m <= p.size(); ++m) whole.push_back(p[(i + m) % p.size()]);
            for (std::size_t m = 2; m < q.size(); ++m) whole.push_back(q[(k + m) % q.size()]);
            const std::size_t count = whole.size();
            for (std::size_t m = 0; m < count; ++m) {
                if (turn(whole[m], whole[(m + 1) % count], whole[(m + 2) % count]) <= 0) return std::nullopt;
            }
            return whole;
        }
    }
    return std::nullopt;
}

}  // namespace

std::vector<Polygon> convex_parts(const Polygon& given) {
    for (const Vec<2>& corner : given) {
        if (!corner.allFinite()) throw InvalidInput("polygon has a number that is not finite");
    }
    Polygon corners = without_straight_corners(given);
    if (corners.size() < 3)
        throw InvalidInput("polygon needs at least three corners that are not in one line");
    refuse_crossing_edges(corners);
    double twice_area = 0.0;
    for (std::size_t i = 1; i + 1 < corners.size(); ++i)
        twice_area += turn(corners[0], corners[i], corners[i + 1]);
    if (twice_area == 0.0) throw InvalidInput("polygon has no area");
    if (twice_area < 0.0) std::reverse(corners.begin(), corners.end());

    std::vector<Polygon> parts = ears(corners);
    for (std::size_t i = 0; i < parts.size(); ++i) {
        for (std::size_t k = i + 1; k < parts.size();) {
            if (auto whole = joined(parts[i], parts[k])) {
                parts[i] = std::move(*whole);
                parts.erase(parts.begin() + static_cast<std::ptrdiff_t>(k));
                k = i + 1;
            } else {
                ++k;
            }
        }
    }
    return parts;
}

}  // namespace hollow_probe
