#include "verify/column.hpp"

#include <algorithm>

#include "verify/forgiveness.hpp"

namespace hollow_probe {
namespace {

/// Heights this close to each other are one: touch over this.
constexpr double border_parts = 64.0;
/// … and candidates, which are exact: a border between them over this.
constexpr double candidate_parts = 64.0;
/// Poses judged between two candidates at most, one for each so many parts of the body's height.
constexpr double longest_of_height = 0.5;
constexpr int most_between = 4;
/// Candidates beyond this many are thinned out evenly.
constexpr std::size_t most_candidates = 320;

bool contains(const std::vector<HeightSpan>& spans, double height) {
    const auto after = std::upper_bound(spans.begin(), spans.end(), height,
                                        [](double h, const HeightSpan& span) { return h < span.low; });
    return after != spans.begin() && height <= std::prev(after)->high;
}

/// What makes two poses of one column differ.
template <int D>
bool alike(const SurveyPose<D>& a, const SurveyPose<D>& b) {
    return a.signals_on == b.signals_on && a.truths_on == b.truths_on && a.forgiven == b.forgiven;
}

/// Walks up one free span of a column.
template <int D>
class Climber {
  public:
    Climber(const Surveyed<D>& s, std::size_t facing, const Vec<D>& foot, const ColumnHeights& heights,
            DecidedColumn<D>& column)
        : s_(s),
          facing_(facing),
          foot_(foot),
          heights_(heights),
          column_(column),
          finest_(s.rig.intent.touch / border_parts),
          may_idle_(s.ticks_before == 0),
          stride_(s.tick_seconds * s.facings[facing].velocity.norm()) {
        const Forgiveness& forgive = s.rig.intent.forgive;
        forgives_ = std::max({forgive.late, forgive.early, forgive.hold, forgive.after_take_off}) > 0.0;
    }

    void climb(const HeightSpan& free, double tall) {
        const std::vector<double> edges = edges_of(free);
        std::optional<SurveyPose<D>> last;
        double last_height = free.low;
        const std::size_t first = column_.intervals.size();
        for (std::size_t i = 0; i + 1 < edges.size(); ++i) {
            const double low = edges[i];
            const double high = edges[i + 1];
            const double parts = std::ceil((high - low) / (longest_of_height * tall));
            const bool idle = may_idle_ && !contains(heights_.busy, 0.5 * (low + high));
            int count = idle ? 1 : static_cast<int>(std::clamp(parts, 1.0, 1.0 * most_between));
            // What is forgiven changes from tick to tick, wherever candidates are.
            if (forgives_ && !idle) count = std::max(count, by_ticks(high - low));
            for (int k = 0; k < count; ++k) {
                const double height = low + (high - low) * (k + 0.5) / count;
                const auto pose = judge(height);
                if (!pose) continue;
                if (last && alike(*last, *pose)) {
                    last_height = height;
                    continue;
                }
                if (!last) {
                    begin(free.low, *pose);
                } else {
                    search(last_height, *last, height, *pose, k == 0 ? std::optional(low) : std::nullopt);
                }
                last = pose;
                last_height = height;
            }
        }
        if (column_.intervals.size() == first) return;
        column_.intervals[first].after_gap = true;
        column_.intervals.back().span.high = free.high;
        for (std::size_t i = first; i < column_.intervals.size(); ++i) settle(column_.intervals[i], tall);
    }

  private:
    int by_ticks(double length) const {
        return stride_ > 0.0 ? static_cast<int>(std::clamp(2.0 * length / stride_, 2.0, 32.0)) : 2;
    }

    /// The ends of a span, and the candidates in it.
    std::vector<double> edges_of(const HeightSpan& free) const {
        std::vector<double> inner;
        double last = free.low;
        for (const double height : heights_.candidates) {
            const double same = finest_ / candidate_parts;
            if (height - last < same || free.high - height < same) continue;
            inner.push_back(height);
            last = height;
        }
        std::vector<double> edges = {free.low};
        const std::size_t step = (inner.size() + most_candidates - 1) / most_candidates;
        for (std::size_t i = 0; i < inner.size(); i += std::max<std::size_t>(step, 1))
            edges.push_back(inner[i]);
        edges.push_back(free.high);
        return edges;
    }

    std::optional<SurveyPose<D>> judge(double height) {
        // Where nothing is felt all is as it was there.
        const bool idle = may_idle_ && !contains(heights_.busy, height);
        if (idle && idle_) {
            SurveyPose<D> pose = *idle_;
            pose.anchor = foot_ + height * s_.level.up();
            pose.above_rest = above_rest(height);
            return pose;
        }
        ++column_.judged;
        auto pose = s_.judge(facing_, Vec<D>(foot_ + height * s_.level.up()), above_rest(height));
        if (forgives_ && pose) excuse<D>(s_, *pose);
        if (idle && pose) idle_ = pose;
        return pose;
    }

    double above_rest(double height) const {
        const auto above = std::upper_bound(heights_.rests.begin(), heights_.rests.end(),
                                            height + 2.0 * s_.rig.intent.touch);
        return above == heights_.rests.begin() ? infinity : height - *std::prev(above);
    }

    void begin(double low, const SurveyPose<D>& pose) {
        column_.intervals.push_back({{low, low}, pose, {}, false});
    }

    /// Finds where verdicts change between two heights at which they differ.
    void search(double low, const SurveyPose<D>& at_low, double high, const SurveyPose<D>& at_high,
                std::optional<double> guess) {
        if (high - low <= finest_) {
            begin_at(guess.value_or(0.5 * (low + high)), at_high);
            return;
        }
        if (guess && *guess - 0.5 * finest_ > low && *guess + 0.5 * finest_ < high) {
            const auto below = judge(*guess - 0.5 * finest_);
            const auto above = judge(*guess + 0.5 * finest_);
            if (below && above && alike(*below, at_low) && alike(*above, at_high)) {
                begin_at(*guess, at_high);
                return;
            }
        }
        const double middle = 0.5 * (low + high);
        const auto between = judge(middle);
        if (!between || alike(*between, at_low)) {
            search(middle, at_low, high, at_high, std::nullopt);
        } else if (alike(*between, at_high)) {
            search(low, at_low, middle, at_high, std::nullopt);
        } else {
            search(low, at_low, middle, *between, std::nullopt);
            search(middle, *between, high, at_high, std::nullopt);
        }
    }

    void begin_at(double height, const SurveyPose<D>& pose) {
        column_.intervals.back().span.high = height;
        column_.intervals.push_back({{height, height}, pose, {}, false});
    }

    /// The pose that stands for an interval: a clear one near its lower end, others in their middle. A wrong
    /// verdict that hangs on rounding is undecided, one that the intent forgives is forgiven.
    void settle(Interval<D>& interval, double tall) {
        SurveyPose<D>& pose = interval.pose;
        const double length = interval.span.high - interval.span.low;
        const bool clear = (pose.signals_on | pose.truths_on).none();
        const double height =
            interval.span.low + (clear ? std::min(0.5 * length, 0.25 * tall) : 0.5 * length);
        const auto there = judge(height);
        if (there && alike(*there, pose)) pose = *there;
        const double at = s_.level.up().dot(pose.anchor - foot_);
        pose.down = static_cast<float>(at - interval.span.low);
        pose.up = static_cast<float>(interval.span.high - at);
        excuse<D>(s_, pose);
        const SignalSet wrong = (pose.signals_on ^ pose.truths_on) & ~(pose.undecided | pose.forgiven);
        if (wrong.any()) look_along(interval, tall);
    }

    /// Poses at the ends of a wrong interval, and between them no farther apart than a quarter of the body.
    void look_along(Interval<D>& interval, double tall) {
        constexpr int most = 9;
        const HeightSpan& span = interval.span;
        const double length = span.high - span.low;
        const int parts = std::clamp(static_cast<int>(std::ceil(length / (0.25 * tall))), 1, most);
        // Ends that stand at a candidate are exact: just inside them all is as in the middle.
        const double just = std::min(1e-6 * s_.rig.intent.touch, 0.125 * length);
        const double inset = std::min(0.5 * finest_, 0.125 * length);
        for (int i = 0; i <= parts; ++i) {
            const bool end = i == 0 || i == parts;
            double height = span.low + length * i / parts;
            const double inwards = i == 0 ? 1.0 : -1.0;
            auto pose = judge(end ? height + inwards * just : height);
            if (end && (!pose || !alike(*pose, interval.pose))) pose = judge(height + inwards * inset);
            if (!pose || !alike(*pose, interval.pose)) continue;
            height = s_.level.up().dot(pose->anchor - foot_);
            pose->undecided = interval.pose.undecided;
            pose->forgiven = interval.pose.forgiven;
            pose->down = static_cast<float>(height - span.low);
            pose->up = static_cast<float>(span.high - height);
            interval.further.push_back(*pose);
        }
    }

    const Surveyed<D>& s_;
    std::size_t facing_;
    const Vec<D>& foot_;
    const ColumnHeights& heights_;
    DecidedColumn<D>& column_;
    double finest_;
    bool may_idle_;
    double stride_;          // of a tick
    bool forgives_ = false;  // the intent forgives something
    std::optional<SurveyPose<D>> idle_;
};

}  // namespace

template <int D>
ColumnJudge<D>::ColumnJudge(const Surveyed<D>& surveyed, std::size_t facing, const Enclosed<D>& enclosed)
    : s_(surveyed), facing_(facing), enclosed_(enclosed), feelers_(surveyed, facing) {
    const Level<D>& level = surveyed.level_of(facing);
    const HullView<D> body = surveyed.mounted[facing].body.view();
    const auto [low, high] = extent_along(body, level.up());
    tall_ = high - low + 2.0 * body.radius;
    middle_ = 0.5 * (low + high);
    double lowest = infinity;
    double highest = -infinity;
    for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece) {
        const HullView<D> hull = level.piece(piece);
        const auto [a, b] = extent_along(hull, level.up());
        lowest = std::min(lowest, a - hull.radius);
        highest = std::max(highest, b + hull.radius);
    }
    const Intent& intent = surveyed.rig.intent;
    const double spare = 2.0 * intent.touch + intent.tallest_step + intent.forgive.hold;
    whole_ = {lowest - feelers_.reach.high[1] - spare, highest - feelers_.reach.low[1] + spare};
}

template <int D>
double ColumnJudge<D>::reach_across() const {
    double reach = 0.0;
    for (int axis = 0; axis < D; ++axis) {
        if (axis != 1)
            reach =
                std::max({reach, std::abs(feelers_.reach.low[axis]), std::abs(feelers_.reach.high[axis])});
    }
    return reach * (D == 3 ? std::numbers::sqrt2 : 1.0);
}

/// The heights of a column that lie in the region.
template <int D>
HeightSpan ColumnJudge<D>::within(const Vec<D>& foot) const {
    HeightSpan span = whole_;
    if (!s_.region) return span;
    const Vec<D>& up = s_.level.up();
    for (int axis = 0; axis < D; ++axis) {
        const double low = s_.region->low[axis] - foot[axis];
        const double high = s_.region->high[axis] - foot[axis];
        if (std::abs(up[axis]) < 1e-12) {
            if (low > 0.0 || high < 0.0) return {0.0, 0.0};
            continue;
        }
        span.low = std::max(span.low, std::min(low / up[axis], high / up[axis]));
        span.high = std::min(span.high, std::max(low / up[axis], high / up[axis]));
    }
    return span;
}

template <int D>
std::vector<HeightSpan> ColumnJudge<D>::free_spans(const ColumnHeights& heights, const HeightSpan& all,
                                                   const Vec<D>& foot, DecidedColumn<D>& column) const {
    std::vector<HeightSpan> taken = heights.clipped;
    for (const HeightSpan& span : taken)
        column.clipped += std::max(0.0, std::min(span.high, all.high) - std::max(span.low, all.low));
    for (HeightSpan span : enclosed_.inside(foot)) {
        span.low -= middle_;
        span.high -= middle_;
        column.enclosed += std::max(0.0, std::min(span.high, all.high) - std::max(span.low, all.low));
        taken.push_back(span);
    }
    std::sort(taken.begin(), taken.end(),
              [](const HeightSpan& a, const HeightSpan& b) { return a.low < b.low; });
    std::vector<HeightSpan> free;
    double low = all.low;
    for (const HeightSpan& span : taken) {
        if (span.low > low) free.push_back({low, std::min(span.low, all.high)});
        low = std::max(low, span.high);
        if (low >= all.high) break;
    }
    if (low < all.high) free.push_back({low, all.high});
    return free;
}

template <int D>
DecidedColumn<D> ColumnJudge<D>::decide(const Place<D>& place) const {
    DecidedColumn<D> column;
    column.place = place;
    const Vec<D> foot = s_.grid.point(place, 0.0);
    const HeightSpan all = within(foot);
    if (!(all.low < all.high)) return column;
    const ColumnHeights heights = heights_of_column<D>(s_, facing_, feelers_, foot, all);
    if (heights.busy.empty()) return column;  // nothing is felt here
    // A little around what can be felt there, so that each end is seen.
    HeightSpan felt{heights.busy.front().low - 0.5 * tall_, heights.busy.back().high + 0.5 * tall_};
    felt.low = std::max(felt.low, all.low);
    felt.high = std::min(felt.high, all.high);
    if (!(felt.low < felt.high)) return column;
    Climber<D> climber(s_, facing_, foot, heights, column);
    for (const HeightSpan& free : free_spans(heights, felt, foot, column)) climber.climb(free, tall_);
    return column;
}

template class ColumnJudge<2>;
template class ColumnJudge<3>;

}  // namespace hollow_probe
