#include "hollow_probe/geometry/separation.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <optional>

#include "geometry/over_facet.hpp"
#include "geometry/polygon_pair.hpp"
#include "geometry/segment_polygon.hpp"
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
    Vec<D> nearest = Vec<D>::Zero();
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
    const double squared = point.squaredNorm();
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
        Vec<D> point = Vec<D>::Zero();
        for (int k = 0; k < simplex.size; ++k) {
            if (weights[k] != 0.0) point += weights[k] * simplex.corners[k].difference;
        }
        const double squared = point.squaredNorm();
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
        const double squared = direction.squaredNorm();
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
        if (next.size < D + 1 && !(next.nearest.squaredNorm() < squared)) break;  // rounding: no more to gain
        simplex = next;
        if (simplex.size == D + 1) break;  // the origin lies inside
    }
    return simplex;
}

/// The point of a triangle nearest to p, as weights of its corners (C. Ericson, "Real-Time Collision
/// Detection", 2005, section 5.1.5).
std::array<double, 3> nearest_in_triangle(const Vec<3>& p, const std::array<Vec<3>, 3>& t) {
    const Vec<3> ab = t[1] - t[0];
    const Vec<3> ac = t[2] - t[0];
    const Vec<3> ap = p - t[0];
    const double d1 = ab.dot(ap);
    const double d2 = ac.dot(ap);
    if (d1 <= 0.0 && d2 <= 0.0) return {1.0, 0.0, 0.0};
    const Vec<3> bp = p - t[1];
    const double d3 = ab.dot(bp);
    const double d4 = ac.dot(bp);
    if (d3 >= 0.0 && d4 <= d3) return {0.0, 1.0, 0.0};
    const double vc = d1 * d4 - d3 * d2;
    if (vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0) {
        const double v = d1 / (d1 - d3);
        return {1.0 - v, v, 0.0};
    }
    const Vec<3> cp = p - t[2];
    const double d5 = ab.dot(cp);
    const double d6 = ac.dot(cp);
    if (d6 >= 0.0 && d5 <= d6) return {0.0, 0.0, 1.0};
    const double vb = d5 * d2 - d1 * d6;
    if (vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0) {
        const double w = d2 / (d2 - d6);
        return {1.0 - w, 0.0, w};
    }
    const double va = d3 * d6 - d5 * d4;
    if (va <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0) {
        const double w = (d4 - d3) / ((d4 - d3) + (d5 - d6));
        return {0.0, 1.0 - w, w};
    }
    const double sum = va + vb + vc;
    return {1.0 - vb / sum - vc / sum, vb / sum, vc / sum};
}

/// Where on a segment and a triangle the nearest points lie: an end and a place in the triangle, or a place
/// within the segment and one on a side.
struct NearestPlace {
    double squared = infinity;
    int end = 0;
    std::array<double, 3> weights{};  // of the triangle's corners
    int side = -1;                    // from this corner to the next; -1: an end is nearest
    double along_segment = 0.0;
    double along_side = 0.0;
};

/// The corners of the Minkowski difference around the nearest place.
Simplex<3> simplex_of(const NearestPlace& place, const HullView<3>& a, const Vec<3>& shift,
                      const HullView<3>& b) {
    Simplex<3> simplex;
    const auto add = [&](int of_a, int of_b, double weight) {
        if (weight <= 0.0) return;
        const Vec<3> difference = (a.points[of_a] + shift) - b.points[of_b];
        simplex.corners[simplex.size] = {difference, of_a, of_b};
        simplex.weights[simplex.size++] = weight;
        simplex.nearest += weight * difference;
    };
    if (place.side < 0) {
        for (int i = 0; i < 3; ++i) add(place.end, i, place.weights[i]);
        return simplex;
    }
    const int i = place.side;
    const int k = (i + 1) % 3;
    const double s = place.along_segment;
    const double u = place.along_side;
    // Of the four corners of the parallelogram the three around the point.
    if (s + u <= 1.0) {
        add(0, i, 1.0 - s - u);
        add(1, i, s);
        add(0, k, u);
    } else {
        add(1, k, s + u - 1.0);
        add(1, i, 1.0 - u);
        add(0, k, 1.0 - s);
    }
    return simplex;
}

/// The nearest points of a segment and a side of a triangle (ibid., section 5.1.9), where neither end of the
/// segment is one.
void try_side(const Vec<3>& start, const Vec<3>& along, const std::array<Vec<3>, 3>& t, int side,
              NearestPlace& place) {
    const Vec<3> edge = t[(side + 1) % 3] - t[side];
    const Vec<3> between = start - t[side];
    const double aa = along.squaredNorm();
    const double ee = edge.squaredNorm();
    const double ae = along.dot(edge);
    const double f = edge.dot(between);
    const double c = along.dot(between);
    const double denominator = aa * ee - ae * ae;
    if (!(denominator > tolerance::side * aa * ee)) return;  // side by side: an end is as near
    double s = (ae * f - c * ee) / denominator;
    double u = std::clamp((ae * s + f) / ee, 0.0, 1.0);
    s = (ae * u - c) / aa;
    if (!(s > 0.0 && s < 1.0)) return;
    u = std::clamp((ae * s + f) / ee, 0.0, 1.0);
    const double squared = (between + s * along - u * edge).squaredNorm();
    if (squared >= place.squared) return;
    place.squared = squared;
    place.side = side;
    place.along_segment = s;
    place.along_side = u;
}

/// A ball's or capsule's core and a triangle, the commonest pair by far, without searching: its ends against
/// the triangle, itself against the sides. Nothing where they meet or the triangle is a needle: the general
/// search tells those.
std::optional<Simplex<3>> segment_and_triangle(const HullView<3>& a, const Vec<3>& shift,
                                               const HullView<3>& b) {
    const int ends = static_cast<int>(a.points.size());
    const std::array<Vec<3>, 3> t = {b.points[0], b.points[1], b.points[2]};
    const Vec<3> normal = (t[1] - t[0]).cross(t[2] - t[0]);
    const double longest = std::max((t[1] - t[0]).squaredNorm(), (t[2] - t[0]).squaredNorm());
    const double stretch = normal.squaredNorm();
    if (stretch <= tolerance::side * longest * longest) return std::nullopt;
    std::array<Vec<3>, 2> p;
    std::array<double, 2> height{};
    for (int end = 0; end < ends; ++end) {
        p[end] = a.points[end] + shift;
        height[end] = normal.dot(p[end] - t[0]);
    }
    NearestPlace place;
    const auto try_end = [&](int end) {
        const auto weights = nearest_in_triangle(p[end], t);
        const Vec<3> nearest = weights[0] * t[0] + weights[1] * t[1] + weights[2] * t[2];
        const double squared = (p[end] - nearest).squaredNorm();
        if (squared >= place.squared) return;
        place.squared = squared;
        place.end = end;
        place.weights = weights;
    };
    const int lower = ends == 2 && std::abs(height[1]) < std::abs(height[0]) ? 1 : 0;
    try_end(lower);
    const bool over_face = *std::min_element(place.weights.begin(), place.weights.end()) > 0.0;
    const bool crosses = ends == 2 && height[0] * height[1] <= 0.0;
    // Straight over the face nothing of the segment is nearer than its end nearest to the plane.
    if (ends == 2 && (crosses || !over_face)) {
        const Vec<3> along = p[1] - p[0];
        if (crosses) {
            // The core crosses the triangle's plane; inside it, they meet.
            const double part = height[0] == height[1] ? 0.0 : height[0] / (height[0] - height[1]);
            const auto weights = nearest_in_triangle(Vec<3>(p[0] + part * along), t);
            if (*std::min_element(weights.begin(), weights.end()) > 0.0) return std::nullopt;
        }
        // No point of the triangle is nearer to an end than its plane.
        const int other = 1 - lower;
        if (height[other] * height[other] < place.squared * stretch) try_end(other);
        for (int side = 0; side < 3; ++side) try_side(p[0], along, t, side, place);
    }
    // Too near for differences to tell: the general search is more careful.
    if (place.squared <= 1e-16 * longest) return std::nullopt;
    return simplex_of(place, a, shift, b);
}

/// In space most pairs of a round core and a hull need no search; nothing for those that do.
std::optional<Separation<3>> without_search(const HullView<3>& a, const Vec<3>& shift, const HullView<3>& b) {
    const bool has_facets = b.points.size() > 3 && !b.normals.empty() && !b.topology->facets.empty();
    return a.points.size() <= 2 && has_facets ? over_facet(a, shift, b) : std::nullopt;
}

/// The nearest simplex of two cores that are not known to meet.
template <int D>
Simplex<D> nearest_of(const HullView<D>& a, const Vec<D>& shift, const HullView<D>& b) {
    if constexpr (D == 3) {
        if (a.points.size() <= 2 && b.points.size() == 3) {
            if (auto quick = segment_and_triangle(a, shift, b)) return *quick;
        }
    }
    return nearest_simplex(a, shift, b);
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
    auto found = SegmentAndPolygon(b, Vec<2>(-shift), a).find();
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
    const Simplex<D> simplex = nearest_of(a, shift, b);
    double scale = 0.0;
    for (int i = 0; i < simplex.size; ++i) {
        scale = std::max(scale, simplex.corners[i].difference.norm());
    }
    Separation<D> result;
    Vec<D> core_a = Vec<D>::Zero();
    Vec<D> core_b = Vec<D>::Zero();
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
        const Simplex<D> parted = nearest_simplex(a, Vec<D>(shift + out), b);
        core_b = Vec<D>::Zero();
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
