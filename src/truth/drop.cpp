#include "hollow_probe/truth/drop.hpp"

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
        ahead.level.tree().overlapping(way.inflated(beyond), ahead.body.meets,
                                       [&](std::uint32_t piece) { add(piece); });
        const auto [back, front] = extent_along(ahead.body.shape, ahead.heading);
        const double beside = ahead.body.shape.radius + beyond;
        back_ = back + ahead.heading.dot(ahead.body.anchor) - beside;
        front_ = front + ahead.heading.dot(ahead.body.anchor) + beside;
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
        look_at_sides(farthest);
        const Below* footing = any_footing(at);
        for (std::size_t round = 0; footing != nullptr && round < 4 * pieces_.size() + 64; ++round) {
            any = true;
            const Reached reached = follow(footing, at, farthest);
            if (reached.way >= farthest) return gap;
            held = reached.held;
            footing = reached.next;
            at = reached.way;
            if (footing != nullptr) continue;
            at += resolution_;
            footing = any_footing(at);
        }
        gap.from = at;
        if (any) {
            gap.last_way = held;
            gap.last = highest_footing(held);
        }
        if (margins == Margins::told) gap.to = next_footing(at, farthest);
        return gap;
    }

  private:
    /// A piece, and from where to where along the heading it lies.
    struct Below {
        std::uint32_t piece = 0;
        double from = 0.0;
        double to = 0.0;
        bool has_steep_side = false;  // that a body could come down on
        // What was asked last: one place is asked about for its own footing, and for what hides another's.
        mutable double last_way = -infinity;
        mutable std::optional<Landing<D>> last = {};
    };

    void add(std::uint32_t piece) {
        const HullView<D> hull = ahead_.level.piece(piece);
        const auto [from, to] = extent_along(hull, ahead_.heading);
        bool steep = hull.radius > 0.0;
        const double flat = std::cos(radians(ahead_.intent.steepest_footing_degrees)) - tolerance::angle;
        for_each_normal(hull, [&](const Vec<D>& n) {
            const double upwards = n.dot(ahead_.level.up());
            steep = steep || (upwards > tolerance::approaches && upwards < flat);
        });
        pieces_.push_back(
            {.piece = piece, .from = from - hull.radius, .to = to + hull.radius, .has_steep_side = steep});
        any_steep_ = any_steep_ || steep;
    }

    bool beside(const Below& below, double way) const {
        return front_ + way < below.from || back_ + way > below.to;
    }

    const std::optional<Landing<D>>& landing_at(const Below& below, double way) const {
        if (below.last_way == way) return below.last;
        below.last_way = way;
        below.last.reset();  // what falls straight down beside it comes down beside it
        if (!beside(below, way))
            below.last = landing_on<D>(ahead_.level, ahead_.body.moved(way * ahead_.heading), ahead_.intent,
                                       ahead_.noise, below.piece);
        return below.last;
    }

    /// Of all footing the contact that a lowered body meets first.
    std::optional<Contact<D>> highest_footing(double way) const {
        std::optional<Landing<D>> highest;
        for (const Below& below : pieces_) {
            const auto& landing = landing_at(below, way);
            if (!landing || (highest && landing->height <= highest->height)) continue;
            if (is_footing(below, way)) highest = landing;
        }
        return highest ? std::optional(highest->contact) : std::nullopt;
    }

    /// Notes where a body comes down on a steep side for the first time and for the last: going over one
    /// convex piece it meets what rises steeply, then footing, then what falls off steeply.
    void look_at_sides(double farthest) {
        constexpr int rounds = 24;
        for (const Below& below : pieces_) {
            if (!below.has_steep_side) continue;
            const double begin = std::max(below.from - front_, 0.0);
            const double end = std::min(below.to - back_, farthest);
            if (begin >= end) continue;
            // −1: rises steeply; 1: falls off steeply.
            const auto side_at = [&](double way) {
                const auto& landing = landing_at(below, way);
                if (!landing) return 2.0 * way < begin + end ? -1 : 1;
                if (landing->footing.on) return 0;
                return landing->contact.normal.dot(ahead_.heading) < 0.0 ? -1 : 1;
            };
            const auto first_that = [&](int side) {
                std::array<double, 2> ends = {begin, end};
                for (int round = 0; round < rounds; ++round) {
                    const double middle = 0.5 * (ends[0] + ends[1]);
                    ends[side_at(middle) >= side ? 1 : 0] = middle;
                }
                return ends;
            };
            sides_.push_back(first_that(0)[0]);
            sides_.push_back(first_that(1)[1]);
        }
        std::sort(sides_.begin(), sides_.end());
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
        return !is_hidden(below, *landing, way);
    }

    /// Whether something steep is met before the footing and stands in the body's way to it, or the footing
    /// lies inside a solid.
    bool is_hidden(const Below& footing, const Landing<D>& landing, double way) const {
        const double noise = ahead_.noise.distance;
        const Vec<D>& up = ahead_.level.up();
        const Vec<D> origin = Vec<D>::Zero();
        const HullTopology none;
        const HullView<D> dot{{&origin, 1}, 0.0, {}, &none};
        for (const Below& other : pieces_) {
            if (&other == &footing) continue;
            const HullView<D> hull = ahead_.level.piece(other.piece);
            if (!hull.normals.empty() && !beside(other, way)) {
                const double highest = extent_along(hull, up)[1] + hull.radius;
                const bool above = highest > up.dot(landing.contact.point) + ahead_.intent.touch;
                if (above && separation<D>(dot, landing.contact.point, hull).gap < -ahead_.intent.touch)
                    return true;
            }
            if (!other.has_steep_side || beside(other, way)) continue;
            const auto& steep = landing_at(other, way);
            if (!steep || steep->footing.on || steep->height <= landing.height + noise) continue;
            // What is higher than the present footing goes on is in the way, no loss.
            if (steep->height > standing_.height + way * standing_.rise + noise) continue;
            if (!is_side(hull, steep->contact.normal)) continue;
            // A body that stands on the footing would be in it.
            const Vec<D> stands = ahead_.body.anchor + way * ahead_.heading + landing.height * up;
            if (separation<D>(ahead_.body.shape, stands, hull).gap < -ahead_.intent.touch) return true;
        }
        return false;
    }

    /// Whether a normal is that of a side, not of an edge or corner.
    static bool is_side(const HullView<D>& hull, const Vec<D>& normal) {
        bool side = hull.radius > 0.0;
        for_each_normal(hull,
                        [&](const Vec<D>& n) { side = side || n.dot(normal) > 1.0 - tolerance::direction; });
        return side;
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
        if (any_steep_) {
            constexpr int steps = 16;
            const double end = std::min(farthest, footing->to - back_);
            std::vector<double> places = sides_;
            for (int i = 1; i < steps; ++i) places.push_back(from + (end - from) * i / steps);
            std::sort(places.begin(), places.end());
            for (const double at : places) {
                if (at <= from || at >= end) continue;
                if (!is_footing(*footing, at)) {
                    high = at;
                    break;
                }
                low = at;
            }
        }
        if (high == farthest && is_footing(*footing, farthest)) return {farthest, farthest};
        for (int round = 0; round < most_rounds && high - low > resolution_; ++round) {
            // Not before: what is hidden by something that stands on it may be footing again behind that.
            if (round == rounds_before_guess) near_guess(*footing, low, high);
            const double middle = 0.5 * (low + high);
            (is_footing(*footing, middle) ? low : high) = middle;
            if (round >= rounds_with_others || any_steep_) continue;
            for (const Below& other : pieces_) {
                if (&other != footing && is_footing(other, high) && is_footing(other, low))
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
    double back_ = 0.0;  // of the body along the heading, with some room
    double front_ = 0.0;
    std::vector<Below> pieces_;
    bool any_steep_ = false;
    std::vector<double> sides_;  // ways at which a body comes down on something steep; ascending
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
