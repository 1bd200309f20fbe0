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
    try {
        return run_command_line(argc, argv);
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
