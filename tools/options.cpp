#include "options.hpp"

#include <CLI/CLI.hpp>
#include <sstream>

#include "exit_codes.hpp"
#include "ranks.hpp"

namespace hollow_probe::tool {
namespace {

/// A check that says in words what was expected.
CLI::Validator number_that(bool (*holds)(double), const std::string& what, const std::string& name) {
    return {[=](std::string& text) -> std::string {
                double number = 0.0;
                if (CLI::detail::lexical_cast(text, number) && holds(number)) return {};
                return "'" + text + "' should be a number, " + what;
            },
            name};
}

}  // namespace

Option Option::required() {
    option_->required();
    return *this;
}

Option Option::takes(const std::string& what) {
    option_->type_name(what);
    return *this;
}

Option Option::with_default() {
    option_->capture_default_str();
    return *this;
}

Option Option::positive() {
    option_->check(number_that([](double x) { return x > 0.0; }, "more than 0", "POSITIVE"));
    return *this;
}

Option Option::not_negative() {
    option_->check(number_that([](double x) { return x >= 0.0; }, "0 or more", "NONNEGATIVE"));
    return *this;
}

Option Option::within(int low, int high) {
    option_->check(CLI::Range(low, high));
    return *this;
}

Option Option::within(double low, double high) {
    option_->check(CLI::Range(low, high));
    return *this;
}

Option Option::one_of(const std::vector<std::string>& names) {
    option_->check(CLI::IsMember(names));
    return *this;
}

Option Option::by_commas() {
    option_->delimiter(',');
    return *this;
}

Option Option::counts(int least, int most) {
    option_->expected(least, most);
    return *this;
}

Option Option::needs(Option other) {
    option_->needs(other.option_);
    return *this;
}

Option Option::excludes(Option other) {
    option_->excludes(other.option_);
    return *this;
}

template <typename T>
Option Command::option(const std::string& name, T& value, const std::string& help) {
    CLI::Option* const option = app_->add_option(name, value, help);
    option->check(CLI::Validator(
        [](const std::string& given) {
            return given.empty() ? std::string("is empty, expected something") : std::string();
        },
        ""));
    return Option(option);
}

template Option Command::option(const std::string&, std::string&, const std::string&);
template Option Command::option(const std::string&, int&, const std::string&);
template Option Command::option(const std::string&, double&, const std::string&);
template Option Command::option(const std::string&, std::uint64_t&, const std::string&);
template Option Command::option(const std::string&, std::optional<std::size_t>&, const std::string&);
template Option Command::option(const std::string&, std::vector<std::string>&, const std::string&);
template Option Command::option(const std::string&, std::vector<double>&, const std::string&);
template Option Command::option(const std::string&, std::vector<std::size_t>&, const std::string&);

Option Command::flag(const std::string& name, bool& value, const std::string& help) {
    return Option(app_->add_flag(name, value, help));
}

void Command::runs(std::function<int()> what) {
    // What is done owns what the options are bound to: it must live until they are read.
    runs_on_all_ranks([what = std::move(what), is_first = ranks_->is_first()] {
        return is_first ? what() : static_cast<int>(all_well);
    });
}

void Command::runs_on_all_ranks(std::function<int()> what) {
    app_->callback([what = std::move(what), result = result_] { *result = what(); });
}

Command Commands::add(const std::string& name, const std::string& help) {
    return {app_->add_subcommand(name, help), result_, *ranks_};
}

int run_command_line(int argc, char** argv, const Ranks& ranks) {
    CLI::App app{
        "Hollow Probe: holds a body's collision sensors against the level's geometry and says where they "
        "miss a\n"
        "contact, where they claim one that is not there, why, and what would cure it.",
        "hollow-probe"};
    app.set_version_flag("--version", "hollow-probe " HOLLOW_PROBE_VERSION);
    app.require_subcommand(1);
    app.footer(
        "Exit codes: 0 all well, 1 wrong verdicts, 2 bad input or usage, 3 internal error,\n"
        "130 interrupted.\n"
        "Start with: hollow-probe demo");
    int result = all_well;
    Commands commands(&app, &result, ranks);
    add_survey_command(commands);
    add_merge_command(commands);
    add_draw_command(commands);
    add_level_command(commands);
    add_drill_command(commands);
    add_hunt_command(commands);
    add_gauge_command(commands);
    add_compare_command(commands);
    add_tune_command(commands);
    add_propose_command(commands);
    add_check_command(commands);
    add_demo_command(commands);
    add_schema_command(commands);
    add_live_command(commands);
    try {
        app.parse(argc, argv);
        return result;
    } catch (const CLI::ParseError& error) {
        std::ostringstream unheard;
        const int code = ranks.is_first() ? app.exit(error) : app.exit(error, unheard, unheard);
        return code == 0 ? all_well : bad_input;
    }
}

}  // namespace hollow_probe::tool
