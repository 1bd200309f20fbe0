#include "hollow_probe/truth/blocked.hpp"

#include "truth/ahead.hpp"

namespace hollow_probe {

template <int D>
BlockedTruth<D> blocked(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& direction, double way,
                        const Intent& intent, double horizon) {
    const Ahead<D> ahead(level, body, direction, intent);
    BlockedTruth<D> truth;
    const double farthest = way + std::max(horizon, 2.0 * ahead.noise.distance);
    for_each_contact(level, body, direction, farthest, intent.touch, [&](const Contact<D>& contact) {
        if (!level.on_layers(contact.piece, body.of)) return;
        Decision stops{true, true, {}};
        const Decision steep = ahead.steep(contact);
        if (steep.on || !steep.decided) stops = either(opposite(steep), ahead.stops(ahead.rise_of(contact)));
        const Decision meets = both(at_most(contact.gap, way, ahead.noise), stops);
        static_cast<Decision&>(truth) = either(truth, meets);
        if (meets.on && !(truth.contact && truth.contact->gap <= contact.gap)) truth.contact = contact;
    });
    return truth;
}

template BlockedTruth<2> blocked<2>(const Level<2>&, const PlacedBody<2>&, const Vec<2>&, double,
                                    const Intent&, double);
template BlockedTruth<3> blocked<3>(const Level<3>&, const PlacedBody<3>&, const Vec<3>&, double,
                                    const Intent&, double);

}  // namespace hollow_probe
