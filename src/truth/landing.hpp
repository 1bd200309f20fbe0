// What a body that is lowered first comes to rest on.
#pragma once

#include <algorithm>
#include <optional>

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/truth/decision.hpp"

namespace hollow_probe {

/// A rest on one piece, whatever else is there.
template <int D>
struct Landing {
    double height = 0.0;  // of the anchor above where it was put
    Contact<D> contact;
    Decision footing;  // it is no steeper than footing
};

/// Where a body lowered from above comes to rest on a piece; nothing if it comes down beside it. Whether it
/// is the surface of its solid that it rests on is not asked.
template <int D>
std::optional<Landing<D>> landing_on_piece(const Level<D>& level, const PlacedBody<D>& body,
                                           const Intent& intent, const Noise& noise, std::uint32_t piece);

/// … and nothing if that is no surface of its solid.
template <int D>
std::optional<Landing<D>> landing_on(const Level<D>& level, const PlacedBody<D>& body, const Intent& intent,
                                     const Noise& noise, std::uint32_t piece);

/// The highest landing no lower than -`depth` of a body lowered from where it is put; footing counts up to
/// `ride` above that: a body rides over it on its way. Of equally high ones footing goes first;
/// `on_footing`: what is steeper is passed over.
template <int D>
std::optional<Landing<D>> first_landing(const Level<D>& level, const PlacedBody<D>& body,
                                        const Intent& intent, const Noise& noise, double ride, double depth,
                                        bool on_footing = false);

/// How much higher than where it is put a body can be after walking `way` on footing.
inline double highest_ride(const Intent& intent, double way) {
    return std::max(way, 0.0) * std::tan(radians(std::min(intent.steepest_footing_degrees, 89.0)));
}

}  // namespace hollow_probe
