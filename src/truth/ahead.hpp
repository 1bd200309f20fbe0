// What several truths ask about the way before a body.
#pragma once

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/truth/known.hpp"

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

    /// Whether nothing further can make a decision that needs this one, and others, turn out otherwise.
    [[nodiscard]] bool refused(const Decision& needed) const {
        return margins == Margins::left_out && !needed.on && needed.decided;
    }
    /// … or one that this one alone is enough for.
    [[nodiscard]] bool granted(const Decision& enough) const {
        return margins == Margins::left_out && enough.on && enough.decided;
    }

    [[nodiscard]] PlacedBody<D> moved(const Vec<D>& by) const {
        return {body.shape, body.anchor + by, body.meets};
    }

    /// How far on to a step the body must get.
    [[nodiscard]] double tread() const {
        if (intent.tread > 0.0) return intent.tread;
        const auto [back, front] = extent_along(body.shape, heading);
        return 0.5 * (front - back) + body.shape.radius;
    }

    /// Calls visit(contact, whether it is steeper than footing) for what the body meets within `reach`, and a
    /// little farther, so that margins are seen.
    template <class Visit>
    void for_each_steep(double reach, Visit visit) const {
        const double farthest = reach + std::max(intent.touch, 2.0 * noise.distance);
        const auto with_slope = [&](const Contact<D>& contact) {
            const double slope = degrees(angle_between<D>(contact.normal, level.up()));
            visit(contact, opposite(angle_at_most(slope, intent.steepest_footing_degrees, noise)));
        };
        if (known == nullptr || known->ahead_reach < farthest) {
            for_each_contact(level, body, heading, farthest, intent.touch, with_slope);
            return;
        }
        for (const Contact<D>& contact : known->ahead) {
            if (contact.gap <= farthest) with_slope(contact);
        }
    }

    /// Whether a contact faces the body squarely enough to be a wall, and is no ceiling.
    [[nodiscard]] Decision faces(const Contact<D>& contact) const {
        static const double least_square = degrees(std::acos(0.1));
        const double from_down = degrees(angle_between<D>(contact.normal, Vec<D>(-level.up())));
        const double from_back = degrees(angle_between<D>(contact.normal, Vec<D>(-heading)));
        return both(opposite(angle_at_most(from_down, intent.ceiling_within_degrees, noise)),
                    angle_at_most(from_back, least_square, noise));
    }

    /// Whether a body gets that far along the heading without meeting anything. What it would brush by less
    /// than the rest of its way is as far from being free as that.
    [[nodiscard]] Decision free_for(const PlacedBody<D>& moving, double way) const {
        Decision free{true, true, {}};
        for_each_contact(
            level, moving, heading, way + intent.touch, intent.touch, [&](const Contact<D>& contact) {
                if (refused(free)) return;
                Decision passed = at_most(way, contact.gap, noise);
                const bool sure = margins == Margins::left_out && ends_inside(moving, way, contact.piece);
                if (!passed.on && !sure) {
                    const double from = std::max(contact.gap, 0.0);
                    const double depth = deepest_overlap<D>(level, moving, heading, from, way, contact.piece);
                    passed.margin.distance = std::min(passed.margin.distance, depth);
                    passed.decided = passed.decided && depth > noise.distance;
                }
                free = both(free, passed);
            });
        return free;
    }

    /// Whether a body that gets that far along the heading is then in a piece.
    [[nodiscard]] bool ends_inside(const PlacedBody<D>& moving, double way, std::uint32_t piece) const {
        const Vec<D> end = moving.anchor + way * heading;
        return separation<D>(moving.shape, end, level.piece(piece)).gap < -noise.distance;
    }

    [[nodiscard]] Decision can_be_stepped_on(const Contact<D>& contact, double& rise) const;
};

extern template struct Ahead<2>;
extern template struct Ahead<3>;

}  // namespace hollow_probe
