// What is left wrong with a rig, with what would mend it.
#pragma once

#include <deque>
#include <optional>
#include <vector>

#include "hollow_probe/verify/survey.hpp"
#include "verify/rounds.hpp"

namespace hollow_probe {

/// Of the first level on which something is wrong, explained: a survey of some poses, or where that finds
/// nothing one as large as is asked for.
template <int D>
std::optional<Survey<D>> left_wrong(const std::vector<const Level<D>*>& levels, const Rig<D>& rig,
                                    SurveyOptions options, std::deque<KeptTruths<D>>& kept) {
    constexpr std::size_t some = 20'000;
    options.progress = {};
    options.explain = true;
    options.most_tried = 0;
    const std::size_t whole = budget_of(options);
    std::vector<std::size_t> budgets = {whole > 0 ? std::min(whole, some) : some};
    if (budgets.front() != whole) budgets.push_back(whole);
    kept.resize(std::max(kept.size(), levels.size()));
    for (const std::size_t budget : budgets) {
        options.budget = budget;
        for (std::size_t i = 0; i < levels.size(); ++i) {
            Survey<D> found = survey<D>(*levels[i], rig, options, kept[i]);
            if (!found.findings.empty()) return found;
        }
    }
    return std::nullopt;
}

}  // namespace hollow_probe
