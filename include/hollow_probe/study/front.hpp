// The trade-off of a rig's settings: what is missed against what is false, and against what it takes.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/study/tune.hpp"

namespace hollow_probe {

/// A rig that none of the others beats.
template <int D>
struct FrontRig {
    Rig<D> rig;
    std::vector<std::string> values;  // of the free settings, as in a rig file
    Wrongness wrong;                  // over all levels, surveyed whole
    /// Lines swept, volumes laid over the level and pieces looked at for them in one reading, on average
    /// over some of the places.
    double effort = 0.0;
    std::size_t broken = 0;  // promises beside the levels'; see TuneOptions::broken
};

template <int D>
struct TuningFront {
    std::vector<std::string> settings;  // free ones, by name
    FrontRig<D> before;                 // the rig as it is
    std::vector<FrontRig<D>> rigs;      // least missed first, then least false
    std::size_t tried = 0;
};

/// Rigs of which none is as good as another in what is missed, false and taken, and better in one; among
/// them the least wrong that was found. Searched with the poses and truths of a survey as tune() does, by
/// NSGA-II (K. Deb, A. Pratap, S. Agarwal, T. Meyarivan, "A fast and elitist multiobjective genetic
/// algorithm: NSGA-II", 2002) of pagmo; at most twelve of those found, spread evenly, are surveyed whole, and
/// what is then beaten, or breaks more promises than the rig as it is, is left out. Numbers are round to a
/// hundredth of their range. `missed_weight`, `severity_weight` and `held_part` are of no meaning here.
///
/// Deterministic, for any number of threads. Throws as tune() does.
template <int D>
TuningFront<D> tuning_front(const std::vector<const Level<D>*>& levels, const Rig<D>& rig,
                            const TuneOptions<D>& options);

extern template TuningFront<2> tuning_front<2>(const std::vector<const Level<2>*>&, const Rig<2>&,
                                               const TuneOptions<2>&);
extern template TuningFront<3> tuning_front<3>(const std::vector<const Level<3>*>&, const Rig<3>&,
                                               const TuneOptions<3>&);

}  // namespace hollow_probe
