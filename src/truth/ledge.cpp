#include "hollow_probe/truth/ledge.hpp"

#include "hollow_probe/truth/ground.hpp"
#include "truth/ahead.hpp"

namespace hollow_probe {
namespace {

template <int D>
struct Climb {
    const Ahead<D>& ahead;
    const HullView<D>& climber;

    /// Whether the climber has room on top of what a contact meets, and at which height above the anchor.
    Decision onto(const Contact<D>& contact, double& height) const {
        const Level<D>& level = ahead.level;
        const Intent& intent = ahead.intent;
        const Noise& noise = ahead.noise;
        const auto [lowest, highest] = intent.ledge_between;
        const PlacedBody<D> own{climber, ahead.body.anchor, ahead.body.meets};
        const Ahead<D> of_climber(level, own, ahead.heading, intent);
        const double way = face(contact) + of_climber.tread();
        const PlacedBody<D> above{
            climber, ahead.body.anchor + way * ahead.heading + (highest + intent.touch) * level.up(),
            ahead.body.meets};
        const double reach = highest - lowest + 2.0 * intent.touch;
        double gap = infinity;
        for_each_contact(level, above, Vec<D>(-level.up()), reach, 0.0,
                         [&](const Contact<D>& below) { gap = std::min(gap, below.gap); });
        if (gap == infinity) return {};
        height = highest + intent.touch - gap;
        const PlacedBody<D> resting{climber, above.anchor - gap * level.up(), ahead.body.meets};
        Decision result = both(at_most(height, highest, noise), at_most(lowest, height, noise));
        if (ahead.refused(result)) return result;
        result = both(result, ground<D>(level, resting, intent));
        if (ahead.refused(result)) return result;
        return both(result, at_most(clip<D>(level, resting, intent).depth, intent.touch, noise));
    }

    /// How far ahead of the anchor the face is that a contact meets.
    double face(const Contact<D>& contact) const {
        return ahead.heading.dot(contact.point - ahead.body.anchor);
    }

    /// Where the top begins: the first place past the face at which a point, lowered, finds footing at the
    /// height of the climber's rest.
    Vec<D> edge(const Contact<D>& contact, double height) const {
        const Level<D>& level = ahead.level;
        const Vec<D> origin = Vec<D>::Zero();
        const HullTopology none;
        const HullView<D> dot{{&origin, 1}, 0.0, {}, &none};
        // Round soles stand a little above or below what they stand on the edge of.
        const double spare = ahead.intent.touch + extent_along(climber, level.up())[1];
        const auto top_at = [&](double way) -> std::optional<Vec<D>> {
            const PlacedBody<D> above{dot,
                                      ahead.body.anchor + way * ahead.heading + (height + spare) * level.up(),
                                      ahead.body.meets};
            std::optional<Contact<D>> first;
            for_each_contact(level, above, Vec<D>(-level.up()), 2.0 * spare, 0.0, [&](const Contact<D>& c) {
                if (!first || c.gap < first->gap) first = c;
            });
            if (!first) return std::nullopt;
            return first->point;
        };
        const PlacedBody<D> own{climber, ahead.body.anchor, ahead.body.meets};
        double high = face(contact) + Ahead<D>(level, own, ahead.heading, ahead.intent).tread();
        double low = face(contact) - ahead.intent.touch;
        std::optional<Vec<D>> top = top_at(high);
        if (!top) return ahead.body.anchor + face(contact) * ahead.heading + height * level.up();
        while (high - low > 1e-9 * (1.0 + std::abs(high))) {
            const double middle = 0.5 * (low + high);
            if (const auto there = top_at(middle)) {
                top = there;
                high = middle;
            } else {
                low = middle;
            }
        }
        return *top;
    }
};

}  // namespace

template <int D>
LedgeTruth<D> ledge(const Level<D>& level, const PlacedBody<D>& body, const HullView<D>& climber,
                    const Vec<D>& heading, const Intent& intent, Margins margins, const Known<D>* known) {
    const Ahead<D> ahead(level, body, heading, intent, margins, known);
    const Climb<D> climb{ahead, climber};
    LedgeTruth<D> truth;
    double nearest = infinity;
    ahead.for_each_steep(intent.ahead_ledge, [&](const Contact<D>& contact, const Decision& steep) {
        if (ahead.granted(truth)) return;
        double height = 0.0;
        Decision is_ledge =
            both(both(steep, ahead.faces(contact)), at_most(contact.gap, intent.ahead_ledge, ahead.noise));
        if (!ahead.refused(is_ledge)) is_ledge = both(is_ledge, climb.onto(contact, height));
        static_cast<Decision&>(truth) = either(truth, is_ledge);
        if (!is_ledge.on || contact.gap >= nearest || margins == Margins::left_out) return;
        nearest = contact.gap;
        truth.height = height;
        truth.piece = contact.piece;
        truth.edge = climb.edge(contact, height);
    });
    return truth;
}

template LedgeTruth<2> ledge<2>(const Level<2>&, const PlacedBody<2>&, const HullView<2>&, const Vec<2>&,
                                const Intent&, Margins, const Known<2>*);
template LedgeTruth<3> ledge<3>(const Level<3>&, const PlacedBody<3>&, const HullView<3>&, const Vec<3>&,
                                const Intent&, Margins, const Known<3>*);

}  // namespace hollow_probe
