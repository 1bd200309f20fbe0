// A proposed rig as JSON: docs/schemas/proposal.schema.json.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/study/propose.hpp"

namespace hollow_probe {

template <int D>
std::string propose_json(const std::vector<std::string>& levels, const Proposal<D>& proposal);

}  // namespace hollow_probe
