// What the commands share: options every one has, and where results go.
#pragma once

#include <algorithm>
#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "exit_codes.hpp"
#include "hollow_probe/io/allowance.hpp"
#include "hollow_probe/io/level_file.hpp"
#include "hollow_probe/io/rig_file.hpp"
#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/verify/survey.hpp"
#include "options.hpp"
#include "ranks.hpp"

namespace hollow_probe::tool {

struct CommonOptions {
    std::string json;    // file, "-" for standard output, or nothing
    std::string figure;  // .svg or .png
    std::string html;    // one self-contained page
    std::uint64_t seed = 0;
    int threads = 0;
    WorkSharing sharing;  // with other ranks, if there are any
    bool tells = true;    // this rank writes and prints
};

struct SurveyFlags {
    double spacing = 0.0;
    int headings = 4;
    std::vector<std::string> stances;
    std::optional<std::size_t> budget;
    bool thorough = false;
    std::string area;
    std::vector<double> region;
    std::vector<double> speeds;
    std::vector<double> times;
    double tick_rate = 60.0;
};

/// --json, --figure, --html.
void add_outputs(Command& command, CommonOptions& options);
/// --threads.
void add_threads(Command& command, CommonOptions& options);
/// These and --seed.
void add_common(Command& command, CommonOptions& options);
/// For commands that all ranks run.
void share_work(Command& command, CommonOptions& options);
void add_survey_flags(Command& command, SurveyFlags& flags);

/// Files to be written together once everything has been made, so that a failure leaves none behind by half.
class Outputs {
  public:
    Outputs() = default;
    /// … and by the one rank that tells.
    explicit Outputs(const CommonOptions& options) : tells_(options.tells) {}

    void add(const std::string& path, std::string content);
    /// "-" goes to standard output.
    void write() const;

  private:
    std::vector<std::pair<std::string, std::string>> files_;
    bool tells_ = true;
};

/// Refuses figure names that cannot be drawn and outputs that cannot be written, before hours are spent on
/// what goes in.
void check_outputs(const CommonOptions& options, const std::vector<std::string>& more = {});

/// The last part of a path.
std::string file_name(const std::string& path);

/// load_level(), and on standard error what may have been lost of its files.
AnyLevel load_level_aloud(const std::string& path);

/// Files given in any order, told apart by what they say they are.
struct LevelsAndRigs {
    std::vector<std::string> levels;
    std::vector<std::string> rigs;
};
/// Throws InputError where there is no level; `command` is named.
LevelsAndRigs told_apart(const std::string& command, const std::vector<std::string>& files);

/// load_level_aloud() of a level of so many dimensions. Throws InputError for another.
template <int D>
Level<D> load_level_of(const std::string& path);

/// A rig file is read whole up to so many bytes.
inline constexpr std::size_t most_rig_bytes = std::size_t{64} << 20U;

SurveyOptions survey_options(const CommonOptions& common, const SurveyFlags& flags);

/// A bar on standard error if that is a terminal, else nothing.
std::function<void(double)> progress_bar(const std::string& what);

TextOptions text_options();

/// What is known so far, on a terminal: each view takes the place of the one before.
class RoundView {
  public:
    RoundView();

    /// Whether results and progress both go to a terminal.
    [[nodiscard]] bool is_seen() const { return seen_; }
    void show(const std::string& text);
    void clear() { show(""); }

  private:
    bool seen_;
    std::size_t lines_ = 0;
};

/// Reads "missed=12,false=0.5%,claims=0"; what is not named is 0. Throws InputError for anything else.
Allowed allowed_from(const std::string& text);

/// 1 if more is wrong than is allowed, else 0.
template <int D>
int exit_code_of(const Survey<D>& survey, const Allowed& allowed) {
    return within(wrong_in<D>(survey), allowed) ? all_well : wrong_verdicts;
}

}  // namespace hollow_probe::tool
