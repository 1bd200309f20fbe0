// Headings that nothing asked tells apart.
#pragma once

#include "verify/planned.hpp"

namespace hollow_probe {

/// By facing: the first facing whose body, claims and mounted probes are the same but for its heading, so
/// that both have the same verdicts at every anchor; itself if it is the first. A round body with a ray at
/// its middle has one such facing for all headings, a wall ahead one for each.
template <int D>
std::vector<std::size_t> first_alike(const Planned<D>& planned);

/// By facing: the first one of which all causes hold here too, their moves turned by turn_between(): of a rig
/// without memory whose probes lie the same line by line, so that a search finds the same in both.
template <int D>
std::vector<std::size_t> first_explaining(const Planned<D>& planned);

/// Turns directions on the body at one facing into those that are the same in the level at another.
template <int D>
Mat<D> turn_between(const Planned<D>& planned, std::size_t from, std::size_t to);

/// Whether two probes, mounted for different headings, meet the same things from the same anchor.
template <int D>
bool reads_the_same(const MountedProbe<D>& a, const MountedProbe<D>& b);

extern template std::vector<std::size_t> first_alike<2>(const Planned<2>&);
extern template std::vector<std::size_t> first_alike<3>(const Planned<3>&);
extern template std::vector<std::size_t> first_explaining<2>(const Planned<2>&);
extern template std::vector<std::size_t> first_explaining<3>(const Planned<3>&);
extern template Mat<2> turn_between<2>(const Planned<2>&, std::size_t, std::size_t);
extern template Mat<3> turn_between<3>(const Planned<3>&, std::size_t, std::size_t);

}  // namespace hollow_probe
