#include "verify/nearest_other.hpp"

#include <algorithm>
#include <cmath>
#include <tuple>

namespace hollow_probe {
namespace {

constexpr double shortest = 1e-12;  // that lengths are told apart above

}  // namespace

template <int D>
NearestOther<D>::NearestOther(std::span<const SurveyPose<D>> poses, const LevelAxes<D>& axes, double width,
                              std::vector<std::size_t> first)
    : poses_(poses), axes_(axes), width_(width), first_(std::move(first)) {
    least_.fill(std::numeric_limits<std::int64_t>::max());
    most_.fill(std::numeric_limits<std::int64_t>::min());
    for (std::size_t i = 0; i < poses.size(); ++i) {
        if (first_of(poses[i].facing) != poses[i].facing) continue;
        const Cell cell = cell_of(poses[i].anchor);
        const double length = static_cast<double>(poses[i].down) + static_cast<double>(poses[i].up);
        Stack& stack = cells_[{poses[i].facing, cell}][std::ilogb(std::max(length, shortest))];
        stack.longest = std::max(stack.longest, length);
        stack.standing.push_back({axes.up.dot(poses[i].anchor), i});
        for (std::size_t axis = 0; axis < cell.size(); ++axis) {
            least_[axis] = std::min(least_[axis], cell[axis]);
            most_[axis] = std::max(most_[axis], cell[axis]);
        }
    }
    for (auto& [place, stacks] : cells_) {
        for (auto& [exponent, stack] : stacks)
            std::sort(stack.standing.begin(), stack.standing.end(), [](const Standing& a, const Standing& b) {
                return std::tie(a.height, a.pose) < std::tie(b.height, b.pose);
            });
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
    const double here = axes_.up.dot(anchor);
    const auto consider = [&](const SurveyPose<D>& other) {
        if (other.truths_on.has(signal) == now || other.undecided.has(signal)) return;
        const Vec<D> way = other.anchor - anchor;
        const double height = way.dot(axes_.up);
        // The pose stands for a stretch along up.
        const double along = std::max(
            {0.0, height - static_cast<double>(other.down), -height - static_cast<double>(other.up)});
        least = std::min(least, along * along + (way - height * axes_.up).squared_norm());
    };
    const auto look_in = [&](const Stack& stack) {
        const auto is_beyond = [&](double apart) {
            const double gap = (1.0 - 1e-9) * apart - stack.longest;
            return gap > 0.0 && (gap * gap > least || gap > most);
        };
        const auto begin =
            std::lower_bound(stack.standing.begin(), stack.standing.end(), here,
                             [](const Standing& one, double height) { return one.height < height; });
        for (auto one = begin; one != stack.standing.end() && !is_beyond(one->height - here); ++one)
            consider(poses_[one->pose]);
        for (auto one = begin; one != stack.standing.begin();) {
            --one;
            if (is_beyond(here - one->height)) break;
            consider(poses_[one->pose]);
        }
    };
    const auto look = [&](const Cell& cell) {
        const auto found = cells_.find({facing, cell});
        if (found == cells_.end()) return;
        for (const auto& [exponent, stack] : found->second) look_in(stack);
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
