// A drill tick by tick, as CSV or JSON Lines; the columns are described in docs/drill-json.md.
#pragma once

#include <string>

#include "hollow_probe/motion/play.hpp"

namespace hollow_probe {

/// One row a tick under a row of names. The record must have kept its ticks, and its readings.
template <int D>
std::string timeline_csv(const Rig<D>& rig, const DrillRecord<D>& record);

/// One object a line.
template <int D>
std::string timeline_json_lines(const Rig<D>& rig, const DrillRecord<D>& record);

extern template std::string timeline_csv<2>(const Rig<2>&, const DrillRecord<2>&);
extern template std::string timeline_csv<3>(const Rig<3>&, const DrillRecord<3>&);
extern template std::string timeline_json_lines<2>(const Rig<2>&, const DrillRecord<2>&);
extern template std::string timeline_json_lines<3>(const Rig<3>&, const DrillRecord<3>&);

}  // namespace hollow_probe
