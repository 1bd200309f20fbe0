#include "hollow_probe/truth/drop.hpp"

#include "hollow_probe/truth/ground.hpp"
#include "truth/ahead.hpp"

namespace hollow_probe {
namespace {

template <int D>
class Search {
  public:
    Search(const Ahead<D>& ahead, double farthest)
        : ahead_(ahead), lifted_(ahead.moved(ahead.intent.tallest_step * ahead.level.up())) {
        // Every piece that could be footing somewhere on the way.
        const Intent& intent = ahead.intent;
        depth_ = intent.tallest_step + intent.deepest_drop;
        Bounds<D> way = bounds_of(lifted_.shape).moved(lifted_.anchor);
        way.grow(way.moved(farthest * ahead.heading));
        way.grow(way.moved(-depth_ * ahead.level.up()));
        const double beyond = 2.0 * ahead.noise.distance;
        ahead.level.tree().overlapping(way.inflated(beyond), lifted_.meets,
                                       [&](std::uint32_t piece) { add(piece); });
        const auto [back, front] = extent_along(lifted_.shape, ahead.heading);
        const double beside = lifted_.shape.radius + beyond;
        back_ = back + ahead.heading.dot(lifted_.anchor) - beside;
        front_ = front + ahead.heading.dot(lifted_.anchor) + beside;
        resolution_ = 1e-9 * bounds_of(lifted_.shape).size().norm();
    }

    struct Gap {
        double from = infinity;
        double to = infinity;
    };

    /// The first way within `farthest` at which no piece is footing, and where footing begins again: infinite
    /// if it does not, or that is not asked.
    Gap first_gap(double farthest, Margins margins) const {
        Gap gap;
        double at = 0.0;
        const Below* footing = any_footing(at);
        while (footing != nullptr) {
            const Reached reached = follow(footing, at, farthest);
            if (reached.way >= farthest) return gap;
            footing = reached.next;
            at = reached.way;
            if (footing != nullptr) continue;
            at += resolution_;
            footing = any_footing(at);
        }
        gap.from = at;
        if (margins == Margins::told) gap.to = next_footing(at, farthest);
        return gap;
    }

  private:
    /// A piece, and from where to where along the heading it lies.
    struct Below {
        std::uint32_t piece = 0;
        double from = 0.0;
        double to = 0.0;
    };

    void add(std::uint32_t piece) {
        const HullView<D> hull = ahead_.level.piece(piece);
        const auto [from, to] = extent_along(hull, ahead_.heading);
        pieces_.push_back({piece, from - hull.radius, to + hull.radius});
    }

    bool is_footing(const Below& below, double way) const {
        // What falls straight down comes down beside it.
        if (front_ + way < below.from || back_ + way > below.to) return false;
        const PlacedBody<D> there{lifted_.shape, lifted_.anchor + way * ahead_.heading, lifted_.meets};
        const auto contact = approach<D>(there, Vec<D>(-ahead_.level.up()), depth_, ahead_.intent.touch,
                                         ahead_.level, below.piece);
        if (!contact) return false;
        const double slope = degrees(angle_between<D>(contact->normal, ahead_.level.up()));
        return angle_at_most(slope, ahead_.intent.steepest_footing_degrees, ahead_.noise).on;
    }

    const Below* any_footing(double way) const {
        for (const Below& below : pieces_) {
            if (is_footing(below, way)) return &below;
        }
        return nullptr;
    }

    /// How far footing goes on, and the piece that is footing there if it is known.
    struct Reached {
        double way = 0.0;
        const Below* next = nullptr;
    };

    /// The places from which one convex piece is footing follow one another without gaps: a piece that is
    /// footing at two of them is so in between. Where this one's end is looked for by halving, another that
    /// is footing on both sides of it saves the rest of the search.
    Reached follow(const Below* footing, double from, double farthest) const {
        constexpr int rounds_with_others = 4;
        if (is_footing(*footing, farthest)) return {farthest};
        double low = from;
        double high = farthest;
        for (int round = 0; high - low > resolution_; ++round) {
            const double middle = 0.5 * (low + high);
            (is_footing(*footing, middle) ? low : high) = middle;
            if (round >= rounds_with_others) continue;
            for (const Below& other : pieces_) {
                if (&other != footing && is_footing(other, high) && is_footing(other, low))
                    return {high, &other};
            }
        }
        return {low};
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
            while (high - low > std::max(resolution_, 1e-3 * way)) {
                const double middle = 0.5 * (low + high);
                (any_footing(middle) != nullptr ? high : low) = middle;
            }
            return high;
        }
        return infinity;
    }

    const Ahead<D>& ahead_;
    PlacedBody<D> lifted_;
    double depth_ = 0.0;
    double resolution_ = 0.0;
    double back_ = 0.0;  // of the body along the heading, with some room
    double front_ = 0.0;
    std::vector<Below> pieces_;
};

}  // namespace

template <int D>
DropTruth<D> drop(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading,
                  const Intent& intent, double horizon, Margins margins, const Known<D>* known) {
    DropTruth<D> truth;
    Decision standing;
    if (known != nullptr && known->ground) {
        standing = *known->ground;
    } else {
        standing = static_cast<const Decision&>(ground<D>(level, body, intent));
    }
    if (!standing.on && standing.decided) {
        static_cast<Decision&>(truth) = standing;
        return truth;
    }
    const Ahead<D> ahead(level, body, heading, intent);
    const double farthest = intent.ahead_drop + std::max(horizon, 2.0 * ahead.noise.distance);
    const Search<D> search(ahead, farthest);
    const auto gap = search.first_gap(farthest, margins);
    Decision found;
    if (gap.from != infinity) {
        const PlacedBody<D> lifted = ahead.moved(intent.tallest_step * level.up());
        double way = infinity;  // until something is in it
        for_each_contact(level, lifted, heading, farthest, intent.touch,
                         [&](const Contact<D>& contact) { way = std::min(way, std::max(contact.gap, 0.0)); });
        // Where footing ends is known to within the search's resolution.
        Noise noise = ahead.noise;
        noise.distance = std::max(noise.distance, 4e-9 * bounds_of(body.shape).size().norm());
        found = both(at_most(gap.from, intent.ahead_drop, noise), at_most(gap.from, way, noise));
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
