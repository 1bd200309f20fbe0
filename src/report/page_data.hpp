// What an interactive page shows, as the JSON its modules read (src/report/web/).
#pragma once

#include "hollow_probe/motion/outcome.hpp"
#include "hollow_probe/report/page.hpp"
#include "hollow_probe/verify/survey.hpp"
#include "io/json.hpp"

namespace hollow_probe {

/// A level's geometry. `near` is what will be looked at: of large levels only what lies nearest is given.
template <int D>
Json scene_data(const Level<D>& level, const std::vector<Bounds<D>>& near);

template <int D>
Json survey_data(const Level<D>& level, const Rig<D>& rig, const Survey<D>& survey, const SurveyNames& names);

template <int D>
Json drill_data(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill, const DrillRecord<D>& record,
                const std::string& command);

}  // namespace hollow_probe
