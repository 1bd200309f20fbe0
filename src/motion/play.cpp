#include "hollow_probe/motion/play.hpp"

#include <algorithm>
#include <cmath>

#include "hollow_probe/rig/touched.hpp"
#include "motion/body_mover.hpp"
#include "motion/figure_keeper.hpp"
#include "motion/inputs.hpp"
#include "motion/promises.hpp"
#include "motion/reactions.hpp"
#include "motion/stage_parts.hpp"
#include "motion/tick_truth.hpp"

namespace hollow_probe {
namespace {

/// Where a body begins, everything in the level being where it is at time 0.
template <int D>
Actor<D> actor_at_start(StageParts<D>& stage, const Drill<D>& drill) {
    stage.begin();
    Actor<D> actor{stage};
    actor.anchor = drill.at;
    actor.heading = level_heading<D>(drill.heading, stage.level.up());
    actor.stance = drill.stance.empty() ? 0 : stage.stance_number(drill.stance);
    return actor;
}

/// One drill being played.
template <int D>
class Playing {
  public:
    Playing(StageParts<D>& stage, const Drill<D>& drill, const PlayOptions<D>& options)
        : stage_(stage),
          drill_(drill),
          options_(options),
          tick_seconds_(1.0 / drill.tick_rate),
          actor_(actor_at_start(stage, drill)),
          wanted_stance_(actor_.stance),
          memory_(stage.mounted.front().memory()),
          readings_(stage.rig.probes.size()),
          inputs_(drill),
          reactions_(actor_, drill, readings_),
          mover_(actor_, drill, readings_),
          truth_(actor_, readings_),
          keeper_(stage.rig, drill, stage.level.up()),
          promises_(drill, stage.level, stage.rig) {
        for (const Cue<D>& cue : drill.cues) require_known(cue);
        for (const OnLayer& on : drill.motion.on) {
            const auto& layers = stage.level.layers();
            if (std::find(layers.begin(), layers.end(), on.layer) == layers.end())
                throw InvalidInput("motion.on: the level has no layer '" + on.layer + "'");
        }
    }

    DrillRecord<D> run() {
        DrillRecord<D> record;
        record.keys = inputs_.keys();
        record.start = begin();
        const auto ticks = static_cast<std::size_t>(std::ceil(drill_.seconds / tick_seconds_ - 1e-9));
        if (options_.keep_ticks) record.ticks.reserve(ticks);
        record.moving = moving_solids();
        for (std::size_t number = 0; number < ticks; ++number) {
            record.last = tick(number);
            promises_.watch(record.last, keeper_.figures);
            if (options_.keep_ticks) {
                record.ticks.push_back(record.last);
                for (const std::uint32_t solid : record.moving)
                    record.offsets.push_back(stage_.shifting->offset(solid));
            }
            if (options_.keep_readings)
                record.readings.insert(record.readings.end(), readings_.begin(), readings_.end());
        }
        keeper_.finish();
        keeper_.figures.lost_presses = inputs_.lost();
        keeper_.figures.double_presses = inputs_.doubled();
        record.figures = keeper_.figures;
        record.broken = promises_.conclude(record.last, record.figures);
        record.nearness = promises_.nearness(record.figures);
        return record;
    }

    /// Reads the rig once where the body starts.
    TickRecord<D> begin() {
        TickRecord<D> start;
        read(actor_.anchor, 0, 0.0);
        TickFacts facts;
        fill(start, facts);
        keeper_.begin(start);
        return start;
    }

    void give(Cue<D> cue) {
        require_known(cue);
        inputs_.add(std::move(cue));
    }

    [[nodiscard]] const std::vector<Reading<D>>& readings() const { return readings_; }

    [[nodiscard]] std::vector<std::uint32_t> moving_solids() const {
        std::vector<std::uint32_t> moving;
        if (!stage_.shifting) return moving;
        const auto& solids = stage_.level.solids();
        for (std::uint32_t i = 0; i < solids.size(); ++i) {
            const bool loose =
                std::any_of(drill_.loose.begin(), drill_.loose.end(),
                            [&](const LooseSolid& thing) { return thing.solid == solids[i].name; });
            if (loose || solids[i].path) moving.push_back(i);
        }
        return moving;
    }

    TickRecord<D> tick(std::size_t number) {
        const double seconds = static_cast<double>(number) * tick_seconds_;
        const Told<D> told = inputs_.tell(number, seconds);
        TickRecord<D> record;
        TickFacts facts;
        facts.ground_before = truth_.ground().on;
        hear(told, facts);
        const Going going = going_now();
        facts.top_speed = going.top_speed;
        reactions_.plan(signals_on_, going);
        const bool before_move = actor_.mounted().reads_before_move();
        // A jump that is asked for is no event; one that is given is.
        const std::uint64_t jump_event = actor_.mounted().event("jump");
        const std::uint64_t heard = told.events(actor_.mounted()) & ~jump_event;
        if (before_move) read(actor_.anchor, heard, tick_seconds_);
        const bool asked = told.pressed("jump");
        bool jump = asked && !stage_.gates_jumps;
        ChosenReflexes chosen = reactions_.react(signals_on_, asked, jump);
        if (options_.reflex) {
            ReflexCall<D> call{seconds,   actor_.anchor, actor_.velocity, actor_.drive, signals_on_,
                               readings_, jump};
            options_.reflex(call);
        }
        facts.jump_refused = asked && !jump;
        chosen.jumped = jump;
        const Vec<D>& up = actor_.up();
        if (jump) actor_.velocity += (drill_.motion.jump_speed - actor_.velocity.dot(up)) * up;
        const Vec<D> before = actor_.anchor;
        mover_.move(number, chosen, going, truth_.ground().piece, facts);
        const std::uint64_t given = jump ? jump_event : 0;
        if (before_move) {
            contacts_ = felt();
            late_events_ = given;
        } else {
            read(before, heard | given, tick_seconds_);
        }
        record.seconds = seconds + tick_seconds_;
        record.pressed = told.keys;
        record.jumped = jump;
        record.tunnelled = facts.tunnelled;
        fill(record, facts);
        keeper_.take(record, facts);
        return record;
    }

  private:
    void require_known(const Cue<D>& cue) const {
        if (!cue.stance.empty()) (void)stage_.stance_number(cue.stance);
        if (!cue.press.empty()) require_known(cue.press);
    }

    void require_known(const std::string& key) const {
        std::string known;
        for (const std::string& name : keys_of<D>(stage_.rig)) {
            if (name == key) return;
            known += (known.empty() ? "\"" : ", \"") + name + "\"";
        }
        throw InvalidInput("press: the rig knows no \"" + key + "\", expected " + known);
    }

    /// A game goes by what its rig remembers; one whose rig claims no ground, by the ground itself.
    [[nodiscard]] Going going_now() const {
        const auto& signals = stage_.rig.signals;
        const bool remembers = std::any_of(signals.begin(), signals.end(), [](const Signal& signal) {
            return signal.claims == Claim::ground;
        });
        const auto piece = truth_.ground().piece;
        const std::string* const layer =
            piece ? &stage_.level.layers()[actor_.level().layer_of(*piece)] : nullptr;
        return going_of(drill_.motion, remembers ? memory_.grounded : truth_.ground().on, layer);
    }

    void hear(const Told<D>& told, TickFacts& facts) {
        const Vec<D>& up = actor_.up();
        actor_.drive = reactions_.way_of_drive() * told.drive;
        if (drill_.motion.gravity > 0.0) actor_.drive = actor_.across_up(actor_.drive);
        if (drill_.motion.turns) {
            const Vec<D> level_drive = actor_.across_up(actor_.drive);
            if (level_drive.norm() > 1e-9) mover_.turn(level_drive.normalized(), facts);
        } else if (told.heading != nullptr) {
            mover_.turn(level_heading<D>(*told.heading, up), facts);
        }
        if (!told.stance.empty()) wanted_stance_ = stage_.stance_number(told.stance);
        if (wanted_stance_ == actor_.stance || reactions_.refuses(wanted_stance_, signals_on_)) return;
        actor_.stance = wanted_stance_;
        actor_.aim();
        // A reading of another stance is of no meaning.
        std::fill(readings_.begin(), readings_.end(), Reading<D>{});
    }

    void read(const Vec<D>& before, std::uint64_t events, double seconds) {
        MountedRig<D>& rig = actor_.mounted();
        const Situation<D> now{actor_.heading, actor_.velocity, actor_.drive, memory_.grounded};
        actor_.grounded = memory_.grounded;
        actor_.aim();
        if (!rig.reads_before_move()) contacts_ = felt();
        const Tick<D> tick{actor_.anchor, before, seconds, events | late_events_, contacts_};
        signals_on_ = rig.tick(actor_.level(), tick, memory_, readings_);
        truth_.look_before_move(before, now, signals_on_);
        late_events_ = 0;
    }

    [[nodiscard]] std::vector<MoveContact<D>> felt() const {
        if (!stage_.feels_contacts) return {};
        return touched_by<D>(actor_.level(), actor_.mounted(), actor_.anchor, actor_.intent().touch);
    }

    void fill(TickRecord<D>& record, TickFacts& facts) {
        record.anchor = actor_.anchor;
        record.velocity = actor_.velocity;
        record.heading = actor_.heading;
        record.drive = actor_.drive;
        record.stance = actor_.stance;
        record.signals_on = signals_on_;
        for (std::size_t i = 0; i < readings_.size(); ++i) record.probes_on.put(i, readings_[i].on);
        truth_.look(record, facts);
    }

    StageParts<D>& stage_;
    const Drill<D>& drill_;
    const PlayOptions<D>& options_;
    double tick_seconds_;
    Actor<D> actor_;
    std::size_t wanted_stance_;
    RigMemory memory_;
    std::vector<Reading<D>> readings_;
    std::vector<MoveContact<D>> contacts_;  // of the last move, if the rig asks
    SignalSet signals_on_;
    std::uint64_t late_events_ = 0;  // that a rig which reads before the move has not heard of yet
    Inputs<D> inputs_;
    Reactions<D> reactions_;
    BodyMover<D> mover_;
    TickTruth<D> truth_;
    FigureKeeper<D> keeper_;
    Promises<D> promises_;
};

}  // namespace

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
    return parts_->stage.shifting ? parts_->stage.shifting->offset(solid) : Vec<D>(Vec<D>::Zero());
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
