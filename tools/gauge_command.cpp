// hollow-probe gauge: a rig's measured limits, and curves over whatever is varied.
#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <filesystem>
#include <memory>
#include <mutex>

#include "allocations.hpp"
#include "common.hpp"
#include "hollow_probe/io/sheet_json.hpp"
#include "hollow_probe/io/vary_json.hpp"
#include "hollow_probe/report/page.hpp"
#include "hollow_probe/report/sheet_figure.hpp"
#include "hollow_probe/report/sheet_text.hpp"
#include "hollow_probe/report/vary_figure.hpp"
#include "hollow_probe/report/vary_text.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/study/gauge.hpp"
#include "hollow_probe/study/vary.hpp"
#include "numbers.hpp"

namespace hollow_probe::tool {
namespace {

struct GaugeArguments {
    CommonOptions common;
    SurveyFlags flags;
    std::string rig;
    std::string level;
    std::string layer;
    std::string fixture;
    std::vector<std::string> lines;
    std::vector<std::string> vary;
    std::vector<std::string> with;
    double turn = 0.0;
    double speed = 0.0;
    std::size_t allow = 0;
    bool timing = false;
};

/// "name=from:to" or "name=from:to:step".
struct Range {
    std::string name;
    double from = 0.0;
    double to = 0.0;
    std::size_t steps = 24;

    explicit Range(const std::string& text) {
        const std::size_t equals = text.find('=');
        const std::size_t colon = text.find(':', equals == std::string::npos ? 0 : equals);
        if (equals == std::string::npos || equals == 0 || colon == std::string::npos)
            throw InputError("--vary: '" + text + "' should be NAME=FROM:TO or NAME=FROM:TO:STEP");
        name = text.substr(0, equals);
        const std::size_t second = text.find(':', colon + 1);
        from = number_from(text.substr(equals + 1, colon - equals - 1), "--vary");
        to = number_from(text.substr(colon + 1, second == std::string::npos ? second : second - colon - 1),
                         "--vary");
        if (!(from < to))
            throw InputError("--vary: '" + text + "' should go from the lesser to the greater number");
        if (second == std::string::npos) return;
        const double step = number_from(text.substr(second + 1), "--vary");
        constexpr double most = 10000.0;
        if (!(step > 0.0) || (to - from) / step > most)
            throw InputError(fmt::format(
                "--vary: the step of '{}' should be more than 0 and make at most {} steps", text, most));
        steps = std::max<std::size_t>(1, static_cast<std::size_t>(std::llround((to - from) / step)));
    }

    [[nodiscard]] bool is_setting() const {
        return name == "reads" || name.starts_with("probe.") || name.starts_with("signal.") ||
               name.starts_with("reflex.");
    }
    [[nodiscard]] double value(std::size_t i) const {
        return i == steps ? to : from + (to - from) * static_cast<double>(i) / static_cast<double>(steps);
    }
};

template <int D>
GaugeOptions options_of(const GaugeArguments& arguments, const Rig<D>& rig) {
    GaugeOptions options;
    options.threads = arguments.common.threads;
    options.fixtures.layer = arguments.layer;
    options.fixtures.speed = arguments.speed;
    options.lines = arguments.lines;
    if (!arguments.flags.stances.empty()) {
        const std::string& wanted = arguments.flags.stances.front();
        std::string known;
        bool found = false;
        for (std::size_t i = 0; i < rig.body.stances.size(); ++i) {
            known += (known.empty() ? "" : ", ") + rig.body.stances[i].name;
            if (rig.body.stances[i].name != wanted) continue;
            options.fixtures.stance = i;
            found = true;
        }
        if (!found)
            throw InputError("--stance: there is no stance '" + wanted + "', expected one of " + known);
    }
    return options;
}

/// Where reading the rig is measured.
template <int D>
struct Stand {
    Level<D> level;
    Rig<D> rig;
    Pose<D> pose;
};

/// At the first start of the level asked for, or on a plain floor.
template <int D>
Stand<D> stand_of(const GaugeArguments& arguments, const Rig<D>& rig, const GaugeOptions& options) {
    if (arguments.level.empty()) {
        FixtureScene<D> scene = fixtures_of<D>(rig, options.fixtures).front().scene({0.0}, 0.0);
        return {std::move(scene.level), rig, scene.pose};
    }
    Level<D> own = load_level_of<D>(arguments.level);
    if (own.starts().empty()) throw InputError(arguments.level + ": has no start point to tell the cost at");
    Pose<D> pose;
    pose.anchor = own.starts().front().at;
    pose.heading = own.starts().front().heading;
    pose.stance = options.fixtures.stance;
    Rig<D> on_it = load_rig<D>(arguments.rig, own);
    return {std::move(own), std::move(on_it), pose};
}

/// The rig mounted where it stands, read as a game reads it: aimed, and then a tick.
template <int D>
class Reader {
  public:
    explicit Reader(const Stand<D>& stand)
        : stand_(stand),
          mounted_(stand.rig, stand.level, stand.pose.stance, stand.pose.heading),
          memory_(mounted_.memory()) {}

    void read(int ticks) {
        const Pose<D>& pose = stand_.pose;
        for (int i = 0; i < ticks; ++i) {
            mounted_.aim({pose.heading, pose.velocity, pose.drive, memory_.grounded});
            (void)mounted_.tick(stand_.level, {pose.anchor, pose.anchor, 1.0 / 60.0, 0, {}}, memory_);
        }
    }

  private:
    const Stand<D>& stand_;
    MountedRig<D> mounted_;
    RigMemory memory_;
};

/// How often a tick asks for memory, rounded up.
template <int D>
std::size_t allocations_of_a_tick(Reader<D>& reader) {
    constexpr int ticks = 100;
    const std::size_t before = allocations();
    reader.read(ticks);
    return (allocations() - before + ticks - 1) / ticks;
}

/// Microseconds that a tick takes: the least of several runs.
template <int D>
double measured_microseconds(Reader<D>& reader) {
    double least = infinity;
    constexpr int runs = 20;
    constexpr int ticks = 2000;
    for (int run = 0; run < runs; ++run) {
        const auto start = std::chrono::steady_clock::now();
        reader.read(ticks);
        const std::chrono::duration<double, std::micro> taken = std::chrono::steady_clock::now() - start;
        least = std::min(least, taken.count() / ticks);
    }
    return least;
}

/// Everything a data sheet says; exit 1 where more lines are wrong than allowed.
template <int D>
int print_sheet(const GaugeArguments& arguments, const Rig<D>& rig, const std::string& name) {
    GaugeOptions options = options_of<D>(arguments, rig);
    if (const auto bar = progress_bar("measuring")) {
        auto one_at_a_time = std::make_shared<std::mutex>();
        options.progress = [bar, one_at_a_time](double done) {
            const std::lock_guard<std::mutex> lock(*one_at_a_time);
            bar(done);
        };
    }
    DataSheet<D> sheet = gauge<D>(rig, options);
    const Stand<D> stand = stand_of<D>(arguments, rig, options);
    sheet.cost = cost_of<D>(stand.rig, stand.level, stand.pose);
    Reader<D> reader(stand);
    sheet.cost.allocations = allocations_of_a_tick<D>(reader);
    const std::optional<double> taken =
        arguments.timing ? std::optional(measured_microseconds<D>(reader)) : std::nullopt;
    std::string words = sheet_text<D>(name, sheet);
    if (taken) words += fmt::format("Here a tick took {} µs.\n", plain(*taken));
    Outputs outputs;
    const CommonOptions& common = arguments.common;
    if (!common.json.empty()) outputs.add(common.json, sheet_json<D>(name, sheet, taken));
    if (!common.figure.empty()) outputs.add(common.figure, sheet_figure<D>(name, sheet, common.figure));
    if (!common.html.empty())
        outputs.add(common.html,
                    figure_page("Data sheet of " + name, sheet_figure<D>(name, sheet, "page.svg"), words));
    outputs.write();
    if (common.json != "-") fmt::print("{}", words);
    std::size_t wrong = 0;
    for (const SheetRow& row : sheet.rows) wrong += row.curves[row.worst].wrong() > 0.0 ? 1 : 0;
    return wrong > arguments.allow ? wrong_verdicts : all_well;
}

/// The setting with this name, which is a number.
template <int D>
const Setting<D>& number_named(const std::vector<Setting<D>>& settings, const std::string& name) {
    const Setting<D>& setting = setting_named<D>(settings, name);
    if (!setting.now) throw InputError("--vary: '" + name + "' is no number");
    return setting;
}

/// "from[1]" of "probe.sole.from[1]".
std::string last_of(const std::string& path) {
    return path.substr(path.rfind('.') + 1);
}

/// One dimension of a fixture, at one or several values of another, or of a setting of the rig.
template <int D>
int print_response(const GaugeArguments& arguments, const Rig<D>& rig, const std::string& name,
                   const std::vector<Range>& ranges) {
    if (arguments.fixture.empty())
        throw InputError("--vary " + ranges.front().name + ": say of which --fixture");
    const GaugeOptions options = options_of<D>(arguments, rig);
    VaryRequest request{arguments.fixture, ranges.front().name, ranges.front().from, ranges.front().to, {},
                        arguments.turn};
    const auto fixtures = fixtures_of<D>(rig, options.fixtures);
    std::vector<std::string> axes;
    for (const Fixture<D>& fixture : fixtures) {
        if (fixture.name != arguments.fixture) continue;
        for (const FixtureAxis& axis : fixture.axes) {
            axes.push_back(axis.name);
            request.values.push_back(axis.standard);
        }
    }
    const auto place_of = [&](const std::string& axis, const char* option) {
        const auto found = std::find(axes.begin(), axes.end(), axis);
        if (found == axes.end())
            throw InputError(fmt::format("{}: fixture '{}' has no '{}', expected one of {}", option,
                                         arguments.fixture, axis, fmt::join(axes, ", ")));
        return static_cast<std::size_t>(found - axes.begin());
    };
    if (axes.empty()) (void)vary_fixture<D>(rig, request, options);  // says which there are
    for (const std::string& with : arguments.with) {
        const std::size_t equals = with.find('=');
        if (equals == std::string::npos) throw InputError("--with: '" + with + "' should be NAME=VALUE");
        request.values[place_of(with.substr(0, equals), "--with")] =
            number_from(with.substr(equals + 1), "--with");
    }
    std::vector<SheetRow> rows;
    if (ranges.size() == 1) {
        rows = vary_fixture<D>(rig, request, options);
    } else if (ranges[1].is_setting()) {
        const auto settings = settings_of<D>(rig, rig.body.meets, 0.0);
        const Setting<D>& setting = number_named<D>(settings, ranges[1].name);
        for (std::size_t i = 0; i <= ranges[1].steps; ++i) {
            const auto changed = setting.with(rig, ranges[1].value(i));
            if (!changed) continue;
            for (SheetRow& row : vary_fixture<D>(*changed, request, options)) {
                row.line = fmt::format("{} {}", last_of(path_of<D>(setting)), plain(ranges[1].value(i)));
                rows.push_back(std::move(row));
            }
        }
        if (rows.empty())
            throw InputError("--vary: the rig can have none of these values of " + ranges[1].name);
    } else {
        const std::size_t second = place_of(ranges[1].name, "--vary");
        for (std::size_t i = 0; i <= ranges[1].steps; ++i) {
            request.values[second] = ranges[1].value(i);
            for (SheetRow& row : vary_fixture<D>(rig, request, options)) {
                row.line = fmt::format("{} {}", ranges[1].name, plain(request.values[second]));
                rows.push_back(std::move(row));
            }
        }
    }
    const std::string title = fmt::format("{} on fixture {}", name, arguments.fixture);
    const std::string words = title + "\n\n" + response_text(rows);
    Outputs outputs;
    const CommonOptions& common = arguments.common;
    if (!common.json.empty()) {
        DataSheet<D> sheet;
        sheet.stance = rig.body.stances[options.fixtures.stance].name;
        sheet.layer = options.fixtures.layer.empty() ? rig.body.meets.front() : options.fixtures.layer;
        sheet.size = rig.body.stances[options.fixtures.stance].shape.bounds().size().largest();
        sheet.rows = rows;
        outputs.add(common.json, sheet_json<D>(name, sheet));
    }
    if (!common.figure.empty()) outputs.add(common.figure, response_figure(title, rows, common.figure));
    if (!common.html.empty())
        outputs.add(common.html, figure_page(title, response_figure(title, rows, "page.svg"), words));
    outputs.write();
    if (common.json != "-") fmt::print("{}", words);
    return all_well;
}

/// Curves of one setting: one, or one for each value of another.
template <int D>
std::vector<VaryMapRow> curves_of(const Rig<D>& rig, const std::vector<std::string>& layers,
                                  const std::vector<Range>& ranges,
                                  const std::function<VaryCurve(const Rig<D>&, const Range&)>& curve) {
    if (ranges.size() == 1) return {{{}, curve(rig, ranges[0])}};
    std::vector<VaryMapRow> map;
    const auto settings = settings_of<D>(rig, layers, 0.0);
    const Setting<D>& second = number_named<D>(settings, ranges[1].name);
    for (std::size_t i = 0; i <= ranges[1].steps; ++i) {
        const auto changed = second.with(rig, ranges[1].value(i));
        if (changed)
            map.push_back({std::pair(path_of<D>(second), ranges[1].value(i)), curve(*changed, ranges[0])});
    }
    if (map.empty()) throw InputError("--vary: the rig can have none of these values of " + ranges[1].name);
    return map;
}

/// One setting, or two, over a level, or else on fixtures.
template <int D>
int print_setting(const GaugeArguments& arguments, const std::string& name,
                  const std::vector<Range>& ranges) {
    if (!arguments.with.empty() || arguments.turn != 0.0)
        throw InputError("--with, --turn: are of a fixture whose dimension is varied");
    if (!arguments.level.empty() && (!arguments.fixture.empty() || !arguments.lines.empty()))
        throw InputError("--level: a setting is varied over a level, or on a --fixture or --line");
    if (!arguments.fixture.empty() && !arguments.lines.empty())
        throw InputError("--fixture: has lines of its own, expected it or --line");
    std::vector<VaryMapRow> map;
    std::string title;
    if (arguments.level.empty()) {
        const Rig<D> rig = load_rig<D>(arguments.rig);
        GaugeOptions options = options_of<D>(arguments, rig);
        options.progress = progress_bar("varying");
        map = curves_of<D>(rig, rig.body.meets, ranges, [&](const Rig<D>& changed, const Range& range) {
            return vary_setting<D>(changed, range.name, range.from, range.to, range.steps, options,
                                   arguments.fixture);
        });
        title = arguments.fixture.empty() ? fmt::format("{} on fixtures", name)
                                          : fmt::format("{} on fixture {}", name, arguments.fixture);
    } else {
        const Level<D> level = load_level_of<D>(arguments.level);
        const Rig<D> rig = load_rig<D>(arguments.rig, level);
        SurveyOptions options = survey_options(arguments.common, arguments.flags);
        constexpr std::size_t quick = 20000;  // a curve takes many surveys
        if (!options.budget && options.spacing == 0.0) options.budget = quick;
        options.progress = progress_bar("varying");
        map = curves_of<D>(rig, level.layers(), ranges, [&](const Rig<D>& changed, const Range& range) {
            return vary_setting<D>(level, changed, range.name, range.from, range.to, range.steps, options);
        });
        title = fmt::format("{} on {}", name, std::filesystem::path(arguments.level).filename().string());
    }
    Outputs outputs;
    const CommonOptions& common = arguments.common;
    const std::string words = vary_text(title, map, text_options());
    if (!common.json.empty()) outputs.add(common.json, vary_json(title, map));
    if (!common.figure.empty()) outputs.add(common.figure, vary_figure(title, map, common.figure));
    if (!common.html.empty())
        outputs.add(common.html, figure_page(title, vary_figure(title, map, "page.svg"), words));
    outputs.write();
    if (common.json != "-") fmt::print("{}", words);
    return all_well;
}

template <int D>
int run(const GaugeArguments& arguments) {
    const std::string name = std::filesystem::path(arguments.rig).filename().string();
    std::vector<Range> ranges;
    for (const std::string& text : arguments.vary) ranges.emplace_back(text);
    if (ranges.size() > 2) throw InputError("--vary: two things at most are varied at once");
    // A dimension and a setting: the dimension's curves, whichever was named first.
    if (ranges.size() == 2 && ranges[0].is_setting() && !ranges[1].is_setting())
        std::swap(ranges[0], ranges[1]);
    const Rig<D> rig = load_rig<D>(arguments.rig);
    if (ranges.empty() && !arguments.fixture.empty()) throw InputError("--fixture: say what to --vary of it");
    if (ranges.empty()) return print_sheet<D>(arguments, rig, name);
    return ranges[0].is_setting() ? print_setting<D>(arguments, name, ranges)
                                  : print_response<D>(arguments, rig, name, ranges);
}

}  // namespace

void add_gauge_command(Commands& commands) {
    auto arguments = std::make_shared<GaugeArguments>();
    Command command = commands.add(
        "gauge",
        "Measure a rig's limits beside the intended ones: its data sheet, or curves over what is varied");
    command.option("rig", arguments->rig, "A rig file").required().takes("RIG");
    command
        .option("--level", arguments->level,
                "Tell the cost at its first start; vary settings over it, not on fixtures")
        .takes("LEVEL");
    command
        .option("--layer", arguments->layer, "What fixtures are made of; standard: the first the body meets")
        .takes("NAME");
    command.option("--line", arguments->lines, "Only this line of the sheet; may be repeated").takes("NAME");
    command
        .option("--fixture", arguments->fixture,
                "The fixture of which dimensions are varied, or on which settings are")
        .takes("NAME");
    command
        .option("--vary", arguments->vary,
                "A dimension of the fixture, or a setting of the rig as probe.sole.reach; may be given twice")
        .takes("NAME=FROM:TO[:STEP]");
    command.option("--with", arguments->with, "Another dimension of the fixture at a value; may be repeated")
        .takes("NAME=VALUE");
    command.option("--turn", arguments->turn, "Degrees the body is turned from the fixture's forward")
        .takes("DEGREES");
    command
        .option("--speed", arguments->speed, "Speed towards what lies ahead; standard: 2.5 heights a second")
        .not_negative()
        .takes("SPEED");
    command.option("--allow", arguments->allow, "How many lines may be wrong before the exit code is 1")
        .takes("LINES");
    command.flag("--timing", arguments->timing, "Measure what reading the rig takes here");
    add_survey_flags(command, arguments->flags);
    add_common(command, arguments->common);
    command.runs([arguments] {
        check_outputs(arguments->common);
        return dimensions_of_rig(arguments->rig) == 2 ? run<2>(*arguments) : run<3>(*arguments);
    });
}

}  // namespace hollow_probe::tool
