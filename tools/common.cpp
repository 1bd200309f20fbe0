#include "common.hpp"

#include <fmt/format.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <charconv>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <memory>

#include "hollow_probe/io/atomic_file.hpp"

namespace hollow_probe::tool {

void add_outputs(Command& command, CommonOptions& options) {
    command
        .option("--json", options.json,
                "Write the machine-readable result to FILE, or to standard output for -")
        .takes("FILE");
    command.option("--figure", options.figure, "Write a figure; the ending chooses: .svg or .png")
        .takes("FILE");
    command.option("--html", options.html, "Write one self-contained HTML page").takes("FILE");
}

void add_common(Command& command, CommonOptions& options) {
    add_outputs(command, options);
    command
        .option("--seed", options.seed,
                "0 centers the survey grid on the level; others shift it within a spacing")
        .with_default()
        .takes("N");
    add_threads(command, options);
}

void share_work(Command& command, CommonOptions& options) {
    options.sharing = command.ranks().sharing();
    options.tells = command.ranks().is_first();
}

void add_threads(Command& command, CommonOptions& options) {
    command
        .option("--threads", options.threads, "Threads to use, 0 for all cores; results do not depend on it")
        .within(0, 1024)
        .with_default()
        .takes("N");
}

void add_survey_flags(Command& command, SurveyFlags& flags) {
    command
        .option("--spacing", flags.spacing,
                "Distance between columns in the last round; standard: a quarter of the body's width")
        .positive()
        .takes("LENGTH");
    command.option("--headings", flags.headings, "Headings to survey in 3D; in 2D it is always both")
        .within(1, 360)
        .with_default()
        .takes("N");
    command.option("--stance", flags.stances, "Survey only this stance; may be given again").takes("NAME");
    const Option budget =
        command
            .option("--budget", flags.budget,
                    "About how many poses to judge in all, at borders and corners too; standard: 200000, "
                    "or any number where a spacing is given")
            .positive()
            .takes("N");
    command
        .flag("--thorough", flags.thorough,
              "However many it takes: down to the spacing, every corner and edge")
        .excludes(budget);
    command.option("--area", flags.area, "Judge only anchors in this area of the level").takes("NAME");
    command
        .option("--region", flags.region,
                "Judge only anchors in this box: its low corner and then its high one")
        .by_commas()
        .counts(4, 6)
        .takes("X,Y,…");
    command
        .option("--speeds", flags.speeds,
                "Speeds of arrival, where the rig or level depends on them; standard: 2.5 body heights a "
                "second")
        .by_commas()
        .takes("S,…");
    command
        .option("--times", flags.times,
                "Times at which to survey a level with moving solids; standard: four in a round")
        .by_commas()
        .takes("S,…");
    command.option("--tick-rate", flags.tick_rate, "Ticks a second, for rigs that remember")
        .within(1.0, 10000.0)
        .with_default()
        .takes("HZ");
}

void Outputs::add(const std::string& path, std::string content) {
    if (!path.empty()) files_.emplace_back(path, std::move(content));
}

void Outputs::write() const {
    if (!tells_) return;
    for (const auto& [path, content] : files_) {
        if (path == "-") {
            std::fwrite(content.data(), 1, content.size(), stdout);
        } else {
            write_file(path, content);
        }
    }
}

void check_outputs(const CommonOptions& options, const std::vector<std::string>& more) {
    if (!options.figure.empty() && !options.figure.ends_with(".svg") && !options.figure.ends_with(".png")) {
        throw InputError("--figure: '" + options.figure + "' must end in .svg or .png");
    }
    std::vector<std::string> paths = {options.json, options.figure, options.html};
    paths.insert(paths.end(), more.begin(), more.end());
    for (const std::string& path : paths) {
        if (path.empty() || path == "-") continue;
        const auto folder = std::filesystem::absolute(path).parent_path();
        if (std::filesystem::is_directory(path))
            throw InputError(path + ":1:1: cannot be written: it is a folder, expected a file name");
        if (!std::filesystem::is_directory(folder) || access(folder.c_str(), W_OK) != 0) {
            throw InputError(path + ":1:1: cannot be written: folder '" + folder.string() +
                             "' does not exist or is not writable");
        }
    }
}

std::string file_name(const std::string& path) {
    return std::filesystem::path(path).filename().string();
}

AnyLevel load_level_aloud(const std::string& path) {
    AnyLevel level = load_level(path);
    std::visit(
        [](const auto& loaded) {
            for (const std::string& warning : loaded.warnings()) fmt::print(stderr, "warning: {}\n", warning);
        },
        level);
    return level;
}

LevelsAndRigs told_apart(const std::string& command, const std::vector<std::string>& files) {
    LevelsAndRigs sorted;
    for (const std::string& file : files) (is_rig_file(file) ? sorted.rigs : sorted.levels).push_back(file);
    if (sorted.levels.empty()) throw InputError(command + ": there is no level among the files");
    return sorted;
}

template <int D>
Level<D> load_level_of(const std::string& path) {
    AnyLevel level = load_level_aloud(path);
    if (!std::holds_alternative<Level<D>>(level))
        throw InputError(fmt::format("{}:1:1: the level has dimensions = {}, expected {}", path, 5 - D, D));
    return std::move(std::get<Level<D>>(level));
}

template Level<2> load_level_of<2>(const std::string&);
template Level<3> load_level_of<3>(const std::string&);

SurveyOptions survey_options(const CommonOptions& common, const SurveyFlags& flags) {
    SurveyOptions options;
    options.spacing = flags.spacing;
    options.headings = flags.headings;
    options.stances = flags.stances;
    options.budget = flags.thorough ? 0 : flags.budget;
    options.area = flags.area;
    options.region = flags.region;
    options.speeds = flags.speeds;
    options.times = flags.times;
    options.tick_seconds = 1.0 / flags.tick_rate;
    options.seed = common.seed;
    options.threads = common.threads;
    options.sharing = common.sharing;
    options.progress = progress_bar("surveying");
    return options;
}

std::function<void(double)> progress_bar(const std::string& what) {
    if (isatty(STDERR_FILENO) == 0) return nullptr;
    return [what](double done) {
        constexpr int cells = 30;
        const int full = static_cast<int>(done * cells);
        if (done >= 1.0) {
            fmt::print(stderr, "\r\x1b[K");
        } else {
            fmt::print(stderr, "\r{} [{:<{}}] {:3.0f} %", what,
                       std::string(static_cast<std::size_t>(full), '='), cells, 100.0 * done);
        }
        std::fflush(stderr);
    };
}

RoundView::RoundView() : seen_(isatty(STDERR_FILENO) != 0 && isatty(STDOUT_FILENO) != 0) {}

void RoundView::show(const std::string& text) {
    if (!seen_) return;
    if (lines_ > 0) fmt::print(stderr, "\r\x1b[{}A", lines_);
    fmt::print(stderr, "\r\x1b[J{}", text);
    lines_ = static_cast<std::size_t>(std::count(text.begin(), text.end(), '\n'));
    std::fflush(stderr);
}

TextOptions text_options() {
    TextOptions options;
    const bool terminal = isatty(STDOUT_FILENO) != 0 && !is_started_by_mpirun();
    const char* no_color = std::getenv("NO_COLOR");
    options.color = terminal && (no_color == nullptr || *no_color == '\0');
    winsize size{};
    if (terminal && ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 && size.ws_col > 0) {
        options.width = std::min<std::size_t>(size.ws_col, 100);
    }
    return options;
}

Allowed allowed_from(const std::string& text) {
    Allowed allowed;
    const auto refuse = [&] {
        throw InputError("--allow: '" + text +
                         "' is not understood, expected e.g. missed=0,false=0 or missed=0.5%");
    };
    std::size_t at = 0;
    while (at < text.size()) {
        const std::size_t equals = text.find('=', at);
        const std::size_t end = std::min(text.find(',', at), text.size());
        if (equals == std::string::npos || equals > end || end == at || end + 1 == text.size()) refuse();
        const std::string word = text.substr(at, equals - at);
        const auto allowance = allowance_from(text.substr(equals + 1, end - equals - 1));
        if (!allowance) refuse();
        if (word == "missed") {
            allowed.missed = *allowance;
        } else if (word == "false") {
            allowed.falsely = *allowance;
        } else if (word == "claims" && !allowance->share) {
            allowed.claims = allowance->poses;
        } else {
            refuse();
        }
        at = end + 1;
    }
    if (text.empty()) refuse();
    return allowed;
}

}  // namespace hollow_probe::tool
