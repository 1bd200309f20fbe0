#include "verify/roundest.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

namespace hollow_probe {

double roundest_between(double low, double high) {
    if (low > high) std::swap(low, high);
    const double middle = 0.5 * (low + high);
    constexpr int most_decimals = 9;  // that numbers are written with
    for (int decimals = 0; decimals <= most_decimals; ++decimals) {
        const double scale = std::pow(10.0, decimals);
        for (const double step : {5.0, 1.0}) {
            if (step == 5.0 && decimals == 0) continue;
            const double number = std::round(middle * scale / step) * step / scale;
            // As a file would give it back.
            std::array<char, 400> text{};
            const auto end = std::to_chars(text.data(), text.data() + text.size(), number,
                                           std::chars_format::fixed, decimals)
                                 .ptr;
            double parsed = 0.0;
            std::from_chars(text.data(), end, parsed);
            if (parsed >= low && parsed <= high) return parsed == 0.0 ? 0.0 : parsed;
        }
    }
    return std::round(middle * 1e9) / 1e9;
}

}  // namespace hollow_probe
