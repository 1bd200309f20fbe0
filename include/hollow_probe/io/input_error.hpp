// The error of everything that reads or writes files.
#pragma once

#include <stdexcept>

namespace hollow_probe {

/// Something is wrong with a file. what() reads `file:line:column: what is wrong, what was expected`; where a
/// line means nothing (a file that cannot be opened or written) line and column are 1.
struct InputError : std::runtime_error {
    using std::runtime_error::runtime_error;
};

}  // namespace hollow_probe
