#include "verify/severity.hpp"

#include <algorithm>
#include <tuple>

#include "geometry/together.hpp"
#include "verify/forgiveness.hpp"

namespace hollow_probe {

template <int D>
Gravity<D>::Gravity(const Planned<D>& planned, const Samples<D>& samples)
    : s_(planned), samples_(samples), nearest_(samples.poses, planned.grid.axes, planned.grid.spacing) {}

template <int D>
SurveyPose<D> Gravity<D>::worst(const std::vector<std::size_t>& poses, std::size_t signal,
                                double& severity) const {
    constexpr std::size_t most = 4000;
    constexpr double gravest = 0.9;
    const std::size_t step = (poses.size() + most - 1) / most;
    const std::size_t asked_of = (poses.size() + step - 1) / step;
    const auto graveness = made_together<double>(s_.sharing, asked_of, [&](std::size_t i) {
        s_.stop_if_asked();
        const SurveyPose<D>& pose = samples_.poses[poses[i * step]];
        return nearest_.distance(pose, signal, pose.anchor);
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
