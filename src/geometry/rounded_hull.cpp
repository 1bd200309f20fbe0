#include "hollow_probe/geometry/rounded_hull.hpp"

#include <algorithm>
#include <numeric>
#include <optional>
#include <set>

#include "geometry/turn.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

constexpr std::size_t most_hull_points = 128;  // facets are found by trying point triples

template <int D>
void require_finite(const Vec<D>& v, const char* what) {
    if (!v.is_finite()) throw InvalidInput(std::string(what) + " has a number that is not finite");
}

void require_positive(double x, const char* what) {
    if (!std::isfinite(x)) throw InvalidInput(std::string(what) + " is not finite");
    if (x <= 0.0) throw InvalidInput(std::string(what) + " is " + number_text(x) + ", expected more than 0");
}

std::shared_ptr<const HullTopology> chain_topology(std::size_t point_count) {
    auto topology = std::make_shared<HullTopology>();
    if (point_count >= 2) topology->edges = {{0, 1}};
    topology->directions = topology->edges;
    return topology;
}

/// A closed loop: a 2D outline, or a 3D triangle with both its sides.
std::shared_ptr<const HullTopology> loop_topology(std::size_t count, int dimensions) {
    auto topology = std::make_shared<HullTopology>();
    std::vector<std::uint16_t> loop(count);
    std::iota(loop.begin(), loop.end(), std::uint16_t{0});
    for (std::size_t i = 0; i < count; ++i) topology->edges.push_back({loop[i], loop[(i + 1) % count]});
    topology->directions = topology->edges;
    if (dimensions == 3) {
        topology->facets = {loop, {loop.rbegin(), loop.rend()}};
    }
    return topology;
}

/// Corner i of a box has its k-th coordinate high where bit k of i is set; in 2D corners are numbered around.
std::shared_ptr<const HullTopology> box_topology_3d() {
    auto topology = std::make_shared<HullTopology>();
    for (std::uint16_t corner = 0; corner < 8; ++corner) {
        for (int axis = 0; axis < 3; ++axis) {
            if ((corner >> axis & 1) == 0) {
                topology->edges.push_back({corner, static_cast<std::uint16_t>(corner | 1 << axis)});
            }
        }
    }
    topology->directions = {{0, 1}, {0, 2}, {0, 4}};
    topology->facets = {{0, 4, 6, 2}, {1, 3, 7, 5}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 2, 3, 1}, {4, 5, 7, 6}};
    return topology;
}

double spread_of(const auto& points) {
    double spread = 0.0;
    for (const auto& p : points) spread = std::max(spread, (p - points.front()).norm());
    return spread;
}

[[noreturn]] void refuse_inner_point(std::size_t index) {
    throw InvalidInput("hull is not convex: point " + std::to_string(index + 1) +
                       " lies inside the hull of the others; expected points in convex position");
}

/// Sorts the points counter-clockwise (A. M. Andrew, "Another efficient algorithm for convex hulls in two
/// dimensions", 1979). Points within rounding of an edge are dropped; points inside are refused.
std::shared_ptr<const HullTopology> join(std::vector<Vec<2>>& points) {
    const double spread = spread_of(points);
    std::vector<std::size_t> order(points.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        return std::pair(points[a].x(), points[a].y()) < std::pair(points[b].x(), points[b].y());
    });
    std::vector<std::size_t> hull;
    const auto sweep = [&](auto first, auto last) {
        const std::size_t floor = hull.size();
        for (auto it = first; it != last; ++it) {
            while (hull.size() >= floor + 2 && turn(points[hull[hull.size() - 2]], points[hull.back()],
                                                    points[*it]) <= tolerance::side * spread * spread) {
                hull.pop_back();
            }
            hull.push_back(*it);
        }
        hull.pop_back();
    };
    sweep(order.begin(), order.end());
    sweep(order.rbegin(), order.rend());
    if (hull.size() < 3) throw InvalidInput("hull is flat: its points lie in one line");
    for (std::size_t i = 0; i < points.size(); ++i) {
        double depth = infinity;
        for (std::size_t k = 0; k < hull.size(); ++k) {
            const Vec<2>& a = points[hull[k]];
            const Vec<2>& b = points[hull[(k + 1) % hull.size()]];
            depth = std::min(depth, turn(a, b, points[i]) / (b - a).norm());
        }
        if (depth > tolerance::accuracy * spread) refuse_inner_point(i);
    }
    std::vector<Vec<2>> sorted;
    sorted.reserve(hull.size());
    for (const std::size_t index : hull) sorted.push_back(points[index]);
    points = std::move(sorted);
    return loop_topology(points.size(), 2);
}

/// The facets of a 3D hull, found by trying every plane through three points: plain, exact to a tolerance,
/// and fast enough for the hulls people mount and place. Points within rounding of an edge or a facet of the
/// others are dropped; points inside are refused.
class FacetSearch {
  public:
    explicit FacetSearch(std::vector<Vec<3>>& points)
        : points_(points),
          spread_(spread_of(points)),
          topology_(std::make_shared<HullTopology>()),
          on_hull_(points.size(), false),
          is_corner_(points.size(), false) {}

    std::shared_ptr<const HullTopology> run() {
        const std::size_t count = points_.size();
        for (std::size_t i = 0; i < count; ++i) {
            for (std::size_t j = i + 1; j < count; ++j) {
                for (std::size_t k = j + 1; k < count; ++k) try_plane(i, j, k);
            }
        }
        if (topology_->facets.size() < 4)
            throw InvalidInput("hull is flat: its points lie in one line or plane");
        for (std::size_t i = 0; i < count; ++i) {
            if (!on_hull_[i]) refuse_inner_point(i);
        }
        drop_others();
        join_corners();
        find_directions();
        return topology_;
    }

  private:
    void try_plane(std::size_t i, std::size_t j, std::size_t k) {
        const Vec<3> u = points_[j] - points_[i];
        const Vec<3> v = points_[k] - points_[i];
        Vec<3> n = u.cross(v);
        if (n.norm() <= tolerance::angle * u.norm() * v.norm() || n.norm() == 0.0) return;
        n.normalize();
        std::vector<std::uint16_t> on_plane;
        bool above = false;
        bool below = false;
        for (std::size_t m = 0; m < points_.size() && !(above && below); ++m) {
            const double height = n.dot(points_[m] - points_[i]);
            if (height > tolerance::accuracy * spread_) {
                above = true;
            } else if (height < -tolerance::accuracy * spread_) {
                below = true;
            } else {
                on_plane.push_back(static_cast<std::uint16_t>(m));
            }
        }
        if (above && below) return;
        if (!above && !below) throw InvalidInput("hull is flat: its points lie in one plane");
        if (known_.insert(on_plane).second) add_facet(std::move(on_plane), above ? -n : n);
    }

    /// Its corners in order around the outward normal.
    void add_facet(std::vector<std::uint16_t> corners, const Vec<3>& n) {
        Vec<3> middle = Vec<3>::zero();
        for (const auto m : corners) middle += points_[m] / static_cast<double>(corners.size());
        const Vec<3> x = n.unit_across();
        const Vec<3> y = n.cross(x);
        std::sort(corners.begin(), corners.end(), [&](std::uint16_t a, std::uint16_t b) {
            const auto at = [&](std::uint16_t m) {
                return std::atan2(y.dot(points_[m] - middle), x.dot(points_[m] - middle));
            };
            return at(a) < at(b);
        });
        for (const auto m : corners) on_hull_[m] = true;
        while (drop_one(corners, n)) {
        }
        for (const auto m : corners) is_corner_[m] = true;
        topology_->facets.push_back(std::move(corners));
    }

    /// Lets go of a point at which an outline does not turn, or turns the wrong way; false if there is none.
    bool drop_one(std::vector<std::uint16_t>& outline, const Vec<3>& n) const {
        const std::size_t count = outline.size();
        for (std::size_t m = 0; m < count; ++m) {
            const Vec<3>& before = points_[outline[(m + count - 1) % count]];
            const Vec<3>& at = points_[outline[m]];
            const Vec<3>& after = points_[outline[(m + 1) % count]];
            if ((at - before).cross(after - at).dot(n) > tolerance::side * spread_ * spread_) continue;
            outline.erase(outline.begin() + static_cast<std::ptrdiff_t>(m));
            return true;
        }
        return false;
    }

    /// Points that are no facet's corner.
    void drop_others() {
        std::vector<std::uint16_t> number(points_.size());
        std::uint16_t kept = 0;
        for (std::size_t i = 0; i < points_.size(); ++i) {
            number[i] = kept;
            if (!is_corner_[i]) continue;
            points_[kept++] = points_[i];
        }
        points_.resize(kept);
        for (auto& loop : topology_->facets) {
            for (auto& corner : loop) corner = number[corner];
        }
    }

    void join_corners() {
        std::set<std::pair<std::uint16_t, std::uint16_t>> joined;
        for (const auto& loop : topology_->facets) {
            for (std::size_t m = 0; m < loop.size(); ++m) {
                const auto a = loop[m];
                const auto b = loop[(m + 1) % loop.size()];
                if (joined.insert(std::minmax(a, b)).second) topology_->edges.push_back({a, b});
            }
        }
    }

    /// Of edges along one direction the first.
    void find_directions() {
        for (const auto& edge : topology_->edges) {
            const Vec<3> along = (points_[edge[1]] - points_[edge[0]]).normalized();
            const auto& known = topology_->directions;
            const bool seen = std::any_of(known.begin(), known.end(), [&](const auto& other) {
                return along.cross((points_[other[1]] - points_[other[0]]).normalized()).norm() <
                       tolerance::direction;
            });
            if (!seen) topology_->directions.push_back(edge);
        }
    }

    std::vector<Vec<3>>& points_;
    double spread_;
    std::shared_ptr<HullTopology> topology_;
    std::set<std::vector<std::uint16_t>> known_;
    std::vector<bool> on_hull_;
    std::vector<bool> is_corner_;
};

std::shared_ptr<const HullTopology> join(std::vector<Vec<3>>& points) {
    return FacetSearch(points).run();
}

/// The normal of a 3D loop by Newell's sum, which is sound where neighbouring corners are nearly in line.
Vec<3> loop_normal(const std::vector<Vec<3>>& points, const std::vector<std::uint16_t>& loop) {
    Vec<3> n = Vec<3>::zero();
    for (std::size_t i = 0; i < loop.size(); ++i) {
        n += (points[loop[i]] - points[loop[0]]).cross(points[loop[(i + 1) % loop.size()]] - points[loop[0]]);
    }
    return n;
}

template <int D>
FacetNormals<D> segment_normals(const Vec<D>& along) {
    FacetNormals<D> result;
    const Vec<D> e = along.normalized();
    if constexpr (D == 2) {
        result.both(Vec<2>(e.y(), -e.x()));
    } else {
        const Vec<3> side = e.unit_across();
        result.both(side);
        result.both(e.cross(side));
    }
    result.both(e);
    return result;
}

template <int D>
FacetNormals<D> point_normals() {
    FacetNormals<D> result;
    for (int axis = 0; axis < D; ++axis) result.both(Vec<D>::unit(axis));
    return result;
}

}  // namespace

template <int D>
RoundedHull<D>::RoundedHull(std::vector<Vec<D>> points, double radius,
                            std::shared_ptr<const HullTopology> topology)
    : points_(std::move(points)), radius_(radius), topology_(std::move(topology)) {
    find_normals();
}

namespace {

/// The sides of a triangle, one after the other, and its normal.
struct Triangle {
    explicit Triangle(const Vec<3>* corners)
        : sides{corners[1] - corners[0], corners[2] - corners[1], corners[0] - corners[2]} {
        for (std::size_t i = 1; i < 3; ++i) {
            if (sides[i].squared_norm() > sides[longest].squared_norm()) longest = i;
        }
        const double length = sides[longest].norm();
        // The two shorter sides give the digits that a long one would drown on needles.
        const Vec<3> n = sides[(longest + 1) % 3].cross(sides[(longest + 2) % 3]);
        const double doubled_area = n.norm();
        if (doubled_area <= 1e-15 * length * length) return;
        normal = n / doubled_area;
        if (doubled_area > tolerance::needle * length * length) return;
        // A needle: what rounding leaves of its width is too little for its normal.
        using Long = VecOf<3, long double>;
        const Long origin = corners[0].as<long double>();
        const Long u = corners[1].as<long double>() - origin;
        const Long v = corners[2].as<long double>() - origin;
        const Vec<3> unit = u.cross(v).normalized().as<double>();
        normal = unit.dot(n) < 0.0 ? -unit : unit;
    }

    std::array<Vec<3>, 3> sides;
    std::size_t longest = 0;
    std::optional<Vec<3>> normal;  // none of a line or a point
};

}  // namespace

template <int D>
FacetNormals<D> facet_normals(const Vec<D>* corners) {
    if constexpr (D == 2) {
        const Vec<2> along = corners[1] - corners[0];
        return along.norm() > 0.0 ? segment_normals<2>(along) : point_normals<2>();
    } else {
        const Triangle triangle(corners);
        const Vec<3>& longest = triangle.sides[triangle.longest];
        if (longest.norm() == 0.0) return point_normals<3>();
        if (!triangle.normal) return segment_normals<3>(longest);
        FacetNormals<3> result;
        result.both(*triangle.normal);
        for (const Vec<3>& side : triangle.sides) {
            if (side.squared_norm() > 0.0)
                result.at[result.count++] = side.cross(*triangle.normal).normalized();
        }
        return result;
    }
}

template <int D>
Vec<D> facet_normal(const Vec<D>* corners) {
    if constexpr (D == 3) {
        const Triangle triangle(corners);
        if (triangle.normal) return *triangle.normal;
    }
    return facet_normals<D>(corners).at[0];
}

template <int D>
const std::shared_ptr<const HullTopology>& facet_topology() {
    static const std::shared_ptr<const HullTopology> topology =
        D == 2 ? chain_topology(2) : loop_topology(3, 3);
    return topology;
}

template <int D>
void RoundedHull<D>::find_normals() {
    normals_.clear();
    if (topology_ == facet_topology<D>()) return;  // found from the corners when they are wanted
    const auto take = [&](const FacetNormals<D>& some) {
        normals_.assign(some.at.begin(), some.at.begin() + some.count);
    };
    if (spread_of(points_) == 0.0) return take(point_normals<D>());
    if (points_.size() == 2) return take(segment_normals<D>(points_[1] - points_[0]));
    if constexpr (D == 2) {
        for (const auto& edge : topology_->edges) {
            const Vec<2> along = points_[edge[1]] - points_[edge[0]];
            normals_.push_back(Vec<2>(along.y(), -along.x()).normalized());
        }
    } else {
        for (const auto& loop : topology_->facets)
            normals_.push_back(loop_normal(points_, loop).normalized());
    }
}

template <int D>
RoundedHull<D> RoundedHull<D>::ball(const Vec<D>& center, double radius) {
    require_finite<D>(center, "center");
    require_positive(radius, "radius");
    return RoundedHull({center}, radius, chain_topology(1));
}

template <int D>
RoundedHull<D> RoundedHull<D>::capsule(const Vec<D>& a, const Vec<D>& b, double radius) {
    if (a == b) return ball(a, radius);
    require_finite<D>(a, "capsule end");
    require_finite<D>(b, "capsule end");
    require_positive(radius, "radius");
    return RoundedHull({a, b}, radius, chain_topology(2));
}

template <int D>
RoundedHull<D> RoundedHull<D>::box(const Vec<D>& center, const Vec<D>& size) {
    require_finite<D>(center, "center");
    for (int axis = 0; axis < D; ++axis) require_positive(size[axis], "size");
    std::vector<Vec<D>> points;
    if constexpr (D == 2) {
        for (const auto& [x, y] : {std::pair{-1, -1}, {1, -1}, {1, 1}, {-1, 1}}) {
            points.push_back(center + 0.5 * Vec<2>(x * size.x(), y * size.y()));
        }
        return RoundedHull(std::move(points), 0.0, loop_topology(4, 2));
    } else {
        for (int corner = 0; corner < 8; ++corner) {
            const Vec<3> sign(corner & 1 ? 1 : -1, corner & 2 ? 1 : -1, corner & 4 ? 1 : -1);
            points.push_back(center + 0.5 * sign.times(size));
        }
        return RoundedHull(std::move(points), 0.0, box_topology_3d());
    }
}

template <int D>
RoundedHull<D> RoundedHull<D>::hull(std::vector<Vec<D>> points, double radius) {
    if (points.size() < D + 1) {
        throw InvalidInput("hull has " + std::to_string(points.size()) + " points, expected at least " +
                           std::to_string(D + 1));
    }
    if (points.size() > most_hull_points) {
        throw InvalidInput("hull has " + std::to_string(points.size()) + " points, expected at most " +
                           std::to_string(most_hull_points));
    }
    for (const Vec<D>& point : points) require_finite<D>(point, "hull point");
    if (!std::isfinite(radius) || radius < 0.0) throw InvalidInput("radius is negative or not finite");
    auto topology = join(points);
    return RoundedHull(std::move(points), radius, std::move(topology));
}

template <int D>
RoundedHull<D> RoundedHull<D>::facet(const std::array<Vec<D>, D>& corners) {
    for (const Vec<D>& corner : corners) require_finite<D>(corner, "corner");
    return RoundedHull({corners.begin(), corners.end()}, 0.0, facet_topology<D>());
}

template <int D>
RoundedHull<D> RoundedHull<D>::placed(const Mat<D>& turn, const Vec<D>& move) const {
    RoundedHull result = *this;
    for (Vec<D>& point : result.points_) point = turn * point + move;
    if (turn.determinant() > 0.0) {
        for (Vec<D>& n : result.normals_) n = turn * n;
        return result;
    }
    if (topology_ == facet_topology<D>()) return result;  // has both sides as it is
    // Mirroring turns counter-clockwise loops around.
    auto topology = std::make_shared<HullTopology>(*topology_);
    for (auto& loop : topology->facets) std::reverse(loop.begin(), loop.end());
    if constexpr (D == 2) {
        for (auto& edge : topology->edges) std::swap(edge[0], edge[1]);
    }
    for (Vec<D>& n : result.normals_) n = turn * n;
    result.topology_ = std::move(topology);
    return result;
}

template <int D>
void RoundedHull<D>::put(const RoundedHull& original, const Mat<D>& turn) {
    *this = original;
    for (Vec<D>& point : points_) point = turn * point;
    for (Vec<D>& n : normals_) n = turn * n;
}

template <int D>
RoundedHull<D> RoundedHull<D>::stretched(const Vec<D>& factors) const {
    std::vector<Vec<D>> points = points_;
    const Vec<D> middle = bounds().center();
    for (Vec<D>& point : points) point = middle + (point - middle).times(factors);
    return RoundedHull(std::move(points), radius_, topology_);
}

template <int D>
RoundedHull<D> RoundedHull<D>::with_radius(double radius) const {
    RoundedHull result = *this;
    result.radius_ = radius;
    return result;
}

template <int D>
Bounds<D> RoundedHull<D>::bounds() const {
    return bounds_of<D>(view());
}

template FacetNormals<2> facet_normals<2>(const Vec<2>*);
template FacetNormals<3> facet_normals<3>(const Vec<3>*);
template Vec<2> facet_normal<2>(const Vec<2>*);
template Vec<3> facet_normal<3>(const Vec<3>*);
template const std::shared_ptr<const HullTopology>& facet_topology<2>();
template const std::shared_ptr<const HullTopology>& facet_topology<3>();
template class RoundedHull<2>;
template class RoundedHull<3>;

}  // namespace hollow_probe
