// Rigs side by side, in words.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/report/survey_text.hpp"
#include "hollow_probe/study/compare.hpp"

namespace hollow_probe {

/// What the second of a pair has otherwise, in words.
template <int D>
std::string difference_words(const ComparedPair<D>& pair);

/// The table, those that none beats, and for each pair what differs, where and by how much.
template <int D>
std::string compare_text(const ComparedRigs<D>& compared, const std::vector<const Rig<D>*>& rigs,
                         const TextOptions& options = {});

}  // namespace hollow_probe
