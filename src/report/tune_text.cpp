#include "hollow_probe/report/tune_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "hollow_probe/report/advice_text.hpp"
#include "report/text_table.hpp"

namespace hollow_probe {
namespace {

std::string room_text(const std::array<double, 2>& ends) {
    if (std::isnan(ends[0])) return "-";
    // As many digits as tell them apart.
    constexpr int most = 9;
    for (int digits = 4; digits <= most; ++digits) {
        const std::string low = fmt::format("{:.{}g}", ends[0], digits);
        const std::string high = fmt::format("{:.{}g}", ends[1], digits);
        if (low != high || digits == most) return low + " to " + high;
    }
    return "";
}

std::string as_given(const std::string& value) {
    return value.empty() ? "not given" : value;
}

/// Where the room of a setting is another when another setting is at an end of its own: a row each.
std::string beside_text(const std::vector<TunedSetting>& settings) {
    TextTable table;
    bool any = false;
    for (const TunedSetting& setting : settings) {
        const double width = setting.alone[1] - setting.alone[0];
        for (const TunedSetting::Beside& one : setting.beside) {
            const double moved =
                std::max(std::abs(one.room[0] - setting.alone[0]), std::abs(one.room[1] - setting.alone[1]));
            if (moved <= 0.02 * width) continue;
            table.add({setting.path, room_text(one.room), "with " + one.other + " at " + plain(one.at)});
            any = true;
        }
    }
    return any ? "Where its room leans on another, a setting may be\n" + table.text() + "\n" : "";
}

}  // namespace

template <int D>
std::string tune_text(const std::string& title, const TunedRig<D>& tuned, const TextOptions& options) {
    std::string out = title + "\n\n";
    TextTable table;
    table.add({"setting", "was", "is", "alone may be", "together"});
    for (const TunedSetting& one : tuned.settings)
        table.add(
            {one.path, as_given(one.was), as_given(one.is), room_text(one.alone), room_text(one.together)});
    out += table.text() + "\n";
    const auto say = [&](const std::string& text) {
        for (const std::string& line : wrapped(text, options.width)) out += line + "\n";
    };
    out += beside_text(tuned.settings);
    if (!tuned.better()) {
        say(fmt::format("Nothing better was found among {} rigs: the rig stays as it is.",
                        grouped(tuned.tried)));
    } else {
        say(fmt::format("Surveyed whole: {} ({} wrong → {}).", promise_text(tuned.before, tuned.after),
                        poses(tuned.before.poses()), grouped(tuned.after.poses())));
        say(fmt::format("Where it was not tuned: missed {} → {}, false {} → {}, by measure.",
                        measure_text(tuned.held_before.missed), measure_text(tuned.held_after.missed),
                        measure_text(tuned.held_before.falsely), measure_text(tuned.held_after.falsely)));
    }
    if (tuned.broken_before + tuned.broken_after > 0)
        say(fmt::format("Broken expectations of drills: {} → {}.", tuned.broken_before, tuned.broken_after));
    if (!tuned.right() && tuned.better()) say("By these settings it cannot be made wholly right.");
    if (tuned.left) out += "\n" + left_text<D>(tuned.rig, *tuned.left, options.width) + "\n";
    say(fmt::format("{} rigs were tried in {} round{}.", grouped(tuned.tried), tuned.rounds,
                    tuned.rounds == 1 ? "" : "s"));
    return out;
}

template std::string tune_text<2>(const std::string&, const TunedRig<2>&, const TextOptions&);
template std::string tune_text<3>(const std::string&, const TunedRig<3>&, const TextOptions&);

}  // namespace hollow_probe
