// What of a survey is planned before anything is judged: facings, moments and how far columns reach.
#pragma once

#include <deque>
#include <optional>
#include <vector>

#include "hollow_probe/verify/survey.hpp"
#include "verify/grid.hpp"

namespace hollow_probe {

/// Every stance, heading, state and time that options ask for and that matters to the rig. Throws
/// InvalidInput for options that make no sense.
template <int D>
std::vector<Facing<D>> facings_of(const Level<D>& level, const Rig<D>& rig, const SurveyOptions& options);
/// The level at each time, for levels with moving solids.
template <int D>
std::deque<Level<D>> moments_of(const Level<D>& level, const SurveyOptions& options);

/// Across up, of the stances that facings are for.
template <int D>
double width_of_narrowest(const Rig<D>& rig, const std::vector<Facing<D>>& facings);
/// From the anchor, of all stances.
template <int D>
double widest_half(const Rig<D>& rig);

/// What the options limit anchors to.
template <int D>
std::optional<Bounds<D>> region_of(const Level<D>& level, const SurveyOptions& options);

/// Every place from which the levels can be felt so far beside the anchor, within the region.
template <int D>
Extents<D> extents_of(const std::vector<const Level<D>*>& levels, const LevelAxes<D>& axes, double half_width,
                      const std::optional<Bounds<D>>& region);

/// How many ticks a rig looks back.
struct TicksRemembered {
    std::size_t all = 0;                // 0: it has no memory
    std::vector<std::size_t> of_probe;  // … what was read of each by itself; at most `all`
    std::size_t of_signals = 0;         // … by what signals remember, what zones keep left aside
};

template <int D>
TicksRemembered ticks_remembered(const Rig<D>& rig, const SurveyOptions& options, double body_size);

}  // namespace hollow_probe
