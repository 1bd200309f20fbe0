#include "hollow_probe/geometry/separation.hpp"

#include <algorithm>
#include <array>
#include <optional>

#include "geometry/over_facet.hpp"
#include "geometry/past_rim.hpp"
#include "geometry/polygon_pair.hpp"
#include "geometry/segment_polygon.hpp"
#include "geometry/segment_triangle.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

/// A corner of the Minkowski difference a - b and the points it came from.
template <int D>
struct Corner {
    Vec<D> difference;
    int of_a = 0;
    int of_b = 0;
};

/// The convex combination of corners nearest the origin.
template <int D>
struct Simplex {
    std::array<Corner<D>, D + 1> corners;
    std::array<double, D + 1> weights{};
    int size = 0;
    Vec<D> nearest = Vec<D>::zero();
};

template <int D>
Corner<D> support(const HullView<D>& a, const Vec<D>& shift, const HullView<D>& b, const Vec<D>& direction) {
    Corner<D> corner;
    double best = infinity;
    for (std::size_t i = 0; i < a.points.size(); ++i) {
        const double s = direction.dot(a.points[i]);
        if (s < best) {
            best = s;
            corner.of_a = static_cast<int>(i);
        }
    }
    best = -infinity;
    for (std::size_t i = 0; i < b.points.size(); ++i) {
        const double s = direction.dot(b.points[i]);
        if (s > best) {
            best = s;
            corner.of_b = static_cast<int>(i);
        }
    }
    corner.difference = (a.points[corner.of_a] + shift) - b.points[corner.of_b];
    return corner;
}

/// The point of the affine hull of the chosen corners nearest the origin, as weights; false if the corners
/// are dependent or a weight is not positive (then a smaller set has the nearest point). The last corner is
/// the pivot.
template <int D>
bool weigh(const Simplex<D>& simplex, unsigned chosen, std::array<double, D + 1>& weights) {
    std::array<int, D + 1> index{};
    int count = 0;
    for (int i = 0; i < simplex.size; ++i) {
        if (chosen >> i & 1U) index[count++] = i;
    }
    weights.fill(0.0);
    const auto corner = [&](int i) -> const Vec<D>& { return simplex.corners[index[i]].difference; };
    const auto weight = [&](int i) -> double& { return weights[index[i]]; };
    if (count == 1) {
        weight(0) = 1.0;
        return true;
    }
    // Least squares by orthogonalising the sides: keeps the digits that normal equations lose on needles.
    const Vec<D>& pivot = corner(count - 1);
    std::array<Vec<D>, D> unit;
    std::array<std::array<double, D>, D> along{};  // side i along unit k
    std::array<double, D> solution{};
    for (int i = 0; i + 1 < count; ++i) {
        Vec<D> rest = corner(i) - pivot;
        const double length = rest.norm();
        for (int k = 0; k < i; ++k) {
            along[i][k] = unit[k].dot(rest);
            rest -= along[i][k] * unit[k];
        }
        along[i][i] = rest.norm();
        if (along[i][i] <= 1e-15 * length || length == 0.0) return false;
        unit[i] = rest / along[i][i];
    }
    for (int k = count - 2; k >= 0; --k) {
        double wanted = -unit[k].dot(pivot);
        for (int i = k + 1; i + 1 < count; ++i) wanted -= solution[i] * along[i][k];
        solution[k] = wanted / along[k][k];
    }
    double rest = 1.0;
    for (int i = 0; i + 1 < count; ++i) {
        if (!(solution[i] > 0.0)) return false;
        weight(i) = solution[i];
        rest -= solution[i];
    }
    weight(count - 1) = rest;
    return rest > 0.0;
}

/// Whether no corner that was left out lies nearer to the origin, along the nearest point, than that point.
template <int D>
bool is_nearest(const Simplex<D>& simplex, unsigned chosen, const Vec<D>& point) {
    const double squared = point.squared_norm();
    for (int i = 0; i < simplex.size; ++i) {
        if ((chosen >> i & 1U) == 0 && point.dot(simplex.corners[i].difference) < squared) return false;
    }
    return true;
}

/// Shrinks the simplex to the corners that carry its point nearest the origin. The newest corner is always
/// among them, so only subsets holding it are tried, the likeliest first. What is proven nearest ends that;
/// where rounding leaves nothing proven, the nearest of all is taken.
template <int D>
void reduce(Simplex<D>& simplex) {
    const unsigned newest = 1U << (simplex.size - 1);
    double best = infinity;
    unsigned best_set = newest;
    std::array<double, D + 1> best_weights{};
    best_weights[simplex.size - 1] = 1.0;
    Vec<D> best_point = simplex.corners[simplex.size - 1].difference;
    // Of four corners three carry the point most often, of fewer all.
    constexpr std::array<unsigned, 8> of_four = {3, 5, 6, 1, 2, 4, 7, 0};
    constexpr std::array<unsigned, 4> of_three = {3, 1, 2, 0};
    for (unsigned i = 0; i < newest; ++i) {
        const unsigned others = newest == 8 ? of_four[i] : newest == 4 ? of_three[i] : newest - 1 - i;
        const unsigned set = newest | others;
        std::array<double, D + 1> weights{};
        if (!weigh(simplex, set, weights)) continue;
        Vec<D> point = Vec<D>::zero();
        for (int k = 0; k < simplex.size; ++k) {
            if (weights[k] != 0.0) point += weights[k] * simplex.corners[k].difference;
        }
        const double squared = point.squared_norm();
        if (squared < best) {
            best = squared;
            best_set = set;
            best_weights = weights;
            best_point = point;
        }
        if (is_nearest(simplex, set, point)) break;
    }
    int kept = 0;
    for (int i = 0; i < simplex.size; ++i) {
        if ((best_set >> i & 1U) == 0) continue;
        simplex.corners[kept] = simplex.corners[i];
        simplex.weights[kept] = best_weights[i];
        ++kept;
    }
    simplex.size = kept;
    simplex.nearest = best_point;
}

/// Sharpens the nearest point of a facet simplex: its plane's normal is known better than the small
/// difference of large numbers that the weighted sum is.
template <int D>
Vec<D> unit_direction(const Simplex<D>& simplex) {
    Vec<D> n = simplex.nearest;
    if (simplex.size == D) {
        if constexpr (D == 2) {
            const Vec<2> side = simplex.corners[1].difference - simplex.corners[0].difference;
            n = Vec<2>(side.y(), -side.x());
        } else {
            n = (simplex.corners[1].difference - simplex.corners[0].difference)
                    .cross(simplex.corners[2].difference - simplex.corners[0].difference);
        }
        if (n.dot(simplex.corners[0].difference) < 0.0) n = -n;
    }
    return n.normalized();
}

template <int D>
Simplex<D> nearest_simplex(const HullView<D>& a, const Vec<D>& shift, const HullView<D>& b) {
    constexpr int most_rounds = 100;
    Simplex<D> simplex;
    simplex.corners[0] = {a.points[0] + shift - b.points[0], 0, 0};
    simplex.weights[0] = 1.0;
    simplex.size = 1;
    simplex.nearest = simplex.corners[0].difference;
    for (int round = 0; round < most_rounds; ++round) {
        const Vec<D> direction = simplex.nearest;
        const double squared = direction.squared_norm();
        if (squared == 0.0) break;
        const Corner<D> corner = support(a, shift, b, direction);
        bool known = false;
        for (int i = 0; i < simplex.size; ++i) {
            const Corner<D>& other = simplex.corners[i];
            known = known || (other.of_a == corner.of_a && other.of_b == corner.of_b);
        }
        // No corner lies nearer than the simplex along this direction: it is the nearest feature.
        if (known || squared - direction.dot(corner.difference) <= 1e-15 * squared) break;
        Simplex<D> next = simplex;
        next.corners[next.size++] = corner;
        reduce(next);
        if (next.size < D + 1 && !(next.nearest.squared_norm() < squared))
            break;  // rounding: no more to gain
        simplex = next;
        if (simplex.size == D + 1) break;  // the origin lies inside
    }
    return simplex;
}

/// In space most pairs of a round core and a hull need no search; nothing for those that do.
std::optional<Separation<3>> without_search(const HullView<3>& a, const Vec<3>& shift, const HullView<3>& b) {
    if (a.points.size() > 2) return std::nullopt;
    if (b.points.size() == 3) return SegmentAndTriangle(a, shift, b).find();
    const bool has_facets = b.points.size() > 3 && !b.normals.empty() && !b.topology->facets.empty();
    if (!has_facets) return std::nullopt;
    const auto over = over_facet(a, shift, b);
    return over || a.points.size() > 1 ? over : past_rim(a, shift, b);
}

/// The separating direction with the least overlap of the cores.
template <int D>
void part_cores(const HullView<D>& a, const Vec<D>& shift, const HullView<D>& b, double& apart,
                Vec<D>& normal) {
    apart = -infinity;
    for_each_separating_direction(a, b, [&](const Vec<D>& n) {
        const double s = extent_along(a, n)[0] + n.dot(shift) - extent_along(b, n)[1];
        if (s > apart) {
            apart = s;
            normal = n;
        }
    });
}

/// How far inside a full simplex the origin lies.
template <int D>
double depth_within(const Simplex<D>& simplex) {
    double least = infinity;
    for (int left_out = 0; left_out <= D; ++left_out) {
        const auto corner = [&](int i) -> const Vec<D>& {
            return simplex.corners[(left_out + 1 + i) % (D + 1)].difference;
        };
        Vec<D> n;
        if constexpr (D == 2) {
            const Vec<2> side = corner(1) - corner(0);
            n = Vec<2>(side.y(), -side.x());
        } else {
            n = (corner(1) - corner(0)).cross(corner(2) - corner(0));
        }
        const double length = n.norm();
        if (length == 0.0) return 0.0;
        least = std::min(least, std::abs(n.dot(corner(0))) / length);
    }
    return least;
}

/// In the plane most pairs need no search; nothing for those that do.
std::optional<Separation<2>> without_search(const HullView<2>& a, const Vec<2>& shift, const HullView<2>& b) {
    const auto is_round = [](const HullView<2>& hull) { return hull.points.size() <= 2; };
    if (PolygonPair::can(a) && PolygonPair::can(b)) return PolygonPair(a, shift, b).find();
    if (is_round(a) && b.points.size() >= 2 && (b.points.size() == 2 || !b.normals.empty()))
        return SegmentAndPolygon(a, shift, b).find();
    if (!is_round(b) || !PolygonPair::can(a)) return std::nullopt;
    auto found = SegmentAndPolygon(b, -shift, a).find();
    if (!found) return std::nullopt;
    std::swap(found->on_a, found->on_b);
    found->on_a += shift;
    found->on_b += shift;
    found->normal = -found->normal;
    return found;
}

}  // namespace

template <int D>
bool overlap_by(const HullView<D>& a, const Vec<D>& shift, const HullView<D>& b, double depth) {
    if (const auto quick = without_search(a, shift, b)) return quick->gap < -depth;
    // A simplex of the Minkowski difference around the origin, if it is large enough, says so at once.
    const Simplex<D> simplex = nearest_simplex(a, shift, b);
    if (simplex.size == D + 1 && depth_within(simplex) > 1.001 * depth) return true;
    return separation<D>(a, shift, b).gap < -depth;
}

template <int D>
Separation<D> separation(const HullView<D>& a, const Vec<D>& shift, const HullView<D>& b) {
    if (const auto quick = without_search(a, shift, b)) return *quick;
    const Simplex<D> simplex = nearest_simplex(a, shift, b);
    // Of the whole of both: where two corners touch their own difference is rounding alone.
    double scale = 0.0;
    for (const Vec<D>& p : a.points) scale = std::max(scale, (p + shift - b.points[0]).abs().largest());
    for (const Vec<D>& p : b.points) scale = std::max(scale, (a.points[0] + shift - p).abs().largest());
    Separation<D> result;
    Vec<D> core_a = Vec<D>::zero();
    Vec<D> core_b = Vec<D>::zero();
    for (int i = 0; i < simplex.size; ++i) {
        core_a += simplex.weights[i] * (a.points[simplex.corners[i].of_a] + shift);
        core_b += simplex.weights[i] * b.points[simplex.corners[i].of_b];
    }
    double apart = simplex.nearest.norm();
    result.cores_meet = simplex.size == D + 1 || apart <= tolerance::cores_meet * scale;
    if (result.cores_meet) {
        part_cores(a, shift, b, apart, result.normal);
        // The deepest points are those that touch last on the shortest way out.
        const Vec<D> out = (tolerance::accuracy * scale - apart) * result.normal;
        const Simplex<D> parted = nearest_simplex(a, shift + out, b);
        core_b = Vec<D>::zero();
        for (int i = 0; i < parted.size; ++i) core_b += parted.weights[i] * b.points[parted.corners[i].of_b];
        core_a = core_b + apart * result.normal;
    } else {
        result.normal = unit_direction(simplex);
        apart = result.normal.dot(simplex.nearest);
        if (apart <= 1e-4 * scale) {
            // Close together the nearest vector is a small difference of large numbers. If a facet normal
            // parts the cores as far, it is the direction, and known to the last digit.
            double by_facet = 0.0;
            Vec<D> facet_normal;
            part_cores(a, shift, b, by_facet, facet_normal);
            if (by_facet >= apart - 1e-14 * scale) {
                apart = by_facet;
                result.normal = facet_normal;
            }
        }
    }
    result.gap = apart - a.radius - b.radius;
    result.on_a = core_a - a.radius * result.normal;
    result.on_b = core_b + b.radius * result.normal;
    return result;
}

template Separation<2> separation<2>(const HullView<2>&, const Vec<2>&, const HullView<2>&);
template Separation<3> separation<3>(const HullView<3>&, const Vec<3>&, const HullView<3>&);
template bool overlap_by<2>(const HullView<2>&, const Vec<2>&, const HullView<2>&, double);
template bool overlap_by<3>(const HullView<3>&, const Vec<3>&, const HullView<3>&, double);

}  // namespace hollow_probe
