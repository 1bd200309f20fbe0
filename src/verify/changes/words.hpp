// A change in the words of a rig file.
#pragma once

#include <limits>
#include <string>

namespace hollow_probe {

struct ChangeWords {
    std::string probe = {};  // empty where it is a signal's, or the level's
    std::string parameter;   // the key, or the keys, of a file
    std::string now;
    std::string needs;
    double number = std::numeric_limits<double>::quiet_NaN();  // `needs`, where it is one
};

}  // namespace hollow_probe
