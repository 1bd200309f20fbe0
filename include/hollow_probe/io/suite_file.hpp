// Suite files: TOML, format "hollow-probe suite 1": the surveys, drills and hunts a team keeps.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/io/allowance.hpp"
#include "hollow_probe/io/input_error.hpp"
#include "hollow_probe/io/known.hpp"

namespace hollow_probe {

/// Files are paths from where the program runs.
struct SuiteSurvey {
    std::string name;
    std::string level;
    std::string rig;
    Allowed allowed = {};
    double spacing = 0.0;
    int headings = 4;
    std::vector<std::string> stances;
    std::string area;
    std::vector<KnownFinding> known = {};
};

struct SuiteDrill {
    std::string file;
    std::vector<double> tick_rates;  // empty: that of the drill
    std::size_t phases = 1;
};

struct SuiteHunt {
    std::string drill;
    std::uint64_t seed = 0;
    std::size_t ticks = 2'000'000;
};

struct Suite {
    std::vector<SuiteSurvey> surveys;
    std::vector<SuiteDrill> drills;
    std::vector<SuiteHunt> hunts;
};

/// Throws InputError for anything the format does not allow, and an empty suite. Files that do not exist are
/// the affair of the case that names them.
Suite load_suite(const std::string& path);

}  // namespace hollow_probe
