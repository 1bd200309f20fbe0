// How much may be wrong: a number of poses, or a share of what is true or signalled.
#pragma once

#include <cstddef>
#include <optional>
#include <string>

#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

struct Allowance {
    std::size_t poses = 0;
    std::optional<double> share = {};  // 0 to 1, of the measure; then `poses` is of no meaning

    [[nodiscard]] std::string text() const;  // "3", "0.5 %"
};

/// Reads "3" or "0.5 %" (with or without the blank); nothing for anything else.
std::optional<Allowance> allowance_from(const std::string& text);

/// What may be wrong over all signals. A share is one of what is true or signalled.
struct Allowed {
    Allowance missed = {};
    Allowance falsely = {};
    std::size_t claims = 0;  // poses at which geometry or signals contradict a truth stated by hand
};

/// What is wrong in a survey, and of how much.
struct WrongInAll {
    std::size_t missed = 0;
    std::size_t falsely = 0;
    std::size_t claims = 0;
    double missed_share = 0.0;
    double false_share = 0.0;
};

template <int D>
WrongInAll wrong_in(const Survey<D>& survey);

bool within(const WrongInAll& found, const Allowed& allowed);

}  // namespace hollow_probe
