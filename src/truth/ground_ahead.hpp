// The ground that a body could come to when it goes on: where it comes down on each piece of it, and what of
// that is footing.
#pragma once

#include <array>

#include "hollow_probe/geometry/tolerances.hpp"
#include "truth/ahead.hpp"
#include "truth/cover.hpp"
#include "truth/landing.hpp"
#include "truth/stretch_over.hpp"

namespace hollow_probe {

/// The footing a body stands on: how high it rests, and how its ground falls along the heading.
struct Standing {
    double height = 0.0;  // of the anchor at rest, above where it is
    double rise = 0.0;    // of the footing for each unit of way along the heading
};

/// Every piece on which a body could stand that goes ahead by up to `farthest`, lifted by tallest_step and
/// lowered again.
template <int D>
class GroundAhead {
  public:
    GroundAhead(const Ahead<D>& ahead, const Standing& standing, double farthest)
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
        if constexpr (D == 3) {
            across_ = up.cross(ahead.heading);
            const double room = ahead.body.shape.radius + beyond;
            const auto [right, left] = extent_along(ahead.body.shape, across_);
            sides_ = {right + across_.dot(ahead.body.anchor) - room,
                      left + across_.dot(ahead.body.anchor) + room};
        }
        ahead.level.tree().overlapping(way.inflated(beyond), ahead.body.meets,
                                       [&](std::uint32_t piece) { add(piece); });
        const auto [back, front] = extent_along(ahead.body.shape, ahead.heading);
        const double beside = ahead.body.shape.radius + beyond;
        back_ = back + ahead.heading.dot(ahead.body.anchor) - beside;
        front_ = front + ahead.heading.dot(ahead.body.anchor) + beside;
        origin_ = ahead.heading.dot(ahead.body.anchor);
        resolution_ = tolerance::accuracy * bounds_of(ahead.body.shape).size().norm();
    }

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
        mutable std::optional<std::array<double, 2>> flat_sides =
            {};  // from where to where it stands on them
        mutable std::vector<double> steep_places = {};
        mutable bool has_steep_places = false;  // they were looked for
        // What was asked last: one place is asked about for its own footing, and for what hides another's,
        // and while a stretch is halved one of its ends stays where it was.
        mutable std::array<Asked, 2> asked = {};
        mutable std::size_t latest = 0;
    };

    [[nodiscard]] const std::vector<Below>& pieces() const { return pieces_; }
    /// Within which ways are told.
    [[nodiscard]] double resolution() const { return resolution_; }
    /// Cosine of the steepest footing.
    [[nodiscard]] double flat() const { return flat_; }
    /// The anchor along the heading.
    [[nodiscard]] double origin() const { return origin_; }
    /// The body along the heading, with some room.
    [[nodiscard]] double back() const { return back_; }
    [[nodiscard]] double front() const { return front_; }

    /// From where to where a body stands on the sides of a piece that are footing, not on their edges: from
    /// infinity to minus infinity where it has none, or is round.
    const std::array<double, 2>& flat_sides_of(const Below& below) const {
        if (!below.flat_sides) {
            below.flat_sides = {infinity, -infinity};
            const HullView<D> hull = ahead_.level.piece(below.piece);
            if (hull.radius > 0.0) return *below.flat_sides;
            std::array<double, 2>& all = *below.flat_sides;
            for_each_side<D>(hull, [&](std::size_t side, const Vec<D>& normal) {
                if (normal.dot(ahead_.level.up()) < flat_) return;
                for_each_foot_over<D>(ahead_, hull, side, normal, [&](const Vec<D>&, const auto& stretch) {
                    all = {std::min(all[0], stretch[0]), std::max(all[1], stretch[1])};
                });
            });
        }
        return *below.flat_sides;
    }

    /// Where the body comes down on a piece, `way` ahead.
    const std::optional<Landing<D>>& landing_at(const Below& below, double way) const {
        return ask(below, way).landing;
    }

    /// Whether what a body comes down on there is the surface of its solid.
    bool on_surface_at(const Below& below, double way) const {
        Asked& there = ask(below, way);
        if (!there.on_surface) there.on_surface = there.landing && !is_covered(*there.landing, way);
        return *there.on_surface;
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

    const Below* any_footing(double way) const {
        for (const Below& below : pieces_) {
            if (is_footing(below, way)) return &below;
        }
        return nullptr;
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

  private:
    void add(std::uint32_t piece) {
        const HullView<D> hull = ahead_.level.piece(piece);
        // What lies beside the way is never come down on.
        if constexpr (D == 3) {
            const auto [right, left] = extent_along(hull, across_);
            if (left + hull.radius < sides_[0] || right - hull.radius > sides_[1]) return;
        }
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
                if (i < 2 || !has_sides || body_has_side(-normals.at[i])) take(normals.at[i]);
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

    bool is_covered(const Landing<D>& landing, double way) const {
        const Level<D>& level = ahead_.level;
        const Cover<D> cover(level, ahead_.body.moved(way * ahead_.heading + landing.height * level.up()),
                             landing.contact);
        return !cover.is_none() && std::any_of(pieces_.begin(), pieces_.end(), [&](const Below& other) {
            return other.box.overlaps(cover.box()) && cover.covers(other.piece);
        });
    }

    /// Whether something steep is met before the footing and stands in the body's way to it, or the footing
    /// lies inside a solid.
    bool is_hidden(const Below& footing, const Landing<D>& landing, double way) const {
        const double noise = ahead_.noise.distance;
        const Vec<D>& up = ahead_.level.up();
        const Vec<D> origin = Vec<D>::zero();
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

    const Ahead<D>& ahead_;
    Standing standing_;
    double resolution_ = 0.0;
    double flat_ = 1.0;
    double origin_ = 0.0;
    double back_ = 0.0;
    double front_ = 0.0;
    Vec<D> across_ = Vec<D>::zero();    // in space: to the left of the way
    std::array<double, 2> sides_ = {};  // the body along that, with some room
    std::vector<Below> pieces_;
};

}  // namespace hollow_probe
