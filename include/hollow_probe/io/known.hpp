// Findings that a team knows of: what is new, returned, gone or worse.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/io/allowance.hpp"

namespace hollow_probe {

/// A finding by its id, and why it is accepted.
struct KnownFinding {
    std::string id;
    std::string reason;
    std::optional<double> measure = {};  // it was so large; empty: it may have any size
    bool mended = false;                 // it was there once, and must not come back
};

/// A survey held against what is known of it: ids of findings.
struct AgainstKnown {
    std::vector<std::string> accepted;
    std::vector<std::string> fresh;     // not known
    std::vector<std::string> worsened;  // larger than known, by more than a hundredth
    std::vector<std::string> returned;  // known as mended
    std::vector<std::string> gone;      // known, and found no more
    WrongInAll rest;                    // what is wrong besides the accepted ones

    /// "2 known, 1 new (m-52284), 1 gone (f-0a1b2)"; empty where nothing is known and nothing found.
    [[nodiscard]] std::string text() const;
    /// Whether something known is worse than it was.
    [[nodiscard]] bool is_worse() const { return !worsened.empty() || !returned.empty(); }
};

template <int D>
AgainstKnown hold_against(const Survey<D>& survey, const std::vector<KnownFinding>& known);

}  // namespace hollow_probe
