// Files of parts of a survey, or of a series of hunts: what it is a part of, as one line of JSON, and what
// was found.
#pragma once

#include <string>

#include "hollow_probe/io/input_error.hpp"
#include "hollow_probe/verify/survey_part.hpp"

namespace hollow_probe {

/// A part of a survey, and all that is needed to make the whole of it.
struct PartFile {
    std::string level;  // paths, as they were given
    std::string rig;
    SurveyOptions options;  // but for threads
    PartNumber part;
    std::string inputs;  // see survey_inputs()
    std::string build;   // of what made it: parts of one survey are of one build
    std::string found;   // see survey_part()
};

/// A part of a series of hunts.
struct HuntPartFile {
    std::string drill;  // path, as it was given
    std::uint64_t seed = 0;
    std::size_t seeds = 1;
    std::size_t ticks = 0;           // for each seed
    std::vector<double> tick_rates;  // one after the other; none: the drill's own
    PartNumber part;
    std::string inputs;  // of level, rig and drill
    std::string build;
    std::vector<std::string> found;  // by rate; see hunt_part()
};

/// The words of a command line that make it: "hollow-probe survey LEVEL RIG --spacing 0.5 --part 2/8".
std::string command_of(const PartFile& part);
std::string command_of(const HuntPartFile& part);

/// The whole file. `format` of its first line is "hollow-probe part 1", or "hollow-probe hunt part 1".
std::string part_text(const PartFile& part);
std::string part_text(const HuntPartFile& part);

/// Whether a file says that it is a part of a series of hunts. Throws InputError where it cannot be read.
bool is_hunt_part(const std::string& path);

/// Throws InputError for a file that is missing, no such part, damaged or of another format.
PartFile load_part(const std::string& path);
HuntPartFile load_hunt_part(const std::string& path);

}  // namespace hollow_probe
