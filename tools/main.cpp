// The command line: parse, call, print.
#include <cstdio>

#include "common.hpp"

namespace {

using namespace hollow_probe;
using namespace hollow_probe::tool;

struct Outcome {
    int code = all_well;
    std::string error;  // a line
};

Outcome run(int argc, char** argv, const Ranks& ranks) {
    try {
        return {run_command_line(argc, argv, ranks), ""};
    } catch (const InputError& error) {
        return {bad_input, error.what()};
    } catch (const SurveyStopped&) {
        return {interrupted, "hollow-probe: interrupted before the first round was whole: nothing is known"};
    } catch (const InvalidInput& error) {
        return {bad_input, std::string("hollow-probe: ") + error.what()};
    } catch (const std::exception& error) {
        return {internal_error, std::string("hollow-probe: internal error: ") + error.what()};
    } catch (...) {
        return {internal_error, "hollow-probe: internal error"};
    }
}

}  // namespace

int main(int argc, char** argv) {
    Ranks ranks = Ranks::join();
    // NOLINTNEXTLINE(cppcoreguidelines-owning-memory): stdout stays what it is, and goes elsewhere
    if (!ranks.is_first() && std::freopen("/dev/null", "w", stdout) == nullptr) return internal_error;
    const Outcome outcome = run(argc, argv, ranks);
    if (!outcome.error.empty() && ranks.is_first()) std::fputs((outcome.error + "\n").c_str(), stderr);
    std::fflush(stdout);
    ranks.leave(outcome.error);
    return ranks.is_first() ? outcome.code : all_well;
}
