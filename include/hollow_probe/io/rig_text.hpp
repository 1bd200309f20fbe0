// Rigs as text: blocks of a rig file for probes and signals, and a whole file for a body.
#pragma once

#include <map>
#include <string>

#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe {

/// A rig file with format, dimensions, what the body meets and its stances; the intent is the standard one.
template <int D>
std::string body_text(const Body<D>& body);

/// The blocks of a rig's probes and signals, as they come after what is above. `comments` stand above the
/// blocks of these probes and signals, by name.
template <int D>
std::string blocks_text(const Rig<D>& rig, const std::map<std::string, std::string>& comments = {});

}  // namespace hollow_probe
