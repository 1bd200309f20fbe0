// Where the top that a body could stand on begins, behind the face of a wall.
#pragma once

#include <algorithm>
#include <functional>
#include <optional>
#include <vector>

#include "truth/ahead.hpp"
#include "truth/landing.hpp"

namespace hollow_probe {

/// Seen by a dot that is let down in the plane of up and heading through the anchor, from just above the top
/// known so far: what hangs over it is not met.
template <int D>
class WalkableTop {
  public:
    explicit WalkableTop(const Ahead<D>& ahead) : ahead_(ahead), steepest_(highest_ride(ahead.intent, 1.0)) {}

    struct Begin {
        double way = 0.0;  // ahead of the anchor
        Vec<D> point = Vec<D>::zero();
    };

    /// The foremost place from which it goes on to what is stood on, at a face or behind it.
    Begin begin_of(const Contact<D>& stood_on, double face) const {
        const Vec<D>& up = ahead_.level.up();
        double low = face - ahead_.intent.touch;
        std::uint32_t piece = stood_on.piece;
        Begin begin{std::max(way_of(stood_on.point), face), stood_on.point};
        const auto take = [&](double way) {
            const double height = up.dot(begin.point - ahead_.body.anchor);
            const double range = (begin.way - way) * steepest_ + ahead_.intent.touch;
            const auto top = surface(way, height + range, height - range);
            if (!top || ahead_.steep(*top).on) {
                low = way;
                return false;
            }
            begin = {way, top->point};
            piece = top->piece;
            return true;
        };
        constexpr int steps = 16;
        constexpr int most_rounds = 60;
        const double step = (begin.way - low) / steps;
        for (int i = 1; i <= steps && take(begin.way - step); ++i) {
            if (i > 1) continue;
            const auto of_piece = begin_on(piece, low, begin.way);
            if (!of_piece || !is_alone(piece, {*of_piece, begin}, low, step)) continue;
            begin = *of_piece;
            if (begin.way > low) take(begin.way - 2.0 * beside(begin.way));
            break;
        }
        // Mostly it begins at an edge of the piece: looked at on both sides, that spares the halving.
        for (const double way : edges_of(piece, low, begin.way)) {
            const double hair = beside(begin.way);
            if (way - hair > low && way + hair < begin.way && take(way + hair)) take(way - hair);
        }
        for (int round = 0; round < most_rounds && begin.way - low > 2.5 * beside(begin.way); ++round)
            take(0.5 * (low + begin.way));
        return begin;
    }

    /// What lies straight beneath a place ahead of the anchor, between two heights above it.
    std::optional<Contact<D>> surface(double way, double highest, double lowest) const {
        std::optional<Contact<D>> first;
        with_dot(way, highest, [&](const PlacedBody<D>& dot) {
            for_each_contact(ahead_.level, dot, -ahead_.level.up(), highest - lowest, 0.0,
                             [&](const Contact<D>& c) {
                                 if (!first || c.gap < first->gap) first = c;
                             });
        });
        return first;
    }

  private:
    /// The part of the search's resolution that is looked at on either side of an edge.
    static double beside(double way) { return 0.4e-10 * (1.0 + std::abs(way)); }

    double way_of(const Vec<D>& point) const { return ahead_.heading.dot(point - ahead_.body.anchor); }

    template <class Use>
    void with_dot(double way, double height, Use use) const {
        const Vec<D> origin = Vec<D>::zero();
        const HullTopology none;
        const HullView<D> dot{{&origin, 1}, 0.0, {}, &none};
        use(PlacedBody<D>{dot, place(way, height), ahead_.body.meets});
    }

    Vec<D> place(double way, double height) const {
        return ahead_.body.anchor + way * ahead_.heading + height * ahead_.level.up();
    }

    /// Of one convex piece that is walkable at `high`: where that begins, if it does at `low` or at an edge
    /// of the piece. Its walkable top is all of one stretch.
    std::optional<Begin> begin_on(std::uint32_t piece, double low, double high) const {
        const Vec<D>& up = ahead_.level.up();
        const HullView<D> hull = ahead_.level.piece(piece);
        if (hull.radius > 0.0) return std::nullopt;
        const double over = extent_along(hull, up)[1] + ahead_.intent.touch - up.dot(ahead_.body.anchor);
        const auto walkable_at = [&](double way) {
            std::optional<Begin> there;
            with_dot(way, over, [&](const PlacedBody<D>& dot) {
                const auto top = approach<D>(dot, -up, infinity, 0.0, ahead_.level, piece);
                if (top && !ahead_.steep(*top).on) there = Begin{way, top->point};
            });
            return there;
        };
        if (auto begin = walkable_at(low)) return begin;
        for (const double way : edges_of(piece, low, high)) {
            auto begin = walkable_at(way + beside(high));
            if (!begin || !walkable_at(way - beside(high))) return begin;
        }
        return std::nullopt;
    }

    /// Whether nothing else lies near a piece's top between two places of it, and as far as a step before
    /// them: by as little as a top could rise or fall in a step of the search.
    bool is_alone(std::uint32_t piece, const std::array<Begin, 2>& places, double low, double step) const {
        const Vec<D>& up = ahead_.level.up();
        const double anchor = up.dot(ahead_.body.anchor);
        const double room = step * steepest_ + 2.0 * ahead_.intent.touch;
        // Between the two a convex piece is no lower than at the lower one.
        const double bottom = std::min(up.dot(places[0].point), up.dot(places[1].point)) - anchor - room;
        const double top = extent_along(ahead_.level.piece(piece), up)[1] - anchor + room;
        Bounds<D> box;
        for (const double way : {std::max(places[0].way - step, low), places[1].way}) {
            box.grow(place(way, bottom));
            box.grow(place(way, top));
        }
        bool alone = true;
        ahead_.level.tree().overlapping(box, ahead_.body.meets, [&](std::uint32_t other) -> bool {
            alone = other == piece;
            return alone;
        });
        return alone;
    }

    /// Ways between two others at which edges of a piece cross the plane, descending.
    std::vector<double> edges_of(std::uint32_t piece, double low, double high) const {
        std::vector<double> ways;
        const HullView<D> hull = ahead_.level.piece(piece);
        if (hull.radius > 0.0) return ways;
        const auto add = [&](const Vec<D>& point) {
            const double way = way_of(point);
            if (way > low && way < high) ways.push_back(way);
        };
        if constexpr (D == 2) {
            for (const Vec<2>& corner : hull.points) add(corner);
        } else {
            const Vec<3> across = ahead_.level.up().cross(ahead_.heading);
            for (const auto& [from, to] : hull.topology->edges) {
                const Vec<3>& a = hull.points[from];
                const Vec<3>& b = hull.points[to];
                const double of_a = across.dot(a - ahead_.body.anchor);
                const double of_b = across.dot(b - ahead_.body.anchor);
                if ((of_a < 0.0) != (of_b < 0.0)) add(a + of_a / (of_a - of_b) * (b - a));
            }
        }
        std::sort(ways.begin(), ways.end(), std::greater<>());
        return ways;
    }

    const Ahead<D>& ahead_;
    double steepest_;  // rise of the steepest footing for each unit of way
};

}  // namespace hollow_probe
