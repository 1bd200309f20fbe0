// One wrong verdict, and which changes flip it.
#pragma once

#include "verify/alternatives.hpp"

namespace hollow_probe {

/// What the rules of single causes ask, and whom they offer changes to. A rule is asked for each probe that
/// is mounted and could make the verdict right by being the other way, and once for the signal.
template <int D>
class CauseSearch {
  public:
    CauseSearch(Alternatives<D>& alternatives, const SurveyPose<D>& pose, std::size_t signal);

    /// Single changes, likeliest first.
    std::vector<ProvenCause<D>> singles();
    /// The solid missed, or that which the first probe that is on falsely takes for a contact; -1: none.
    [[nodiscard]] int solid() const;
    /// Two changes, else three.
    std::optional<ProvenCause<D>> combined();

    // The verdict.
    [[nodiscard]] bool missed() const { return missed_; }
    [[nodiscard]] Claim claim() const { return claim_; }
    [[nodiscard]] std::size_t signal_number() const { return signal_; }
    [[nodiscard]] const Signal& signal() const { return rig().signals[signal_]; }
    [[nodiscard]] const SurveyPose<D>& pose() const { return pose_; }
    [[nodiscard]] const Facing<D>& facing() const { return facing_; }
    /// What holds there, with where it is; of missed contacts alone.
    [[nodiscard]] const TruthAnswer<D>& truth() const { return truth_; }
    [[nodiscard]] const Solid<D>& solid_of(std::uint32_t piece) const {
        return level_.solids()[level_.solid_of(piece)];
    }

    // The rig.
    [[nodiscard]] const Rig<D>& rig() const { return s_.rig; }
    [[nodiscard]] const Intent& intent() const { return s_.rig.intent; }
    [[nodiscard]] const Level<D>& level() const { return level_; }
    [[nodiscard]] const MountedRig<D>& mounted() const { return mounted_; }
    [[nodiscard]] const RoundedHull<D>& stance() const { return s_.rig.body.stances[facing_.stance].shape; }
    [[nodiscard]] bool remembers() const { return s_.ticks_before > 0; }
    /// The body's size: what amounts are measured by.
    [[nodiscard]] double unit() const { return unit_; }

    // The probe looked at.
    [[nodiscard]] int probe_number() const { return probe_; }
    [[nodiscard]] const Probe<D>& probe() const { return rig().probes[static_cast<std::size_t>(probe_)]; }
    [[nodiscard]] const MountedProbe<D>& mounted_probe() const {
        return mounted_.probes[static_cast<std::size_t>(probe_)];
    }
    [[nodiscard]] const Reading<D>& reading() const { return reading_; }
    /// It should be on, and is off.
    [[nodiscard]] bool too_little() const { return should_be_on_ && !reading_.on; }
    /// It is on, as it should be, but what the signal asks of its reading is not met.
    [[nodiscard]] bool refused() const { return should_be_on_ && reading_.on; }
    [[nodiscard]] bool too_much() const { return !should_be_on_; }
    [[nodiscard]] bool is_line() const { return mounted_probe().is_line(); }
    [[nodiscard]] bool is_zone() const { return probe().kind() == ProbeKind::zone; }
    [[nodiscard]] bool is_shift() const { return probe().kind() == ProbeKind::shift; }
    [[nodiscard]] bool is_contact() const { return probe().kind() == ProbeKind::contact; }
    /// A zone that is off for what it remembers, not for what is in it.
    [[nodiscard]] bool is_latched_off() const {
        return is_zone() && probe().zone().keeps != Keeps::set && reading_.met && !reading_.on;
    }
    /// Whether it hit a piece of the level.
    [[nodiscard]] bool hit_level() const { return reading_.met && !reading_.own_body; }
    [[nodiscard]] double hit_angle() const {
        return degrees(angle_between<D>(reading_.hit.normal, level_.up()));
    }
    /// … and from the way back along its line.
    [[nodiscard]] double hit_incidence() const;
    /// Its line's direction, and the way from its start to where the truth is, across that line; body
    /// coordinates.
    [[nodiscard]] Vec<D> along() const;
    [[nodiscard]] Vec<D> aside_to_truth() const;
    /// What of the shape, or the start, lies farther out than the stance.
    [[nodiscard]] Bounds<D> stance_bounds() const { return stance().bounds(); }

    // Places of fields.
    [[nodiscard]] FieldPlace of_probe(std::string_view key, int part = -1) const {
        return {probe_, -1, signal_, key, part};
    }
    [[nodiscard]] FieldPlace of_signal(std::string_view key) const { return {-1, -1, signal_, key, -1}; }
    [[nodiscard]] static FieldPlace of_condition(std::size_t number, std::string_view key, int part = -1) {
        return {-1, static_cast<int>(number), 0, key, part};
    }
    /// Calls visit(number, condition) for the conditions on the probe looked at.
    template <class Visit>
    void for_each_condition(Visit visit) const {
        for (std::size_t i = 0; i < mounted_.conditions.size(); ++i) {
            if (mounted_.conditions[i].probe == static_cast<std::size_t>(probe_))
                visit(i, mounted_.conditions[i]);
        }
    }
    /// A reach of the present situation as the rig file states it.
    [[nodiscard]] ProvenCause<D> with_reach(CauseKind kind, double reach, double rank) const;

    /// Whether these changes make the signal right.
    [[nodiscard]] bool flips(const ProvenCause<D>& cause) const;
    /// What the changed probe reads then. The change is one that is the same wherever it is asked about.
    [[nodiscard]] Reading<D> reading_with(const ProvenCause<D>& cause) const;
    /// Names the cause if its change flips the verdict.
    void offer(ProvenCause<D> cause);
    void offer(CauseKind kind, Change<D> change, double rank, double by = 0.0) {
        offer(ProvenCause<D>{kind, std::move(change), by, rank});
    }
    /// … without a change, or seen to flip it already.
    void name(ProvenCause<D> cause) { causes_.push_back(std::move(cause)); }
    [[nodiscard]] bool none_named() const { return causes_.empty(); }
    /// The least `amount` in (0, most] for which `make(amount)` flips, if some does: a coarse scan finds a
    /// flip, bisection its border, at once where that is `likely`. Up to `futile` none does.
    template <class Make>
    [[nodiscard]] std::optional<ProvenCause<D>> least(double most, Make make, double likely = 0.0,
                                                      double futile = 0.0) const {
        constexpr int steps = 8;
        const double exact = 1e-8 * most;
        std::optional<Alternative<D>> changed;
        const auto flips_at = [&](double amount) {
            const ProvenCause<D> cause = make(amount);
            if (!changed || !changed->takes(cause)) changed.emplace(s_, pose_.facing, cause);
            return is_right_with(*changed);
        };
        double low = 0.0;
        for (int i = 1; i <= steps; ++i) {
            double high = most * i / steps;
            if (high <= futile || !flips_at(high)) {
                low = high;
                continue;
            }
            const auto halve_at = [&](double middle) {
                if (middle > low && middle < high) (flips_at(middle) ? high : low) = middle;
            };
            halve_at(likely + 0.4 * exact);
            if (high <= likely + 0.4 * exact) halve_at(likely - 0.4 * exact);
            while (high - low > exact) halve_at(0.5 * (low + high));
            return make(high);
        }
        return std::nullopt;
    }
    template <class Make>
    void offer_least(double most, Make make, double likely = 0.0, double futile = 0.0) {
        if (!(most > 0.0)) return;
        if (auto found = least(most, make, likely, futile)) name(std::move(*found));
    }

  private:
    [[nodiscard]] bool is_right_with(const Alternative<D>& changed) const {
        return changed.signals_on(pose_, way_).has(signal_) == missed_;
    }
    void look_at(std::size_t probe);
    ProvenCause<D> least_of(ProvenCause<D> combined) const;

    /// Changes as bold as can be, for combining.
    std::vector<ProvenCause<D>> bold();
    void look_boldly_at(std::size_t probe, std::vector<ProvenCause<D>>& list);
    void bolder(std::vector<ProvenCause<D>>& list) const;
    void more_timid(std::vector<ProvenCause<D>>& list) const;

    Alternatives<D>& alternatives_;
    const Planned<D>& s_;
    const SurveyPose<D>& pose_;
    Way<D> way_;  // on which the body came
    const Facing<D>& facing_;
    const MountedRig<D>& mounted_;
    const Level<D>& level_;
    std::size_t signal_;
    Claim claim_;
    bool missed_;
    double unit_;
    TruthAnswer<D> truth_;
    std::vector<Reading<D>> readings_;
    int probe_ = -1;  // looked at; -1: the signal itself
    bool should_be_on_ = false;
    Reading<D> reading_;
    std::vector<ProvenCause<D>> causes_;
};

}  // namespace hollow_probe
