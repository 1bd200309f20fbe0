// A shape S at anchor a, moved by t along d, meets a piece P with the normal n where the point of P farthest
// along n is the point of S farthest against it: a + t d = p(n) − s(−n). All places of one normal therefore
// lie on a line along d. In space an angle from an axis, up or the way back, has a normal for every turn
// about that: as it turns, the place moves on along an arc while p and s stay the same corners, and along an
// edge where one of them changes. Each of these, to either side of the axis, crosses the column's plane along
// d once at most, all of them together any number of times.
#include "verify/turning_heights.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>
#include <span>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

/// Sides and edges whose normal has just the angle are met along all their length, and count as within it: a
/// little to either side of the angle things change, too.
constexpr double beside = 1e-7;  // radians

template <int D>
const Vec<D>& farthest_along(const HullView<D>& hull, const Vec<D>& n) {
    std::size_t best = 0;
    double most = -infinity;
    for (std::size_t i = 0; i < hull.points.size(); ++i) {
        const double along = n.dot(hull.points[i]);
        if (along <= most) continue;
        most = along;
        best = i;
    }
    return hull.points[best];
}

/// Where the anchor is when the normal is n, but for a way along d.
template <int D>
Vec<D> place_of_normal(const HullView<D>& shape, const HullView<D>& piece, const Vec<D>& n) {
    return farthest_along<D>(piece, n) - farthest_along<D>(shape, -n) + (piece.radius + shape.radius) * n;
}

/// Calls visit(place) for the places of an angle from `axis` that the column's plane holds, in which lie the
/// axis, `side`, which is square to it, and d; of normals turned to `side` or up to a quarter turn from it.
template <class Visit>
void for_each_place(const HullView<2>& shape, const HullView<2>& piece, double angle, const Vec<2>& side,
                    const Vec<2>& axis, const Vec<2>& /*foot*/, Visit visit) {
    visit(place_of_normal<2>(shape, piece, std::cos(angle) * axis + std::sin(angle) * side));
}

/// The normals of an angle from an axis, by their turn about it from `side` towards `aside`.
struct NormalsOfAngle {
    NormalsOfAngle(double angle, const Vec<3>& to_side, const Vec<3>& about)
        : along(std::cos(angle)),
          across(std::sin(angle)),
          axis(about),
          side(to_side),
          aside(to_side.cross(about)) {}

    [[nodiscard]] Vec<3> at(double turn) const {
        return along * axis + across * (std::cos(turn) * side + std::sin(turn) * aside);
    }
    /// Adds the turns within a quarter to either side at which the normal is square to an edge.
    void add_square_to(const Vec<3>& edge, std::vector<double>& turns) const {
        const double along_side = across * edge.dot(side);
        const double along_aside = across * edge.dot(aside);
        const double most = std::hypot(along_side, along_aside);
        const double needed = -along * edge.dot(axis);
        if (most <= tolerance::direction * edge.norm() || std::abs(needed) > most) return;
        const double middle = std::atan2(along_aside, along_side);
        const double to_either_side = std::acos(needed / most);
        for (const double turn : {middle - to_either_side, middle + to_either_side}) {
            const double wrapped = std::remainder(turn, 2.0 * std::numbers::pi);
            if (std::abs(wrapped) < 0.5 * std::numbers::pi) turns.push_back(wrapped);
        }
    }

    double along;   // how far the normals point along the axis …
    double across;  // … and square to it
    Vec<3> axis;
    Vec<3> side;
    Vec<3> aside;
};

template <class Visit>
void for_each_place(const HullView<3>& shape, const HullView<3>& piece, double angle, const Vec<3>& side,
                    const Vec<3>& axis, const Vec<3>& foot, Visit visit) {
    const NormalsOfAngle normals(angle, side, axis);
    constexpr double quarter = 0.5 * std::numbers::pi;
    std::vector<double> turns = {-quarter, quarter};
    for (const HullView<3>* hull : {&piece, &shape}) {
        for (const auto& [from, to] : hull->topology->directions)
            normals.add_square_to(hull->points[to] - hull->points[from], turns);
    }
    std::sort(turns.begin(), turns.end());
    const double radii = piece.radius + shape.radius;
    const double most = radii * normals.across;  // how far an arc reaches to either side
    Vec<3> before = Vec<3>::zero();              // the end of the last arc
    for (std::size_t i = 0; i + 1 < turns.size(); ++i) {
        const Vec<3> amid = normals.at(0.5 * (turns[i] + turns[i + 1]));
        const Vec<3> corner = farthest_along<3>(piece, amid) - farthest_along<3>(shape, -amid);
        const double off = normals.aside.dot(corner - foot);
        const Vec<3> begin = corner + radii * normals.at(turns[i]);
        if (i > 0) {
            const double off_before = normals.aside.dot(before - foot);
            const double off_after = normals.aside.dot(begin - foot);
            const bool crosses =
                std::min(off_before, off_after) <= 0.0 && std::max(off_before, off_after) >= 0.0;
            if (crosses && off_before != off_after)
                visit(before + off_before / (off_before - off_after) * (begin - before));
        }
        if (std::abs(off) <= most) {
            const double turn = most > 0.0 ? std::asin(-off / most) : 0.5 * (turns[i] + turns[i + 1]);
            if (turn >= turns[i] && turn <= turns[i + 1]) visit(corner + radii * normals.at(turn));
        }
        before = corner + radii * normals.at(turns[i + 1]);
    }
}

}  // namespace

template <int D>
void add_turning_heights(const Turning<D>& turning, const Vec<D>& foot, const Vec<D>& up,
                         const HullView<D>& piece, std::vector<double>& heights) {
    const double rising = turning.way.dot(up);
    const Vec<D> level = turning.way - rising * up;
    const double across = level.norm();
    if (across < 1e-6) return;
    const Vec<D> back = -level / across;
    const auto add_of = [&](double angle, const Vec<D>& side, const Vec<D>& axis) {
        for_each_place(turning.shape.view(), piece, angle, side, axis, foot, [&](const Vec<D>& place) {
            const double way = -back.dot(place - foot) / across;
            if (way < -turning.before || way > turning.reach) return;
            heights.push_back(up.dot(place - foot) - way * rising);
        });
    };
    // Across the way, in the column's plane.
    const Vec<D> over = (up - rising * turning.way) / across;
    for (const double by : {-beside, beside}) {
        for (const double angle : turning.angles) {
            add_of(angle + by, back, up);
            // What is met on a slope may lean the same way as it.
            if (rising * std::cos(angle) < 0.0) add_of(angle + by, -back, up);
        }
        for (const double angle : turning.incidences) {
            add_of(angle + by, over, -turning.way);
            add_of(angle + by, -over, -turning.way);
        }
    }
}

namespace {

/// The heights within a span at which another side of the two cores becomes the nearest: there the shortest
/// way out changes all at once.
template <int D>
std::vector<double> changes_of_side(const HullView<D>& shape, const Vec<D>& foot, const Vec<D>& up,
                                    const HullView<D>& piece, const HeightSpan& span) {
    struct Side {
        double at_low;  // the gap along its normal, negative inside
        double slope;   // by height
    };
    std::vector<Side> sides;
    const Vec<D> low = foot + span.low * up;
    for_each_separating_direction<D>(shape, piece, [&](const Vec<D>& n) {
        const double nearest = n.dot(farthest_along<D>(shape, -n) + low);
        sides.push_back({nearest - n.dot(farthest_along<D>(piece, n)), n.dot(up)});
    });
    std::vector<double> found;
    double at = 0.0;
    const double length = span.high - span.low;
    const auto first = std::max_element(sides.begin(), sides.end(), [](const Side& a, const Side& b) {
        return a.at_low != b.at_low ? a.at_low < b.at_low : a.slope < b.slope;
    });
    if (first == sides.end()) return found;
    Side now = *first;
    while (true) {
        // The next side that the gap along it overtakes this one's.
        double soonest = length;
        const Side* next = nullptr;
        for (const Side& side : sides) {
            if (side.slope <= now.slope + tolerance::direction) continue;
            const double meets = (now.at_low - side.at_low) / (side.slope - now.slope);
            if (meets < at || meets >= soonest) continue;
            soonest = meets;
            next = &side;
        }
        if (next == nullptr) return found;
        at = soonest;
        now = *next;
        found.push_back(span.low + at);
    }
}

/// What is met at a height: its kind, the cosine from up that decides it, and the way from the nearest point
/// of the piece's core to that of the shape's.
template <int D>
struct Met {
    double height = 0.0;
    double cosine = 0.0;
    int kind = 0;
    Vec<D> of_piece = Vec<D>::zero();
    Vec<D> way = Vec<D>::zero();
};

/// The height at which the cosine is `limit`, were the shape's nearest point to stay the same, and the
/// piece's to stay on one edge or corner: where it is at both heights.
template <int D>
std::optional<double> reached_at(const Met<D>& from, const Met<D>& to, const Vec<D>& up, double limit) {
    const Vec<D> edge = to.of_piece - from.of_piece;
    const double length = edge.norm();
    const bool is_corner = length <= tolerance::accuracy * from.way.norm();
    // By height the way grows along this, and what of it is square to this stays.
    const Vec<D> rise = is_corner ? up : up - edge.dot(up) / (length * length) * edge;
    const double rises = rise.squared_norm();
    const double steeper = rises - limit * limit;
    if (steeper <= tolerance::direction) return std::nullopt;
    const double along = from.way.dot(rise);
    const double stays = std::sqrt(std::max(from.way.squared_norm() - along * along / rises, 0.0));
    return from.height + (limit * stays * std::sqrt(rises / steeper) - along) / rises;
}

/// The cosines from up at which a kind becomes another.
struct KindLimits {
    double of_way = 0.0;  // where what lies against the way becomes what lies along it
    std::span<const double> of_angles;
};

/// Where a cosine that only falls, or only rises, first passes one of the limits: as far as one corner or
/// edge of the piece goes, or else were it to change evenly from one height to another.
template <int D>
double passed_at(const Met<D>& from, const Met<D>& to, const Vec<D>& up, const KindLimits& limits) {
    double first = to.height;
    const auto pass = [&](double limit) {
        const double part = (limit - from.cosine) / (to.cosine - from.cosine);
        if (!(part > 0.0 && part < 1.0)) return;
        const auto reached = reached_at<D>(from, to, up, limit);
        const bool is_between = reached && *reached > from.height && *reached < to.height;
        first = std::min(first, is_between ? *reached : from.height + part * (to.height - from.height));
    };
    pass(limits.of_way);
    for (const double limit : limits.of_angles) pass(limit);
    return first;
}

/// The heights between two at which a kind that only falls, or only rises, becomes another, to within `fine`:
/// guessed and looked at on both sides, and halved in turn.
template <int D, class MetAt>
void add_changes(MetAt met_at, Met<D> low, const Met<D>& high, double fine, const Vec<D>& up,
                 const KindLimits& limits, std::vector<double>& heights) {
    while (low.kind != high.kind) {
        Met<D> next = high;  // the nearest height above that is known to be of another kind
        const auto look_at = [&](double height) {
            if (height <= low.height || height >= next.height) return;
            const Met<D> met = met_at(height);
            (met.kind == low.kind ? low : next) = met;
        };
        for (bool guess = true; next.height - low.height > fine; guess = !guess) {
            if (guess) {
                const double guessed = passed_at<D>(low, next, up, limits);
                look_at(guessed - 0.45 * fine);
                look_at(guessed + 0.45 * fine);
            } else {
                const double middle = 0.5 * (low.height + next.height);
                if (middle <= low.height || middle >= next.height) break;  // no number lies between
                look_at(middle);
            }
        }
        heights.push_back(0.5 * (low.height + next.height));
        low = next;
    }
}

/// Whether a shape with a core that meets none at either end meets none in between: the gap is convex.
template <int D>
bool stay_apart(const Separation<D>& at_low, const Separation<D>& at_high, const Vec<D>& up, double length,
                double radii) {
    const double falls = -at_low.normal.dot(up);
    const double rises = at_high.normal.dot(up);
    double least = std::min(at_low.gap, at_high.gap);
    if (falls > 0.0 && rises > 0.0)  // no lower than where the tangents at its ends meet
        least = at_low.gap - falls * (at_low.gap - at_high.gap + rises * length) / (falls + rises);
    return least > -0.99 * radii;
}

}  // namespace

template <int D>
void add_inside_heights(const Turning<D>& turning, const Vec<D>& foot, const Vec<D>& up,
                        const HullView<D>& piece, const HeightSpan& span, OfDeepest side, double fine,
                        std::vector<double>& heights) {
    const double length = span.high - span.low;
    if (length <= fine) return;
    const HullView<D> shape = turning.shape.view();
    const auto out_at = [&](double height) { return separation<D>(shape, foot + height * up, piece); };
    // Between angles, and against the way or along it: what is the same is met alike.
    const auto kind_of = [&](const Vec<D>& n) {
        const double angle = angle_between<D>(n, up);
        int below = 0;
        for (const double limit : turning.angles)
            below += (limit - beside < angle ? 1 : 0) + (limit + beside < angle ? 1 : 0);
        return 2 * below + (n.dot(turning.way) < -tolerance::approaches ? 1 : 0);
    };
    const auto kind_at = [&](double height) { return kind_of(out_at(height).normal); };
    const double hair = 1e-9 * length;
    const bool upright = std::abs(turning.way.dot(up)) >= 1.0 - tolerance::direction;
    if (upright) {
        // The gap is convex, and its slope the cosine of the angle: that only rises.
        const KindLimits limits = {turning.way.dot(up) > 0.0 ? -tolerance::approaches : tolerance::approaches,
                                   turning.cosines};
        const auto any_limit = [&](auto is_so) {
            return is_so(limits.of_way) ||
                   std::any_of(limits.of_angles.begin(), limits.of_angles.end(), is_so);
        };
        if (side == OfDeepest::below && !any_limit([](double limit) { return limit <= 0.0; })) return;
        if (side == OfDeepest::above && !any_limit([](double limit) { return limit >= 0.0; })) return;
        const Separation<D> at_low = out_at(span.low + hair);
        const Separation<D> at_high = out_at(span.high - hair);
        if (stay_apart<D>(at_low, at_high, up, length, shape.radius + piece.radius)) {
            const auto met = [&](double height, const Separation<D>& out) {
                const Vec<D>& n = out.normal;
                return Met<D>{height, n.dot(up), kind_of(n), out.on_b - piece.radius * n,
                              (out.gap + shape.radius + piece.radius) * n};
            };
            add_changes<D>([&](double height) { return met(height, out_at(height)); },
                           met(span.low + hair, at_low), met(span.high - hair, at_high), fine, up, limits,
                           heights);
            return;
        }
    }
    std::vector<double> ends = changes_of_side<D>(shape, foot, up, piece, span);
    heights.insert(heights.end(), ends.begin(), ends.end());
    ends.push_back(span.high);
    double low = span.low;
    for (const double high : ends) {
        const double hair_here = 1e-9 * (high - low);
        double from = low + hair_here;
        int at_from = kind_at(from);
        for (const double to : {0.5 * (low + high), high - hair_here}) {
            const int at_to = kind_at(to);
            if (at_to != at_from) {
                double a = from;
                double b = to;
                while (b - a > fine) {
                    const double middle = 0.5 * (a + b);
                    (kind_at(middle) == at_from ? a : b) = middle;
                }
                heights.push_back(0.5 * (a + b));
            }
            from = to;
            at_from = at_to;
        }
        low = high;
    }
}

template void add_inside_heights<2>(const Turning<2>&, const Vec<2>&, const Vec<2>&, const HullView<2>&,
                                    const HeightSpan&, OfDeepest, double, std::vector<double>&);
template void add_inside_heights<3>(const Turning<3>&, const Vec<3>&, const Vec<3>&, const HullView<3>&,
                                    const HeightSpan&, OfDeepest, double, std::vector<double>&);
template void add_turning_heights<2>(const Turning<2>&, const Vec<2>&, const Vec<2>&, const HullView<2>&,
                                     std::vector<double>&);
template void add_turning_heights<3>(const Turning<3>&, const Vec<3>&, const Vec<3>&, const HullView<3>&,
                                     std::vector<double>&);

}  // namespace hollow_probe
