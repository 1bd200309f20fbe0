// A drill as a figure: what was pressed, what was true, what the signals said, height and speed.
#pragma once

#include <string>

#include "hollow_probe/motion/outcome.hpp"

namespace hollow_probe {

/// An image of 1280 × 800. The record must have kept its ticks. `file_name` must end in .svg or .png and
/// chooses the kind. `why`, if it was asked for, is told under what was broken. Throws InvalidInput for
/// another ending.
template <int D>
std::string timeline_figure(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                            const DrillRecord<D>& record, const std::string& file_name,
                            const DrillWhy& why = {});

extern template std::string timeline_figure<2>(const Level<2>&, const Rig<2>&, const Drill<2>&,
                                               const DrillRecord<2>&, const std::string&, const DrillWhy&);
extern template std::string timeline_figure<3>(const Level<3>&, const Rig<3>&, const Drill<3>&,
                                               const DrillRecord<3>&, const std::string&, const DrillWhy&);

}  // namespace hollow_probe
