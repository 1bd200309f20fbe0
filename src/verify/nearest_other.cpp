#include "verify/nearest_other.hpp"

#include <algorithm>
#include <cmath>

namespace hollow_probe {

template <int D>
NearestOther<D>::NearestOther(std::span<const SurveyPose<D>> poses, const LevelAxes<D>& axes, double width,
                              std::vector<std::size_t> first)
    : poses_(poses), axes_(axes), width_(width), first_(std::move(first)) {
    least_.fill(std::numeric_limits<std::int64_t>::max());
    most_.fill(std::numeric_limits<std::int64_t>::min());
    for (std::size_t i = 0; i < poses.size(); ++i) {
        if (first_of(poses[i].facing) != poses[i].facing) continue;
        const Cell cell = cell_of(poses[i].anchor);
        cells_[{poses[i].facing, cell}].push_back(i);
        for (std::size_t axis = 0; axis < cell.size(); ++axis) {
            least_[axis] = std::min(least_[axis], cell[axis]);
            most_[axis] = std::max(most_[axis], cell[axis]);
        }
    }
}

template <int D>
typename NearestOther<D>::Cell NearestOther<D>::cell_of(const Vec<D>& anchor) const {
    Cell cell;
    for (std::size_t axis = 0; axis + 1 < D; ++axis)
        cell[axis] = static_cast<std::int64_t>(std::floor(axes_.across[axis].dot(anchor) / width_));
    return cell;
}

template <int D>
double NearestOther<D>::distance(const SurveyPose<D>& pose, std::size_t signal, const Vec<D>& anchor,
                                 double most) const {
    const bool now = pose.truths_on.has(signal);
    double least = infinity;  // squared
    const std::size_t facing = first_of(pose.facing);
    const auto look = [&](const Cell& cell) {
        const auto found = cells_.find({facing, cell});
        if (found == cells_.end()) return;
        for (const std::size_t i : found->second) {
            const SurveyPose<D>& other = poses_[i];
            if (other.truths_on.has(signal) == now || other.undecided.has(signal)) continue;
            const Vec<D> way = other.anchor - anchor;
            const double height = way.dot(axes_.up);
            // The pose stands for a stretch along up.
            const double along = std::max(
                {0.0, height - static_cast<double>(other.down), -height - static_cast<double>(other.up)});
            least = std::min(least, along * along + (way - height * axes_.up).squaredNorm());
        }
    };
    const Cell center = cell_of(anchor);
    std::int64_t farthest = 0;  // rings, until all cells are within
    for (std::size_t axis = 0; axis < center.size(); ++axis)
        farthest = std::max({farthest, center[axis] - least_[axis], most_[axis] - center[axis]});
    for (std::int64_t ring = 0; ring <= farthest; ++ring) {
        const double nearest = static_cast<double>(ring - 1) * width_;
        if (nearest > 0.0 && (nearest * nearest > least || nearest > most)) break;
        if constexpr (D == 2) {
            look({center[0] - ring});
            if (ring > 0) look({center[0] + ring});
        } else {
            for (std::int64_t a = -ring; a <= ring; ++a) {
                const bool edge = std::abs(a) == ring;
                for (std::int64_t b = -ring; b <= ring; b += edge || ring == 0 ? 1 : 2 * ring)
                    look({center[0] + a, center[1] + b});
            }
        }
    }
    return std::sqrt(least);
}

template class NearestOther<2>;
template class NearestOther<3>;

}  // namespace hollow_probe
