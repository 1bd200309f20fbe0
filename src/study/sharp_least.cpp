#include "study/sharp_least.hpp"

#include <algorithm>
#include <cmath>
#include <optional>
#include <vector>

namespace hollow_probe {
namespace {

struct Asked {
    double x;
    double value;
};

double slope(const Asked& a, const Asked& b) {
    return (b.value - a.value) / (b.x - a.x);
}

/// Where the lines through two points to the left of the least one and through two to its right meet, if that
/// is new and between them.
std::optional<double> meeting_of_sides(const std::vector<Asked>& asked, std::size_t least) {
    if (least < 2 || least + 3 > asked.size()) return std::nullopt;
    const Asked& left = asked[least - 1];
    const Asked& right = asked[least + 1];
    const double falls = slope(asked[least - 2], left);
    const double rises = slope(right, asked[least + 2]);
    const double x = (right.value - left.value + falls * left.x - rises * right.x) / (falls - rises);
    const double apart = 1e-3 * (right.x - left.x);
    const bool is_between = x > left.x + apart && x < right.x - apart;
    if (!is_between || std::abs(x - asked[least].x) <= apart) return std::nullopt;
    return x;
}

}  // namespace

double sharp_least(double low, double high, double given, const std::function<double(double)>& value,
                   double enough) {
    constexpr double golden = 0.3819660112501051;
    constexpr int most_steps = 10;
    std::vector<Asked> asked;
    const auto ask = [&](double x) {
        const auto after = std::upper_bound(asked.begin(), asked.end(), x,
                                            [](double left, const Asked& right) { return left < right.x; });
        asked.insert(after, {x, value(x)});
    };
    const auto least = [&] {
        const auto lower = [](const Asked& a, const Asked& b) { return a.value < b.value; };
        return static_cast<std::size_t>(std::min_element(asked.begin(), asked.end(), lower) - asked.begin());
    };
    const double length = high - low;
    for (const double x : {given, low, low + golden * length, high - golden * length, high}) ask(x);
    for (int k = 0; k < most_steps; ++k) {
        const std::size_t m = least();
        const double at = asked[m].x;
        if (asked[m].value <= enough) return at;
        const double left = m == 0 ? 0.0 : at - asked[m - 1].x;
        const double right = m + 1 == asked.size() ? 0.0 : asked[m + 1].x - at;
        // Every third step divides the wider side, so that a bent one is come to, too.
        const std::optional<double> meeting = k % 3 == 2 ? std::nullopt : meeting_of_sides(asked, m);
        const double x = meeting.value_or(left > right ? at - golden * left : at + golden * right);
        if (x == at) break;
        ask(x);
    }
    return asked[least()].x;
}

}  // namespace hollow_probe
