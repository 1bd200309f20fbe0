// One column of a facing, decided over its whole height.
#pragma once

#include "verify/column_heights.hpp"
#include "verify/enclosed.hpp"

namespace hollow_probe {

/// Heights of constant verdict, and the pose that stands for them.
template <int D>
struct Interval {
    HeightSpan span;
    SurveyPose<D> pose;
    std::vector<SurveyPose<D>> further;  // of a wrong one: its ends, and some between
    bool after_gap = false;  // below it lies something other than the next lower interval: a clip, or an end
};

template <int D>
struct DecidedColumn {
    Place<D> place = Place<D>::Zero();
    std::vector<Interval<D>> intervals;  // ascending; where the body clips there are none
    std::size_t judged = 0;              // poses
    double clipped = 0.0;                // the length in which the body clips
    double enclosed = 0.0;               // … or is inside a closed mesh
};

/// Decides columns of one facing. Safe from any number of threads.
template <int D>
class ColumnJudge {
  public:
    ColumnJudge(const Surveyed<D>& surveyed, std::size_t facing, const Enclosed<D>& enclosed);

    [[nodiscard]] DecidedColumn<D> decide(const Place<D>& place) const;
    /// The widest way, across up, at which something is felt beside the anchor.
    [[nodiscard]] double reach_across() const;
    [[nodiscard]] const Feelers<D>& feelers() const { return feelers_; }
    /// Below and above which nothing can be felt anywhere.
    [[nodiscard]] const HeightSpan& whole() const { return whole_; }

  private:
    [[nodiscard]] HeightSpan within(const Vec<D>& foot) const;
    [[nodiscard]] std::vector<HeightSpan> free_spans(const ColumnHeights& heights, const HeightSpan& all,
                                                     const Vec<D>& foot, DecidedColumn<D>& column) const;

    const Surveyed<D>& s_;
    std::size_t facing_;
    const Enclosed<D>& enclosed_;
    Feelers<D> feelers_;
    HeightSpan whole_;
    double middle_ = 0.0;  // of the body, above its anchor
    double tall_ = 0.0;    // the body
};

extern template class ColumnJudge<2>;
extern template class ColumnJudge<3>;

}  // namespace hollow_probe
