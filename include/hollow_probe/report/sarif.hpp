// Findings as SARIF 2.1.0 (OASIS, "Static Analysis Results Interchange Format", 2020), which code hosts show
// beside the lines concerned.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// A finding as one result: at the line of the rig file that its change concerns.
struct SarifResult {
    std::string rule;  // "missed_contact.reach_short"
    std::string message;
    std::string file;
    std::size_t line = 1;
    std::size_t column = 1;
    std::string id;  // the finding's, the same from run to run
};

/// The findings of one survey. `text` is the rig file's, `file` its name.
template <int D>
std::vector<SarifResult> sarif_results(const Rig<D>& rig, const Survey<D>& survey, const std::string& text,
                                       const std::string& file);

/// A whole log of one run.
std::string sarif_log(const std::vector<SarifResult>& results);

}  // namespace hollow_probe
