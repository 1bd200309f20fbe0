// Words and numbers that several texts share.
#pragma once

#include <algorithm>
#include <cmath>
#include <string>

#include "hollow_probe/report/advice_text.hpp"
#include "hollow_probe/report/survey_text.hpp"

namespace hollow_probe {

/// Anchor space: areas in 2D, volumes in 3D. What is less than can be seen is said to be.
inline std::string measure_text(double measure) {
    if (measure > 0.0 && measure < 1e-4) return "<0.0001";
    const bool is_long = measure >= 1e4 && measure < 1e15;
    return is_long ? grouped(static_cast<std::size_t>(std::llround(measure))) : plain(measure);
}

/// Letters, not bytes.
inline std::size_t letters(const std::string& text) {
    return static_cast<std::size_t>(std::count_if(
        text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U; }));
}

/// "(1, 2.5)"
template <int D>
std::string point_text(const Vec<D>& p) {
    std::string text = "(";
    for (int axis = 0; axis < D; ++axis) text += (axis > 0 ? ", " : "") + plain(p[axis]);
    return text + ")";
}

/// The last part of a path.
inline std::string file_name(const std::string& path) {
    return path.substr(path.find_last_of('/') + 1);
}

}  // namespace hollow_probe
