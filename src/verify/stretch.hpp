// The ground between two neighbouring poses: where verdicts change on it.
#pragma once

#include "verify/surveyed.hpp"

namespace hollow_probe {

/// The verdicts' parts of a length.
using Measure = std::array<double, verdict_count>;

/// A pose of a stretch, by the number it was given before or by its place among those found.
struct PoseNumber {
    std::uint64_t number = 0;
    bool found = false;
};

/// One end of a stretch in which borders are looked for. Absent: the body has no rest there, or clips.
template <int D>
struct End {
    Place<D> place = Place<D>::Zero();
    std::optional<double> rest;
    bool hanging = false;
    double above_rest = 0.0;
    std::optional<SurveyPose<D>> pose;
    PoseNumber number;   // of the pose
    double along = 0.0;  // 0 at the stretch's first end, 1 at its last
};

template <int D>
struct StretchResult {
    std::vector<SurveyPose<D>> found;
    std::vector<std::pair<PoseNumber, Vec<D>>> borders;
    std::vector<std::pair<PoseNumber, PoseNumber>> links;
    /// By half, then signal: the length with each verdict. Empty where every signal has one verdict all
    /// along: that of the ends.
    std::array<std::vector<Measure>, 2> halves;
    double length = 0.0;
};

/// Finds the borders between two ends by halving every part whose ends differ. `measured`: tells the lengths,
/// too.
template <int D>
StretchResult<D> search_stretch(const Surveyed<D>& surveyed, std::size_t facing, bool measured,
                                const End<D>& from, const End<D>& to);

}  // namespace hollow_probe
