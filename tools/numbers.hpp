// Numbers within options.
#pragma once

#include <fmt/format.h>

#include <charconv>
#include <cmath>
#include <string>

#include "hollow_probe/io/input_error.hpp"

namespace hollow_probe::tool {

/// The whole text as a finite number. Throws InputError that names the option.
inline double number_from(const std::string& text, const std::string& option) {
    double number = 0.0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
    if (error != std::errc() || end != text.data() + text.size() || !std::isfinite(number))
        throw InputError(fmt::format("{}: '{}' is no number", option, text));
    return number;
}

}  // namespace hollow_probe::tool
