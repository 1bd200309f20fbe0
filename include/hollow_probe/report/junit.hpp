// Results as JUnit XML, which servers that build and test understand.
#pragma once

#include <string>
#include <vector>

namespace hollow_probe {

struct SuiteResult {
    std::string kind;  // "survey", "drill", "hunt"
    std::string name;
    double seconds = 0.0;
    std::string failure = {};  // in one line; empty: it passed
    std::string details = {};  // below it
    bool broken = false;       // it could not be run at all: an error, not a failure
    std::string command = {};  // that reproduces it
    std::string file = {};     // it is about
    std::string note = {};     // to be told though it passed, or besides
};

/// One test suite of a name, one case a result.
std::string junit_xml(const std::string& name, const std::vector<SuiteResult>& results);

}  // namespace hollow_probe
