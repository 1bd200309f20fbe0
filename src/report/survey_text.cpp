#include "hollow_probe/report/survey_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>

#include "hollow_probe/report/advice_text.hpp"
#include "report/words.hpp"

namespace hollow_probe {
namespace {

/// A ratio rounded so that 1 is shown only where it is exactly 1.
std::string ratio(double x) {
    if (x == 1.0) return "1";
    return fmt::format("{:.4f}", std::floor(x * 1e4) / 1e4);
}

}  // namespace

template <int D>
std::string state_words(const std::vector<Facing<D>>& all, const Facing<D>& facing) {
    std::string text;
    const auto varies = [&](auto differs) {
        return std::any_of(all.begin(), all.end(), [&](const Facing<D>& other) { return differs(other); });
    };
    if (varies([&](const Facing<D>& f) { return f.arrival != facing.arrival; })) {
        static constexpr std::array ways = {"stood there", "walked there", "fallen there", "jumped there"};
        text += std::string(", having ") + ways[static_cast<std::size_t>(facing.arrival)];
        if (!facing.velocity.is_zero()) text += " at " + plain(facing.velocity.norm()) + "/s";
    }
    if (varies([&](const Facing<D>& f) { return f.grounded != facing.grounded; }))
        text += facing.grounded ? ", remembering ground" : ", remembering none";
    if (varies([&](const Facing<D>& f) { return f.drive != facing.drive; }) && !facing.drive.is_zero())
        text += ", driven towards " + point_text<D>(facing.drive);
    if (varies([&](const Facing<D>& f) { return f.moment != facing.moment; }))
        text += ", at " + plain(facing.seconds) + " s";
    return text;
}

std::string plain(double x) {
    if (std::abs(x) < 5e-10) return "0";  // rounding, not a length
    // Pixels and centimetres, not powers of ten.
    constexpr double whole_from = 1e4;
    constexpr double powers_from = 1e15;
    const double size = std::abs(x);
    return size >= whole_from && size < powers_from ? fmt::format("{:.0f}", x) : fmt::format("{:.4g}", x);
}

std::vector<std::string> wrapped(const std::string& text, std::size_t width) {
    std::vector<std::string> lines;
    std::string line;
    std::size_t start = 0;
    while (start <= text.size()) {
        const std::size_t end = std::min(text.find(' ', start), text.size());
        const std::string word = text.substr(start, end - start);
        if (!line.empty() && letters(line) + 1 + letters(word) > width) {
            lines.push_back(line);
            line.clear();
        }
        line += (line.empty() ? "" : " ") + word;
        start = end + 1;
    }
    if (!line.empty()) lines.push_back(line);
    return lines;
}

namespace {

/// A survey in words, part after part.
template <int D>
class SurveyWords {
  public:
    SurveyWords(const Rig<D>& rig, const Survey<D>& survey, const TextOptions& options)
        : rig_(rig), survey_(survey), options_(options), width_(std::max<std::size_t>(options.width, 60)) {}

    std::string all() {
        add(scope_text<D>(rig_, survey_));
        out_ += "\n";
        table();
        const std::vector<std::string> warnings = untested<D>(survey_);
        if (!warnings.empty()) out_ += "\n";
        for (const std::string& warning : warnings) add(warning);
        const bool gives = std::any_of(survey_.values.begin(), survey_.values.end(),
                                       [](const ValueErrors<D>& v) { return v.value != Value::none; });
        if (gives || !survey_.claims.empty()) out_ += "\n";
        for (std::size_t i = 0; i < survey_.values.size(); ++i) value(i);
        for (const ClaimReport<D>& report : survey_.claims) claim(report);
        if (survey_.signals.empty()) out_ += "(the rig has no signals: nothing is judged)\n";
        out_ += "\n";
        if (!survey_.findings.empty()) {
            findings();
        } else if (!survey_.signals.empty()) {
            out_ += "No finding: every signal agrees with truth wherever the survey looked.\n";
        }
        return std::move(out_);
    }

    /// The table and the leading fixes of a round.
    std::string so_far() {
        constexpr std::size_t most_lines = 12;
        add(fmt::format("Round {}: {} on a spacing of {}, {} findings; looking closer …",
                        survey_.rounds.size(), poses(survey_.judged), plain(survey_.spacing),
                        survey_.findings.size()));
        out_ += "\n";
        table();
        out_ += "\n";
        const std::vector<std::string> fixes = fixes_text<D>(rig_, survey_, width_);
        for (std::size_t i = 0; i < std::min(fixes.size(), most_lines); ++i) out_ += fixes[i] + "\n";
        return std::move(out_);
    }

  private:
    static constexpr const char* bold = "1";
    static constexpr const char* pale = "2";
    static constexpr const char* orange = "38;5;208";
    static constexpr const char* purple = "38;5;175";

    std::string painted(const std::string& text, const char* code) const {
        return options_.color ? fmt::format("\x1b[{}m{}\x1b[0m", code, text) : text;
    }
    void add(const std::string& text, std::size_t indent = 0) {
        for (const std::string& line : wrapped(text, width_ - indent))
            out_ += std::string(indent, ' ') + line + "\n";
    }

    void table() {
        for (const SignalVerdicts& signal : survey_.signals) {
            name_width_ = std::max(name_width_, letters(signal.name));
            forgives_ = forgives_ || signal.count(Verdict::forgiven) > 0;
        }
        name_width_ = std::min<std::size_t>(name_width_, 14);
        out_ += painted(fmt::format("{:<{}}  {:<8} {:>12} {:>9} {:>9} {:>11} {:>10}{} {:>9} {:>6}",
                                    D == 2 ? "area" : "volume", name_width_, "claims", "true contact",
                                    "missed", "false", "true clear", "undecided",
                                    forgives_ ? "  forgiven" : "", "precision", "recall"),
                        bold) +
                "\n";
        for (const SignalVerdicts& signal : survey_.signals) row(signal);
    }

    /// A signal's verdicts: by measure, and below it by poses.
    void row(const SignalVerdicts& signal) {
        std::string name = signal.name;
        if (letters(name) > name_width_) name = name.substr(0, name_width_ - 1) + "…";
        if (!signal.claims) {
            out_ += fmt::format("{:<{}}  helper\n", name, name_width_);
            return;
        }
        const auto area = [&](Verdict v) { return measure_text(signal.of(v)); };
        const auto wrong = [&](Verdict v, std::size_t column, const char* code) {
            const std::string text = fmt::format("{:>{}}", area(v), column);
            return signal.count(v) > 0 ? painted(text, code) : text;
        };
        out_ += fmt::format(
            "{:<{}}  {:<8} {:>12} {} {} {:>11} {:>10}{} {:>9} {:>6}\n", name, name_width_,
            name_of(signal.claims), area(Verdict::true_contact), wrong(Verdict::missed_contact, 9, orange),
            wrong(Verdict::false_contact, 9, purple), area(Verdict::true_clear), area(Verdict::undecided),
            forgives_ ? fmt::format(" {:>9}", area(Verdict::forgiven)) : "", ratio(signal.precision()),
            ratio(signal.recall()));
        const auto count = [&](Verdict v) { return grouped(signal.count(v)); };
        out_ += painted(fmt::format("{:<{}}  {:<8} {:>12} {:>9} {:>9} {:>11} {:>10}{}", "", name_width_,
                                    "poses", count(Verdict::true_contact), count(Verdict::missed_contact),
                                    count(Verdict::false_contact), count(Verdict::true_clear),
                                    count(Verdict::undecided),
                                    forgives_ ? fmt::format(" {:>9}", count(Verdict::forgiven)) : ""),
                        pale) +
                "\n";
    }

    void value(std::size_t signal) {
        const ValueErrors<D>& errors = survey_.values[signal];
        if (errors.value == Value::none) return;
        const bool angle = errors.value == Value::slope || errors.value == Value::wall_normal;
        const char* unit = angle ? "°" : "";
        std::string line =
            fmt::format("\"{}\" gives {}: ", survey_.signals[signal].name, name_of(errors.value));
        if (errors.poses == 0) {
            line += "at no pose both it and truth have a value.";
        } else {
            line += fmt::format("off by {}{} in the median, {}{} at 95 %, {}{} at worst, at {} ({}).",
                                plain(errors.median), unit, plain(errors.high), unit, plain(errors.worst),
                                unit, point_text<D>(errors.worst_pose.anchor), poses(errors.poses));
        }
        add(line);
        for (const std::string& cure : value_cures_text<D>(rig_, signal, errors)) add(cure, 4);
    }

    void claim(const ClaimReport<D>& report) {
        std::string line = fmt::format("Claim: {} {} in \"{}\"", report.claim.always ? "always" : "never",
                                       name_of(report.claim.truth), report.claim.area);
        if (report.poses == 0) {
            line += ": no pose was judged there.";
        } else if (!report.first) {
            line += " holds at " + poses(report.poses) + ".";
        } else {
            line += fmt::format(": of {} geometry contradicts it at {}, signals at {}; first at {}.",
                                poses(report.poses), grouped(report.against_geometry),
                                grouped(report.against_signals), point_text<D>(report.first->anchor));
        }
        add(line);
    }

    void findings() {
        for (const std::string& line : fixes_text<D>(rig_, survey_, width_)) out_ += line + "\n";
        const std::size_t count = survey_.findings.size();
        out_ += count == 1 ? "1 finding:\n" : fmt::format("{} findings, worst first:\n", count);
        const std::size_t shown = std::min(count, options_.most_findings);
        bool reached = true;
        for (std::size_t i = 0; i < shown; ++i) {
            const Finding<D>& one = survey_.findings[i];
            if (reached && !one.reached) {
                out_ += "\n";
                for (const std::string& line : wrapped(unreached_text(rig_.intent.moves), width_))
                    out_ += painted(line, bold) + "\n";
            }
            reached = one.reached;
            finding(one);
        }
        if (shown == count) return;
        std::size_t left_out = 0;
        for (std::size_t i = shown; i < count; ++i) left_out += survey_.findings[i].count;
        out_ += fmt::format("\n… and {} more findings, {} in all; --json has every one.\n", count - shown,
                            poses(left_out));
    }

    void finding(const Finding<D>& one) {
        const bool missed = one.verdict == Verdict::missed_contact;
        std::string sentence = finding_sentence<D>(rig_, one);
        if (survey_.signals.size() > 1) sentence = "\"" + rig_.signals[one.signal].name + "\": " + sentence;
        constexpr std::size_t indent = 11;
        bool first = true;
        for (const std::string& line : wrapped(sentence, width_ - indent)) {
            out_ += (first ? "\n" + painted((missed ? "○ " : "× ") + one.id, missed ? orange : purple) + "  "
                           : std::string(indent, ' ')) +
                    line + "\n";
            first = false;
        }
        add(place_text<D>(rig_, survey_, one), indent);
        if (options_.level_file.empty() || options_.rig_file.empty()) return;
        // In one piece: it is there to be copied.
        const std::string command = draw_command<D>(options_.level_file, options_.rig_file, rig_,
                                                    survey_.facings[one.worst.facing], one.worst.anchor);
        out_ += std::string(indent, ' ') + painted(command, pale) + "\n";
    }

    const Rig<D>& rig_;
    const Survey<D>& survey_;
    const TextOptions& options_;
    std::size_t width_;
    std::size_t name_width_ = 6;
    bool forgives_ = false;
    std::string out_;
};

}  // namespace

template <int D>
std::string survey_text(const Rig<D>& rig, const Survey<D>& survey, const TextOptions& options) {
    return SurveyWords<D>(rig, survey, options).all();
}

template <int D>
std::string round_text(const Rig<D>& rig, const Survey<D>& survey, const TextOptions& options) {
    return SurveyWords<D>(rig, survey, options).so_far();
}

template std::string round_text<2>(const Rig<2>&, const Survey<2>&, const TextOptions&);
template std::string round_text<3>(const Rig<3>&, const Survey<3>&, const TextOptions&);
template std::string state_words<2>(const std::vector<Facing<2>>&, const Facing<2>&);
template std::string state_words<3>(const std::vector<Facing<3>>&, const Facing<3>&);
template std::string survey_text<2>(const Rig<2>&, const Survey<2>&, const TextOptions&);
template std::string survey_text<3>(const Rig<3>&, const Survey<3>&, const TextOptions&);

}  // namespace hollow_probe
