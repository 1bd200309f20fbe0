#include "hollow_probe/truth/ledge.hpp"

#include <algorithm>

#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/rest.hpp"
#include "truth/landing.hpp"
#include "truth/walkable_top.hpp"

namespace hollow_probe {
namespace {

/// The way up over one wall.
template <int D>
class Climb {
  public:
    Climb(const Ahead<D>& ahead, const HullView<D>& climber, const Contact<D>& wall)
        : ahead_(ahead),
          climber_{climber, ahead.body.anchor, ahead.body.meets, all_layers, ahead.body.front_faces},
          top_(ahead),
          face_(ahead.heading.dot(wall.point - ahead.body.anchor)),
          wall_top_(ahead.rise_of(wall)) {
        const Ahead<D> of_climber(ahead.level, climber_, ahead.heading, ahead.intent);
        const double back = climber.radius - extent_along(climber, ahead.heading)[0];
        at_ = face_ + of_climber.tread() + back;
    }

    /// Whether the climber has a rest with room whose top's edge is within ledge_between.
    Decision found(Vec<D>& edge) const {
        const Level<D>& level = ahead_.level;
        const Intent& intent = ahead_.intent;
        const auto [lowest, highest] = intent.ledge_between;
        // A top may rise, or fall, from its edge to where the climber stands.
        const double slope = highest_ride(intent, at_ - face_ + ahead_.half_width()) + intent.touch;
        const PlacedBody<D> column = climber_.moved(at_ * ahead_.heading);
        std::vector<double> rests;
        find_rests<D>(level, column, intent, rests, nullptr, Held::from_below,
                      {lowest - slope, highest + slope});
        Decision result;
        std::reverse(rests.begin(), rests.end());  // the highest first
        for (const double height : rests) {
            const PlacedBody<D> resting = column.moved(height * level.up());
            Decision is_top = static_cast<const Decision&>(ground<D>(level, resting, intent));
            is_top = both(is_top, at_most(clip<D>(level, resting, intent).depth, intent.touch, ahead_.noise));
            if (!is_top.on && is_top.decided) {
                result = either(result, is_top);
                continue;
            }
            const auto begins = begin_of_top(resting);
            if (!begins) continue;
            const double at = level.up().dot(begins->point - ahead_.body.anchor);
            Noise noise = ahead_.noise;
            noise.distance *= 20.0;  // of edges
            is_top = both(is_top, both(at_most(lowest, at, noise), at_most(at, highest, noise)));
            if (!ahead_.refused(is_top)) is_top = both(is_top, belongs_to_face(begins->way, at, noise));
            result = either(result, is_top);
            if (!is_top.on) continue;
            edge = begins->point;
            return result;
        }
        return result;
    }

  private:
    /// Where the walkable top begins that the climber rests on.
    std::optional<typename WalkableTop<D>::Begin> begin_of_top(const PlacedBody<D>& resting) const {
        const auto under = ground<D>(ahead_.level, resting, ahead_.intent);
        if (!under.contact) return std::nullopt;
        return top_.begin_of(*under.contact, face_);
    }

    /// Whether a top that begins so far ahead and so high belongs to what was met: nothing on the way from
    /// the face is higher, and nothing falls off behind it.
    Decision belongs_to_face(double edge, double top, const Noise& noise) const {
        const Level<D>& level = ahead_.level;
        const double touch = ahead_.intent.touch;
        // Else the wall stands before it.
        if (edge - face_ <= touch) return at_most(wall_top_ - touch, top, noise);
        const RoundedHull<D> bar =
            RoundedHull<D>::capsule(face_ * ahead_.heading, edge * ahead_.heading, 1.0).with_radius(0.0);
        const Vec<D> over = ahead_.body.anchor + (top + 2.0 * touch) * level.up();
        double room = infinity;
        level.tree().overlapping(
            bounds_of(bar.view()).moved(over).inflated(touch), ahead_.body.meets, [&](std::uint32_t piece) {
                room = std::min(room, separation<D>(bar.view(), over, level.piece(piece)).gap);
            });
        const Decision is_free = at_most(-room, 0.0, noise);
        if (ahead_.refused(is_free)) return is_free;
        constexpr int steps = 8;
        bool falls_off = false;
        for (int i = 1; i < steps && !falls_off; ++i) {
            const double way = face_ + (edge - face_) * i / steps;
            falls_off = !top_.surface(way, top + 2.0 * touch, std::min(wall_top_, top) - touch);
        }
        return both(is_free, Decision{!falls_off, true, {}});
    }

    const Ahead<D>& ahead_;
    PlacedBody<D> climber_;
    WalkableTop<D> top_;
    double face_;
    double wall_top_;
    double at_ = 0.0;
};

}  // namespace

template <int D>
LedgeTruth<D> ledge(const Level<D>& level, const PlacedBody<D>& body, const HullView<D>& climber,
                    const Vec<D>& heading, const Intent& intent, Margins margins, const Known<D>* known) {
    const Ahead<D> ahead(level, body, heading, intent, margins, known);
    // The first thing that stops the body or that it would walk up on: what rises no more than touch, as the
    // next slab of a floor, does neither.
    LedgeTruth<D> truth;
    std::vector<std::pair<Contact<D>, Decision>> met;
    bool any_wall = false;
    ahead.for_each_steep(intent.ahead_ledge, [&](const Contact<D>& contact, const Decision& steep) {
        met.emplace_back(contact, steep);
        any_wall = any_wall || !ahead.refused(steep);
    });
    if (!any_wall) return truth;
    std::stable_sort(met.begin(), met.end(),
                     [](const auto& a, const auto& b) { return a.first.gap < b.first.gap; });
    double nearest = infinity;
    for (const auto& [contact, steep] : met) {
        if (contact.gap > nearest + ahead.noise.distance) break;
        if (!ahead.stops(ahead.rise_of(contact)).on) continue;
        nearest = std::min(nearest, contact.gap);
        if (ahead.granted(truth)) continue;
        if (!level.on_layers(contact.piece, body.of)) continue;
        Decision is_ledge = both(steep, at_most(contact.gap, intent.ahead_ledge, ahead.noise));
        if (!ahead.refused(is_ledge)) is_ledge = both(is_ledge, ahead.is_wall(contact, steep));
        Vec<D> edge = Vec<D>::zero();
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
