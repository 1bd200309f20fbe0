#include "hollow_probe/report/compare_text.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "hollow_probe/report/advice_text.hpp"
#include "report/text_table.hpp"
#include "report/words.hpp"

namespace hollow_probe {
namespace {

std::string extent_words(double low, double high) {
    return plain(low) == plain(high) ? plain(low) : plain(low) + " to " + plain(high);
}

template <int D>
std::string place_words(const RigDifference<D>& difference) {
    static constexpr std::array names = {"x", "y", "z"};
    std::string text;
    for (int axis = 0; axis < D; ++axis)
        text += (axis > 0 ? ", " : "") + std::string(names[static_cast<std::size_t>(axis)]) + " " +
                extent_words(difference.bounds.low[axis], difference.bounds.high[axis]);
    return text;
}

}  // namespace

template <int D>
std::string difference_place(const RigDifference<D>& difference, const std::string& first,
                             const std::string& second) {
    const bool missed = difference.verdict == Verdict::missed_contact;
    return fmt::format("{} {} {} where {} is right: {}, {}; measure {}",
                       difference.first_is_right ? second : first, missed ? "misses" : "falsely tells",
                       difference.signal, difference.first_is_right ? first : second, difference.stance,
                       place_words<D>(difference), plain(difference.measure));
}

template <int D>
std::string difference_words(const ComparedPair<D>& pair) {
    std::string text;
    constexpr std::size_t most = 6;
    for (std::size_t i = 0; i < std::min(most, pair.changes.size()); ++i) {
        const FieldChange& change = pair.changes[i];
        const auto given = [](const std::string& value) {
            return value.empty() ? std::string("not given") : value;
        };
        text += text.empty() ? "" : "; ";
        const std::string owner =
            change.name.empty() ? change.table : change.table + " \"" + change.name + "\"";
        text += (owner.empty() ? "" : owner + ": ") + change.key + " " + given(change.now) + " → " +
                given(change.then);
    }
    if (pair.changes.size() > most) text += fmt::format("; and {} more", pair.changes.size() - most);
    for (const auto& [names, words] :
         {std::pair{&pair.only_in_first, "without "}, {&pair.only_in_second, "with "}}) {
        for (std::size_t i = 0; i < names->size(); ++i)
            text += (i > 0 ? ", " : text.empty() ? words : std::string("; ") + words) + (*names)[i];
    }
    if (pair.intents_differ)
        text += (text.empty() ? "" : "; ") + std::string("their bodies or intents differ: truths may, too");
    return text.empty() ? "no field of probes and signals differs" : text;
}

template <int D>
std::string compare_text(const ComparedRigs<D>& compared, const std::vector<const Rig<D>*>& rigs,
                         const TextOptions& options) {
    std::string on;
    for (const std::string& level : compared.levels) on += (on.empty() ? "" : ", ") + file_name(level);
    std::string out = fmt::format("{} rigs on {}\n\n", compared.rigs.size(), on);
    TextTable table;
    std::vector<std::string> heading = {"",        "rig",      "○ missed", "× false",
                                        "gravest", "findings", "casts",    "pieces"};
    if (compared.columns.drills)
        heading.insert(heading.end(), {"broken", "wrong ticks", "latency", "flicker"});
    if (compared.columns.sheets) heading.emplace_back("sheet");
    table.add(heading);
    for (std::size_t i = 0; i < compared.rigs.size(); ++i) {
        const ComparedRig& one = compared.rigs[i];
        const RigScore& score = one.score;
        std::vector<std::string> cells = {std::to_string(i + 1),
                                          one.name,
                                          plain(score.wrong.missed),
                                          plain(score.wrong.falsely),
                                          score.findings == 0          ? "-"
                                          : std::isinf(score.severity) ? "far off"
                                                                       : plain(score.severity),
                                          std::to_string(score.findings),
                                          std::to_string(score.casts),
                                          std::to_string(score.pieces)};
        if (compared.columns.drills)
            cells.insert(cells.end(), {std::to_string(score.broken), std::to_string(score.wrong_ticks),
                                       std::to_string(score.latency), std::to_string(score.flicker)});
        if (compared.columns.sheets)
            cells.push_back(score.wrong_lines == 0 ? "right" : std::to_string(score.wrong_lines) + " wrong");
        std::string note;
        if (one.in_front) note = "none beats it";
        if (one.worse) note += (note.empty() ? "" : ", ") + std::string("worse than 1");
        cells.push_back(note);
        table.add(cells);
    }
    out += table.text();
    for (const ComparedPair<D>& pair : compared.pairs) {
        out += "\n";
        const std::string head =
            fmt::format("{} → {}: {}.", pair.first + 1, pair.second + 1, difference_words<D>(pair));
        for (const std::string& line : wrapped(head, options.width)) out += line + "\n";
        for (const auto& [level, held] : pair.on) {
            const std::string said = fmt::format(
                "{}: of {} the first alone is right at {}, the second alone at {}, both wrong at {}. "
                "Findings: {} "
                "cured, {} new, {} unchanged.",
                file_name(level), poses(held.poses), grouped(held.only_first_right),
                grouped(held.only_second_right), grouped(held.both_wrong), held.cured.size(),
                held.fresh.size(), held.unchanged.size());
            for (const std::string& line : wrapped(said, options.width - 2)) out += "  " + line + "\n";
            constexpr std::size_t most = 4;
            for (std::size_t i = 0; i < std::min(most, held.differences.size()); ++i) {
                const RigDifference<D>& one = held.differences[i];
                const bool missed = one.verdict == Verdict::missed_contact;
                const std::size_t wrong = one.first_is_right ? pair.second : pair.first;
                const std::string words =
                    (missed ? "○ " : "× ") +
                    difference_place<D>(one, std::to_string(pair.first + 1), std::to_string(pair.second + 1));
                const std::vector<std::string> lines = wrapped(words, options.width - 6);
                for (std::size_t k = 0; k < lines.size(); ++k)
                    out += (k == 0 ? "    " : "      ") + lines[k] + "\n";
                out +=
                    "      " +
                    draw_command<D>(level, compared.rigs[wrong].path, *rigs[wrong], one.facing, one.anchor) +
                    "\n";
            }
            if (held.differences.size() > most)
                out += fmt::format("    … and {} smaller places\n", held.differences.size() - most);
        }
    }
    return out;
}

template std::string difference_words<2>(const ComparedPair<2>&);
template std::string difference_words<3>(const ComparedPair<3>&);
template std::string difference_place<2>(const RigDifference<2>&, const std::string&, const std::string&);
template std::string difference_place<3>(const RigDifference<3>&, const std::string&, const std::string&);
template std::string compare_text<2>(const ComparedRigs<2>&, const std::vector<const Rig<2>*>&,
                                     const TextOptions&);
template std::string compare_text<3>(const ComparedRigs<3>&, const std::vector<const Rig<3>*>&,
                                     const TextOptions&);

}  // namespace hollow_probe
