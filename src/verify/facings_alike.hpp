// Headings that nothing asked tells apart.
#pragma once

#include "verify/planned.hpp"

namespace hollow_probe {

/// By facing: the first facing whose body, claims and mounted probes are the same but for its heading, so
/// that both have the same verdicts at every anchor; itself if it is the first. A round body with a ray at
/// its middle has one such facing for all headings, a wall ahead one for each.
template <int D>
std::vector<std::size_t> first_alike(const Planned<D>& planned);

/// Whether two probes, mounted for different headings, meet the same things from the same anchor.
template <int D>
bool reads_the_same(const MountedProbe<D>& a, const MountedProbe<D>& b);

extern template std::vector<std::size_t> first_alike<2>(const Planned<2>&);
extern template std::vector<std::size_t> first_alike<3>(const Planned<3>&);

}  // namespace hollow_probe
