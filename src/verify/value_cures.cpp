#include "verify/value_cures.hpp"

#include <algorithm>
#include <cmath>

#include "geometry/together.hpp"
#include "hollow_probe/geometry/tolerances.hpp"
#include "verify/alternative.hpp"
#include "verify/causes/ranks.hpp"
#include "verify/column_bytes.hpp"
#include "verify/roundest.hpp"
#include "verify/value_errors.hpp"

namespace hollow_probe {
namespace {

/// A change is tried at so many poses, and its price told from so many.
constexpr std::size_t most_poses_tried = 2'000;
constexpr std::size_t most_priced = 8'000;
constexpr std::size_t most_cures = 3;
/// A change is worth a line if it leaves less than this part of the errors.
constexpr double part_left = 0.8;
/// Errors that nobody can see: of the body's size, and in degrees.
constexpr double seen_of_size = 1e-4;
constexpr double seen_degrees = 0.01;

std::vector<std::size_t> evenly(std::vector<std::size_t> all, std::size_t most) {
    if (all.size() <= most) return all;
    std::vector<std::size_t> some(most);
    for (std::size_t i = 0; i < most; ++i) some[i] = all[i * all.size() / most];
    return some;
}

template <int D>
class ValueSearch {
  public:
    ValueSearch(const Planned<D>& s, const Samples<D>& samples, std::size_t signal,
                const std::vector<std::size_t>& poses)
        : s_(s),
          samples_(samples),
          signal_(signal),
          probe_(static_cast<int>(giving_probe<D>(s.rig, signal))) {
        poses_ = evenly(poses, most_poses_tried);
        before_ = *errors_with(s.rig);
        const Value value = s.rig.signals[signal].gives;
        const bool is_angle = value == Value::slope || value == Value::wall_normal;
        seen_ = is_angle ? seen_degrees : seen_of_size * s.body_size;
    }

    std::vector<ValueCure> run() {
        if (before_.worst <= seen_) return {};
        read_after();
        another_probe();
        under_the_anchor();
        narrower();
        other_hits();
        finer();
        std::stable_sort(found_.begin(), found_.end(), [](const Found& a, const Found& b) {
            const bool a_spoils = a.cure.change.adds_missed + a.cure.change.adds_false > 0;
            const bool b_spoils = b.cure.change.adds_missed + b.cure.change.adds_false > 0;
            if (a_spoils != b_spoils) return b_spoils;
            return std::tuple(a.cure.high, a.cure.worst, a.rank) <
                   std::tuple(b.cure.high, b.cure.worst, b.rank);
        });
        std::vector<ValueCure> cures;
        for (Found& found : found_) {
            if (cures.size() < most_cures) cures.push_back(std::move(found.cure));
        }
        return cures;
    }

  private:
    struct Found {
        ValueCure cure;
        double rank = 0.0;
    };

    const Probe<D>& probe() const { return s_.rig.probes[static_cast<std::size_t>(probe_)]; }

    /// The errors with another rig; nothing if it has no value where the rig surveyed has one.
    std::optional<ErrorSpread> errors_with(const Rig<D>& rig) const {
        std::vector<std::optional<MountedRig<D>>> mounted(s_.facings.size());
        for (const std::size_t number : poses_) {
            const std::size_t facing = samples_.poses[number].facing;
            if (!mounted[facing])
                mounted[facing].emplace(rig, s_.level_of(facing), s_.facings[facing].stance,
                                        s_.situation(facing));
        }
        auto errors = made_together<double>(s_.sharing, poses_.size(), [&](std::size_t i) {
            s_.stop_if_asked();
            const SurveyPose<D>& pose = samples_.poses[poses_[i]];
            return value_error_at<D>(s_, rig, *mounted[pose.facing], pose, signal_).value_or(-1.0);
        });
        if (std::any_of(errors.begin(), errors.end(), [](double error) { return error < 0.0; }))
            return std::nullopt;
        return spread_of(std::move(errors));
    }

    std::optional<ErrorSpread> errors_with(const ProvenCause<D>& cause) const {
        auto rig = with_change<D>(s_.rig, cause);
        if (!rig) return std::nullopt;
        try {
            check(*rig);
            return errors_with(*rig);
        } catch (const InvalidInput&) {
            return std::nullopt;
        }
    }

    /// Whether errors are so much less that a change is worth telling.
    bool is_better(const ErrorSpread& after) const {
        if (after.high > before_.high + seen_ || after.worst > before_.worst + seen_) return false;
        return after.high < part_left * before_.high - seen_ ||
               (after.high <= before_.high && after.worst < part_left * before_.worst - seen_);
    }

    void offer(const ProvenCause<D>& cause) {
        const auto after = errors_with(cause);
        if (!after || !is_better(*after)) return;
        Found& found = found_.emplace_back();
        found.rank = cause.rank;
        describe<D>(s_.level, s_.rig, cause, found.cure.change);
        found.cure.median = after->median;
        found.cure.high = after->high;
        found.cure.worst = after->worst;
        price(cause, found.cure.change);
    }

    /// What the change does to verdicts.
    void price(const ProvenCause<D>& cause, CauseReport& report) const {
        std::vector<std::size_t> all(samples_.poses.size());
        for (std::size_t i = 0; i < all.size(); ++i) all[i] = i;
        const std::vector<std::size_t> some = evenly(std::move(all), most_priced);
        std::vector<Alternative<D>> rigs;
        for (std::size_t facing = 0; facing < s_.facings.size(); ++facing)
            rigs.emplace_back(s_, facing, cause);
        const auto on = made_together<SignalSet>(s_.sharing, some.size(), [&](std::size_t i) {
            s_.stop_if_asked();
            const SurveyPose<D>& pose = samples_.poses[some[i]];
            return rigs[pose.facing].signals_on(pose);
        });
        const double weight = static_cast<double>(samples_.poses.size()) / static_cast<double>(some.size());
        std::array<double, 3> counts{};  // cured, missed, false
        for (std::size_t i = 0; i < some.size(); ++i) {
            SurveyPose<D> after = samples_.poses[some[i]];
            const SurveyPose<D> before = after;
            after.signals_on = on[i];
            for (std::size_t signal = 0; signal < s_.rig.signals.size(); ++signal) {
                const Verdict was = before.verdict(signal);
                const Verdict is = after.verdict(signal);
                if (!s_.rig.signals[signal].claims || was == is) continue;
                if (is == Verdict::missed_contact) counts[1] += weight;
                if (is == Verdict::false_contact) counts[2] += weight;
                if (was == Verdict::missed_contact || was == Verdict::false_contact) counts[0] += weight;
            }
        }
        report.cures_elsewhere = static_cast<std::size_t>(std::llround(counts[0]));
        report.adds_missed = static_cast<std::size_t>(std::llround(counts[1]));
        report.adds_false = static_cast<std::size_t>(std::llround(counts[2]));
        report.tried = some.size();
        report.of = samples_.poses.size();
    }

    void read_after() {
        if (s_.ticks_before > 0) offer({CauseKind::stale, ReadAfter{}, 0.0, rank::read_early});
    }

    /// Another probe of the signal.
    void another_probe() {
        const ReadingSet members = s_.mounted.front().signals[signal_].members().readings;
        for (std::size_t i = 0; i < s_.rig.probes.size(); ++i) {
            if (static_cast<int>(i) == probe_ || (members & s_.mounted.front().bits_about(i)).none())
                continue;
            offer({CauseKind::other_probe,
                   SetChoice{{-1, -1, signal_, "gives.from", -1}, s_.rig.probes[i].name}, 0.0,
                   rank::another_probe});
        }
    }

    /// Its start moved under or over the anchor, no farther than helps.
    void under_the_anchor() {
        if (!probe().is_line()) return;
        Vec<D> aside = probe().line().from;
        aside[1] = 0.0;
        const double all = aside.norm();
        if (all <= tolerance::accuracy * s_.body_size) return;
        const Vec<D> way = aside / -all;
        const auto moved = [&](double amount) {
            return ProvenCause<D>{CauseKind::aimed_beside, MoveStart<D>{probe_, amount * way, amount}, amount,
                                  rank::layer};
        };
        offer(moved(all));
    }

    /// As narrow as helps, in tenths of its width.
    void narrower() {
        if (probe().kind() != ProbeKind::cast) return;
        const Change<D> change = Narrow{probe_, 0.0};
        const double now = *file_value<D>(change, s_.rig, 0.0);
        std::optional<ProvenCause<D>> best;
        double least = infinity;
        for (int tenths = 9; tenths >= 1; --tenths) {
            const double value = roundest_between(now * (0.1 * tenths - 0.02), now * (0.1 * tenths + 0.02));
            const double amount = amount_for<D>(change, s_.rig, value);
            const ProvenCause<D> cause{CauseKind::wider_than_body, Narrow{probe_, amount}, amount,
                                       amount / s_.body_size};
            const auto after = errors_with(cause);
            if (!after || after->high >= least - seen_) continue;
            least = after->high;
            best = cause;
        }
        if (best) offer(*best);
    }

    /// Another of the hits there are.
    void other_hits() {
        const auto place = [&](std::string_view key, int part = -1) {
            return FieldPlace{probe_, -1, signal_, key, part};
        };
        if (!probe().is_line()) return;
        if (probe().line().take == Take::first)
            offer({CauseKind::first_hit_shadowed,
                   SetChoice{place("take"), static_cast<std::int64_t>(Take::all)}, 0.0, rank::first_hit});
        for (const IfInside other : {IfInside::report, IfInside::ignore, IfInside::against}) {
            if (other != probe().line().if_inside)
                offer({CauseKind::starts_inside,
                       SetChoice{place("if_inside"), static_cast<std::int64_t>(other)}, 0.0, rank::inside});
        }
        const double steepest = s_.rig.intent.steepest_footing_degrees;
        if (s_.rig.signals[signal_].claims == Claim::ground && probe().line().accept_most_degrees > steepest)
            offer({CauseKind::too_steep, SetNumber{place("accept.angle", 1), steepest},
                   probe().line().accept_most_degrees - steepest, rank::too_steep});
    }

    /// Twice as many lines in the same width.
    void finer() {
        if (!probe().is_line()) return;
        const Spread& spread = probe().line().spread;
        const bool is_row = spread.kind == SpreadKind::row;
        const int count = 2 * spread.count - 1;
        if ((!is_row && spread.kind != SpreadKind::ring) || count > most_lines) return;
        const auto place = [&](std::string_view key) { return FieldPlace{probe_, -1, signal_, key, -1}; };
        ProvenCause<D> cause{
            CauseKind::too_coarse,
            SetChoice{place(is_row ? "spread.row.count" : "spread.ring.count"), std::int64_t{count}}, 0.0,
            rank::count};
        // Where all lines are asked for all of them still are.
        if (spread.least == spread.count)
            cause.with = {{CauseKind::too_coarse, SetChoice{place("spread.least"), std::int64_t{count}}}};
        offer(cause);
    }

    const Planned<D>& s_;
    const Samples<D>& samples_;
    std::size_t signal_;
    int probe_;
    std::vector<std::size_t> poses_;
    ErrorSpread before_;
    double seen_ = 0.0;
    std::vector<Found> found_;
};

}  // namespace

ErrorSpread spread_of(std::vector<double> errors) {
    if (errors.empty()) return {};
    std::sort(errors.begin(), errors.end());
    const auto at = [&](double part) {
        return errors[static_cast<std::size_t>(std::ceil(part * static_cast<double>(errors.size())) - 1.0)];
    };
    return {at(0.5), at(0.95), errors.back()};
}

template <int D>
std::vector<ValueCure> value_cures(const Planned<D>& planned, const Samples<D>& samples, std::size_t signal,
                                   const std::vector<std::size_t>& poses) {
    return ValueSearch<D>(planned, samples, signal, poses).run();
}

template std::vector<ValueCure> value_cures<2>(const Planned<2>&, const Samples<2>&, std::size_t,
                                               const std::vector<std::size_t>&);
template std::vector<ValueCure> value_cures<3>(const Planned<3>&, const Samples<3>&, std::size_t,
                                               const std::vector<std::size_t>&);

}  // namespace hollow_probe
