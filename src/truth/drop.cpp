#include "hollow_probe/truth/drop.hpp"

#include <algorithm>

#include "hollow_probe/truth/ground.hpp"
#include "truth/steep_stretches.hpp"

namespace hollow_probe {
namespace {

/// The normal of the surface that a body rests on: of an edge that of the side that lies ahead, of whichever
/// piece, if that is footing, too; of sides that lie ahead alike that of the flattest.
template <int D>
Vec<D> footing_normal(const Level<D>& level, const PlacedBody<D>& body, const Contact<D>& contact,
                      const Intent& intent, const Vec<D>& heading) {
    Vec<D> footing = contact.normal;
    const HullView<D> under = level.piece(contact.piece);
    if (under.radius > 0.0) return footing;
    const double least = std::cos(radians(intent.steepest_footing_degrees)) - tolerance::angle;
    const double hair = tolerance::accuracy * (1.0 + contact.point.norm());
    bool on_edge = false;
    for_each_normal(under, [&](const Vec<D>& n) {
        const bool other = std::abs(n.dot(contact.normal)) < 1.0 - tolerance::direction;
        on_edge = on_edge || (other && extent_along(under, n)[1] - n.dot(contact.point) <= hair);
    });
    if (!on_edge) return footing;
    double flattest = -infinity;
    double farthest = -infinity;
    level.tree().overlapping(
        Bounds<D>{contact.point, contact.point}.inflated(hair), body.meets, [&](std::uint32_t number) {
            const HullView<D> piece = level.piece(number);
            const auto spare = [&](const Vec<D>& n) {
                return extent_along(piece, n)[1] - n.dot(contact.point);
            };
            bool is_at = piece.radius == 0.0;
            for_each_normal(piece, [&](const Vec<D>& n) { is_at = is_at && spare(n) >= -hair; });
            if (!is_at) return;
            for_each_normal(piece, [&](const Vec<D>& n) {
                const double flat = n.dot(level.up());
                const double ahead = n.dot(heading);
                const bool better = ahead > farthest + tolerance::angle ||
                                    (ahead > farthest - tolerance::angle && flat > flattest);
                if (flat < least || !better || spare(n) > hair) return;
                flattest = flat;
                farthest = ahead;
                footing = n;
            });
        });
    return footing;
}

/// Where footing ends.
template <int D>
class Search {
  public:
    Search(const Ahead<D>& ahead, const Standing& standing, double farthest)
        : ahead_(ahead), ground_(ahead, standing, farthest), steep_(ahead, standing, ground_) {}

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
        const Below* footing = ground_.any_footing(at);
        for (std::size_t round = 0; footing != nullptr && round < 4 * ground_.pieces().size() + 64; ++round) {
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
    using Below = typename GroundAhead<D>::Below;

    /// What the body stands on last, before the way at which footing ends: of two pieces that end there the
    /// higher, though it ends a hair sooner.
    void note_last(Gap& gap, double way) const {
        double height = -infinity;
        for (const double hair : GroundAhead<D>::hairs) {
            const double before = std::max(way - (hair - 1.0) * ground_.resolution(), 0.0);
            const auto highest = ground_.highest_footing(before);
            if (!highest || highest->height < height + 2.0 * hair * ground_.resolution()) continue;
            height = highest->height;
            gap.last = highest->contact;
            gap.last_way = before;
        }
    }

    /// Of what footing there is from a hair after a way on, which is set to where. On a corner that two
    /// pieces share each covers the other for a moment: a gap of less than a millionth of the body is none.
    const Below* footing_after(double& way) const {
        const double from = way;
        way += ground_.resolution();
        for (const double hair : GroundAhead<D>::hairs) {
            const Below* const footing = ground_.any_footing(from + hair * ground_.resolution());
            if (footing == nullptr) continue;
            way = from + hair * ground_.resolution();
            return footing;
        }
        return nullptr;
    }

    /// Ways at which to look whether what stands on a piece hides it: where bodies come down on the steep
    /// sides of such, where what they stand on may lie in it, and some evenly. Ascending; none where nothing
    /// can hide it.
    std::vector<double> places_on(const Below& footing, double from, double end, double farthest) const {
        constexpr int steps = 16;
        std::vector<double> places;
        bool any_steep = false;
        const auto landing = ground_.landing_at(footing, from);
        const double ahead_of_anchor =
            landing ? ahead_.heading.dot(landing->contact.point - ahead_.body.anchor) - from : 0.0;
        ground_.for_each_in_the_way(footing, from, end, [&](const Below& other) {
            if (other.has_steep_side) {
                any_steep = true;
                const auto& its = steep_.of(other, farthest);
                places.insert(places.end(), its.begin(), its.end());
            }
            if (!ground_.may_lie_in(footing, other)) return;
            for (const double at : {other.from + ahead_.intent.touch, 0.5 * (other.from + other.to),
                                    other.to - ahead_.intent.touch})
                places.push_back(at - ground_.origin() - ahead_of_anchor);
        });
        for (int i = 1; any_steep && i < steps; ++i) places.push_back(from + (end - from) * i / steps);
        std::sort(places.begin(), places.end());
        return places;
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
    /// are looked at, too. Mostly another goes on from the end of its flat sides, and where neither that nor
    /// a guess tells where it ends, that is looked for by halving: another that is footing on both sides of
    /// it saves the rest of the search.
    Reached follow(const Below* footing, double from, double farthest) const {
        constexpr int rounds_with_others = 4;
        constexpr int rounds_before_guess = 8;
        constexpr int most_rounds = 64;
        double low = from;
        double high = farthest;
        const double end = std::min(farthest, footing->to - ground_.back());
        for (const double at : places_on(*footing, from, end, farthest)) {
            if (at <= from || at >= end) continue;
            if (!ground_.is_footing(*footing, at)) {
                high = at;
                break;
            }
            low = at;
        }
        if (high == farthest && ground_.is_footing(*footing, farthest)) return {farthest, farthest};
        if (const auto reached = next_after_sides(*footing, low, high)) return *reached;
        // What is hidden by something that stands on it may be footing again behind that.
        if (!ground_.may_be_hidden(*footing, low, high)) near_guess(*footing, low, high);
        for (int round = 0; round < most_rounds && high - low > ground_.resolution(); ++round) {
            if (round == rounds_before_guess) near_guess(*footing, low, high);
            const double middle = 0.5 * (low + high);
            (ground_.is_footing(*footing, middle) ? low : high) = middle;
            if (round >= rounds_with_others) continue;
            for (const Below& other : ground_.pieces()) {
                if (&other != footing && ground_.is_footing(other, high) && ground_.is_footing(other, low) &&
                    !ground_.may_be_hidden(other, low, high))
                    return {high, low, &other};
            }
        }
        return {low, low};
    }

    /// Where the body leaves the flat sides of a piece it mostly stands on the next one, too: on its own side
    /// already where the ground bends up, on the edge between the two where it bends down.
    std::optional<Reached> next_after_sides(const Below& footing, double low, double high) const {
        const double way = ground_.flat_sides_of(footing)[1] - ground_.resolution();
        if (!(way > low && way < high) || !ground_.is_footing(footing, way)) return std::nullopt;
        for (const Below& other : ground_.pieces()) {
            const auto [begin, end] = ground_.flat_sides_of(other);
            if (&other != &footing && begin < high && end > way + 2.0 * ground_.resolution() &&
                ground_.is_footing(other, way))
                return Reached{way, way, &other};
        }
        return std::nullopt;
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
            const double before = guess - room * ground_.resolution();
            const double after = guess + room * ground_.resolution();
            if (!(before > low && after < high)) return;
            const bool holds_before = ground_.is_footing(footing, before);
            const bool holds_after = holds_before && ground_.is_footing(footing, after);
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
            if (ground_.any_footing(at) == nullptr) continue;
            double low = from + way * (i - 1) / steps;
            double high = at;
            for (int round = 0; round < 10; ++round) {
                const double middle = 0.5 * (low + high);
                (ground_.any_footing(middle) != nullptr ? high : low) = middle;
            }
            return high;
        }
        return infinity;
    }

    const Ahead<D>& ahead_;
    GroundAhead<D> ground_;
    SteepStretches<D> steep_;
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
        static_cast<Decision&>(truth) = static_cast<const Decision&>(*known->ground);
        return truth;
    }
    const bool is_known = known != nullptr && known->ground && body.of == all_layers;
    const ContactTruth<D> standing_on = is_known ? *known->ground : ground<D>(level, body, intent);
    const auto& standing = static_cast<const Decision&>(standing_on);
    if (!standing_on.contact) {
        static_cast<Decision&>(truth) = standing;
        truth.on = false;
        return truth;
    }
    const Ahead<D> ahead(level, body, heading, intent);
    const Vec<D> footing = footing_normal<D>(level, body, *standing_on.contact, intent, heading);
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
