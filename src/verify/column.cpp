#include "verify/column.hpp"

#include <algorithm>

#include "verify/forgiveness.hpp"
#include "verify/hearing.hpp"
#include "verify/remembered_column.hpp"

namespace hollow_probe {
namespace {

/// What a rig says; stretches of it are told apart by its signals, and while they are looked for by what
/// stopped some of its probes.
struct Said {
    Heard heard;
    std::uint64_t met = 0;

    bool signals_as(const Said& other) const { return heard.signals_on == other.heard.signals_on; }
    bool operator==(const Said& other) const { return signals_as(other) && met == other.met; }
};

struct Pardon {
    SignalSet undecided;
    SignalSet forgiven;

    bool operator==(const Pardon& other) const { return forgiven == other.forgiven; }
};

/// Walks up the free spans of a column.
template <int D>
class Climber {
  public:
    Climber(const Planned<D>& s, const TruthJudge<D>& truths, std::size_t facing, const Vec<D>& foot,
            const TruthColumn& truth, const FeltHeights& heights, const Tellers<D>& tellers,
            RememberedColumn<D>* remembered, double tall, DecidedColumn<D>& column)
        : s_(s),
          truths_(truths),
          facing_(facing),
          foot_(foot),
          truth_(truth),
          heights_(heights),
          tellers_(tellers),
          remembered_(remembered),
          tall_(tall),
          column_(column),
          finest_(s.finest()),
          may_idle_(s.ticks_before == 0),
          stride_(s.tick_seconds * s.facings[facing].velocity.norm()),
          helpers_(helpers_of<D>(s.rig)),
          forgives_(s.rig.intent.forgive.any()),
          readings_(tellers_.any() ? s.rig.probes.size() : 0) {}

    void climb(const HeightSpan& free) {
        std::vector<Stretch<TruthState>> truths = truths_over(free);
        const std::vector<Stretch<Said>> signals = signals_over(free);
        std::vector<Piece> pieces = pieces_of(truths, signals);
        // Where a signal's step shows up a stretch of truth that its own samples passed over.
        constexpr int most_found_late = 8;
        for (int i = 0; i < most_found_late && corrects(truths, pieces); ++i)
            pieces = pieces_of(truths, signals);
        const std::size_t first = column_.intervals.size();
        for (const Piece& piece : pieces) settle(piece.span, piece.truth, *piece.signals);
        if (column_.intervals.size() == first) return;
        column_.intervals[first].after_gap = true;
        for (std::size_t i = first; i < column_.intervals.size(); ++i) {
            if (is_wrong(column_.intervals[i].pose)) look_along(column_.intervals[i]);
        }
    }

  private:
    Said ask(double height) {
        if (remembered_ != nullptr) return {{{}, remembered_->at(height, above_rest(height))}};
        const bool idle = may_idle_ && !contains(heights_.busy, height);
        if (idle && idle_) return *idle_;
        const Said said = ask_there(height);
        if (idle) idle_ = said;
        return said;
    }

    /// What is said on the level itself.
    Said ask_there(double height) {
        ++column_.asked;
        SurveyPose<D> pose;
        pose.anchor = foot_ + height * s_.level.up();
        pose.facing = static_cast<std::uint16_t>(facing_);
        pose.above_rest = above_rest(height);
        Said said{hear<D>(s_, s_.mounted[facing_], pose, readings_)};
        if (tellers_.any()) said.met = tellers_.met(readings_);
        return said;
    }

    double above_rest(double height) const {
        const auto above =
            std::upper_bound(truth_.rests.begin(), truth_.rests.end(), height + 2.0 * s_.rig.intent.touch);
        return above == truth_.rests.begin() ? infinity : height - *std::prev(above);
    }

    /// What is true over a free span, with the idle heights between.
    std::vector<Stretch<TruthState>> truths_over(const HeightSpan& free) const {
        std::vector<Stretch<TruthState>> stretches;
        const auto push = [&](double low, double high, const TruthState& state) {
            if (low >= high) return;
            if (!stretches.empty() && stretches.back().state == state) {
                stretches.back().span.high = high;
            } else {
                stretches.push_back({{low, high}, state, 0.5 * (low + high)});
            }
        };
        const auto seen = [&](double height) {
            Stretch<TruthState>& last = stretches.back();
            if (height > last.span.low && height < last.span.high) last.seen_at = height;
        };
        double low = free.low;
        for (const Stretch<TruthState>& stretch : truth_.stretches) {
            if (stretch.span.high <= low) continue;
            if (stretch.span.low >= free.high) break;
            push(low, stretch.span.low, truth_.idle);
            push(std::max(low, stretch.span.low), std::min(stretch.span.high, free.high), stretch.state);
            if (!stretches.empty()) seen(stretch.seen_at);
            low = stretch.span.high;
        }
        push(low, free.high, truth_.idle);
        return stretches;
    }

    /// What the rig says over a free span. A stretch is heard again in its middle, where it may be found to
    /// be two.
    std::vector<Stretch<Said>> signals_over(const HeightSpan& free) {
        auto asking = [this](double height) { return ask(height); };
        StretchSearch<Said, decltype(asking)> search(finest_, asking, remembered_ != nullptr);
        const bool looks_aside = remembered_ == nullptr && tellers_.any();
        auto stretches = search.run(
            edges_of(free),
            [&](double low, double high) {
                const bool idle = may_idle_ && !contains(heights_.busy, 0.5 * (low + high));
                if (idle) return 1;
                return std::max(samples_over(high - low, tall_),
                                looks_aside ? tellers_.parts_of(high - low, tall_) : 1);
            },
            [&](double, double, const Said&) { return looks_aside ? 1 : 0; });
        search.look_again(stretches);
        if (!looks_aside) return stretches;
        std::vector<Stretch<Said>> of_signals;
        for (const Stretch<Said>& stretch : stretches) {
            if (!of_signals.empty() && of_signals.back().state.signals_as(stretch.state)) {
                of_signals.back().span.high = stretch.span.high;
            } else {
                of_signals.push_back(stretch);
            }
        }
        return of_signals;
    }

    /// Heights of a free span at which what is said may change.
    std::vector<double> edges_of(const HeightSpan& free) {
        const double same = finest_ / candidate_parts;
        if (remembered_ == nullptr) return edges_within(free, heights_.candidates, same);
        std::vector<double> candidates = remembered_->candidates(free, truth_.rests);
        candidates.insert(candidates.end(), heights_.candidates.begin(), heights_.candidates.end());
        std::sort(candidates.begin(), candidates.end());
        return edges_within(free, candidates, same, candidates.size() + 1);
    }

    /// Heights with one truth and one thing said.
    struct Piece {
        HeightSpan span;
        TruthState truth;
        const Stretch<Said>* signals = nullptr;
        std::size_t truth_number = 0;
    };

    std::vector<Piece> pieces_of(const std::vector<Stretch<TruthState>>& truths,
                                 const std::vector<Stretch<Said>>& signals) {
        std::vector<Piece> pieces;
        std::size_t signal = 0;
        double waiting = infinity;  // where what was too narrow to be told began
        for (std::size_t i = 0; i < truths.size(); ++i) {
            const Stretch<TruthState>& truth = truths[i];
            if (truth.state.clips) continue;
            while (signal < signals.size() && signals[signal].span.high <= truth.span.low) ++signal;
            for (std::size_t k = signal; k < signals.size() && signals[k].span.low < truth.span.high; ++k) {
                Piece piece{{std::max(truth.span.low, signals[k].span.low),
                             std::min(truth.span.high, signals[k].span.high)},
                            truth.state,
                            &signals[k],
                            i};
                if (piece.span.low >= piece.span.high) continue;
                if (is_confirmed(piece)) {
                    piece.span.low = std::min(piece.span.low, waiting);
                    waiting = infinity;
                    pieces.push_back(piece);
                } else if (!pieces.empty() && pieces.back().span.high == piece.span.low) {
                    pieces.back().span.high = piece.span.high;
                } else {
                    waiting = std::min(waiting, piece.span.low);
                }
            }
        }
        return pieces;
    }

    /// Asks for the truth of what is wrong, and of what lies beside the height at which a stretch of truth
    /// was seen. Whether one was found to be two.
    bool corrects(std::vector<Stretch<TruthState>>& truths, const std::vector<Piece>& pieces) const {
        auto asked = [&](double height) { return truths_.at(foot_ + height * s_.level.up()); };
        for (const Piece& piece : pieces) {
            const Stretch<TruthState>& truth = truths[piece.truth_number];
            const SignalSet said = piece.signals->state.heard.signals_on & ~helpers_;
            const bool within = truth.seen_at > piece.span.low && truth.seen_at < piece.span.high;
            if (said == piece.truth.on && (within || !contains(truth_.busy, piece.span.low))) continue;
            const double middle = 0.5 * (piece.span.low + piece.span.high);
            const TruthState there = asked(middle);
            if (there == piece.truth || std::abs(middle - truth.seen_at) < finest_) continue;
            StretchSearch<TruthState, decltype(asked)> search(finest_, asked);
            search.insert(truths, piece.truth_number, middle, there);
            return true;
        }
        return false;
    }

    /// Steps of truth and of signals are each known within `finest`: what lies between two so close is asked
    /// for.
    bool is_confirmed(const Piece& piece) {
        const double length = piece.span.high - piece.span.low;
        if (length > finest_) return true;
        if (length < finest_ / candidate_parts) return false;
        const double middle = 0.5 * (piece.span.low + piece.span.high);
        return ask(middle).signals_as(piece.signals->state) &&
               truths_.at(foot_ + middle * s_.level.up()) == piece.truth;
    }

    SurveyPose<D> pose_at(double height, const HeightSpan& span, const Heard& heard,
                          const TruthState& truth) const {
        SurveyPose<D> pose;
        pose.anchor = foot_ + height * s_.level.up();
        pose.facing = static_cast<std::uint16_t>(facing_);
        pose.above_rest = above_rest(height);
        pose.down = static_cast<float>(height - span.low);
        pose.up = static_cast<float>(span.high - height);
        pose.probes_on = heard.probes_on;
        pose.signals_on = heard.signals_on;
        pose.truths_on = truth.on | (heard.signals_on & helpers_);
        return pose;
    }

    /// The pose that stands for an interval: a clear one near its lower end, others in their middle. A wrong
    /// verdict that hangs on rounding is undecided, one that the intent forgives is forgiven.
    void settle(const HeightSpan& span, const TruthState& truth, const Stretch<Said>& signals) {
        const double length = span.high - span.low;
        const bool clear = (signals.state.heard.signals_on | truth.on).none();
        double height = span.low + (clear ? std::min(0.5 * length, 0.25 * tall_) : 0.5 * length);
        Said said = ask_there(height);
        if (!said.signals_as(signals.state)) {
            const bool seen = signals.seen_at >= span.low && signals.seen_at <= span.high;
            if (seen) height = signals.seen_at;
            said = remembered_ == nullptr ? signals.state : ask_there(height);
        }
        SurveyPose<D> pose = pose_at(height, span, said.heard, truth);
        if (!is_wrong(pose) || !forgives_) {
            if (is_wrong(pose)) excuse<D>(s_, pose);
            push(span, pose);
            return;
        }
        // What is forgiven changes from tick to tick.
        auto plead = [&](double at) {
            SurveyPose<D> there = pose_at(at, span, said.heard, truth);
            excuse<D>(s_, there);
            return Pardon{there.undecided, there.forgiven};
        };
        StretchSearch<Pardon, decltype(plead)> search(finest_, plead);
        const auto pardons = search.run({span.low, span.high}, [&](double low, double high) {
            return std::max(samples_over(high - low, tall_), by_ticks(high - low));
        });
        for (const Stretch<Pardon>& part : pardons) {
            const double middle = 0.5 * (part.span.low + part.span.high);
            const Pardon there = plead(middle);
            const bool alike = there == part.state;
            SurveyPose<D> own = pose_at(alike ? middle : part.seen_at, part.span, said.heard, truth);
            own.undecided = (alike ? there : part.state).undecided;
            own.forgiven = part.state.forgiven;
            push(part.span, own);
        }
    }

    int by_ticks(double length) const {
        return stride_ > 0.0 ? static_cast<int>(std::clamp(4.0 * length / stride_, 2.0, 64.0)) : 2;
    }

    /// Adds an interval, which says whether it goes on from the one below.
    void push(const HeightSpan& span, const SurveyPose<D>& pose) {
        const bool touching = !column_.intervals.empty() && column_.intervals.back().span.high == span.low;
        column_.intervals.push_back({span, pose, {}, !touching});
    }

    static bool is_wrong(const SurveyPose<D>& pose) {
        return ((pose.signals_on ^ pose.truths_on) & ~(pose.undecided | pose.forgiven)).any();
    }

    /// Poses at the ends of a wrong interval, and between them no farther apart than a quarter of the body.
    void look_along(Interval<D>& interval) {
        constexpr int most = 9;
        const HeightSpan& span = interval.span;
        const double length = span.high - span.low;
        const int parts = std::clamp(static_cast<int>(std::ceil(length / (0.25 * tall_))), 1, most);
        // Ends that stand at a candidate are exact: just inside them, farther than rounding could flip
        // anything, all is as in the middle. Others are known to half of what heights are found to.
        const double rounding = 4e-9 * s_.level_of(facing_).bounds().size().norm();
        const double just = std::min(std::max(1e-6 * s_.rig.intent.touch, rounding), 0.125 * length);
        const double inset = std::min(0.5 * finest_, 0.125 * length);
        const TruthState truth{interval.pose.truths_on & ~helpers_, false};
        const auto alike_at = [&](double height) {
            const Said said = ask_there(height);
            SurveyPose<D> pose = pose_at(height, span, said.heard, truth);
            pose.undecided = interval.pose.undecided;
            pose.forgiven = interval.pose.forgiven;
            const bool alike = said.heard.signals_on == interval.pose.signals_on;
            return alike ? std::optional(pose) : std::nullopt;
        };
        for (int i = 0; i <= parts; ++i) {
            const double height = span.low + length * i / parts;
            const double inwards = i == 0 ? 1.0 : i == parts ? -1.0 : 0.0;
            std::optional<SurveyPose<D>> pose;
            for (const double by : {just, inset, 2.0 * inset}) {
                pose = alike_at(height + inwards * by);
                if (inwards == 0.0 || (pose && truths_.at(pose->anchor) == truth)) break;
                pose.reset();
            }
            if (pose) interval.further.push_back(*pose);
        }
    }

    const Planned<D>& s_;
    const TruthJudge<D>& truths_;
    std::size_t facing_;
    const Vec<D>& foot_;
    const TruthColumn& truth_;
    const FeltHeights& heights_;  // at which its signals may change
    const Tellers<D>& tellers_;
    RememberedColumn<D>* remembered_;  // of a rig that remembers, else none
    double tall_;
    DecidedColumn<D>& column_;
    double finest_;
    bool may_idle_;
    double stride_;  // of a tick
    SignalSet helpers_;
    bool forgives_;  // the intent forgives something
    std::vector<Reading<D>> readings_;
    std::optional<Said> idle_;
};

}  // namespace

template <int D>
ColumnJudge<D>::ColumnJudge(const Planned<D>& planned, std::size_t facing, const Enclosed<D>& enclosed,
                            Finds finds)
    : s_(planned),
      facing_(facing),
      feelers_(planned, facing),
      of_probes_(feelers_.of_probes()),
      of_body_(feelers_.of_body()),
      tellers_(planned, facing),
      heights_(planned, facing, of_probes_, finds),
      truths_(planned, facing, enclosed, feelers_.of_truths(), finds),
      whole_(whole_of<D>(planned, facing, feelers_)) {
    const HullView<D> body = planned.mounted[facing].body.view();
    const auto [low, high] = extent_along(body, planned.level.up());
    tall_ = high - low + 2.0 * body.radius;
    // What was felt before is remembered on the way from there.
    remembered_rise_ = planned.level.up().dot(planned.way_remembered(planned.facings[facing]));
    whole_.low += std::min(remembered_rise_, 0.0);
    whole_.high += std::max(remembered_rise_, 0.0);
}

template <int D>
DecidedColumn<D> ColumnJudge<D>::decide(const Place<D>& place) const {
    DecidedColumn<D> column;
    column.place = place;
    const Vec<D> foot = s_.grid.point(place, 0.0);
    const HeightSpan all = within_region<D>(s_, whole_, foot);
    if (!(all.low < all.high)) return column;
    const TruthColumn truth = truths_.column(place);
    FeltHeights heights = heights_.at(place, all, truth.taken);
    if (s_.is_told_by_body()) {
        const std::vector<double> of_truths = truths_.candidates(truth, foot);
        heights.candidates.insert(heights.candidates.end(), of_truths.begin(), of_truths.end());
        std::sort(heights.candidates.begin(), heights.candidates.end());
        heights.busy.insert(heights.busy.end(), truth.busy.begin(), truth.busy.end());
        join(heights.busy);
    }
    // A little around what can be felt there, so that each end is seen.
    HeightSpan felt{infinity, -infinity};
    const auto grow_by = [&](const std::vector<HeightSpan>& busy) {
        if (busy.empty()) return;
        felt.low = std::min(felt.low, busy.front().low - 0.5 * tall_);
        felt.high = std::max(felt.high, busy.back().high + 0.5 * tall_);
    };
    grow_by(truth.busy);
    grow_by(heights.busy);
    std::optional<RememberedColumn<D>> remembered;
    if (s_.ticks_before > 0) {
        remembered.emplace(s_, facing_, of_probes_, of_body_, tellers_, whole_, foot, tall_);
        grow_by(remembered->busy());
        felt.low += std::min(remembered_rise_, 0.0);
        felt.high += std::max(remembered_rise_, 0.0);
    }
    felt.low = std::max(felt.low, all.low);
    felt.high = std::min(felt.high, all.high);
    if (!(felt.low < felt.high)) return column;  // nothing is felt here
    column.asked = truth.asked;
    Climber<D> climber(s_, truths_, facing_, foot, truth, heights, tellers_,
                       remembered ? &*remembered : nullptr, tall_, column);
    for (const HeightSpan& free : free_of(felt, truth.taken)) climber.climb(free);
    if (remembered) column.asked += remembered->asked();
    return column;
}

template class ColumnJudge<2>;
template class ColumnJudge<3>;

}  // namespace hollow_probe
