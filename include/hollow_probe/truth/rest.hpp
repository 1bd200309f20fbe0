// Where a body comes to rest when lowered.
#pragma once

#include <vector>

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/truth/contact.hpp"

namespace hollow_probe {

/// The heights along up (measured from the anchor given) at which the body, lowered from above, rests on a
/// piece it meets: touching it, held up by nothing else and clipping nothing deeper than intent.touch.
/// Ascending; heights within noise of each other are one. `clipped`, if given, is increased by the number of
/// rests left out because the body would clip there.
template <int D>
void find_rests(const Level<D>& level, const PlacedBody<D>& column, const Intent& intent,
                std::vector<double>& heights, std::size_t* clipped = nullptr);

}  // namespace hollow_probe
