// What brings the values that a signal gives nearer to truth.
#pragma once

#include "verify/samples.hpp"

namespace hollow_probe {

/// How errors are spread; all 0 for none.
struct ErrorSpread {
    double median = 0.0;
    double high = 0.0;  // 95 % are no greater
    double worst = 0.0;
};

ErrorSpread spread_of(std::vector<double> errors);

/// Changes after which the errors at `poses`, numbers of poses at which the signal is rightly on and has a
/// value, are less than four fifths of what they were, those that spoil no verdict first, then by the errors
/// that are left; at most three. Tried at some thousand poses, evenly chosen.
template <int D>
std::vector<ValueCure> value_cures(const Planned<D>& planned, const Samples<D>& samples, std::size_t signal,
                                   const std::vector<std::size_t>& poses);

}  // namespace hollow_probe
