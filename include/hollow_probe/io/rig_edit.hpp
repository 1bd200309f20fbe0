// Cures written into an author's rig file.
#pragma once

#include <string>

#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// The text of a rig file with a cure's changes made, and every other line and comment as it was. `name`
/// stands for the file in messages. A key that is not there yet is added below the name of its table. Throws
/// InputError for a cure that is not one to a rig file (a role in the level), and one to a probe or signal
/// that the file does not have itself (it is in the file this one extends).
std::string with_cure(const std::string& text, const std::string& name, const CauseReport& cure);

}  // namespace hollow_probe
