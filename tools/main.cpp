// The command line: parse, call, print.
#include <fmt/format.h>

#include "common.hpp"

int main(int argc, char** argv) {
    using namespace hollow_probe;
    using namespace hollow_probe::tool;
    CLI::App app{
        "Hollow Probe: holds a body's collision sensors against the level's geometry and says where they "
        "miss a\n"
        "contact, where they claim one that is not there, why, and what would cure it.",
        "hollow-probe"};
    app.set_version_flag("--version", "hollow-probe " HOLLOW_PROBE_VERSION);
    app.require_subcommand(1);
    app.footer(
        "Exit codes: 0 all well, 1 wrong verdicts, 2 bad input or usage, 3 internal error.\n"
        "Start with: hollow-probe demo");
    int result = all_well;
    add_survey_command(app, result);
    add_draw_command(app, result);
    add_demo_command(app, result);
    try {
        app.parse(argc, argv);
        return result;
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? all_well : bad_input;
    } catch (const InputError& error) {
        fmt::print(stderr, "{}\n", error.what());
        return bad_input;
    } catch (const InvalidInput& error) {
        fmt::print(stderr, "hollow-probe: {}\n", error.what());
        return bad_input;
    } catch (const std::exception& error) {
        fmt::print(stderr, "hollow-probe: internal error: {}\n", error.what());
        return internal_error;
    }
}
