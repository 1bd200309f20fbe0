#include "hollow_probe/report/vary_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace hollow_probe {
namespace {

constexpr const char* in_parts = "What is wrong is told in parts of a line's range, over all lines.\n";

std::string share(double x) {
    // 1 only where it is exactly 1.
    return x == 1.0 ? "1" : fmt::format("{:.4f}", std::min(x, 0.9999));
}

std::string right_text(const VaryCurve& curve) {
    if (curve.points.empty()) return "The rig can have none of these values.";
    if (curve.right.empty()) {
        const auto least = std::min_element(
            curve.points.begin(), curve.points.end(),
            [](const VaryPoint& a, const VaryPoint& b) { return a.wrong.whole() < b.wrong.whole(); });
        return fmt::format("Something is wrong everywhere; least at {}: {}.", plain(least->value),
                           plain(least->wrong.whole()));
    }
    std::string text = "Nothing is wrong";
    for (std::size_t i = 0; i < curve.right.size(); ++i) {
        const Stretch& one = curve.right[i];
        text += i == 0 ? " " : ", and ";
        text += one.length() > 0.0 ? fmt::format("from {} to {}", plain(one.from), plain(one.to))
                                   : "at " + plain(one.from);
    }
    return text + ".";
}

}  // namespace

std::string vary_text(const std::string& title, const std::vector<VaryMapRow>& map,
                      const TextOptions& options) {
    const VaryCurve& first = map.front().curve;
    std::string out =
        fmt::format("{}: {} varied, {} in the file\n\n", title, first.setting, plain(first.now));
    if (map.size() > 1 || map.front().with) {
        for (const VaryMapRow& row : map) {
            const std::string text =
                fmt::format("{} {}: {}", row.with->first, plain(row.with->second), right_text(row.curve));
            for (const std::string& line : wrapped(text, options.width - 2)) out += "  " + line + "\n";
        }
        return out + (first.on_fixtures ? std::string("\n") + in_parts : "");
    }
    out += fmt::format("  {:>12}  {:>10}  {:>10}  {:>8}  {:>9}  {:>8}\n", "value", "○ missed", "× false",
                       "recall", "precision", "severity");
    for (const VaryPoint& point : first.points) {
        out += fmt::format("  {:>12}  {:>10}  {:>10}  {:>8}  {:>9}  {:>8}\n", plain(point.value),
                           plain(point.wrong.missed), plain(point.wrong.falsely), share(point.recall()),
                           share(point.precision()),
                           std::isinf(point.severity) ? "far off" : plain(point.severity));
    }
    out += "\n" + right_text(first) + "\n";
    return out + (first.on_fixtures ? in_parts : "");
}

}  // namespace hollow_probe
