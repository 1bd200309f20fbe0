#include "motion/forgiven_ticks.hpp"

#include <cmath>

#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {

ForgivenTicks::ForgivenTicks(const Forgiveness& forgive, double tick_seconds) {
    const auto ticks = [&](double seconds) {
        return static_cast<std::size_t>(std::floor(seconds / tick_seconds + tolerance::tick));
    };
    late_ = ticks(forgive.late);
    early_ = ticks(forgive.early);
    after_take_off_ = forgive.after_take_off > 0.0 ? ticks(forgive.after_take_off) + 1 : 0;
}

void ForgivenTicks::count(const Waiting& wrong, SignalFigures& figures) {
    ++(wrong.on ? figures.false_ticks : figures.missed_ticks);
    std::optional<std::size_t>& first = wrong.on ? figures.first_false : figures.first_missed;
    if (!first) first = wrong.number;
}

void ForgivenTicks::take(const ToldTick& tick, SignalFigures& figures) {
    if (tick.jumped) last_jump_ = number_;
    last_with_[tick.truth ? 1 : 0] = number_;
    // What was said of this truth before it came.
    while (!waiting_.empty() && waiting_.front().number + early_ < number_) {
        count(waiting_.front(), figures);
        waiting_.pop_front();
    }
    std::erase_if(waiting_, [&](const Waiting& wrong) {
        if (wrong.on != tick.truth) return false;
        ++figures.forgiven_ticks;
        return true;
    });
    if (tick.on != tick.truth) {
        const std::size_t last = last_with_[tick.on ? 1 : 0];
        const bool late = last != none && number_ - last <= late_;
        const bool off_at_take_off =
            tick.about_ground && !tick.on && last_jump_ != none && number_ - last_jump_ < after_take_off_;
        if (tick.undecided) {
            ++figures.undecided_ticks;
        } else if (late || off_at_take_off || tick.held) {
            ++figures.forgiven_ticks;
        } else if (early_ > 0) {
            waiting_.push_back({number_, tick.on});
        } else {
            count({number_, tick.on}, figures);
        }
    }
    ++number_;
}

void ForgivenTicks::finish(SignalFigures& figures) {
    for (const Waiting& wrong : waiting_) count(wrong, figures);
    waiting_.clear();
}

}  // namespace hollow_probe
