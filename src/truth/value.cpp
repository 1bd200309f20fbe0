#include "hollow_probe/truth/value.hpp"

#include "hollow_probe/truth/drop.hpp"
#include "hollow_probe/truth/ledge.hpp"
#include "hollow_probe/truth/wall.hpp"

namespace hollow_probe {
namespace {

template <int D>
std::optional<GivenValue<D>> height_beneath(const Level<D>& level, const PlacedBody<D>& body,
                                            const Intent& intent) {
    const Vec<D>& up = level.up();
    const RoundedHull<D> point = RoundedHull<D>::ball(Vec<D>::zero(), 1.0).with_radius(0.0);
    const PlacedBody<D> above{point.view(), body.anchor + intent.tallest_step * up, body.meets};
    double least = infinity;
    for_each_contact<D>(level, above, -up, intent.tallest_step + intent.deepest_drop, intent.touch,
                        [&](const Contact<D>& contact) { least = std::min(least, contact.gap); });
    if (least == infinity) return std::nullopt;
    return GivenValue<D>{intent.tallest_step - least};
}

}  // namespace

template <int D>
std::optional<GivenValue<D>> true_value(Value value, Claim claim, const Level<D>& level,
                                        const TruthQuestion<D>& question, const Intent& intent) {
    const PlacedBody<D>& body = question.body;
    switch (value) {
        case Value::none:
            break;
        case Value::ground_height:
            return height_beneath<D>(level, body, intent);
        case Value::slope: {
            const auto truth = ground<D>(level, body, intent);
            if (!truth.contact) break;
            return GivenValue<D>{degrees(angle_between<D>(truth.contact->normal, level.up()))};
        }
        case Value::wall_normal: {
            if (claim == Claim::step) {
                const auto truth = step<D>(level, body, question.toward, intent);
                if (truth.riser) return GivenValue<D>{0.0, truth.riser->normal};
                break;
            }
            const auto truth = wall<D>(level, body, question.toward, intent);
            if (truth.contact) return GivenValue<D>{0.0, truth.contact->normal};
            break;
        }
        case Value::step_rise: {
            const auto truth = step<D>(level, body, question.toward, intent);
            if (truth.on) return GivenValue<D>{truth.rise};
            break;
        }
        case Value::edge_distance: {
            if (claim == Claim::ledge) {
                const auto truth = ledge<D>(level, body, question.other, question.toward, intent);
                if (truth.on) return GivenValue<D>{(truth.edge - body.anchor).dot(question.toward)};
                break;
            }
            const auto truth = drop<D>(level, body, question.toward, intent);
            if (truth.on) return GivenValue<D>{truth.edge_distance};
            break;
        }
    }
    return std::nullopt;
}

template std::optional<GivenValue<2>> true_value<2>(Value, Claim, const Level<2>&, const TruthQuestion<2>&,
                                                    const Intent&);
template std::optional<GivenValue<3>> true_value<3>(Value, Claim, const Level<3>&, const TruthQuestion<3>&,
                                                    const Intent&);

}  // namespace hollow_probe
