#include "verify/severity.hpp"

#include <algorithm>
#include <tuple>

#include "geometry/parallel.hpp"
#include "verify/forgiveness.hpp"

namespace hollow_probe {

template <int D>
Gravity<D>::Gravity(const Surveyed<D>& surveyed, const Samples<D>& samples)
    : s_(surveyed), samples_(samples), width_(4.0 * surveyed.grid.spacing) {
    for (const std::size_t count : surveyed.grid.counts)
        farthest_ = std::max(farthest_, static_cast<std::int64_t>(count / 4 + 2));
    for (std::size_t i = 0; i < samples.poses.size(); ++i)
        cells_[{samples.poses[i].facing, cell_of(samples.poses[i].anchor)}].push_back(i);
}

template <int D>
typename Gravity<D>::Cell Gravity<D>::cell_of(const Vec<D>& anchor) const {
    Cell cell;
    for (std::size_t axis = 0; axis + 1 < D; ++axis)
        cell[axis] = static_cast<std::int64_t>(std::floor(s_.grid.axes.across[axis].dot(anchor) / width_));
    return cell;
}

template <int D>
double Gravity<D>::distance(const SurveyPose<D>& pose, std::size_t signal, const Vec<D>& anchor) const {
    const Vec<D>& up = s_.level.up();
    const bool wanted = pose.signals_on.has(signal);
    double least = infinity;  // squared
    const auto look = [&](const Cell& cell) {
        const auto found = cells_.find({pose.facing, cell});
        if (found == cells_.end()) return;
        for (const std::size_t i : found->second) {
            const SurveyPose<D>& other = samples_.poses[i];
            if (other.truths_on.has(signal) != wanted || other.undecided.has(signal)) continue;
            const Vec<D> way = other.anchor - anchor;
            const double height = way.dot(up);
            // The pose stands for a stretch along up.
            const double along = std::max(
                {0.0, height - static_cast<double>(other.down), -height - static_cast<double>(other.up)});
            least = std::min(least, along * along + (way - height * up).squaredNorm());
        }
    };
    const Cell center = cell_of(anchor);
    for (std::int64_t ring = 0; ring <= farthest_; ++ring) {
        const double nearest = static_cast<double>(ring - 1) * width_;
        if (nearest > 0.0 && nearest * nearest > least) break;
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

template <int D>
SurveyPose<D> Gravity<D>::worst(const std::vector<std::size_t>& poses, std::size_t signal,
                                double& severity) const {
    constexpr std::size_t most = 4000;
    constexpr double gravest = 0.9;
    const std::size_t step = (poses.size() + most - 1) / most;
    std::vector<double> graveness((poses.size() + step - 1) / step);
    for_each_index(graveness.size(), [&](std::size_t i) {
        s_.stop_if_asked();
        const SurveyPose<D>& pose = samples_.poses[poses[i * step]];
        graveness[i] = distance(pose, signal, pose.anchor);
    });
    severity = *std::max_element(graveness.begin(), graveness.end());
    Bounds<D> all;
    for (const std::size_t pose : poses) all.grow(samples_.poses[pose].anchor);
    const auto from_start = [&](const Vec<D>& anchor) {
        double least = infinity;
        for (const StartPoint<D>& start : s_.level.starts())
            least = std::min(least, (start.at - anchor).norm());
        return least;
    };
    // Gravest first; of these, to within the body's size one is as near to a start as another.
    struct Candidate {
        std::array<double, 3> by;
        std::size_t pose;
    };
    std::vector<Candidate> order;
    for (std::size_t i = 0; i < graveness.size(); ++i) {
        const bool light =
            std::isfinite(severity) ? graveness[i] < gravest * severity : std::isfinite(graveness[i]);
        const Vec<D>& anchor = samples_.poses[poses[i * step]].anchor;
        const double near = from_start(anchor);
        order.push_back({{light ? 1.0 : 0.0, std::isfinite(near) ? std::floor(near / s_.body_size) : 0.0,
                          (anchor - all.center()).norm()},
                         poses[i * step]});
    }
    constexpr std::size_t most_asked = 24;
    const std::size_t asked = std::min(order.size(), most_asked);
    std::partial_sort(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(asked), order.end(),
                      [](const Candidate& a, const Candidate& b) {
                          return std::tie(a.by, a.pose) < std::tie(b.by, b.pose);
                      });
    for (std::size_t i = 0; i < asked; ++i) {
        if (const auto again = found_again(samples_.poses[order[i].pose], signal)) return *again;
    }
    return samples_.poses[order.front().pose];
}

template <int D>
std::optional<SurveyPose<D>> Gravity<D>::found_again(const SurveyPose<D>& pose, std::size_t signal) const {
    const auto same = [&](SurveyPose<D> there) {
        judge_anew<D>(s_, there);
        return there.verdict(signal) == pose.verdict(signal);
    };
    if (same(pose)) return pose;
    const double to_middle = 0.5 * (static_cast<double>(pose.up) - static_cast<double>(pose.down));
    SurveyPose<D> middle = pose;
    middle.anchor += to_middle * s_.level.up();
    middle.above_rest += to_middle;
    middle.up = middle.down =
        static_cast<float>(0.5 * (static_cast<double>(pose.up) + static_cast<double>(pose.down)));
    if (same(middle)) return middle;
    return std::nullopt;
}

template class Gravity<2>;
template class Gravity<3>;

}  // namespace hollow_probe
