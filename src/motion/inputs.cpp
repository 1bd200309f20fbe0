#include "motion/inputs.hpp"

#include <algorithm>
#include <cmath>

namespace hollow_probe {
namespace {

/// Times this close, in ticks or frames, are the same.
constexpr double same = 1e-6;

}  // namespace

template <int D>
Inputs<D>::Inputs(const Drill<D>& drill) : drill_(drill), cues_(drill.cues) {
    constexpr std::size_t most_keys = 32;
    for (Cue<D>& cue : cues_) cue.at += drill.phase / drill.tick_rate;
    std::stable_sort(cues_.begin(), cues_.end(),
                     [](const Cue<D>& a, const Cue<D>& b) { return a.at < b.at; });
    const bool by_frame = drill.sampled == Sampled::on_frame && drill.frame_rate > 0.0;
    const double rate = by_frame ? drill.frame_rate : drill.tick_rate;
    for (const Cue<D>& cue : cues_) {
        if (cue.press.empty()) continue;
        auto key = std::find(keys_.begin(), keys_.end(), cue.press);
        if (key == keys_.end()) {
            if (keys_.size() == most_keys) throw InvalidInput("cues press more than 32 different keys");
            key = keys_.insert(key, cue.press);
        }
        presses_.push_back({std::ceil(cue.at * rate - same), static_cast<std::size_t>(key - keys_.begin())});
    }
}

template <int D>
Told<D> Inputs<D>::tell(std::size_t number, double seconds) {
    const bool by_frame = drill_.sampled == Sampled::on_frame && drill_.frame_rate > 0.0;
    shown_ = by_frame ? std::floor(seconds * drill_.frame_rate + same) : static_cast<double>(number);
    const double asked_at = by_frame ? shown_ / drill_.frame_rate : seconds;
    for (; next_ < cues_.size() && cues_[next_].at <= asked_at + same / drill_.tick_rate; ++next_) {
        const Cue<D>& cue = cues_[next_];
        if (cue.drive) {
            const double length = cue.drive->norm();
            told_.drive = length > 1.0 ? Vec<D>(*cue.drive / length) : *cue.drive;
        }
        if (cue.heading) told_.heading = &*cue.heading;
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

template class Inputs<2>;
template class Inputs<3>;

}  // namespace hollow_probe
