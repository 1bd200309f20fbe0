#include "verify/severity.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <tuple>

#include "geometry/together.hpp"
#include "verify/forgiveness.hpp"

namespace hollow_probe {

template <int D>
Gravity<D>::Gravity(const Planned<D>& planned, const Samples<D>& samples)
    : s_(planned),
      samples_(samples),
      nearest_(samples.poses, planned.grid.axes, planned.grid.spacing, planned.first) {}

template <int D>
SurveyPose<D> Gravity<D>::worst(const std::vector<std::size_t>& poses, std::size_t signal,
                                double& severity) const {
    constexpr std::size_t most = 4000;
    constexpr double gravest = 0.9;
    const std::size_t step = (poses.size() + most - 1) / most;
    // What facings that are alike have in common is asked once.
    using Key = std::pair<std::size_t, std::array<double, D>>;
    std::map<Key, std::size_t> known;
    std::vector<const SurveyPose<D>*> ask;
    std::vector<std::size_t> number_of;
    for (std::size_t i = 0; i < poses.size(); i += step) {
        const SurveyPose<D>& pose = samples_.poses[poses[i]];
        Key key{s_.first[pose.facing], {}};
        std::copy_n(pose.anchor.data(), D, key.second.begin());
        const auto [found, is_new] = known.try_emplace(key, ask.size());
        if (is_new) ask.push_back(&pose);
        number_of.push_back(found->second);
    }
    const auto asked_of = made_together<double>(s_.sharing, ask.size(), [&](std::size_t i) {
        s_.stop_if_asked();
        return nearest_.distance(*ask[i], signal, ask[i]->anchor);
    });
    severity = *std::max_element(asked_of.begin(), asked_of.end());
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
    for (std::size_t i = 0; i < number_of.size(); ++i) {
        const double grave = asked_of[number_of[i]];
        const bool light = std::isfinite(severity) ? grave < gravest * severity : std::isfinite(grave);
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
