#include "motion/inputs.hpp"

#include <algorithm>
#include <cmath>

#include "geometry/random.hpp"

namespace hollow_probe {
namespace {

/// Times this close, in ticks or frames, are the same.
constexpr double same = 1e-6;

/// When each frame begins, until one that begins after the end. Empty: ticks are not told by frames.
template <int D>
std::vector<double> frames_of(const Drill<D>& drill) {
    std::vector<double> begins;
    if (drill.sampled != Sampled::on_frame) return begins;
    const double end = drill.seconds + 1.0 / drill.tick_rate;
    if (!drill.frame_lengths.empty()) {
        double begin = 0.0;
        for (std::size_t i = 0; begins.empty() || begins.back() <= end; ++i) {
            begins.push_back(begin);
            begin += drill.frame_lengths[i % drill.frame_lengths.size()];
        }
    } else if (drill.frame_rate > 0.0) {
        std::uint64_t state = drill.frame_seed;
        double late = 0.0;  // in frames, by what those before lasted longer
        for (std::size_t i = 0; begins.empty() || begins.back() <= end; ++i) {
            begins.push_back((static_cast<double>(i) + late) / drill.frame_rate);
            if (drill.frame_jitter == 0.0) continue;
            const double even = static_cast<double>(next_random(state) >> 11U) * 0x1p-53;
            late += drill.frame_jitter * (2.0 * even - 1.0);
        }
    }
    return begins;
}

}  // namespace

template <int D>
Inputs<D>::Inputs(const Drill<D>& drill) : drill_(drill), cues_(drill.cues), frames_(frames_of(drill)) {
    for (Cue<D>& cue : cues_) cue.at += drill.phase / drill.tick_rate;
    std::stable_sort(cues_.begin(), cues_.end(),
                     [](const Cue<D>& a, const Cue<D>& b) { return a.at < b.at; });
    for (const Cue<D>& cue : cues_) add_press(cue);
}

template <int D>
void Inputs<D>::add_press(const Cue<D>& cue) {
    constexpr std::size_t most_keys = 32;
    if (cue.press.empty()) return;
    auto key = std::find(keys_.begin(), keys_.end(), cue.press);
    if (key == keys_.end()) {
        if (keys_.size() == most_keys) throw InvalidInput("cues press more than 32 different keys");
        key = keys_.insert(key, cue.press);
    }
    presses_.push_back({shows_at(cue.at), static_cast<std::size_t>(key - keys_.begin())});
}

template <int D>
void Inputs<D>::add(Cue<D> cue) {
    add_press(cue);
    cues_.push_back(std::move(cue));
}

template <int D>
Told<D> Inputs<D>::tell(std::size_t number, double seconds) {
    shown_ = static_cast<double>(number);
    double asked_at = seconds;
    if (!frames_.empty()) {
        const auto next = std::upper_bound(frames_.begin(), frames_.end(), seconds + same / drill_.tick_rate);
        shown_ = static_cast<double>(next - frames_.begin()) - 1.0;
        asked_at = *(next - 1);
    }
    for (; next_ < cues_.size() && cues_[next_].at <= asked_at + same / drill_.tick_rate; ++next_) {
        const Cue<D>& cue = cues_[next_];
        if (cue.drive) {
            const double length = cue.drive->norm();
            told_.drive = length > 1.0 ? *cue.drive / length : *cue.drive;
        }
        if (cue.heading) {
            heading_ = *cue.heading;
            told_.heading = &heading_;
        }
        if (!cue.stance.empty()) told_.stance = cue.stance;
    }
    told_.keys = 0;
    told_.names = &keys_;
    for (Press& press : presses_) {
        if (press.number != shown_) continue;
        told_.keys |= std::uint32_t{1} << press.key;
        ++press.told;
    }
    return told_;
}

template <int D>
double Inputs<D>::shows_at(double seconds) const {
    if (frames_.empty()) return std::ceil(seconds * drill_.tick_rate - same);
    const auto frame = std::lower_bound(frames_.begin(), frames_.end(), seconds - same / drill_.tick_rate);
    return static_cast<double>(frame - frames_.begin());
}

template <int D>
std::size_t Inputs<D>::lost() const {
    return static_cast<std::size_t>(std::count_if(presses_.begin(), presses_.end(), [&](const Press& press) {
        return press.told == 0 && press.number < shown_;
    }));
}

template <int D>
std::size_t Inputs<D>::doubled() const {
    return static_cast<std::size_t>(
        std::count_if(presses_.begin(), presses_.end(), [](const Press& press) { return press.told > 1; }));
}

template <int D>
typename Inputs<D>::State Inputs<D>::keep() const {
    State state{cues_, next_, keys_, presses_, told_, {}, shown_};
    if (told_.heading != nullptr) state.heading = heading_;
    state.told.heading = nullptr;
    return state;
}

template <int D>
void Inputs<D>::go_back(const State& state) {
    cues_ = state.cues;
    next_ = state.next;
    keys_ = state.keys;
    presses_ = state.presses;
    told_ = state.told;
    told_.names = &keys_;
    if (state.heading) {
        heading_ = *state.heading;
        told_.heading = &heading_;
    }
    shown_ = state.shown;
}

template class Inputs<2>;
template class Inputs<3>;

}  // namespace hollow_probe
