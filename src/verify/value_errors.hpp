// Values that signals give, held against truth.
#pragma once

#include "verify/samples.hpp"

namespace hollow_probe {

/// One a signal, over the poses at which it is rightly on.
template <int D>
std::vector<ValueErrors<D>> value_errors(const Surveyed<D>& surveyed, const Samples<D>& samples);

}  // namespace hollow_probe
