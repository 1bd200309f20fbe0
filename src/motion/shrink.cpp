#include "motion/shrink.hpp"

#include <algorithm>
#include <cmath>

#include "hollow_probe/geometry/tolerances.hpp"
#include "verify/roundest.hpp"

namespace hollow_probe {
namespace {

template <int D>
class Shrinking {
  public:
    Shrinking(Stage<D>& stage, const Drill<D>& drill, const Broken& broken)
        : stage_(stage), best_(drill), broken_(broken) {
        options_.keep_ticks = false;
    }

    void run() {
        std::stable_sort(best_.cues.begin(), best_.cues.end(),
                         [](const Cue<D>& a, const Cue<D>& b) { return a.at < b.at; });
        cut_end();
        bool simpler = true;
        while (simpler && plays_ < most_plays) {
            simpler = take_out();
            simpler = wait_less() || simpler;
            simpler = end_sooner() || simpler;
            simpler = plain_drives() || simpler;
        }
        round_times();
    }

    Drill<D> best() const { return best_; }
    Broken broken() const { return broken_; }

  private:
    static constexpr std::size_t most_plays = 4000;

    bool take(const Drill<D>& drill) {
        if (plays_ >= most_plays) return false;
        ++plays_;
        const auto record = stage_.play(drill, options_);
        for (const Broken& broken : record.broken) {
            if (broken.expectation != broken_.expectation) continue;
            best_ = drill;
            broken_ = broken;
            return true;
        }
        return false;
    }

    [[nodiscard]] double tick() const { return 1.0 / best_.tick_rate; }

    /// The drill shorter, without the cues that come after.
    [[nodiscard]] Drill<D> until(double seconds) const {
        Drill<D> shorter = best_;
        shorter.seconds = seconds;
        std::erase_if(shorter.cues, [&](const Cue<D>& cue) { return cue.at >= seconds; });
        return shorter;
    }

    /// Nothing after the tick that breaks it matters.
    bool cut_end() {
        const double end = std::ceil(broken_.seconds * best_.tick_rate - tolerance::written_tick) * tick();
        return end < best_.seconds - 0.5 * tick() && take(until(end));
    }

    /// What shows only at the end may show at a sooner one.
    bool end_sooner() {
        bool any = cut_end();
        for (double ticks = std::floor(0.5 * best_.seconds * best_.tick_rate); ticks >= 1.0;) {
            const double end = best_.seconds - ticks * tick();
            if (end > 0.5 * tick() && take(until(end))) {
                any = true;
                cut_end();
            } else {
                ticks = std::floor(0.5 * ticks);
            }
        }
        return any;
    }

    /// Halves first, then ever smaller parts (A. Zeller, R. Hildebrandt, "Simplifying and isolating
    /// failure-inducing input", 2002).
    bool take_out() {
        bool any = false;
        for (std::size_t part = std::max<std::size_t>(best_.cues.size() / 2, 1);; part /= 2) {
            for (std::size_t first = 0; first < best_.cues.size();) {
                Drill<D> fewer = best_;
                const auto begin = fewer.cues.begin() + static_cast<std::ptrdiff_t>(first);
                const auto left = static_cast<std::size_t>(fewer.cues.end() - begin);
                fewer.cues.erase(begin, begin + static_cast<std::ptrdiff_t>(std::min(part, left)));
                if (take(fewer)) {
                    any = true;
                    cut_end();
                } else {
                    first += part;
                }
            }
            if (part <= 1) return any;
        }
    }

    /// The time that passes before a cue, and the drill with it: all of it, half of it, and so on to a tick.
    bool wait_less() {
        bool any = false;
        for (std::size_t i = 0; i < best_.cues.size(); ++i) {
            for (double part = 1.0;;) {
                const double wait = best_.cues[i].at - (i == 0 ? 0.0 : best_.cues[i - 1].at);
                double less = part * wait;
                if (part < 1.0) less = std::floor(less * best_.tick_rate + tolerance::written_tick) * tick();
                if (less < (part < 1.0 ? 0.5 * tick() : 1e-9)) break;
                Drill<D> sooner = best_;
                // By rounding a time may come out below 0.
                for (std::size_t k = i; k < sooner.cues.size(); ++k)
                    sooner.cues[k].at = std::max(0.0, sooner.cues[k].at - less);
                sooner.seconds -= less;
                if (sooner.seconds > 0.5 * tick() && take(sooner)) {
                    any = true;
                    cut_end();
                    if (i >= best_.cues.size()) break;
                } else {
                    part *= 0.5;
                }
            }
        }
        return any;
    }

    /// Along one axis and full; else with few digits.
    bool plain_drives() {
        bool any = false;
        for (std::size_t i = 0; i < best_.cues.size(); ++i) {
            if (!best_.cues[i].drive || best_.cues[i].drive->is_zero(0.0)) continue;
            const Vec<D> now = *best_.cues[i].drive;
            const int axis = now.abs().largest_axis();
            std::vector<Vec<D>> plainer = {(now[axis] < 0.0 ? -1.0 : 1.0) * Vec<D>::unit(axis)};
            for (const double step : {0.5, 0.1, 0.01})
                plainer.push_back(step * Vec<D>::each([&](int k) { return std::round(now[k] / step); }));
            for (const Vec<D>& drive : plainer) {
                if (drive == now) break;
                if (drive.is_zero(0.0)) continue;
                Drill<D> changed = best_;
                changed.cues[i].drive = drive;
                if (!take(changed)) continue;
                any = true;
                break;
            }
        }
        return any;
    }

    /// Each time the roundest of those that come to the same tick.
    void round_times() {
        for (std::size_t i = 0; i < best_.cues.size(); ++i) {
            const double at = best_.cues[i].at;
            const double tick_before = std::ceil(at * best_.tick_rate - tolerance::written_tick) - 1.0;
            const double round = roundest_between(std::max(0.0, (tick_before + 0.01) * tick()), at);
            if (!(round < at)) continue;
            Drill<D> rounder = best_;
            rounder.cues[i].at = round;
            take(rounder);
        }
    }

    Stage<D>& stage_;
    Drill<D> best_;
    Broken broken_;
    PlayOptions<D> options_;
    std::size_t plays_ = 0;
};

}  // namespace

template <int D>
Drill<D> shrunk(Stage<D>& stage, const Drill<D>& drill, Broken& broken) {
    Shrinking<D> shrinking(stage, drill, broken);
    shrinking.run();
    broken = shrinking.broken();
    return shrinking.best();
}

template Drill<2> shrunk<2>(Stage<2>&, const Drill<2>&, Broken&);
template Drill<3> shrunk<3>(Stage<3>&, const Drill<3>&, Broken&);

}  // namespace hollow_probe
