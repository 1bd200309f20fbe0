#pragma once

namespace hollow_probe::tool {

enum : int { all_well = 0, wrong_verdicts = 1, bad_input = 2, internal_error = 3, interrupted = 130 };

}  // namespace hollow_probe::tool
