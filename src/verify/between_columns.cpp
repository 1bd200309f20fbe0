#include "verify/between_columns.hpp"

#include <algorithm>

namespace hollow_probe {
namespace {

constexpr double steepest_surface = 6.0;  // rise over run; beyond it a border counts as broken off

template <int D>
class Search {
  public:
    Search(const ColumnJudge<D>& judge, double border_width, double touch, Seek seek)
        : judge_(judge), border_width_(border_width), touch_(touch), seek_(seek) {}

    Between<D> run(const DecidedColumn<D>& a, const DecidedColumn<D>& b) {
        result_.length = (b.place - a.place).norm();
        search(a, 0.0, b, 1.0);
        return std::move(result_);
    }

  private:
    void search(const DecidedColumn<D>& a, double at_a, const DecidedColumn<D>& b, double at_b) {
        const double apart = (at_b - at_a) * result_.length;
        if (apart <= border_width_) return;
        const bool same = same_structure(a, b, apart);
        const bool wrong = any_wrong(a) || any_wrong(b);
        if (seek_ == Seek::wrong_ends ? same || !wrong : same && !wrong) return;
        const double at = 0.5 * (at_a + at_b);
        const DecidedColumn<D> middle = judge_.decide(0.5 * (a.place + b.place));
        if (same && in_line(a, middle, b)) return;
        search(a, at_a, middle, at);
        result_.found.push_back(middle);
        result_.along.push_back(at);
        search(middle, at, b, at_b);
    }

    static bool any_wrong(const DecidedColumn<D>& column) {
        return std::any_of(column.intervals.begin(), column.intervals.end(), [](const Interval<D>& interval) {
            const SurveyPose<D>& pose = interval.pose;
            return ((pose.signals_on ^ pose.truths_on) & ~(pose.undecided | pose.forgiven)).any();
        });
    }

    /// Whether what is wrong ends in the middle about where a straight line between the two has it end.
    bool in_line(const DecidedColumn<D>& a, const DecidedColumn<D>& middle, const DecidedColumn<D>& b) const {
        if (middle.intervals.size() != a.intervals.size()) return false;
        const double allowed = touch_ / 8.0;
        for (std::size_t i = 0; i < a.intervals.size(); ++i) {
            const SurveyPose<D>& x = a.intervals[i].pose;
            const SurveyPose<D>& y = middle.intervals[i].pose;
            if (x.signals_on != y.signals_on || x.truths_on != y.truths_on) return false;
            if (x.signals_on == x.truths_on) continue;
            const auto off = [&](double HeightSpan::*end) {
                return std::abs(0.5 * (a.intervals[i].span.*end + b.intervals[i].span.*end) -
                                middle.intervals[i].span.*end);
            };
            if (off(&HeightSpan::low) > allowed || off(&HeightSpan::high) > allowed) return false;
        }
        return true;
    }

    /// Whether the same lies above the same, at about the same heights.
    bool same_structure(const DecidedColumn<D>& a, const DecidedColumn<D>& b, double apart) const {
        if (a.intervals.size() != b.intervals.size()) return false;
        const double allowed = steepest_surface * apart + touch_;
        for (std::size_t i = 0; i < a.intervals.size(); ++i) {
            const Interval<D>& x = a.intervals[i];
            const Interval<D>& y = b.intervals[i];
            if (x.pose.signals_on != y.pose.signals_on || x.pose.truths_on != y.pose.truths_on ||
                x.pose.undecided != y.pose.undecided || x.after_gap != y.after_gap)
                return false;
            if (i > 0 && std::abs(x.span.low - y.span.low) > allowed) return false;
            if (i + 1 < a.intervals.size() && std::abs(x.span.high - y.span.high) > allowed) return false;
        }
        return true;
    }

    const ColumnJudge<D>& judge_;
    double border_width_;
    double touch_;
    Seek seek_;
    Between<D> result_;
};

}  // namespace

template <int D>
std::vector<Measure> lengths_of(const DecidedColumn<D>& column, std::size_t signals) {
    std::vector<Measure> lengths(signals, Measure{});
    for (const Interval<D>& interval : column.intervals) {
        for (std::size_t signal = 0; signal < signals; ++signal)
            lengths[signal][static_cast<std::size_t>(interval.pose.verdict(signal))] +=
                interval.span.high - interval.span.low;
    }
    return lengths;
}

template <int D>
Between<D> search_between(const ColumnJudge<D>& judge, double border_width, double touch, Seek seek,
                          const DecidedColumn<D>& from, const DecidedColumn<D>& to) {
    return Search<D>(judge, border_width, touch, seek).run(from, to);
}

namespace {

template <int D>
bool alike(const Interval<D>& a, const Interval<D>& b) {
    return a.pose.signals_on == b.pose.signals_on && a.pose.truths_on == b.pose.truths_on;
}

}  // namespace

template <int D>
std::vector<std::pair<std::size_t, std::size_t>> wrong_alike(const DecidedColumn<D>& a,
                                                             const DecidedColumn<D>& b, bool straight) {
    std::vector<std::pair<std::size_t, std::size_t>> pairs;
    const bool same = straight && std::equal(a.intervals.begin(), a.intervals.end(), b.intervals.begin(),
                                             b.intervals.end(), alike<D>);
    const double steep = steepest_surface * (a.place - b.place).norm();
    std::size_t first = 0;  // of b's, which ascend as a's do, that ends no lower than the one of a begins
    for (std::size_t i = 0; i < a.intervals.size(); ++i) {
        const SurveyPose<D>& x = a.intervals[i].pose;
        const SignalSet wrong = x.signals_on ^ x.truths_on;
        const HeightSpan& one = a.intervals[i].span;
        while (first < b.intervals.size() && b.intervals[first].span.high < one.low) ++first;
        if (wrong.none()) continue;
        // Wrong in the same signal, and in the same sense.
        const auto is_alike = [&](std::size_t k) {
            const SurveyPose<D>& y = b.intervals[k].pose;
            return (wrong & (y.signals_on ^ y.truths_on) & ~(x.signals_on ^ y.signals_on)).any();
        };
        const auto is_beside = [&](std::size_t k) {
            const HeightSpan& other = b.intervals[k].span;
            return one.low <= other.high + steep && other.low <= one.high + steep;
        };
        std::size_t end = first;
        while (end < b.intervals.size() && b.intervals[end].span.low <= one.high) ++end;
        if (same && i < first && is_alike(i) && is_beside(i)) pairs.emplace_back(i, i);
        for (std::size_t k = first; k < end; ++k) {
            if (is_alike(k)) pairs.emplace_back(i, k);
        }
        if (same && i >= end && is_alike(i) && is_beside(i)) pairs.emplace_back(i, i);
    }
    return pairs;
}

template std::vector<Measure> lengths_of<2>(const DecidedColumn<2>&, std::size_t);
template std::vector<Measure> lengths_of<3>(const DecidedColumn<3>&, std::size_t);
template Between<2> search_between<2>(const ColumnJudge<2>&, double, double, Seek, const DecidedColumn<2>&,
                                      const DecidedColumn<2>&);
template Between<3> search_between<3>(const ColumnJudge<3>&, double, double, Seek, const DecidedColumn<3>&,
                                      const DecidedColumn<3>&);
template std::vector<std::pair<std::size_t, std::size_t>> wrong_alike<2>(const DecidedColumn<2>&,
                                                                         const DecidedColumn<2>&, bool);
template std::vector<std::pair<std::size_t, std::size_t>> wrong_alike<3>(const DecidedColumn<3>&,
                                                                         const DecidedColumn<3>&, bool);

}  // namespace hollow_probe
