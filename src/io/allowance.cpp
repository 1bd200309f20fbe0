#include "hollow_probe/io/allowance.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>

namespace hollow_probe {

std::string Allowance::text() const {
    return share ? fmt::format("{} %", number_text(100.0 * *share)) : std::to_string(poses);
}

std::optional<Allowance> allowance_from(const std::string& text) {
    Allowance allowance;
    const char* const end = text.data() + text.size();
    if (text.ends_with('%')) {
        std::size_t digits = text.size() - 1;
        while (digits > 0 && text[digits - 1] == ' ') --digits;
        double percent = 0.0;
        const auto [last, error] = std::from_chars(text.data(), text.data() + digits, percent);
        if (error != std::errc() || last != text.data() + digits || !(percent >= 0.0 && percent <= 100.0))
            return std::nullopt;
        allowance.share = percent / 100.0;
        return allowance;
    }
    const auto [last, error] = std::from_chars(text.data(), end, allowance.poses);
    if (error != std::errc() || last != end || text.empty()) return std::nullopt;
    return allowance;
}

template <int D>
WrongInAll wrong_in(const Survey<D>& survey) {
    WrongInAll found;
    double concerned = 0.0;
    for (const SignalVerdicts& signal : survey.signals) {
        if (!signal.claims) continue;
        found.missed += signal.count(Verdict::missed_contact);
        found.falsely += signal.count(Verdict::false_contact);
        found.missed_share += signal.of(Verdict::missed_contact);
        found.false_share += signal.of(Verdict::false_contact);
        concerned += signal.concerned();
    }
    found.missed_share = concerned > 0.0 ? found.missed_share / concerned : 0.0;
    found.false_share = concerned > 0.0 ? found.false_share / concerned : 0.0;
    for (const ClaimReport<D>& claim : survey.claims)
        found.claims += std::max(claim.against_geometry, claim.against_signals);
    return found;
}

bool within(const WrongInAll& found, const Allowed& allowed) {
    const auto keeps = [](const Allowance& allowance, std::size_t poses, double share) {
        return allowance.share ? share <= *allowance.share : poses <= allowance.poses;
    };
    return keeps(allowed.missed, found.missed, found.missed_share) &&
           keeps(allowed.falsely, found.falsely, found.false_share) && found.claims <= allowed.claims;
}

template WrongInAll wrong_in<2>(const Survey<2>&);
template WrongInAll wrong_in<3>(const Survey<3>&);

}  // namespace hollow_probe
