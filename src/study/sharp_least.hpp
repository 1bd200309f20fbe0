// The least of a function with one sharp valley.
#pragma once

#include <functional>

namespace hollow_probe {

/// Where in a range a function is least that has one valley there, whose sides are nearly straight: it is
/// looked for where the sides would meet, or else by golden section. `given` is asked, too: fifteen
/// values, or fewer where one is no more than `enough`.
double sharp_least(double low, double high, double given, const std::function<double(double)>& value,
                   double enough);

}  // namespace hollow_probe
