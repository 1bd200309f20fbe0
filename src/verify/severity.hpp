// How grave a wrong verdict is: how far from where it would be right.
#pragma once

#include "verify/nearest_other.hpp"
#include "verify/samples.hpp"

namespace hollow_probe {

template <int D>
class Gravity {
  public:
    Gravity(const Planned<D>& planned, const Samples<D>& samples);

    /// Of the wrong poses given the one to show: a typical one among the gravest, at which the verdict is
    /// found again when it is asked for by itself. Tells how grave the gravest is; infinite where the signal
    /// would be right nowhere near.
    [[nodiscard]] SurveyPose<D> worst(const std::vector<std::size_t>& poses, std::size_t signal,
                                      double& severity) const;

  private:
    /// The pose, or else the middle of its interval, if it has the verdict of the interval.
    [[nodiscard]] std::optional<SurveyPose<D>> found_again(const SurveyPose<D>& pose,
                                                           std::size_t signal) const;

    const Planned<D>& s_;
    const Samples<D>& samples_;
    NearestOther<D> nearest_;
};

extern template class Gravity<2>;
extern template class Gravity<3>;

}  // namespace hollow_probe
