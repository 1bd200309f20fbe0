// Two rigs on one level: what the one makes of the poses at which the other was judged.
#pragma once

#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// What a rig says at every pose of the survey of another, `of`: the signals of `rig` by their numbers in it;
/// nothing where it is never in that state. `options` are those of the survey.
template <int D>
std::vector<std::optional<SignalSet>> said_at(const Level<D>& level, const Rig<D>& rig, const Rig<D>& of,
                                              const Survey<D>& survey, const SurveyOptions& options);

/// Poses of a survey, by what an earlier rig says there: the same poses for both, each as often as it was
/// kept.
struct Comparison {
    std::size_t poses = 0;
    std::size_t mended = 0;              // signals wrong under the earlier rig, right under the surveyed one
    std::size_t spoiled = 0;             // … right, and wrong now
    std::size_t still_wrong = 0;         // … wrong under both
    std::vector<std::string> cured;      // findings of the earlier rig's survey that are no more
    std::vector<std::string> fresh;      // … that were not there
    std::vector<std::string> unchanged;  // … that are in both
};

/// Holds `before` against the poses of `after`, the survey of `now` with `options`: in the states that both
/// are surveyed in. Forgiveness is left aside. Throws InvalidInput for rigs whose signals differ, and for
/// such that have no state in common.
template <int D>
Comparison compare_at(const Level<D>& level, const Rig<D>& before, const Survey<D>& of_before,
                      const Rig<D>& now, const Survey<D>& after, const SurveyOptions& options);

}  // namespace hollow_probe
