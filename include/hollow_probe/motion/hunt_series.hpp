// Several hunts of one drill, one seed after the other: by one process, by several, or in parts.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/geometry/shared_work.hpp"
#include "hollow_probe/motion/hunt.hpp"
#include "hollow_probe/verify/survey_part.hpp"

namespace hollow_probe {

struct HuntSeries {
    std::size_t seeds = 1;  // so many, from HuntOptions::seed on
    WorkSharing sharing;    // other processes hunt some of them: all get the same result
    /// What hunt_part() gave for parts of this series; seeds that they lack are hunted.
    std::vector<std::string> parts;
};

template <int D>
struct SeriesResult {
    /// Of the first seed that finds, else of all: what was played up to it, and how near each came at best.
    HuntResult<D> hunt;
    std::uint64_t seed = 0;  // the one that found, else the last
};

/// Hunts with one seed after the other until one finds. The same for any number of processes and parts.
/// Throws what hunt() throws, and InvalidInput for no seeds, and parts that are not whole.
template <int D>
SeriesResult<D> hunt_series(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                            const HuntOptions& options, const HuntSeries& series);

/// Every `part.of`-th seed of a series, from the `part.number`-th on, until one finds: as bytes of this
/// machine and this version of the library.
template <int D>
std::string hunt_part(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                      const HuntOptions& options, std::size_t seeds, PartNumber part);

extern template SeriesResult<2> hunt_series<2>(const Level<2>&, const Rig<2>&, const Drill<2>&,
                                               const HuntOptions&, const HuntSeries&);
extern template SeriesResult<3> hunt_series<3>(const Level<3>&, const Rig<3>&, const Drill<3>&,
                                               const HuntOptions&, const HuntSeries&);
extern template std::string hunt_part<2>(const Level<2>&, const Rig<2>&, const Drill<2>&, const HuntOptions&,
                                         std::size_t, PartNumber);
extern template std::string hunt_part<3>(const Level<3>&, const Rig<3>&, const Drill<3>&, const HuntOptions&,
                                         std::size_t, PartNumber);

}  // namespace hollow_probe
