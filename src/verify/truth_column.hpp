// What is true over the height of a column, found once and kept.
#pragma once

#include "verify/column_heights.hpp"
#include "verify/enclosed.hpp"
#include "verify/truth_store.hpp"

namespace hollow_probe {

/// Whether what is found of columns is taken from what is kept, and kept; or found anew, as of a level that
/// is not wholly known.
enum class Finds { once, anew };

/// Finds truths for one facing. Safe from any number of threads.
template <int D>
class TruthJudge {
  public:
    TruthJudge(const Planned<D>& planned, std::size_t facing, const Enclosed<D>& enclosed, Feelers<D> feelers,
               Finds finds);

    [[nodiscard]] TruthColumn column(const Place<D>& place) const;
    /// The heights of a column where something may change, ascending; found anew where they were not kept.
    [[nodiscard]] std::vector<double> candidates(const TruthColumn& column, const Vec<D>& foot) const;
    /// What is true at one place, asked there and not taken from its column.
    [[nodiscard]] TruthState at(const Vec<D>& anchor) const;
    /// Below and above which nothing can be true.
    [[nodiscard]] const HeightSpan& whole() const { return whole_; }
    [[nodiscard]] const Feelers<D>& feelers() const { return feelers_; }

  private:
    [[nodiscard]] TruthColumn found(const Vec<D>& foot) const;
    [[nodiscard]] TruthState asked(const Vec<D>& anchor, Known<D>& known) const;

    const Planned<D>& s_;
    std::size_t facing_;
    const Enclosed<D>& enclosed_;
    Feelers<D> feelers_;
    Finds finds_;
    HeightSpan whole_;
    double middle_ = 0.0;       // of the body, above its anchor
    double tall_ = 0.0;         // the body
    bool asks_ground_ = false;  // some claim does
};

/// The heights of a column, of those given, that lie in the region.
template <int D>
HeightSpan within_region(const Planned<D>& planned, HeightSpan span, const Vec<D>& foot);

/// Below and above which feelers meet nothing, the truths' lengths allowed for.
template <int D>
HeightSpan whole_of(const Planned<D>& planned, std::size_t facing, const Feelers<D>& feelers);

/// How many samples to take over heights where something is felt, of a body so tall.
int samples_over(double length, double tall);

bool contains(const std::vector<HeightSpan>& spans, double height);

/// What is left of a span without those taken, which ascend.
std::vector<HeightSpan> free_of(const HeightSpan& span, const std::vector<HeightSpan>& taken);

extern template class TruthJudge<2>;
extern template class TruthJudge<3>;

}  // namespace hollow_probe
