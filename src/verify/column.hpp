// One column of a facing, decided over its whole height.
#pragma once

#include "verify/probe_heights.hpp"
#include "verify/tellers.hpp"

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
    Place<D> place = Place<D>::zero();
    std::vector<Interval<D>> intervals;  // ascending; where the body clips there are none
    std::size_t asked = 0;               // heights at which truth was asked, or the rig read
};

/// Decides columns of one facing: truths and signals each by where they themselves may change. Safe from any
/// number of threads.
template <int D>
class ColumnJudge {
  public:
    ColumnJudge(const Planned<D>& planned, std::size_t facing, const Enclosed<D>& enclosed,
                Finds finds = Finds::once);

    [[nodiscard]] DecidedColumn<D> decide(const Place<D>& place) const;
    [[nodiscard]] const Feelers<D>& feelers() const { return feelers_; }
    /// Below and above which nothing can be felt anywhere.
    [[nodiscard]] const HeightSpan& whole() const { return whole_; }

  private:
    const Planned<D>& s_;
    std::size_t facing_;
    Feelers<D> feelers_;
    Feelers<D> of_probes_;
    Feelers<D> of_body_;
    Tellers<D> tellers_;
    ProbeHeights<D> heights_;
    TruthJudge<D> truths_;
    HeightSpan whole_;
    double tall_ = 0.0;             // the body
    double remembered_rise_ = 0.0;  // how far up a body comes while signals remember
};

extern template class ColumnJudge<2>;
extern template class ColumnJudge<3>;

}  // namespace hollow_probe
