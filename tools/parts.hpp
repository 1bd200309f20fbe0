// Parts of a survey, or of a series of hunts: options and checks.
#pragma once

#include <string>
#include <vector>

#include "common.hpp"
#include "drills.hpp"
#include "hollow_probe/io/part_file.hpp"

namespace hollow_probe::tool {

/// The tool's own bytes: what another build found is not taken for its own. Empty where they cannot be read.
std::string build_name();

/// "2/8": the second of eight. Throws InputError for anything else.
PartNumber part_from(const std::string& text);

/// --part and --into; each needs the other.
Option add_part_options(Command& command, std::string& part, std::string& into, const std::string& of);

/// Refuses, beside --part, what only a whole has.
void check_part(const std::string& part, const CommonOptions& common);

/// What hunts depend on: level, rig and the drill file.
template <int D>
std::string hunt_inputs(const std::string& drill_file, const LoadedDrill<D>& loaded);

}  // namespace hollow_probe::tool
