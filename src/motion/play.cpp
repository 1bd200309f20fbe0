#include "hollow_probe/motion/play.hpp"

#include <algorithm>

#include "motion/playing.hpp"

namespace hollow_probe {

template <int D>
std::vector<std::string> keys_of(const Rig<D>& rig) {
    std::vector<std::string> keys = {"jump"};
    for (const Signal& signal : rig.signals) {
        const std::string& event = signal.mute_after.event;
        if (!event.empty() && std::find(keys.begin(), keys.end(), event) == keys.end()) keys.push_back(event);
    }
    return keys;
}

template <int D>
Stage<D>::Stage(const Level<D>& level, const Rig<D>& rig)
    : parts_(std::make_unique<StageParts<D>>(level, rig)) {}
template <int D>
Stage<D>::~Stage() = default;
template <int D>
Stage<D>::Stage(Stage&&) noexcept = default;
template <int D>
Stage<D>& Stage<D>::operator=(Stage&&) noexcept = default;

template <int D>
DrillRecord<D> Stage<D>::play(const Drill<D>& drill, const PlayOptions<D>& options) {
    check(drill);
    return Playing<D>(*parts_, drill, options).run();
}

template <int D>
struct OpenDrill<D>::Parts {
    /// Frames and promises are worked out for as long as a drill may be played.
    static constexpr std::size_t most_ticks = 10'000'000;

    Parts(const Level<D>& level, const Rig<D>& rig, Drill<D> of)
        : stage(level, rig),
          drill(std::move(of)),
          playing(stage, drill, options),
          moving(playing.moving_solids()) {
        last = playing.begin();
    }

    [[nodiscard]] double seconds(std::size_t count) const {
        return static_cast<double>(count) * (1.0 / drill.tick_rate);
    }

    StageParts<D> stage;
    Drill<D> drill;
    PlayOptions<D> options;
    Playing<D> playing;
    std::vector<std::uint32_t> moving;
    std::vector<Cue<D>> cues;
    TickRecord<D> last;
    std::size_t ticks = 0;
};

template <int D>
OpenDrill<D>::OpenDrill(const Level<D>& level, const Rig<D>& rig, Drill<D> drill) {
    constexpr double an_hour = 3600.0;
    drill.cues.clear();
    drill.phase = 0.0;
    // Frames are told for as long as anybody plays.
    drill.seconds = std::min(an_hour, static_cast<double>(Parts::most_ticks) / drill.tick_rate);
    check(drill);
    parts_ = std::make_unique<Parts>(level, rig, std::move(drill));
}
template <int D>
OpenDrill<D>::~OpenDrill() = default;
template <int D>
OpenDrill<D>::OpenDrill(OpenDrill&&) noexcept = default;
template <int D>
OpenDrill<D>& OpenDrill<D>::operator=(OpenDrill&&) noexcept = default;

template <int D>
void OpenDrill<D>::give(Cue<D> cue) {
    cue.at = parts_->seconds(parts_->ticks);
    parts_->playing.give(cue);
    parts_->cues.push_back(std::move(cue));
}

template <int D>
const TickRecord<D>& OpenDrill<D>::tick() {
    if (parts_->seconds(parts_->ticks) >= parts_->drill.seconds)
        throw InvalidInput("a drill is no longer than an hour, or 10 million ticks");
    parts_->last = parts_->playing.tick(parts_->ticks++);
    return parts_->last;
}

template <int D>
DrillMoment<D> OpenDrill<D>::keep() const {
    return {std::make_shared<const Moment<D>>(parts_->playing.keep(parts_->ticks)), parts_->cues,
            parts_->last, parts_->ticks};
}

template <int D>
void OpenDrill<D>::go_back(const DrillMoment<D>& moment) {
    parts_->playing.go_back(*moment.state);
    parts_->cues = moment.cues;
    parts_->last = moment.last;
    parts_->ticks = moment.ticks;
}

template <int D>
const TickRecord<D>& OpenDrill<D>::now() const {
    return parts_->last;
}
template <int D>
std::size_t OpenDrill<D>::ticks() const {
    return parts_->ticks;
}
template <int D>
std::span<const Reading<D>> OpenDrill<D>::readings() const {
    return parts_->playing.readings();
}
template <int D>
const std::vector<std::uint32_t>& OpenDrill<D>::moving() const {
    return parts_->moving;
}
template <int D>
Vec<D> OpenDrill<D>::offset(std::uint32_t solid) const {
    return parts_->stage.shifting ? parts_->stage.shifting->offset(solid) : Vec<D>::zero();
}
template <int D>
const Level<D>& OpenDrill<D>::level() const {
    return parts_->stage.level_now();
}

template <int D>
Drill<D> OpenDrill<D>::drill() const {
    Drill<D> drill = parts_->drill;
    drill.cues = parts_->cues;
    drill.seconds = parts_->seconds(std::max<std::size_t>(parts_->ticks, 1));
    return drill;
}

template <int D>
DrillRecord<D> play(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                    const PlayOptions<D>& options) {
    return Stage<D>(level, rig).play(drill, options);
}

template std::vector<std::string> keys_of<2>(const Rig<2>&);
template std::vector<std::string> keys_of<3>(const Rig<3>&);
template class OpenDrill<2>;
template class OpenDrill<3>;
template class Stage<2>;
template class Stage<3>;
template DrillRecord<2> play<2>(const Level<2>&, const Rig<2>&, const Drill<2>&, const PlayOptions<2>&);
template DrillRecord<3> play<3>(const Level<3>&, const Rig<3>&, const Drill<3>&, const PlayOptions<3>&);

}  // namespace hollow_probe
