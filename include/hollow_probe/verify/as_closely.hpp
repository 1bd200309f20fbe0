// Surveys that are held against another one.
#pragma once

#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// `options` for a survey of the same level that looks as closely as the one made: to its spacing, beside
/// about as many corners and edges, however many poses that takes.
///
///     const Survey<2> before = survey(level, rig, options);
///     const Survey<2> after = survey(level, changed, as_closely_as(before, options));
template <int D>
SurveyOptions as_closely_as(const Survey<D>& made, SurveyOptions options) {
    options.spacing = made.spacing;
    options.budget = 0;
    if (made.scope.corners_left_out > 0) options.most_corner_columns = made.scope.corner_columns;
    return options;
}

}  // namespace hollow_probe
