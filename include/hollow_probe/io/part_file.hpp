// Files of a survey's parts: what it is a part of, as one line of JSON, and what was found.
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

/// The words of a command line that make it: "hollow-probe survey LEVEL RIG --spacing 0.5 --part 2/8".
std::string command_of(const PartFile& part);

/// The whole file. `format` of its first line is "hollow-probe part 1".
std::string part_text(const PartFile& part);

/// Throws InputError for a file that is missing, no part, damaged or of another format.
PartFile load_part(const std::string& path);

}  // namespace hollow_probe
