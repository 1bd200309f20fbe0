#include "hollow_probe/report/tune_text.hpp"

#include <fmt/format.h>

#include <cmath>

#include "hollow_probe/report/advice_text.hpp"
#include "report/text_table.hpp"

namespace hollow_probe {
namespace {

std::string room_text(const std::array<double, 2>& ends) {
    return std::isnan(ends[0]) ? "-" : fmt::format("{} to {}", plain(ends[0]), plain(ends[1]));
}

std::string as_given(const std::string& value) {
    return value.empty() ? "not given" : value;
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
    if (!tuned.right() && tuned.better())
        say("By these settings it cannot be made wholly right: survey what was written for what remains, and "
            "why.");
    say(fmt::format("{} rigs were tried in {} round{}.", grouped(tuned.tried), tuned.rounds,
                    tuned.rounds == 1 ? "" : "s"));
    return out;
}

template std::string tune_text<2>(const std::string&, const TunedRig<2>&, const TextOptions&);
template std::string tune_text<3>(const std::string&, const TunedRig<3>&, const TextOptions&);

}  // namespace hollow_probe
