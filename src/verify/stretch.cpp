#include "verify/stretch.hpp"

#include <algorithm>

#include "hollow_probe/truth/rest.hpp"

namespace hollow_probe {
namespace {

/// Finds the borders between two ends by halving every part whose ends differ.
template <int D>
class Stretch {
  public:
    Stretch(const Surveyed<D>& surveyed, std::size_t facing, bool measured)
        : s_(surveyed), facing_(facing), measured_(measured) {}

    StretchResult<D> run(const End<D>& a, End<D> b) {
        b.along = 1.0;
        length_ = (a.place - b.place).norm() + std::abs(a.above_rest - b.above_rest);
        result_.length = length_;
        if (same_verdicts(a, b)) {
            link(a, b);
            return std::move(result_);
        }
        if (measured_) result_.halves.fill(std::vector<Measure>(s_.rig.signals.size()));
        search(a, b);
        return std::move(result_);
    }

  private:
    void search(const End<D>& a, const End<D>& b) {
        const bool same = same_verdicts(a, b);
        if (same || (b.along - a.along) * length_ <= s_.border_width) {
            const double middle = 0.5 * (a.along + b.along);
            measure(a, a.along, middle);
            measure(b, middle, b.along);
            link(a, b);
            if (same) return;
            border(a, b);
            border(b, a);
            return;
        }
        const End<D> middle = between(a, b);
        search(a, middle);
        search(middle, b);
    }

    void link(const End<D>& a, const End<D>& b) {
        if (is_wrong(a) && is_wrong(b)) result_.links.push_back({a.number, b.number});
    }

    bool same_verdicts(const End<D>& a, const End<D>& b) const {
        if (a.pose.has_value() != b.pose.has_value()) return false;
        if (!a.pose) return true;
        for (std::size_t signal = 0; signal < s_.rig.signals.size(); ++signal) {
            if (a.pose->verdict(signal) != b.pose->verdict(signal)) return false;
        }
        return true;
    }

    bool is_wrong(const End<D>& end) const {
        return end.pose && (end.pose->signals_on ^ end.pose->truths_on) != 0;
    }

    void measure(const End<D>& end, double from, double to) {
        if (!measured_ || !end.pose) return;
        const std::array<double, 2> lengths = {std::max(0.0, std::min(to, 0.5) - from),
                                               std::max(0.0, to - std::max(from, 0.5))};
        for (std::size_t half = 0; half < 2; ++half) {
            for (std::size_t signal = 0; signal < s_.rig.signals.size(); ++signal) {
                result_.halves[half][signal][static_cast<std::size_t>(end.pose->verdict(signal))] +=
                    lengths[half] * length_;
            }
        }
    }

    void border(const End<D>& end, const End<D>& other) {
        // Where a wrong verdict ends is part of its finding; where a right one does is of no use.
        if (!is_wrong(end)) return;
        const Vec<D> at = other.pose ? Vec<D>(0.5 * (end.pose->anchor + other.pose->anchor))
                                     : s_.grid.point(0.5 * (end.place + other.place),
                                                     s_.grid.axes.up.dot(end.pose->anchor));
        result_.borders.push_back({end.number, at});
    }

    End<D> between(const End<D>& a, const End<D>& b) {
        End<D> middle;
        middle.place = 0.5 * (a.place + b.place);
        middle.hanging = a.hanging;
        middle.above_rest = 0.5 * (a.above_rest + b.above_rest);
        middle.along = 0.5 * (a.along + b.along);
        middle.rest = rest_between(a, b, middle.place);
        if (middle.rest)
            middle.pose = s_.judge(facing_, s_.grid.point(middle.place, *middle.rest), middle.above_rest);
        if (middle.pose) {
            middle.pose->border = true;
            middle.number = {result_.found.size(), true};
            result_.found.push_back(*middle.pose);
        }
        return middle;
    }

    /// The rest at a place between two ends that belongs to the surface they stand on.
    std::optional<double> rest_between(const End<D>& a, const End<D>& b, const Place<D>& place) {
        constexpr double steepest_surface = 6.0;  // rise over run; beyond it a surface counts as broken off
        if (!a.rest && !b.rest) return std::nullopt;
        if (a.place == b.place) return a.rest;
        const double run = (a.place - b.place).norm();
        const double expected = a.rest && b.rest ? 0.5 * (*a.rest + *b.rest) : a.rest ? *a.rest : *b.rest;
        double allowed = steepest_surface * 0.5 * run + s_.rig.intent.touch;
        if (a.rest && b.rest)
            allowed = std::max(allowed, 0.5 * std::abs(*a.rest - *b.rest) + s_.rig.intent.touch);
        const MountedRig<D>& mounted = s_.mounted[facing_];
        find_rests<D>(s_.level_of(facing_), {mounted.body.view(), s_.grid.point(place, 0.0), mounted.meets},
                      s_.rig.intent, heights_, nullptr, a.hanging ? Held::from_above : Held::from_below,
                      {expected - allowed, expected + allowed});
        std::optional<double> best;
        for (const double height : heights_) {
            if (std::abs(height - expected) > allowed) continue;
            if (!s_.contains(s_.grid.point(place, height))) continue;
            if (!best || std::abs(height - expected) < std::abs(*best - expected)) best = height;
        }
        return best;
    }

    const Surveyed<D>& s_;
    std::size_t facing_;
    bool measured_;
    double length_ = 0.0;
    StretchResult<D> result_;
    std::vector<double> heights_;
};

}  // namespace

template <int D>
StretchResult<D> search_stretch(const Surveyed<D>& surveyed, std::size_t facing, bool measured,
                                const End<D>& from, const End<D>& to) {
    return Stretch<D>(surveyed, facing, measured).run(from, to);
}

template StretchResult<2> search_stretch<2>(const Surveyed<2>&, std::size_t, bool, const End<2>&,
                                            const End<2>&);
template StretchResult<3> search_stretch<3>(const Surveyed<3>&, std::size_t, bool, const End<3>&,
                                            const End<3>&);

}  // namespace hollow_probe
