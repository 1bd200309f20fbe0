// Proposing: a rig from body and intent alone.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/study/gauge.hpp"
#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// One way to sense what a claim is about, as it was tried.
template <int D>
struct TriedFamily {
    std::string name;  // "three rays"
    std::string what;  // what its probes do, in a sentence
    std::vector<Probe<D>> probes;
    std::vector<Signal> signals;  // the claiming one last
    Wrongness wrong;              // over all levels, tuned where the numbers of the intent were not right
    std::size_t wrong_lines = 0;  // of the data sheet
    SheetCost cost;
    bool tuned = false;
    bool in_front = false;  // none is as good in measure, lines and cost and better in one

    [[nodiscard]] bool right() const { return wrong.poses() == 0; }
};

template <int D>
struct ProposedClaim {
    Claim claim = Claim::ground;
    std::vector<TriedFamily<D>> families;  // as tried: the plainest first
    std::optional<std::size_t> chosen;     // none: no family is known
};

template <int D>
struct Proposal {
    Rig<D> rig;  // the body and intent given, with the chosen families
    std::vector<ProposedClaim<D>> claims;
    Wrongness wrong;              // of that rig, over all levels
    std::size_t wrong_lines = 0;  // of its data sheet
    /// A survey of a level on which something is wrong, with what would mend it.
    std::optional<Survey<D>> left;
};

struct ProposeOptions {
    SurveyOptions survey;
    std::size_t most_tuned = 300;          // rigs tried to tune one family
    std::function<void(double)> progress;  // the part done, 0 to 1
};

/// For each claim every known family of probes is mounted with the numbers that the intent gives (touch, the
/// steepest footing, how far ahead) in every stance, surveyed on all levels and measured on all fixtures.
/// Where none is right that way, the two least wrong are tuned, in what the causes of their errors name.
/// Chosen is the one that is least wrong on the levels, of these the one with the fewest wrong lines, of
/// these the one that takes least. `bare` has body and intent; probes and signals it has are left out.
///
/// Every claim has families; headroom is of the tallest stance, a ledge of the body's first. Throws
/// InvalidInput for a body without stances, no claim and no level, and what survey() refuses.
template <int D>
Proposal<D> propose(const std::vector<const Level<D>*>& levels, const Rig<D>& bare,
                    const std::vector<Claim>& claims, const ProposeOptions& options = {});

extern template Proposal<2> propose<2>(const std::vector<const Level<2>*>&, const Rig<2>&,
                                       const std::vector<Claim>&, const ProposeOptions&);
extern template Proposal<3> propose<3>(const std::vector<const Level<3>*>&, const Rig<3>&,
                                       const std::vector<Claim>&, const ProposeOptions&);

}  // namespace hollow_probe
