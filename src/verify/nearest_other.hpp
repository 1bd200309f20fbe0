// How far from a pose a signal's truth is otherwise.
#pragma once

#include <array>
#include <cstdint>
#include <map>
#include <span>
#include <vector>

#include "hollow_probe/verify/survey.hpp"
#include "verify/grid.hpp"

namespace hollow_probe {

/// Among the poses of a survey, each of which stands for a stretch along up. They must outlive it.
template <int D>
class NearestOther {
  public:
    /// Poses are found by cells of `width` across up. `first`: by facing, one that has the same poses and is
    /// asked for it; each is asked itself where that is empty.
    NearestOther(std::span<const SurveyPose<D>> poses, const LevelAxes<D>& axes, double width,
                 std::vector<std::size_t> first = {});

    /// From `anchor`, in the facing of `pose`, to the nearest anchor at which the truth of the signal is not
    /// as at `pose`, and decided; infinite where there is none. Beyond `most` it is not looked for.
    [[nodiscard]] double distance(const SurveyPose<D>& pose, std::size_t signal, const Vec<D>& anchor,
                                  double most = infinity) const;

  private:
    using Cell = std::array<std::int64_t, D - 1>;
    struct Standing {
        double height;  // of the anchor
        std::size_t pose;
    };
    /// Poses that stand for stretches of about one length, by height.
    struct Stack {
        double longest = 0.0;
        std::vector<Standing> standing;
    };
    [[nodiscard]] Cell cell_of(const Vec<D>& anchor) const;
    [[nodiscard]] std::size_t first_of(std::size_t facing) const {
        return first_.empty() ? facing : first_[facing];
    }

    std::span<const SurveyPose<D>> poses_;
    LevelAxes<D> axes_;
    double width_;
    std::vector<std::size_t> first_;
    std::map<std::pair<std::size_t, Cell>, std::map<int, Stack>> cells_;  // by facing; by length
    Cell least_;                                                          // of all poses
    Cell most_;
};

extern template class NearestOther<2>;
extern template class NearestOther<3>;

}  // namespace hollow_probe
