// The command line: parse, call, print.
#include <cstdio>

#include "common.hpp"

namespace {

using namespace hollow_probe;
using namespace hollow_probe::tool;

int fail(int code, const std::string& message) {
    std::fputs((message + "\n").c_str(), stderr);
    return code;
}

int run(int argc, char** argv) {
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
    add_survey_command(app, result);
    add_draw_command(app, result);
    add_level_command(app, result);
    add_drill_command(app, result);
    add_hunt_command(app, result);
    add_check_command(app, result);
    add_demo_command(app, result);
    add_schema_command(app, result);
    try {
        app.parse(argc, argv);
        return result;
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? all_well : bad_input;
    } catch (const InputError& error) {
        return fail(bad_input, error.what());
    } catch (const SurveyStopped&) {
        return fail(interrupted,
                    "hollow-probe: interrupted before the first round was whole: nothing is known");
    } catch (const InvalidInput& error) {
        return fail(bad_input, std::string("hollow-probe: ") + error.what());
    }
}

}  // namespace

int main(int argc, char** argv) {
    try {
        return run(argc, argv);
    } catch (const std::exception& error) {
        std::fputs("hollow-probe: internal error: ", stderr);
        std::fputs(error.what(), stderr);
        std::fputs("\n", stderr);
    } catch (...) {
        std::fputs("hollow-probe: internal error\n", stderr);
    }
    return internal_error;
}
