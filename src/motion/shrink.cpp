#include "motion/shrink.hpp"

#include <algorithm>
#include <cmath>

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
            simpler = begin_sooner() || simpler;
            simpler = round_times() || simpler;
            simpler = plain_drives() || simpler;
            cut_end();
        }
    }

    Drill<D> best() const { return best_; }
    Broken broken() const { return broken_; }

  private:
    static constexpr std::size_t most_plays = 2000;

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

    /// Nothing after the tick that breaks it matters; figures that show only at the end need it all.
    void cut_end() {
        const auto kind = best_.expectations[broken_.expectation].kind;
        if (kind == Expectation::Kind::least) return;
        const double end = std::ceil(broken_.seconds * best_.tick_rate - 1e-6) / best_.tick_rate;
        Drill<D> shorter = best_;
        shorter.seconds = end;
        std::erase_if(shorter.cues, [&](const Cue<D>& cue) { return cue.at >= end; });
        if (end < best_.seconds || shorter.cues.size() < best_.cues.size()) take(shorter);
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
                } else {
                    first += part;
                }
            }
            if (part <= 1) return any;
        }
    }

    /// All cues by the time that passes before the first, and half of what passes between two.
    bool begin_sooner() {
        bool any = false;
        // Times made round may have changed places.
        std::stable_sort(best_.cues.begin(), best_.cues.end(),
                         [](const Cue<D>& a, const Cue<D>& b) { return a.at < b.at; });
        for (std::size_t i = 0; i < best_.cues.size(); ++i) {
            const double before = i == 0 ? 0.0 : best_.cues[i - 1].at;
            for (const double part : {1.0, 0.5}) {
                const double by = part * (best_.cues[i].at - before);
                if (by < 0.5 / best_.tick_rate) break;
                Drill<D> sooner = best_;
                for (std::size_t k = i; k < sooner.cues.size(); ++k) sooner.cues[k].at -= by;
                if (!take(sooner)) continue;
                any = true;
                break;
            }
        }
        return any;
    }

    bool round_times() {
        bool any = false;
        for (std::size_t i = 0; i < best_.cues.size(); ++i) {
            for (const double step : {1.0, 0.5, 0.1, 0.05, 0.01}) {
                const double at = std::round(best_.cues[i].at / step) * step;
                if (std::abs(at - best_.cues[i].at) < 1e-9) break;
                Drill<D> rounder = best_;
                rounder.cues[i].at = at;
                if (!take(rounder)) continue;
                any = true;
                break;
            }
        }
        return any;
    }

    bool plain_drives() {
        bool any = false;
        for (std::size_t i = 0; i < best_.cues.size(); ++i) {
            if (!best_.cues[i].drive || best_.cues[i].drive->isZero(0.0)) continue;
            int axis = 0;
            best_.cues[i].drive->cwiseAbs().maxCoeff(&axis);
            const Vec<D> plain = ((*best_.cues[i].drive)[axis] < 0.0 ? -1.0 : 1.0) * Vec<D>::Unit(axis);
            if (plain == *best_.cues[i].drive) continue;
            Drill<D> plainer = best_;
            plainer.cues[i].drive = plain;
            any = take(plainer) || any;
        }
        return any;
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
