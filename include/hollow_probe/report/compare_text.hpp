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

/// Where two rigs differ, in words: "A misses grounded where B is right: upright, x 3.9 to 13, …; measure
/// 0.7".
template <int D>
std::string difference_place(const RigDifference<D>& difference, const std::string& first,
                             const std::string& second);

/// The table, those that none beats, and for each pair what differs, where and by how much.
template <int D>
std::string compare_text(const ComparedRigs<D>& compared, const std::vector<const Rig<D>*>& rigs,
                         const TextOptions& options = {});

}  // namespace hollow_probe
