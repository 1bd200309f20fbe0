// What several truths ask about the way before a body.
#pragma once

#include <algorithm>
#include <vector>

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/truth/known.hpp"
#include "hollow_probe/truth/wall.hpp"

namespace hollow_probe {

template <int D>
struct Ahead {
    Ahead(const Level<D>& given_level, const PlacedBody<D>& given_body, const Vec<D>& given_heading,
          const Intent& given_intent, Margins wanted = Margins::told, const Known<D>* told = nullptr)
        : level(given_level),
          body(given_body),
          heading(given_heading),
          intent(given_intent),
          noise(noise_of(given_body.shape, given_level)),
          margins(wanted),
          known(told) {}

    const Level<D>& level;
    const PlacedBody<D>& body;
    const Vec<D>& heading;
    const Intent& intent;
    Noise noise;
    Margins margins;
    const Known<D>* known;

    struct Rise {
        double gap = 0.0;
        double height = 0.0;
        std::vector<std::uint32_t> pieces;  // that are one contact
    };
    mutable std::vector<Rise> rises;  // worked out so far

    /// Whether nothing further can make a decision that needs this one, and others, turn out otherwise.
    [[nodiscard]] bool refused(const Decision& needed) const {
        return margins == Margins::left_out && !needed.on && needed.decided;
    }
    /// … or one that this one alone is enough for.
    [[nodiscard]] bool granted(const Decision& enough) const {
        return margins == Margins::left_out && enough.on && enough.decided;
    }

    /// The body's half width along the heading.
    [[nodiscard]] double half_width() const {
        const auto [back, front] = extent_along(body.shape, heading);
        return 0.5 * (front - back) + body.shape.radius;
    }
    /// How far on to a step the body must get.
    [[nodiscard]] double tread() const { return intent.tread > 0.0 ? intent.tread : half_width(); }

    [[nodiscard]] Decision steep(const Contact<D>& contact) const {
        const double slope = degrees(angle_between<D>(contact.normal, level.up()));
        return opposite(angle_at_most(slope, intent.steepest_footing_degrees, noise));
    }

    /// Calls visit(contact, whether it is steeper than footing) for what the body meets within `reach`, and a
    /// little farther, so that margins are seen.
    template <class Visit>
    void for_each_steep(double reach, Visit visit) const {
        const double farthest = reach + std::max(intent.touch, 2.0 * noise.distance);
        const auto with_slope = [&](const Contact<D>& contact) { visit(contact, steep(contact)); };
        if (known == nullptr || known->ahead_reach < farthest || known->ahead_toward != heading) {
            for_each_contact(level, body, heading, farthest, intent.touch, with_slope);
            return;
        }
        for (const Contact<D>& contact : known->ahead) {
            if (contact.gap <= farthest) with_slope(contact);
        }
    }

    /// Whether a contact faces the body squarely enough to be a wall, and is no ceiling.
    [[nodiscard]] Decision faces(const Contact<D>& contact) const {
        static const double least_square = degrees(std::acos(least_facing_of_wall));
        const double from_down = degrees(angle_between<D>(contact.normal, -level.up()));
        const double from_back = degrees(angle_between<D>(contact.normal, -heading));
        return both(opposite(angle_at_most(from_down, intent.ceiling_within_degrees, noise)),
                    angle_at_most(from_back, least_square, noise));
    }

    /// The height of a contact above the anchor where it is met. Pieces that the surface goes on in are one
    /// contact with it: their rise is not worked out again.
    [[nodiscard]] double rise_of(const Contact<D>& contact) const {
        for (const Rise& told : rises) {
            if (std::abs(told.gap - contact.gap) <= noise.distance &&
                std::find(told.pieces.begin(), told.pieces.end(), contact.piece) != told.pieces.end())
                return told.height;
        }
        const PlacedBody<D> touching = body.moved(std::max(contact.gap, 0.0) * heading);
        Rise& rise = rises.emplace_back();
        rise.gap = contact.gap;
        rise.height =
            level.up().dot(highest_of_contact<D>(level, touching, contact, &rise.pieces) - body.anchor);
        return rise.height;
    }
    /// Whether a contact that rises so high stops anybody: what lies flush with the feet does not.
    [[nodiscard]] Decision stops(double rise) const { return opposite(at_most(rise, intent.touch, noise)); }

    /// Whether a piece that the body meets flush with its feet is steep above them, too, within `way`: a
    /// round bar that it touches low down is in its way, the side of a slab is not.
    [[nodiscard]] Decision is_steep_above(std::uint32_t piece, double way) const;

    /// Whether a body gets that far along the heading without meeting anything steeper than footing that
    /// stops it. What it would brush by less than the rest of its way is as far from being free as that.
    [[nodiscard]] Decision free_for(const PlacedBody<D>& moving, double way) const;

    /// Whether a body that gets that far along the heading is then in a piece.
    [[nodiscard]] bool ends_inside(const PlacedBody<D>& moving, double way, std::uint32_t piece) const {
        const Vec<D> end = moving.anchor + way * heading;
        return separation<D>(moving.shape, end, level.piece(piece)).gap < -noise.distance;
    }

    /// How much higher the body stands after going so far on the footing it stands on; 0 for one that does
    /// not stand.
    [[nodiscard]] double higher_after(double way) const;

    /// Of a contact that stops the body and rises so high above its anchor.
    [[nodiscard]] Decision can_be_stepped_on(const Contact<D>& contact, double rise) const;

    /// Whether the body meets a wall in a contact; `rise` is told if it is needed to know.
    [[nodiscard]] Decision is_wall(const Contact<D>& contact, const Decision& steeper) const;
};

extern template struct Ahead<2>;
extern template struct Ahead<3>;

}  // namespace hollow_probe
