#include "hollow_probe/truth/drop.hpp"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "truth/ahead.hpp"
#include "truth/landing.hpp"

namespace hollow_probe {
namespace {

/// The footing a body stands on: how high it rests, and how its ground falls along the heading.
struct Standing {
    double height = 0.0;  // of the anchor at rest, above where it is
    double rise = 0.0;    // of the footing for each unit of way along the heading
};

/// The normal of the surface that a body rests on: of an edge that of the flattest side beside it.
template <int D>
Vec<D> footing_normal(const Level<D>& level, const Contact<D>& contact, const Intent& intent) {
    const HullView<D> piece = level.piece(contact.piece);
    Vec<D> flattest = contact.normal;
    if (piece.radius > 0.0) return flattest;
    double most = std::cos(radians(intent.steepest_footing_degrees)) - tolerance::angle;
    for_each_normal(piece, [&](const Vec<D>& n) {
        const double spare = extent_along(piece, n)[1] - n.dot(contact.point);
        if (n.dot(level.up()) <= most || std::abs(spare) > tolerance::accuracy * (1.0 + contact.point.norm()))
            return;
        most = n.dot(level.up());
        flattest = n;
    });
    return flattest;
}

template <int D>
class Search {
  public:
    Search(const Ahead<D>& ahead, const Standing& standing, double farthest)
        : ahead_(ahead), standing_(standing) {
        // Every piece that could be footing somewhere on the way.
        const Intent& intent = ahead.intent;
        const Vec<D>& up = ahead.level.up();
        const double fall = std::max(-standing.rise, 0.0) * farthest;
        const double ride = highest_ride(intent, farthest);
        Bounds<D> way = bounds_of(ahead.body.shape).moved(ahead.body.anchor);
        way.grow(way.moved(farthest * ahead.heading));
        way.grow(way.moved((intent.tallest_step + ride) * up));
        way.grow(way.moved(-(intent.deepest_drop + fall + intent.touch) * up));
        const double beyond = 2.0 * ahead.noise.distance;
        flat_ = std::cos(radians(intent.steepest_footing_degrees)) - tolerance::angle;
        ahead.level.tree().overlapping(way.inflated(beyond), ahead.body.meets,
                                       [&](std::uint32_t piece) { add(piece); });
        const auto [back, front] = extent_along(ahead.body.shape, ahead.heading);
        const double beside = ahead.body.shape.radius + beyond;
        back_ = back + ahead.heading.dot(ahead.body.anchor) - beside;
        front_ = front + ahead.heading.dot(ahead.body.anchor) + beside;
        origin_ = ahead.heading.dot(ahead.body.anchor);
        resolution_ = tolerance::accuracy * bounds_of(ahead.body.shape).size().norm();
    }

    struct Gap {
        double from = infinity;
        double to = infinity;
        std::optional<Contact<D>> last;  // of the highest footing that is left
        double last_way = 0.0;           // and where
    };

    /// The first way within `farthest` at which no piece is footing, and where footing begins again: infinite
    /// if it does not, or that is not asked.
    Gap first_gap(double farthest, Margins margins) {
        Gap gap;
        double at = 0.0;
        double held = 0.0;
        bool any = false;
        const Below* footing = any_footing(at);
        for (std::size_t round = 0; footing != nullptr && round < 4 * pieces_.size() + 64; ++round) {
            any = true;
            const Reached reached = follow(footing, at, farthest);
            if (reached.way >= farthest) return gap;
            held = reached.held;
            footing = reached.next;
            at = reached.way;
            if (footing != nullptr) continue;
            footing = footing_after(at);
        }
        gap.from = at;
        if (any) note_last(gap, held);
        if (margins == Margins::told) gap.to = next_footing(at, farthest);
        return gap;
    }

  private:
    /// Ways up to a millionth of the body, by the search's resolution: what is shorter is rounding.
    static constexpr std::array hairs = {1.0, 10.0, 100.0, 1000.0};

    /// Where a body lowered there comes down on a piece.
    struct Asked {
        double way = -infinity;
        std::optional<Landing<D>> landing = {};
        std::optional<bool> on_surface = {};  // of its solid, if that was asked
    };

    /// A piece, and from where to where along the heading it lies.
    struct Below {
        std::uint32_t piece = 0;
        double from = 0.0;
        double to = 0.0;
        Bounds<D> box;
        double bottom = 0.0;          // its lowest point along up
        double top = 0.0;             // … and its highest
        bool has_inside = false;      // that is not met from within
        bool has_steep_side = false;  // that a body could come down on squarely
        mutable std::vector<double> steep_places = {};
        mutable bool has_steep_places = false;  // they were looked for
        // What was asked last: one place is asked about for its own footing, and for what hides another's,
        // and while a stretch is halved one of its ends stays where it was.
        mutable std::array<Asked, 2> asked = {};
        mutable std::size_t latest = 0;
    };

    void add(std::uint32_t piece) {
        const HullView<D> hull = ahead_.level.piece(piece);
        const auto [from, to] = extent_along(hull, ahead_.heading);
        bool steep = hull.radius > 0.0;
        const auto take = [&](const Vec<D>& n) {
            const double upwards = n.dot(ahead_.level.up());
            steep = steep || (upwards > tolerance::approaches && upwards < flat_);
        };
        if (!hull.normals.empty()) {
            for (const Vec<D>& n : hull.normals) take(n);
        } else {
            // The rim of a surface without thickness meets squarely only what is flat against it.
            const FacetNormals<D> normals = facet_normals<D>(hull.points.data());
            const bool has_sides = normals.count == D + 2;  // neither needle nor point
            for (std::size_t i = 0; i < normals.count; ++i) {
                if (i < 2 || !has_sides || body_has_side(Vec<D>(-normals.at[i]))) take(normals.at[i]);
            }
        }
        pieces_.push_back({.piece = piece,
                           .from = from - hull.radius,
                           .to = to + hull.radius,
                           .box = bounds_of(hull),
                           .bottom = extent_along(hull, ahead_.level.up())[0] - hull.radius,
                           .top = extent_along(hull, ahead_.level.up())[1] + hull.radius,
                           .has_inside = !hull.normals.empty(),
                           .has_steep_side = steep});
    }

    [[nodiscard]] bool body_has_side(const Vec<D>& normal) const {
        return ahead_.body.shape.points.size() > 2 && has_normal(ahead_.body.shape, normal);
    }

    bool beside(const Below& below, double way) const {
        return front_ + way < below.from || back_ + way > below.to;
    }

    Asked& ask(const Below& below, double way) const {
        if (below.asked[below.latest].way == way) return below.asked[below.latest];
        below.latest = 1 - below.latest;
        Asked& now = below.asked[below.latest];
        if (now.way == way) return now;
        now = {.way = way};
        if (!beside(below, way))  // what falls straight down beside it comes down beside it
            now.landing = landing_on_piece<D>(ahead_.level, ahead_.body.moved(way * ahead_.heading),
                                              ahead_.intent, ahead_.noise, below.piece);
        return now;
    }

    const std::optional<Landing<D>>& landing_at(const Below& below, double way) const {
        return ask(below, way).landing;
    }

    /// Whether what a body comes down on there is the surface of its solid.
    bool on_surface_at(const Below& below, double way) const {
        Asked& there = ask(below, way);
        if (!there.on_surface) there.on_surface = there.landing && !is_covered(*there.landing, way);
        return *there.on_surface;
    }

    bool is_covered(const Landing<D>& landing, double way) const {
        const Level<D>& level = ahead_.level;
        const Cover<D> cover(level, ahead_.body.moved(way * ahead_.heading + landing.height * level.up()),
                             landing.contact);
        return !cover.is_none() && std::any_of(pieces_.begin(), pieces_.end(), [&](const Below& other) {
            return other.box.overlaps(cover.box()) && cover.covers(other.piece);
        });
    }

    /// What the body stands on last, before the way at which footing ends: of two pieces that end there the
    /// higher, though it ends a hair sooner.
    void note_last(Gap& gap, double way) const {
        double height = -infinity;
        for (const double hair : hairs) {
            const double before = std::max(way - (hair - 1.0) * resolution_, 0.0);
            const auto highest = highest_footing(before);
            if (!highest || highest->height < height + 2.0 * hair * resolution_) continue;
            height = highest->height;
            gap.last = highest->contact;
            gap.last_way = before;
        }
    }

    /// Of all footing the one that a lowered body meets first.
    std::optional<Landing<D>> highest_footing(double way) const {
        std::optional<Landing<D>> highest;
        for (const Below& below : pieces_) {
            const auto& landing = landing_at(below, way);
            if (!landing || (highest && landing->height <= highest->height)) continue;
            if (is_footing(below, way)) highest = landing;
        }
        return highest;
    }

    /// Ways just within the stretches at which a body comes down on a piece's steep sides, and on both sides
    /// of where it comes down there as high as the present footing goes on: what is hidden is hidden between
    /// such ways.
    const std::vector<double>& steep_places(const Below& below, double farthest) const {
        if (!below.has_steep_places) {
            below.has_steep_places = true;
            const HullView<D> hull = ahead_.level.piece(below.piece);
            if (hull.radius > 0.0 || !add_flat_sides(hull, below.steep_places))
                add_round_sides(below, farthest, below.steep_places);
        }
        return below.steep_places;
    }

    /// Of a piece with flat sides: a body rests on one with the points of its core that lie lowest against
    /// it, from where these come over the side to where they leave it. False for needles and points, which
    /// have none.
    bool add_flat_sides(const HullView<D>& hull, std::vector<double>& places) const {
        if (!hull.normals.empty()) {
            for (std::size_t i = 0; i < hull.normals.size(); ++i)
                add_flat_side(hull, i, hull.normals[i], places);
            return true;
        }
        const FacetNormals<D> normals = facet_normals<D>(hull.points.data());
        if (normals.count != D + 2) return false;
        for (std::size_t i = 0; i < 2; ++i) add_flat_side(hull, 0, normals.at[i], places);
        return true;
    }

    void add_flat_side(const HullView<D>& hull, std::size_t side, const Vec<D>& n,
                       std::vector<double>& places) const {
        const Vec<D>& up = ahead_.level.up();
        const double upwards = n.dot(up);
        if (upwards <= tolerance::approaches || upwards >= flat_) return;
        const HullView<D>& shape = ahead_.body.shape;
        const double lowest = extent_along(shape, n)[0];
        for (const Vec<D>& core : shape.points) {
            if (n.dot(core) > lowest + ahead_.noise.distance) continue;
            const Vec<D> foot = ahead_.body.anchor + core - shape.radius * n;
            const auto stretch = stretch_over(hull, side, foot);
            if (!stretch) continue;
            const auto [begin, end] = *stretch;
            const double hair = hairs.back() * resolution_;
            for (const double way : {begin + hair, end - hair, 0.5 * (begin + end)}) places.push_back(way);
            // Its height above where it is put: as high as n says, less so much for each unit of way.
            const double height = n.dot(hull.points[first_corner(hull, side)] - foot) / upwards;
            const double steepness = n.dot(ahead_.heading) / upwards + standing_.rise;
            const double level_at = (height - standing_.height) / steepness;
            if (!(level_at > begin && level_at < end)) continue;
            places.push_back(level_at - hair);
            places.push_back(level_at + hair);
        }
    }

    static std::size_t first_corner(const HullView<D>& hull, std::size_t side) {
        if (hull.normals.empty()) return 0;
        if constexpr (D == 2)
            return hull.topology->edges[side][0];
        else
            return hull.topology->facets[side].front();
    }

    /// From where to where a point that goes ahead is straight over or under a side; nothing if it passes
    /// beside it.
    std::optional<std::array<double, 2>> stretch_over(const HullView<D>& hull, std::size_t side,
                                                      const Vec<D>& point) const {
        std::array<double, 2> ways = {infinity, -infinity};
        const auto take = [&](const Vec<D>& p) {
            const double way = ahead_.heading.dot(p - point);
            ways = {std::min(ways[0], way), std::max(ways[1], way)};
        };
        if constexpr (D == 2) {
            const auto edge = hull.normals.empty() ? HullTopology::Edge{0, 1} : hull.topology->edges[side];
            take(hull.points[edge[0]]);
            take(hull.points[edge[1]]);
        } else {
            static const std::vector<std::uint16_t> triangle = {0, 1, 2};
            const auto& loop = hull.normals.empty() ? triangle : hull.topology->facets[side];
            const Vec<3> across = ahead_.level.up().cross(ahead_.heading);
            for (std::size_t i = 0; i < loop.size(); ++i) {
                const Vec<3>& from = hull.points[loop[i]];
                const Vec<3>& to = hull.points[loop[i + 1 < loop.size() ? i + 1 : 0]];
                const double of_from = across.dot(from - point);
                const double of_to = across.dot(to - point);
                if (of_from == 0.0) take(from);
                if ((of_from < 0.0) != (of_to < 0.0)) take(from + of_from / (of_from - of_to) * (to - from));
            }
        }
        if (!(ways[0] < ways[1])) return std::nullopt;
        return ways;
    }

    /// Of any other piece, by halving: going over it a body meets what rises steeply, then footing, then what
    /// falls off steeply.
    void add_round_sides(const Below& below, double farthest, std::vector<double>& places) const {
        constexpr int rounds = 24;
        const double begin = std::max(below.from - front_, 0.0);
        const double end = std::min(below.to - back_, farthest);
        if (!(begin < end)) return;
        // −1: rises steeply; 1: falls off steeply.
        const auto side_at = [&](double way) {
            const auto& landing = landing_at(below, way);
            if (!landing) return 2.0 * way < begin + end ? -1 : 1;
            if (landing->footing.on) return 0;
            return landing->contact.normal.dot(ahead_.heading) < 0.0 ? -1 : 1;
        };
        const auto above_standing = [&](double way) {
            const auto& landing = landing_at(below, way);
            return landing && landing->height > standing_.height + way * standing_.rise;
        };
        const auto halve = [&](double low, double high, auto is_beyond) {
            for (int round = 0; round < rounds; ++round) {
                const double middle = 0.5 * (low + high);
                (is_beyond(middle) ? high : low) = middle;
            }
            places.push_back(low);
            places.push_back(high);
            return high;
        };
        const double flat = halve(begin, end, [&](double way) { return side_at(way) >= 0; });
        const double steep = halve(begin, end, [&](double way) { return side_at(way) >= 1; });
        halve(begin, flat, above_standing);
        halve(steep, end, [&](double way) { return !above_standing(way); });
    }

    /// Whether what a body stands on may lie deeper than touch in another piece.
    bool may_lie_in(const Below& footing, const Below& other) const {
        return other.has_inside && other.bottom + ahead_.intent.touch < footing.top;
    }

    /// Calls visit(other) for the pieces that may hide another from a body that goes over it: that it may run
    /// into with a steep side, or in which what it stands on may lie.
    template <class Visit>
    void for_each_in_the_way(const Below& footing, double from, double end, Visit visit) const {
        // A body going over a convex piece is lowest at one end of its way, and no footing lies lower than
        // that.
        const double lowest = standing_.height + std::min(from * standing_.rise, end * standing_.rise) -
                              ahead_.intent.deepest_drop - ahead_.noise.distance;
        double low = lowest;
        if (const auto first = landing_at(footing, from)) {
            const auto& last = landing_at(footing, end);
            low = last ? std::min(first->height, last->height) : lowest;
        }
        const Vec<D>& up = ahead_.level.up();
        const double bottom =
            up.dot(ahead_.body.anchor) + extent_along(ahead_.body.shape, up)[0] - ahead_.body.shape.radius;
        const Bounds<D> body = bounds_of(ahead_.body.shape).moved(ahead_.body.anchor + low * up);
        Bounds<D> swept = body.moved(from * ahead_.heading);
        swept.grow(body.moved(end * ahead_.heading));
        swept.grow(Bounds<D>(swept).moved(std::max(footing.top - bottom - low, 0.0) * up));
        for (const Below& other : pieces_) {
            if (&other == &footing || !(other.has_steep_side || may_lie_in(footing, other))) continue;
            if (other.top > bottom + low + ahead_.intent.touch && swept.overlaps(other.box)) visit(other);
        }
    }

    [[nodiscard]] bool may_be_hidden(const Below& footing, double from, double end) const {
        bool may = false;
        for_each_in_the_way(footing, from, end, [&](const Below&) { may = true; });
        return may;
    }

    /// Ways at which to look whether what stands on a piece hides it: where bodies come down on the steep
    /// sides of such, where what they stand on may lie in it, and some evenly. Ascending; none where nothing
    /// can hide it.
    std::vector<double> places_on(const Below& footing, double from, double end, double farthest) const {
        constexpr int steps = 16;
        std::vector<double> places;
        bool any_steep = false;
        const auto landing = landing_at(footing, from);
        const double ahead_of_anchor =
            landing ? ahead_.heading.dot(landing->contact.point - ahead_.body.anchor) - from : 0.0;
        for_each_in_the_way(footing, from, end, [&](const Below& other) {
            if (other.has_steep_side) {
                any_steep = true;
                const auto& its = steep_places(other, farthest);
                places.insert(places.end(), its.begin(), its.end());
            }
            if (!may_lie_in(footing, other)) return;
            for (const double at : {other.from + ahead_.intent.touch, 0.5 * (other.from + other.to),
                                    other.to - ahead_.intent.touch})
                places.push_back(at - origin_ - ahead_of_anchor);
        });
        for (int i = 1; any_steep && i < steps; ++i) places.push_back(from + (end - from) * i / steps);
        std::sort(places.begin(), places.end());
        return places;
    }

    bool is_footing(const Below& below, double way) const {
        const auto& landing = landing_at(below, way);
        if (!landing || !landing->footing.on) return false;
        const Intent& intent = ahead_.intent;
        const double lowest = standing_.height + way * standing_.rise - intent.deepest_drop;
        const double highest = intent.tallest_step + highest_ride(intent, way);
        if (landing->height < lowest - ahead_.noise.distance ||
            landing->height > highest + ahead_.noise.distance)
            return false;
        return on_surface_at(below, way) && !is_hidden(below, *landing, way);
    }

    /// Whether something steep is met before the footing and stands in the body's way to it, or the footing
    /// lies inside a solid.
    bool is_hidden(const Below& footing, const Landing<D>& landing, double way) const {
        const double noise = ahead_.noise.distance;
        const Vec<D>& up = ahead_.level.up();
        const Vec<D> origin = Vec<D>::Zero();
        const HullTopology none;
        const HullView<D> dot{{&origin, 1}, 0.0, {}, &none};
        const Vec<D> stands = ahead_.body.anchor + way * ahead_.heading + landing.height * up;
        const Bounds<D> around = bounds_of(ahead_.body.shape).moved(stands);
        for (const Below& other : pieces_) {
            if (&other == &footing || beside(other, way)) continue;
            const HullView<D> hull = ahead_.level.piece(other.piece);
            const bool inside = other.has_inside &&
                                other.box.overlaps({landing.contact.point, landing.contact.point}) &&
                                separation<D>(dot, landing.contact.point, hull).gap < -ahead_.intent.touch;
            if (inside) return true;
            // A body that stands on the footing must be in it.
            if (!other.has_steep_side || !around.overlaps(other.box)) continue;
            if (separation<D>(ahead_.body.shape, stands, hull).gap >= -ahead_.intent.touch) continue;
            const auto& steep = landing_at(other, way);
            if (!steep || steep->footing.on || steep->height <= landing.height + noise) continue;
            // What is higher than the present footing goes on is in the way, no loss.
            if (steep->height > standing_.height + way * standing_.rise + noise) continue;
            if (is_side(hull, steep->contact.normal) && on_surface_at(other, way)) return true;
        }
        return false;
    }

    /// Whether a normal is that of a side, not of an edge or corner.
    static bool is_side(const HullView<D>& hull, const Vec<D>& normal) {
        return hull.radius > 0.0 || has_normal(hull, normal);
    }

    static bool has_normal(const HullView<D>& hull, const Vec<D>& normal) {
        bool has = false;
        for_each_normal(hull,
                        [&](const Vec<D>& n) { has = has || n.dot(normal) > 1.0 - tolerance::direction; });
        return has;
    }

    /// Of what footing there is from a hair after a way on, which is set to where. On a corner that two
    /// pieces share each covers the other for a moment: a gap of less than a millionth of the body is none.
    const Below* footing_after(double& way) const {
        const double from = way;
        way += resolution_;
        for (const double hair : hairs) {
            const Below* const footing = any_footing(from + hair * resolution_);
            if (footing == nullptr) continue;
            way = from + hair * resolution_;
            return footing;
        }
        return nullptr;
    }

    const Below* any_footing(double way) const {
        for (const Below& below : pieces_) {
            if (is_footing(below, way)) return &below;
        }
        return nullptr;
    }

    /// How far footing goes on, the last place at which it was seen, and the piece that is footing from there
    /// on if it is known.
    struct Reached {
        double way = 0.0;
        double held = 0.0;
        const Below* next = nullptr;
    };

    /// The places from which one convex piece is footing follow one another without gaps: a piece that is
    /// footing at two of them is so in between, unless something steep stands on it: then the places between
    /// are looked at, too. Where this one's end is looked for by halving, another that is footing on both
    /// sides of it saves the rest of the search.
    Reached follow(const Below* footing, double from, double farthest) const {
        constexpr int rounds_with_others = 4;
        constexpr int rounds_before_guess = 8;
        constexpr int most_rounds = 64;
        double low = from;
        double high = farthest;
        const double end = std::min(farthest, footing->to - back_);
        for (const double at : places_on(*footing, from, end, farthest)) {
            if (at <= from || at >= end) continue;
            if (!is_footing(*footing, at)) {
                high = at;
                break;
            }
            low = at;
        }
        if (high == farthest && is_footing(*footing, farthest)) return {farthest, farthest};
        for (int round = 0; round < most_rounds && high - low > resolution_; ++round) {
            // Not before: what is hidden by something that stands on it may be footing again behind that.
            if (round == rounds_before_guess) near_guess(*footing, low, high);
            const double middle = 0.5 * (low + high);
            (is_footing(*footing, middle) ? low : high) = middle;
            if (round >= rounds_with_others) continue;
            for (const Below& other : pieces_) {
                if (&other != footing && is_footing(other, high) && is_footing(other, low) &&
                    !may_be_hidden(other, low, high))
                    return {high, low, &other};
            }
        }
        return {low, low};
    }

    /// Where the body would leave a piece's last corner at the steepest footing, if that is what ends it:
    /// looked at on both sides, it spares most of the halving.
    void near_guess(const Below& footing, double& low, double& high) const {
        const double steepest = radians(ahead_.intent.steepest_footing_degrees);
        const Vec<D> normal = std::cos(steepest) * ahead_.level.up() + std::sin(steepest) * ahead_.heading;
        const auto support = [&](const HullView<D>& hull, double side) {
            double farthest = -infinity;
            double along = 0.0;
            for (const Vec<D>& p : hull.points) {
                if (side * normal.dot(p) <= farthest) continue;
                farthest = side * normal.dot(p);
                along = ahead_.heading.dot(p);
            }
            return along + side * hull.radius * std::sin(steepest);
        };
        const double guess = support(ahead_.level.piece(footing.piece), 1.0) -
                             support(ahead_.body.shape, -1.0) - ahead_.heading.dot(ahead_.body.anchor);
        for (const double room : {0.25, 64.0, 65536.0}) {
            const double before = guess - room * resolution_;
            const double after = guess + room * resolution_;
            if (!(before > low && after < high)) return;
            const bool holds_before = is_footing(footing, before);
            const bool holds_after = holds_before && is_footing(footing, after);
            if (holds_after)
                low = after;
            else if (holds_before)
                low = before;
            else
                high = before;
            if (holds_before && !holds_after) {
                high = after;
                return;
            }
        }
    }

    /// Within a thousandth of the way: for the margin only.
    double next_footing(double from, double farthest) const {
        constexpr int steps = 64;
        const double way = farthest - from;
        for (int i = 1; i <= steps; ++i) {
            const double at = from + way * i / steps;
            if (any_footing(at) == nullptr) continue;
            double low = from + way * (i - 1) / steps;
            double high = at;
            for (int round = 0; round < 10; ++round) {
                const double middle = 0.5 * (low + high);
                (any_footing(middle) != nullptr ? high : low) = middle;
            }
            return high;
        }
        return infinity;
    }

    const Ahead<D>& ahead_;
    Standing standing_;
    double resolution_ = 0.0;
    double flat_ = 1.0;    // cosine of the steepest footing
    double origin_ = 0.0;  // the anchor along the heading
    double back_ = 0.0;    // of the body along the heading, with some room
    double front_ = 0.0;
    std::vector<Below> pieces_;
};

/// How far the lifted body gets before something steep stops it.
template <int D>
double way_until_stopped(const Ahead<D>& ahead, double farthest) {
    const PlacedBody<D> lifted = ahead.body.moved(ahead.intent.tallest_step * ahead.level.up());
    const Ahead<D> of_lifted(ahead.level, lifted, ahead.heading, ahead.intent);
    double way = infinity;
    for_each_contact(ahead.level, lifted, ahead.heading, farthest, ahead.intent.touch,
                     [&](const Contact<D>& contact) {
                         const double gap = std::max(contact.gap, 0.0);
                         if (gap >= way || !ahead.steep(contact).on) return;
                         if (of_lifted.stops(of_lifted.rise_of(contact)).on) way = gap;
                     });
    return way;
}

}  // namespace

template <int D>
DropTruth<D> drop(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading,
                  const Intent& intent, double horizon, Margins margins, const Known<D>* known) {
    DropTruth<D> truth;
    if (known != nullptr && known->ground && !known->ground->on && known->ground->decided) {
        static_cast<Decision&>(truth) = *known->ground;
        return truth;
    }
    const ContactTruth<D> standing_on = ground<D>(level, body, intent);
    const auto& standing = static_cast<const Decision&>(standing_on);
    if (!standing_on.contact) {
        static_cast<Decision&>(truth) = standing;
        truth.on = false;
        return truth;
    }
    const Ahead<D> ahead(level, body, heading, intent);
    const Vec<D> footing = footing_normal<D>(level, *standing_on.contact, intent);
    const Standing stands{-standing_on.contact->gap, -footing.dot(heading) / footing.dot(level.up())};
    // The body leaves an edge when its back does.
    const double half = ahead.half_width();
    const double back = body.shape.radius - extent_along(body.shape, heading)[0];
    const double farthest =
        intent.ahead_drop + std::max(back, half) + std::max(horizon, 2.0 * ahead.noise.distance);
    Search<D> search(ahead, stands, farthest);
    const auto gap = search.first_gap(farthest, margins);
    Decision found;
    if (gap.from != infinity) {
        Vec<D> edge = body.anchor + gap.from * heading;
        if (gap.last) {
            const PlacedBody<D> leaving = body.moved(gap.last_way * heading);
            edge = foremost_of_contact<D>(level, leaving, *gap.last, heading);
            if (!level.on_layers(gap.last->piece, body.of)) return truth;
        }
        truth.edge = edge;
        truth.edge_distance = (edge - body.anchor).dot(heading);
        // Where footing ends is known to within the search's resolution.
        Noise noise = ahead.noise;
        noise.distance = std::max(noise.distance, 8e-9 * bounds_of(body.shape).size().norm());
        found = both(at_most(truth.edge_distance, intent.ahead_drop, noise),
                     at_most(gap.from, way_until_stopped<D>(ahead, farthest), noise));
        if (found.on) found.margin.distance = std::min(found.margin.distance, gap.to - gap.from);
    }
    static_cast<Decision&>(truth) = both(standing, found);
    if (truth.on) truth.ahead = gap.from;
    return truth;
}

template DropTruth<2> drop<2>(const Level<2>&, const PlacedBody<2>&, const Vec<2>&, const Intent&, double,
                              Margins, const Known<2>*);
template DropTruth<3> drop<3>(const Level<3>&, const PlacedBody<3>&, const Vec<3>&, const Intent&, double,
                              Margins, const Known<3>*);

}  // namespace hollow_probe
