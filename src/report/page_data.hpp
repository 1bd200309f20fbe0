// What an interactive page shows, as the JSON its modules read (src/report/web/).
#pragma once

#include "hollow_probe/motion/outcome.hpp"
#include "hollow_probe/report/page.hpp"
#include "hollow_probe/verify/survey.hpp"
#include "io/json.hpp"

namespace hollow_probe {

/// A page of this project's own: its style, libraries and modules, and the data that they show.
std::string page_of(const std::string& title, const Json& data, bool in_space);

/// A level's geometry. `near` is what will be looked at: of large levels only what lies nearest is given.
template <int D>
Json scene_data(const Level<D>& level, const std::vector<Bounds<D>>& near);

/// How many poses get a mark: wrong ones first, of which no more than `wrong`.
struct MostMarks {
    std::size_t all = 200'000;
    std::size_t wrong = 150'000;
};

template <int D>
Json survey_data(const Level<D>& level, const Rig<D>& rig, const Survey<D>& survey, const SurveyNames& names,
                 const MostMarks& most = {});

template <int D>
Json drill_data(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill, const DrillRecord<D>& record,
                const std::string& command);

}  // namespace hollow_probe
