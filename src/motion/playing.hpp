// One drill being played: tick by tick, from any moment that was kept.
#pragma once

#include <algorithm>
#include <cmath>

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/rig/touched.hpp"
#include "motion/body_mover.hpp"
#include "motion/figure_keeper.hpp"
#include "motion/inputs.hpp"
#include "motion/promises.hpp"
#include "motion/reactions.hpp"
#include "motion/stage_parts.hpp"
#include "motion/tick_truth.hpp"

namespace hollow_probe {

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

/// All that a drill being played goes on from, but for what its level, rig and drill say.
template <int D>
struct Moment {
    std::size_t ticks = 0;
    Vec<D> anchor = Vec<D>::zero();
    Vec<D> velocity = Vec<D>::zero();
    Vec<D> heading = Vec<D>::zero();
    Vec<D> drive = Vec<D>::zero();
    std::size_t stance = 0;
    bool grounded = false;
    std::size_t wanted_stance = 0;
    RigMemory memory;
    std::vector<Reading<D>> readings;
    std::vector<MoveContact<D>> contacts;
    SignalSet signals_on;
    std::uint64_t late_events = 0;
    typename Inputs<D>::State inputs;
    typename Reactions<D>::State reactions;
    typename BodyMover<D>::State mover;
    typename TickTruth<D>::State truth;
    FigureKeeper<D> keeper;
    typename Promises<D>::State promises;
    /// For hunts: away from what is nearest beside the body, across up; zero where nothing is.
    Vec<D> beside = Vec<D>::zero();
};

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
        const auto ticks =
            static_cast<std::size_t>(std::ceil(drill_.seconds / tick_seconds_ - tolerance::tick));
        if (options_.keep_ticks) record.ticks.reserve(ticks);
        record.moving = moving_solids();
        for (std::size_t number = 0; number < ticks; ++number) {
            record.last = tick(number);
            watch(record.last);
            if (options_.keep_ticks) {
                record.ticks.push_back(record.last);
                for (const std::uint32_t solid : record.moving)
                    record.offsets.push_back(stage_.shifting->offset(solid));
            }
            if (options_.keep_readings)
                record.readings.insert(record.readings.end(), readings_.begin(), readings_.end());
        }
        conclude(record.last, record);
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

    /// After so many ticks.
    [[nodiscard]] Moment<D> keep(std::size_t ticks) const {
        return {ticks,         actor_.anchor,   actor_.velocity, actor_.heading,   actor_.drive,
                actor_.stance, actor_.grounded, wanted_stance_,  memory_,          readings_,
                contacts_,     signals_on_,     late_events_,    inputs_.keep(),   reactions_.keep(),
                mover_.keep(), truth_.keep(),   keeper_,         promises_.keep(), Vec<D>::zero()};
    }

    /// Of this drill, or of another of the same level, rig and drill.
    void go_back(const Moment<D>& moment) {
        actor_.anchor = moment.anchor;
        actor_.velocity = moment.velocity;
        actor_.heading = moment.heading;
        actor_.drive = moment.drive;
        actor_.stance = moment.stance;
        actor_.grounded = moment.grounded;
        actor_.aimed.clear();  // what probes are turned to follows
        wanted_stance_ = moment.wanted_stance;
        memory_ = moment.memory;
        readings_ = moment.readings;
        contacts_ = moment.contacts;
        signals_on_ = moment.signals_on;
        late_events_ = moment.late_events;
        inputs_.go_back(moment.inputs);
        reactions_.go_back(moment.reactions);
        mover_.go_back(moment.mover);
        truth_.go_back(moment.truth);
        keeper_ = moment.keeper;
        promises_.go_back(moment.promises);
        stage_.set_time(static_cast<double>(moment.ticks) * tick_seconds_);
        actor_.aim();
    }

    /// No further tick comes: what still waited to be forgiven is wrong.
    void finish() { keeper_.finish(); }
    /// What came of it, if it ends after this tick.
    void conclude(const TickRecord<D>& last, DrillRecord<D>& record) {
        keeper_.finish();
        keeper_.figures.lost_presses = inputs_.lost();
        keeper_.figures.double_presses = inputs_.doubled();
        record.figures = keeper_.figures;
        record.broken = promises_.conclude(last, record.figures);
        record.nearness = promises_.nearness(record.figures);
    }

    void watch(const TickRecord<D>& tick) { promises_.watch(tick, keeper_.figures); }
    /// Whether an expectation is broken already, whatever comes.
    [[nodiscard]] bool is_broken() const { return promises_.is_broken(); }
    /// Those that are.
    [[nodiscard]] std::vector<Broken> broken() const { return promises_.broken(); }
    /// How near each is to being broken at a tick.
    [[nodiscard]] std::vector<double> nearness_now(const TickRecord<D>& tick) const {
        return promises_.nearness_now(tick, keeper_.figures);
    }

    [[nodiscard]] const std::vector<Reading<D>>& readings() const { return readings_; }
    /// What it came to so far; wrong ticks that may yet be forgiven come later.
    [[nodiscard]] const DrillFigures& so_far() const { return keeper_.figures; }
    [[nodiscard]] const Actor<D>& actor() const { return actor_; }
    [[nodiscard]] double tick_seconds() const { return tick_seconds_; }
    /// What the signals would say in another tick without time, the body being there, all else as it is.
    [[nodiscard]] SignalSet signals_at(const Vec<D>& anchor) const {
        MountedRig<D>& rig = actor_.mounted();
        RigMemory memory = memory_;
        std::vector<Reading<D>> readings = readings_;
        std::vector<MoveContact<D>> contacts;
        if (stage_.feels_contacts)
            contacts = touched_by<D>(actor_.level(), rig, anchor, actor_.intent().touch);
        return rig.tick(actor_.level(), {anchor, anchor, 0.0, 0, contacts}, memory, readings);
    }
    /// That the body stands on, in truth.
    [[nodiscard]] std::optional<std::uint32_t> ground_piece() const { return truth_.ground().piece; }

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

}  // namespace hollow_probe
