#include "motion/figure_keeper.hpp"

#include <algorithm>
#include <cmath>

namespace hollow_probe {

template <int D>
FigureKeeper<D>::FigureKeeper(const Rig<D>& rig, const Drill<D>& drill, const Vec<D>& up)
    : up_(up),
      tick_seconds_(1.0 / drill.tick_rate),
      forgive_(rig.intent.forgive),
      forgiven_(rig.signals.size(), ForgivenTicks(rig.intent.forgive, 1.0 / drill.tick_rate)),
      gravity_(drill.motion.gravity),
      jump_speed_(drill.motion.jump_speed),
      pending_(rig.signals.size()) {
    for (const Signal& signal : rig.signals) {
        SignalFigures& its = figures.signals.emplace_back();
        its.name = signal.name;
        its.claims = signal.claims;
    }
}

template <int D>
void FigureKeeper<D>::begin(const TickRecord<D>& start) {
    before_ = start;
    if (start.on_ground) {
        off_ground_ = 0.0;
        on_ground_ = 1e300;  // for as long as one likes
    }
    left_ground_at_ = up_.dot(start.anchor);
    // Signals that do not say yet what is true already are late, no more.
    for (std::size_t i = 0; i < pending_.size(); ++i)
        pending_[i].waits = (start.signals_on ^ start.truths_on).has(i);
}

template <int D>
void FigureKeeper<D>::take_signals(const TickRecord<D>& tick, const TickFacts& facts) {
    for (std::size_t i = 0; i < figures.signals.size(); ++i) {
        SignalFigures& its = figures.signals[i];
        const auto bit = [i](SignalSet set) { return set.has(i); };
        const bool on = bit(tick.signals_on);
        const bool truth = bit(tick.truths_on);
        const bool changed = on != bit(before_.signals_on);
        const bool truth_changed = truth != bit(before_.truths_on);
        forgiven_[i].take(
            {on, truth, bit(tick.undecided), bit(tick.held), its.claims == Claim::ground, tick.jumped}, its);
        its.changes += changed ? 1 : 0;
        Pending& pending = pending_[i];
        // The change that follows a change of truth late is latency, not flicker.
        const bool follows = pending.waits && changed && on == truth;
        its.flicker += changed && !truth_changed && !follows ? 1 : 0;
        if (truth_changed) pending = {on != truth, figures.ticks};
        if (pending.waits && on == truth) {
            std::size_t& latency = truth ? its.onset_latency : its.release_latency;
            latency = std::max(latency, figures.ticks - pending.since);
            pending.waits = false;
        }
        if (i < facts.value_errors.size()) its.value_error = std::max(its.value_error, facts.value_errors[i]);
    }
}

/// Above where it left the ground, and above what its speed then and a jump give.
template <int D>
void FigureKeeper<D>::take_climb(const TickRecord<D>& tick, const TickFacts& facts) {
    const double height = up_.dot(tick.anchor);
    if (tick.on_ground) {
        left_ground_at_ = height;
        take_off_ = std::max(0.0, up_.dot(tick.velocity) - gravity_ * tick_seconds_);
        return;
    }
    if (tick.jumped) take_off_ = std::max(take_off_, jump_speed_);
    if (!facts.on_steep) return;
    figures.climb = std::max(figures.climb, height - left_ground_at_ - rise_of(take_off_));
}

/// How high the integrator takes a body that moves up at `speed` in its first tick, gravity taking its part
/// before each further one.
template <int D>
double FigureKeeper<D>::rise_of(double speed) const {
    if (speed <= 0.0) return 0.0;
    if (gravity_ <= 0.0) return infinity;
    const double lost = gravity_ * tick_seconds_;
    const double ticks = std::floor(speed / lost) + 1.0;  // that lead up, or nowhere
    return tick_seconds_ * (ticks * speed - 0.5 * lost * ticks * (ticks - 1.0));
}

template <int D>
void FigureKeeper<D>::take_bumps(const TickRecord<D>& tick) {
    constexpr double window_seconds = 1.0 / 30.0;
    const auto window = static_cast<std::size_t>(std::max(1.0, std::round(window_seconds / tick_seconds_)));
    jumping_ = tick.jumped || (jumping_ && !tick.on_ground);
    if (jumping_) {
        heights_.clear();
        return;
    }
    heights_.push_back(up_.dot(tick.anchor));
    if (heights_.size() <= 2 * window) return;
    const double seconds = static_cast<double>(window) * tick_seconds_;
    const std::size_t last = heights_.size() - 1;
    const double acceleration =
        (heights_[last] - 2.0 * heights_[last - window] + heights_[last - 2 * window]) / (seconds * seconds);
    squared_ += acceleration * acceleration;
    figures.bumpiness = std::sqrt(squared_ / static_cast<double>(++accelerations_));
    if (heights_.size() > 64 * (window + 1))
        heights_.erase(heights_.begin(), heights_.end() - 2 * static_cast<std::ptrdiff_t>(window));
}

template <int D>
void FigureKeeper<D>::take_idling(const TickRecord<D>& tick, const TickFacts& facts, double rise) {
    // A body let go falls by more than this from one tick to the next but one.
    const double still = 0.01 * gravity_ * tick_seconds_ * tick_seconds_;
    const bool stays_up = gravity_ > 0.0 && !tick.on_ground && std::abs(rise) <= still;
    hovering_ = stays_up && tick.contacts == 0 ? hovering_ + tick_seconds_ : 0.0;
    clinging_ = stays_up && facts.on_steep && !tick.under_ceiling ? clinging_ + tick_seconds_ : 0.0;
    // The tick at an apex is no hovering.
    if (hovering_ > 1.5 * tick_seconds_) figures.hover_time = std::max(figures.hover_time, hovering_);
    if (clinging_ > 1.5 * tick_seconds_) figures.cling_time = std::max(figures.cling_time, clinging_);
    figures.lost_take_offs += took_off_ && up_.dot(tick.velocity) <= 0.0 && !tick.under_ceiling &&
                                      jump_speed_ > 2.0 * gravity_ * tick_seconds_
                                  ? 1
                                  : 0;
    took_off_ = tick.jumped;
    const bool idles = tick.on_ground && tick.drive.is_zero(0.0) && !tick.jumped && facts.carried_off.empty();
    if (!idles) {
        idle_at_.clear();
        return;
    }
    if (idle_at_.empty()) {
        // Whatever speed it was let go with is its own.
        const double slow = 0.1 * std::max(facts.top_speed, 10.0 * gravity_ * tick_seconds_) * tick_seconds_;
        if ((tick.anchor - before_.anchor).norm() > slow) return;
        idle_at_.assign(tick.anchor.data(), tick.anchor.data() + D);
    }
    Vec<D> off = tick.anchor;
    for (int axis = 0; axis < D; ++axis) off[axis] -= idle_at_[static_cast<std::size_t>(axis)];
    off -= off.dot(up_) * up_;  // it may settle
    figures.idle_drift = std::max(figures.idle_drift, off.norm());
}

template <int D>
void FigureKeeper<D>::take_drift(const TickFacts& facts) {
    if (facts.carried_off.empty()) {
        drifted_.clear();
        return;
    }
    drifted_.resize(facts.carried_off.size(), 0.0);
    double squared = 0.0;
    for (std::size_t axis = 0; axis < drifted_.size(); ++axis) {
        drifted_[axis] += facts.carried_off[axis];
        squared += drifted_[axis] * drifted_[axis];
    }
    figures.carried_drift = std::max(figures.carried_drift, std::sqrt(squared));
}

template <int D>
void FigureKeeper<D>::take_jumps(const TickRecord<D>& tick, const TickFacts& facts) {
    constexpr double rounding = 1e-9;
    figures.jumps += tick.jumped ? 1 : 0;
    const bool late_enough = off_ground_ <= forgive_.late + rounding;
    figures.unearned_jumps += tick.jumped && !facts.ground_before && !late_enough ? 1 : 0;
    const bool not_yet = on_ground_ < forgive_.late - rounding ||
                         (forgive_.after_take_off > 0.0 && since_jump_ <= forgive_.after_take_off + rounding);
    figures.refused_jumps += facts.jump_refused && facts.ground_before && !not_yet ? 1 : 0;
    since_jump_ = tick.jumped ? 0.0 : since_jump_ + tick_seconds_;
    off_ground_ = tick.on_ground ? 0.0 : off_ground_ + tick_seconds_;
    on_ground_ = tick.on_ground ? on_ground_ + tick_seconds_ : 0.0;
}

template <int D>
void FigureKeeper<D>::finish() {
    for (std::size_t i = 0; i < forgiven_.size(); ++i) forgiven_[i].finish(figures.signals[i]);
}

template <int D>
void FigureKeeper<D>::take(const TickRecord<D>& tick, const TickFacts& facts) {
    take_signals(tick, facts);
    const Vec<D> moved = tick.anchor - before_.anchor;
    const double rise = up_.dot(moved);
    take_bumps(tick);
    take_jumps(tick, facts);
    const bool hangs = !tick.on_ground && tick.under_ceiling && rise >= -1e-9;
    hanging_ = hangs ? hanging_ + tick_seconds_ : 0.0;
    figures.hang_time = std::max(figures.hang_time, hanging_);
    figures.deepest_clip = std::max(figures.deepest_clip, tick.clip);
    figures.crushed_ticks += facts.crushed ? 1 : 0;
    figures.endless_creeps += facts.endless_creeps;
    figures.tunnels += tick.tunnelled ? 1 : 0;
    figures.held_turns += facts.turn_held ? 1 : 0;
    take_drift(facts);
    take_climb(tick, facts);
    take_idling(tick, facts, rise);
    const double drive = tick.drive.norm();
    if (drive > 0.0 && facts.top_speed > 0.0) {
        const double covered = moved.dot(tick.drive) / drive;
        const double wanted = drive * facts.top_speed * tick_seconds_;
        covered_ += covered;
        wanted_ += wanted;
        figures.headway = covered_ / wanted_;
        stuck_ = covered < 0.01 * wanted ? stuck_ + tick_seconds_ : 0.0;
        figures.stuck_time = std::max(figures.stuck_time, stuck_);
        if (facts.stood_still && facts.wall_gap < infinity)
            figures.wall_gap = std::max(figures.wall_gap, facts.wall_gap);
    } else {
        stuck_ = 0.0;
    }
    ++figures.ticks;
    before_ = tick;
}

template class FigureKeeper<2>;
template class FigureKeeper<3>;

}  // namespace hollow_probe
