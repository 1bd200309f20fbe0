// Where a body comes to rest when lowered.
#pragma once

#include <vector>

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/truth/contact.hpp"

namespace hollow_probe {

/// What keeps a body where it is.
enum class Held {
    from_below,  // it is lowered on to something
    from_above,  // it is raised against something
};

/// Heights looked at; both ends inclusive.
struct HeightRange {
    double low = -infinity;
    double high = infinity;
};

/// The heights along up (measured from the anchor given) at which the body, lowered from above, rests on a
/// piece it meets: touching it, held up by nothing else and clipping nothing deeper than intent.touch.
/// Ascending; heights within noise of each other are one. `clipped`, if given, is increased by the number of
/// rests left out because the body would clip there. Held::from_above: the same upside down, the body raised
/// from below against what hangs over it. Only rests within `range` are looked for.
template <int D>
void find_rests(const Level<D>& level, const PlacedBody<D>& column, const Intent& intent,
                std::vector<double>& heights, std::size_t* clipped = nullptr, Held held = Held::from_below,
                const HeightRange& range = {});

}  // namespace hollow_probe
