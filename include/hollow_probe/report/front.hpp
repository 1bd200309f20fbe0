// A trade-off front in words and as a figure.
#pragma once

#include <string>

#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/study/front.hpp"

namespace hollow_probe {

/// A row a rig, the rig as it is first: what is missed, false and taken, and the settings.
template <int D>
std::string front_text(const std::string& title, const TuningFront<D>& front,
                       const TextOptions& options = {});

/// Each rig by its number where it is missed (across) and false (up), larger the more it takes; an image of
/// 1280 × 800. `file_name` must end in .svg or .png and chooses the kind. Throws InvalidInput for another
/// ending.
template <int D>
std::string front_figure(const std::string& title, const TuningFront<D>& front, const std::string& file_name);

}  // namespace hollow_probe
