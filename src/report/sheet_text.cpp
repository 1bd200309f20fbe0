#include "hollow_probe/report/sheet_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "hollow_probe/report/survey_text.hpp"
#include "report/text_table.hpp"

namespace hollow_probe {
namespace {

std::string when_text(const SheetRow& row, const ResponseCurve& curve) {
    std::string text;
    if (row.moves) text = "moving";
    // Where it matters.
    const auto turned = [&](const ResponseCurve& other) {
        const double noise = 1e-5 * (row.axis.most - row.axis.least);
        return other.turn_degrees != curve.turn_degrees && std::abs(other.wrong() - curve.wrong()) > noise;
    };
    if (std::any_of(row.curves.begin(), row.curves.end(), turned))
        text += (text.empty() ? "" : ", ") + ("turned " + value_text(curve.turn_degrees, Unit::degrees));
    const auto remembers = [&](const ResponseCurve& other) {
        return other.remembers_ground != curve.remembers_ground;
    };
    if (std::any_of(row.curves.begin(), row.curves.end(), remembers))
        text += (text.empty() ? "" : ", ") + std::string(curve.remembers_ground ? "release" : "onset");
    return text;
}

/// Rows that say the same, one after the other, share their first cells.
void add_row(TextTable& table, const SheetRow& row, const ResponseCurve& curve) {
    const bool is_right = curve.wrong() == 0.0;
    table.add({row.line, row.axis.name, row.signal,
               row.moves ? "right " + stretches_text(curve.on, row.axis) : stretches_text(curve.on, row.axis),
               row.moves ? "everywhere" : stretches_text(curve.intended, row.axis),
               wrong_text(curve, row.axis), is_right ? "" : when_text(row, curve)});
}

}  // namespace

std::string value_text(double value, Unit unit) {
    switch (unit) {
        case Unit::degrees:
            return plain(value) + "°";
        case Unit::speed:
            return plain(value) + "/s";
        case Unit::seconds:
            return plain(value) + " s";
        case Unit::none:
        case Unit::length:
        case Unit::count:
            break;
    }
    return plain(value);
}

std::string end_text(double value, const FixtureAxis& axis) {
    const bool is_noise = std::abs(value) < 1e-5 * (axis.most - axis.least);
    return value_text(is_noise ? 0.0 : value, axis.unit);
}

std::string stretches_text(const std::vector<Stretch>& stretches, const FixtureAxis& axis) {
    if (stretches.empty()) return "never";
    if (stretches.size() == 1 && stretches[0].from <= axis.least && stretches[0].to >= axis.most)
        return "everywhere";
    std::string text;
    constexpr std::size_t most = 2;
    for (std::size_t i = 0; i < std::min(most, stretches.size()); ++i) {
        const Stretch& one = stretches[i];
        text += i == 0 ? "" : " and ";
        if (one.from <= axis.least) {
            text += "up to " + end_text(one.to, axis);
        } else if (one.to >= axis.most) {
            text += "from " + end_text(one.from, axis);
        } else {
            text += end_text(one.from, axis) + " to " + end_text(one.to, axis);
        }
    }
    return stretches.size() > most ? text + ", …" : text;
}

std::string wrong_text(const ResponseCurve& curve, const FixtureAxis& axis) {
    std::string text;
    if (curve.missed > 0.0) text += "○ " + value_text(curve.missed, axis.unit);
    if (curve.falsely > 0.0) text += (text.empty() ? "× " : " × ") + value_text(curve.falsely, axis.unit);
    return text.empty() ? "right" : text;
}

template <int D>
std::string sheet_text(const std::string& rig_name, const DataSheet<D>& sheet) {
    const auto is_wrong = [](const SheetRow& row) { return row.curves[row.worst].wrong() > 0.0; };
    const auto wrong = std::count_if(sheet.rows.begin(), sheet.rows.end(), is_wrong);
    std::string out = fmt::format("{}, {}, on fixtures of \"{}\": {} of {} lines wrong\n\n", rig_name,
                                  sheet.stance, sheet.layer, wrong, sheet.rows.size());
    TextTable table;
    table.add({"fixture", "varies", "signal", "is on", "meant to be", "wrong", "worst"});
    std::string before;
    for (const SheetRow& row : sheet.rows) {
        SheetRow shown = row;
        if (row.line == before) shown.line.clear();
        add_row(table, shown, row.curves[row.worst]);
        before = row.line;
    }
    out += table.text();
    if (sheet.rows.empty()) out += "  (no signal claims anything that a fixture is about)\n";
    if (!sheet.latencies.empty()) {
        std::set<double> rates;
        for (const SheetLatency& one : sheet.latencies) rates.insert(one.tick_rate);
        TextTable late;
        std::vector<std::string> heading = {"ticks until on, off"};
        for (const double rate : rates) heading.push_back(plain(rate) + " a second");
        late.add(heading);
        std::vector<std::string> names;
        for (const SheetLatency& one : sheet.latencies) {
            if (names.empty() || names.back() != one.signal) names.push_back(one.signal);
        }
        const auto ticks = [](const std::optional<std::size_t>& count) {
            return count ? std::to_string(*count) : std::string("more than a second");
        };
        for (const std::string& name : names) {
            std::vector<std::string> cells = {name};
            for (const double rate : rates) {
                for (const SheetLatency& one : sheet.latencies) {
                    if (one.signal == name && one.tick_rate == rate)
                        cells.push_back(ticks(one.onset) + ", " + ticks(one.release));
                }
            }
            late.add(cells);
        }
        out += "\n" + late.text();
    }
    const auto count = [](std::size_t n, const char* what) {
        return fmt::format("{} {}{}", n, what, n == 1 ? "" : "s");
    };
    std::string takes;
    if (sheet.cost.casts > 0) takes = count(sheet.cost.casts, "cast");
    if (sheet.cost.overlaps > 0)
        takes += (takes.empty() ? "" : " and ") + count(sheet.cost.overlaps, "overlap test");
    out += takes.empty() ? "\nReading the rig takes no query.\n"
                         : fmt::format("\nReading the rig takes {}; the index offers {} for it.\n", takes,
                                       count(sheet.cost.pieces, "piece"));
    if (sheet.cost.allocations)
        out += *sheet.cost.allocations == 0
                   ? "A tick asks for no memory.\n"
                   : fmt::format("A tick asks for memory {}.\n", count(*sheet.cost.allocations, "time"));
    return out;
}

std::string response_text(const std::vector<SheetRow>& rows) {
    TextTable table;
    table.add({"fixture", "varies", "signal", "is on", "meant to be", "wrong", ""});
    for (const SheetRow& row : rows) {
        for (const ResponseCurve& curve : row.curves) add_row(table, row, curve);
    }
    return table.text();
}

template std::string sheet_text<2>(const std::string&, const DataSheet<2>&);
template std::string sheet_text<3>(const std::string&, const DataSheet<3>&);

}  // namespace hollow_probe
