// Rigs side by side on the same levels.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/rig/differences.hpp"
#include "hollow_probe/study/gauge.hpp"
#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// How one rig did in one column of a comparison; the less the better.
struct RigScore {
    Wrongness wrong;              // over all levels
    std::size_t findings = 0;     // over all levels
    double severity = 0.0;        // the gravest finding's; infinite: nowhere near right
    std::size_t casts = 0;        // that reading it takes: see SheetCost
    std::size_t pieces = 0;       // … that are looked at, at the levels' first starts
    std::size_t broken = 0;       // expectations of drills
    std::size_t wrong_ticks = 0;  // of drills: missed and false
    std::size_t latency = 0;      // of drills: ticks until on or off, at worst
    std::size_t flicker = 0;      // of drills: changes of signals while truth stood still
    std::size_t wrong_lines = 0;  // of the data sheet

    /// Whether it is as good in all and better in some.
    [[nodiscard]] bool beats(const RigScore& other) const;
};

/// The numbers of those scores that none beats, ascending.
std::vector<std::size_t> front_of(const std::vector<RigScore>& scores);

/// A place on a level where of two rigs one is right and the other wrong.
template <int D>
struct RigDifference {
    std::string signal;
    Verdict verdict = Verdict::missed_contact;  // of the one that is wrong
    bool first_is_right = false;
    std::string stance;
    std::size_t poses = 0;
    double measure = 0.0;  // that these poses stand for
    Bounds<D> bounds;      // of their anchors
    Facing<D> facing;      // of one of them …
    Vec<D> anchor = Vec<D>::zero();
};

/// Two rigs on one level.
template <int D>
struct RigPair {
    std::size_t poses = 0;             // that both were asked at: those of both surveys
    std::size_t only_first_right = 0;  // signals at poses
    std::size_t only_second_right = 0;
    std::size_t both_wrong = 0;
    std::vector<RigDifference<D>> differences;  // the largest first
    std::vector<std::string> cured;  // findings of the first's survey that are none of the second's
    std::vector<std::string> fresh;  // … of the second's alone
    std::vector<std::string> unchanged;
};

/// Holds two rigs against each other at the poses of both their surveys, made with `options`. Signals are
/// told by name: those that only one has, or that claim otherwise, are left out. Truths are those of each
/// survey's own rig: where intents differ, so may they. Throws InvalidInput where no state is common to both.
template <int D>
RigPair<D> hold_side_by_side(const Level<D>& level, const Rig<D>& first, const Survey<D>& of_first,
                             const Rig<D>& second, const Survey<D>& of_second, const SurveyOptions& options);

/// Which columns of a comparison there are, beside those of surveys.
struct CompareColumns {
    bool drills = false;
    bool sheets = false;
};

struct ComparedRig {
    std::string name;  // of its file
    std::string path;
    RigScore score;
    bool in_front = false;  // none beats it
    bool worse = false;     // than the first, beyond what is allowed
};

/// Two rigs on every level both were surveyed on.
template <int D>
struct ComparedPair {
    std::size_t first = 0;  // numbers of rigs
    std::size_t second = 0;
    std::vector<FieldChange> changes;        // that make the first's probes and signals the second's
    std::vector<std::string> only_in_first;  // probes and signals
    std::vector<std::string> only_in_second;
    bool intents_differ = false;
    struct OnLevel {
        std::string level;  // path
        RigPair<D> pair;
    };
    std::vector<OnLevel> on;
};

template <int D>
struct ComparedRigs {
    std::vector<std::string> levels;  // paths
    std::vector<ComparedRig> rigs;
    std::vector<ComparedPair<D>> pairs;
    CompareColumns columns;
};

/// Every rig surveyed on one level, with the same options.
template <int D>
struct LevelSurveys {
    std::string name;  // path
    const Level<D>* level = nullptr;
    std::vector<Survey<D>> surveys;  // one a rig
    SurveyOptions options;
};
/// Every two rigs, on every level.
template <int D>
std::vector<ComparedPair<D>> compare_pairs(const std::vector<const Rig<D>*>& rigs,
                                           const std::vector<LevelSurveys<D>>& levels);

/// What a rig came to on these levels, as far as surveys tell; the cost at each level's first start.
template <int D>
RigScore survey_score(const Rig<D>& rig, std::size_t number, const std::vector<LevelSurveys<D>>& levels);

/// Both rigs on one body, to be looked at over one another: the probes and signals of each under "<name>: …",
/// body and intent of the first, and what stances the second has besides. Throws InvalidInput where they are
/// too many for one rig.
template <int D>
Rig<D> both_rigs(const Rig<D>& first, const std::string& first_name, const Rig<D>& second,
                 const std::string& second_name);

extern template RigPair<2> hold_side_by_side<2>(const Level<2>&, const Rig<2>&, const Survey<2>&,
                                                const Rig<2>&, const Survey<2>&, const SurveyOptions&);
extern template RigPair<3> hold_side_by_side<3>(const Level<3>&, const Rig<3>&, const Survey<3>&,
                                                const Rig<3>&, const Survey<3>&, const SurveyOptions&);
extern template std::vector<ComparedPair<2>> compare_pairs<2>(const std::vector<const Rig<2>*>&,
                                                              const std::vector<LevelSurveys<2>>&);
extern template std::vector<ComparedPair<3>> compare_pairs<3>(const std::vector<const Rig<3>*>&,
                                                              const std::vector<LevelSurveys<3>>&);
extern template RigScore survey_score<2>(const Rig<2>&, std::size_t, const std::vector<LevelSurveys<2>>&);
extern template RigScore survey_score<3>(const Rig<3>&, std::size_t, const std::vector<LevelSurveys<3>>&);
extern template Rig<2> both_rigs<2>(const Rig<2>&, const std::string&, const Rig<2>&, const std::string&);
extern template Rig<3> both_rigs<3>(const Rig<3>&, const std::string&, const Rig<3>&, const std::string&);

}  // namespace hollow_probe
