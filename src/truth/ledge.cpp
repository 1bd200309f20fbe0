#include "hollow_probe/truth/ledge.hpp"

#include <Eigen/Geometry>

#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/rest.hpp"
#include "truth/ahead.hpp"
#include "truth/landing.hpp"

namespace hollow_probe {
namespace {

/// The way up over one wall.
template <int D>
class Climb {
  public:
    Climb(const Ahead<D>& ahead, const HullView<D>& climber, const Contact<D>& wall)
        : ahead_(ahead),
          climber_{climber, ahead.body.anchor, ahead.body.meets, all_layers, ahead.body.front_faces},
          face_(ahead.heading.dot(wall.point - ahead.body.anchor)),
          wall_top_(ahead.rise_of(wall)) {
        const Ahead<D> of_climber(ahead.level, climber_, ahead.heading, ahead.intent);
        const double back = climber.radius - extent_along(climber, ahead.heading)[0];
        at_ = face_ + of_climber.tread() + back;
        steepest_ = highest_ride(ahead.intent, 1.0);
    }

    /// Whether the climber has a rest with room whose top's edge is within ledge_between.
    Decision found(Vec<D>& edge) const {
        const Level<D>& level = ahead_.level;
        const Intent& intent = ahead_.intent;
        const auto [lowest, highest] = intent.ledge_between;
        // A top may rise, or fall, from its edge to where the climber stands.
        const double slope = (at_ - face_ + ahead_.half_width()) * steepest_ + intent.touch;
        const PlacedBody<D> column = climber_.moved(at_ * ahead_.heading);
        std::vector<double> rests;
        find_rests<D>(level, column, intent, rests, nullptr, Held::from_below,
                      {lowest - slope, highest + slope});
        Decision result;
        for (auto height = rests.rbegin(); height != rests.rend(); ++height) {
            const PlacedBody<D> resting = column.moved(*height * level.up());
            Decision is_top = ground<D>(level, resting, intent);
            is_top = both(is_top, at_most(clip<D>(level, resting, intent).depth, intent.touch, ahead_.noise));
            if (!is_top.on && is_top.decided) {
                result = either(result, is_top);
                continue;
            }
            const auto begins = edge_of(resting);
            if (!begins) continue;
            const double at = level.up().dot(*begins - ahead_.body.anchor);
            Noise noise = ahead_.noise;
            noise.distance *= 20.0;  // of edges
            is_top = both(is_top, both(at_most(lowest, at, noise), at_most(at, highest, noise)));
            result = either(result, is_top);
            if (!is_top.on) continue;
            edge = *begins;
            return result;
        }
        return result;
    }

  private:
    /// The surface straight beneath a place ahead of the anchor, between two heights above it.
    std::optional<Contact<D>> surface(double way, double highest, double lowest) const {
        const Vec<D> origin = Vec<D>::Zero();
        const HullTopology none;
        const HullView<D> dot{{&origin, 1}, 0.0, {}, &none};
        const PlacedBody<D> above{
            dot, ahead_.body.anchor + way * ahead_.heading + highest * ahead_.level.up(), ahead_.body.meets};
        std::optional<Contact<D>> first;
        for_each_contact(ahead_.level, above, Vec<D>(-ahead_.level.up()), highest - lowest, 0.0,
                         [&](const Contact<D>& c) {
                             if (!first || c.gap < first->gap) first = c;
                         });
        return first;
    }

    /// Where the walkable top begins that the climber rests on: the foremost place from which it goes on to
    /// there. Nothing where something higher stands before it.
    std::optional<Vec<D>> edge_of(const PlacedBody<D>& resting) const {
        const Level<D>& level = ahead_.level;
        const Intent& intent = ahead_.intent;
        const auto under = ground<D>(level, resting, intent);
        if (!under.contact) return std::nullopt;
        // From the foremost of what it stands on there back to the face, as seen by a dot let down from just
        // above the top known so far: what hangs over it is not met.
        const Vec<D>& up = level.up();
        double high = std::max(ahead_.heading.dot(under.contact->point - ahead_.body.anchor), face_);
        double low = face_ - intent.touch;
        Vec<D> edge = under.contact->point;
        std::uint32_t piece = under.contact->piece;
        const auto walkable_at = [&](double way) {
            const double known = up.dot(edge - ahead_.body.anchor);
            const double range = (high - way) * steepest_ + intent.touch;
            auto c = surface(way, known + range, known - range);
            if (c && ahead_.steep(*c).on) c.reset();
            return c;
        };
        const auto take = [&](double way) {
            const auto top = walkable_at(way);
            (top ? high : low) = way;
            if (!top) return false;
            edge = top->point;
            piece = top->piece;
            return true;
        };
        constexpr int steps = 16;
        constexpr int most_rounds = 60;
        const double step = (high - low) / steps;
        for (int i = 1; i <= steps; ++i) {
            if (!take(high - step)) break;
        }
        const auto resolution = [&] { return 1e-10 * (1.0 + std::abs(high)); };
        // Mostly it begins at an edge of the piece: looked at on both sides, that spares the halving.
        for (const double way : edges_before(piece, low, high)) {
            const double beside = 0.4 * resolution();
            if (way - beside > low && way + beside < high && take(way + beside)) take(way - beside);
        }
        for (int round = 0; round < most_rounds && high - low > resolution(); ++round)
            take(0.5 * (low + high));
        if (!belongs_to_face(high, up.dot(edge - ahead_.body.anchor))) return std::nullopt;
        return edge;
    }

    /// Ways between two others at which edges of a piece cross the plane of up and heading through the
    /// anchor.
    std::vector<double> edges_before(std::uint32_t piece, double low, double high) const {
        std::vector<double> ways;
        const HullView<D> hull = ahead_.level.piece(piece);
        if (hull.radius > 0.0) return ways;
        const auto add = [&](const Vec<D>& point) {
            const double way = ahead_.heading.dot(point - ahead_.body.anchor);
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

    /// Whether a top that begins so far ahead and so high belongs to what was met: nothing on the way from
    /// the face is higher, and nothing falls off behind it.
    bool belongs_to_face(double edge, double top) const {
        const Level<D>& level = ahead_.level;
        const double touch = ahead_.intent.touch;
        if (edge - face_ <= touch) return true;
        const RoundedHull<D> bar =
            RoundedHull<D>::capsule(Vec<D>(face_ * ahead_.heading), Vec<D>(edge * ahead_.heading), 1.0)
                .with_radius(0.0);
        const Vec<D> over = ahead_.body.anchor + (top + 2.0 * touch) * level.up();
        bool higher = false;
        level.tree().overlapping(bounds_of(bar.view()).moved(over).inflated(ahead_.noise.distance),
                                 ahead_.body.meets, [&](std::uint32_t piece) -> bool {
                                     higher = separation<D>(bar.view(), over, level.piece(piece)).gap <= 0.0;
                                     return !higher;
                                 });
        if (higher) return false;
        constexpr int steps = 8;
        for (int i = 1; i < steps; ++i) {
            const double way = face_ + (edge - face_) * i / steps;
            if (!surface(way, top + 2.0 * touch, std::min(wall_top_, top) - touch)) return false;
        }
        return true;
    }

    const Ahead<D>& ahead_;
    PlacedBody<D> climber_;
    double face_;
    double wall_top_;
    double at_ = 0.0;
    double steepest_ = 1.0;
};

}  // namespace

template <int D>
LedgeTruth<D> ledge(const Level<D>& level, const PlacedBody<D>& body, const HullView<D>& climber,
                    const Vec<D>& heading, const Intent& intent, Margins margins, const Known<D>* known) {
    const Ahead<D> ahead(level, body, heading, intent, margins, known);
    // The first thing that stops the body or that it would walk up on: what rises no more than touch, as the
    // next slab of a floor, does neither.
    double nearest = infinity;
    std::vector<std::pair<Contact<D>, Decision>> met;
    ahead.for_each_steep(intent.ahead_ledge, [&](const Contact<D>& contact, const Decision& steep) {
        if (!ahead.stops(ahead.rise_of(contact)).on) return;
        nearest = std::min(nearest, contact.gap);
        met.emplace_back(contact, steep);
    });
    LedgeTruth<D> truth;
    for (const auto& [contact, steep] : met) {
        if (contact.gap > nearest + ahead.noise.distance || ahead.granted(truth)) continue;
        if (!level.on_layers(contact.piece, body.of)) continue;
        Decision is_ledge = both(steep, at_most(contact.gap, intent.ahead_ledge, ahead.noise));
        if (!ahead.refused(is_ledge)) is_ledge = both(is_ledge, ahead.is_wall(contact, steep));
        Vec<D> edge = Vec<D>::Zero();
        if (!ahead.refused(is_ledge))
            is_ledge = both(is_ledge, Climb<D>(ahead, climber, contact).found(edge));
        static_cast<Decision&>(truth) = either(truth, is_ledge);
        if (!is_ledge.on) continue;
        truth.height = level.up().dot(edge - body.anchor);
        truth.piece = contact.piece;
        truth.edge = edge;
    }
    return truth;
}

template LedgeTruth<2> ledge<2>(const Level<2>&, const PlacedBody<2>&, const HullView<2>&, const Vec<2>&,
                                const Intent&, Margins, const Known<2>*);
template LedgeTruth<3> ledge<3>(const Level<3>&, const PlacedBody<3>&, const HullView<3>&, const Vec<3>&,
                                const Intent&, Margins, const Known<3>*);

}  // namespace hollow_probe
