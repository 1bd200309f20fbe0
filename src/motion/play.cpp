#include "hollow_probe/motion/play.hpp"

#include <algorithm>
#include <cmath>

#include "hollow_probe/level/shifting_level.hpp"
#include "hollow_probe/rig/touched.hpp"
#include "hollow_probe/rig/value.hpp"
#include "hollow_probe/truth/fit.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/value.hpp"
#include "motion/figure_keeper.hpp"
#include "motion/inputs.hpp"
#include "motion/loose_solids.hpp"
#include "motion/mover.hpp"
#include "motion/promises.hpp"

namespace hollow_probe {
namespace {

/// The probes that a signal is made of, its members' members included.
template <int D>
std::uint64_t probes_of(const Rig<D>& rig, const std::vector<Member>& members);

template <int D>
std::uint64_t probes_of(const Rig<D>& rig, const std::string& name) {
    for (std::size_t i = 0; i < rig.probes.size(); ++i) {
        if (rig.probes[i].name == name) return std::uint64_t{1} << i;
    }
    for (const Signal& signal : rig.signals) {
        if (signal.name == name) {
            return probes_of(rig, signal.any) | probes_of(rig, signal.all) | probes_of(rig, signal.at_least.of);
        }
    }
    return 0;
}

template <int D>
std::uint64_t probes_of(const Rig<D>& rig, const std::vector<Member>& members) {
    std::uint64_t probes = 0;
    for (const Member& member : members) {
        if (!member.name.empty()) probes |= probes_of(rig, member.name);
        for (const Group& group : member.group) {
            probes |= probes_of(rig, group.any) | probes_of(rig, group.all) | probes_of(rig, group.at_least.of);
        }
    }
    return probes;
}

/// A reflex with its signal looked up.
struct BoundReflex {
    Reflex reflex;
    std::size_t signal = 0;
    std::uint64_t probes = 0;  // of the signal
    std::size_t stance = 0;    // refuse_stance
    bool acted = false;        // in the tick before
};

}  // namespace

template <int D>
struct Stage<D>::Inside {
    Inside(const Level<D>& given_level, const Rig<D>& given_rig)
        : level(given_level), rig((check(given_rig), given_rig)) {
        for (std::size_t i = 0; i < rig.body.stances.size(); ++i)
            mounted.emplace_back(rig, level, i, level_heading<D>(across(level.up()), level.up()));
        for (const Reflex& reflex : rig.reflexes) {
            BoundReflex& bound = reflexes.emplace_back();
            bound.reflex = reflex;
            while (rig.signals[bound.signal].name != reflex.on) ++bound.signal;
            bound.probes = probes_of(rig, reflex.on);
            if (reflex.kind == ReflexKind::refuse_stance) bound.stance = stance_number(reflex.stance);
            gates_jumps = gates_jumps || reflex.kind == ReflexKind::permit_jump;
        }
        for (const Signal& signal : rig.signals) {
            const auto giving = std::find_if(rig.probes.begin(), rig.probes.end(),
                                             [&](const Probe<D>& p) { return p.name == signal.gives_from; });
            value_probes.push_back(static_cast<std::size_t>(giving - rig.probes.begin()));
        }
        feels_contacts = std::any_of(rig.probes.begin(), rig.probes.end(), [](const Probe<D>& probe) {
            return probe.kind == ProbeKind::contact;
        });
        if (level.has_paths()) shifting.emplace(level);
    }

    /// Some direction across up.
    static Vec<D> across(const Vec<D>& up) {
        int axis = 0;
        up.cwiseAbs().minCoeff(&axis);
        return Vec<D>::Unit(axis);
    }

    [[nodiscard]] std::size_t stance_number(const std::string& name) const {
        for (std::size_t i = 0; i < rig.body.stances.size(); ++i) {
            if (rig.body.stances[i].name == name) return i;
        }
        throw InvalidInput("the body has no stance '" + name + "'");
    }

    const Level<D>& level;
    const Rig<D>& rig;
    std::vector<MountedRig<D>> mounted;  // by stance
    std::vector<BoundReflex> reflexes;
    std::vector<std::size_t> value_probes;  // by signal: that it takes its value from
    std::optional<ShiftingLevel<D>> shifting;  // for levels in which something moves
    bool gates_jumps = false;
    bool feels_contacts = false;
};

namespace {

/// One drill being played. `Inside` is Stage::Inside.
template <int D, class Inside>
class Playing {
  public:
    Playing(Inside& stage, const Drill<D>& drill, const PlayOptions<D>& options)
        : s_(stage),
          rig_(stage.rig),
          drill_(drill),
          options_(options),
          up_(stage.level.up()),
          dt_(1.0 / drill.tick_rate),
          keeper_(stage.rig, drill, up_),
          inputs_(drill),
          memory_(stage.mounted.front().memory()),
          readings_(stage.rig.probes.size()),
          aimed_(stage.mounted.size()),
          promises_((check(drill), drill), stage.level, stage.rig) {
        for (const Cue<D>& cue : drill.cues) {
            if (!cue.stance.empty()) (void)s_.stance_number(cue.stance);
        }
        if (!drill.loose.empty() && !s_.shifting) s_.shifting.emplace(s_.level);
        level_at(0.0);
        if (!drill.loose.empty()) loose_.emplace(*s_.shifting, drill, rig_.intent.touch);
        stance_ = wanted_stance_ = drill.stance.empty() ? 0 : s_.stance_number(drill.stance);
        heading_ = level_heading<D>(drill.heading, up_);
        anchor_ = drill.at;
        if (drill.motion.model != Model::free) require_room();
        for (BoundReflex& reflex : s_.reflexes) reflex.acted = false;
    }

    void require_room() const {
        const auto truth = clip<D>(level(), placed(), rig_.intent);
        if (!truth.on) return;
        throw InvalidInput("the body starts " + std::to_string(truth.depth) + " deep in '" +
                           level().solids()[level().solid_of(*truth.piece)].name + "': expected it free");
    }

    DrillRecord<D> run() {
        DrillRecord<D> record;
        record.keys = inputs_.keys();
        ground_ = truth_of_ground();
        record.start.anchor = anchor_;
        record.start.heading = heading_;
        record.start.stance = stance_;
        record.start.on_ground = ground_.on;
        read(anchor_, 0, 0.0);
        record.start.signals_on = signals_on_;
        ask_truths(record.start);
        keeper_.begin(record.start);
        const auto ticks = static_cast<std::size_t>(std::llround(std::ceil(drill_.seconds / dt_ - 1e-9)));
        if (options_.keep_ticks) record.ticks.reserve(ticks);
        for (std::size_t number = 0; number < ticks; ++number) {
            record.last = tick(number);
            promises_.watch(record.last, keeper_.figures);
            if (options_.keep_ticks) record.ticks.push_back(record.last);
            if (options_.keep_readings)
                record.readings.insert(record.readings.end(), readings_.begin(), readings_.end());
        }
        keeper_.figures.lost_presses = inputs_.lost();
        keeper_.figures.double_presses = inputs_.doubled();
        record.figures = keeper_.figures;
        record.broken = promises_.conclude(record.last, record.figures);
        record.nearness = promises_.nearness(record.figures);
        return record;
    }

  private:
    // What the rig and truths are asked in.
    [[nodiscard]] const Level<D>& level() const { return s_.shifting ? s_.shifting->level() : s_.level; }
    void level_at(double seconds) {
        if (!s_.shifting) return;
        s_.shifting->at(seconds);
        s_.shifting->refit();
    }
    [[nodiscard]] MountedRig<D>& mounted() const { return s_.mounted[stance_]; }
    [[nodiscard]] PlacedBody<D> placed() const { return {mounted().body.view(), anchor_, mounted().meets}; }
    [[nodiscard]] Mover<D> mover() {
        shape_ = mounted().body.view();
        Mover<D> result;
        result.level = &level();
        result.parts = {&shape_, 1};
        result.meets = mounted().meets;
        result.skin = 0.1 * rig_.intent.touch;
        result.friction = drill_.motion.friction;
        return result;
    }

    TickRecord<D> tick(std::size_t number) {
        const double seconds = static_cast<double>(number) * dt_;
        TickRecord<D> record;
        TickFacts facts;
        facts.ground_before = ground_.on;
        const Told<D> told = inputs_.tell(number, seconds);
        hear(told);
        plan();
        if (rig_.reads == Reads::before_move) read(anchor_, told.events(mounted()), dt_);
        blocked_ = {};
        bool jump = told.pressed("jump") && !s_.gates_jumps;
        react(told, jump);
        if (options_.reflex) {
            ReflexCall<D> call{seconds, anchor_, velocity_, drive_, signals_on_, readings_, jump};
            options_.reflex(call);
        }
        facts.jump_refused = told.pressed("jump") && !jump;
        if (jump) velocity_ += (drill_.motion.jump_speed - velocity_.dot(up_)) * up_;
        jumped_ = jump;
        const Vec<D> before = anchor_;
        move(number, facts);
        std::uint64_t events = told.events(mounted());
        if (jump) events |= mounted().event("jump");
        if (!jump) events &= ~mounted().event("jump");
        if (rig_.reads == Reads::after_move) {
            read(before, events, dt_);
        } else {
            contacts_ = felt();
            late_events_ = jump ? mounted().event("jump") : 0;
        }
        fill(record, facts, told, seconds + dt_);
        keeper_.take(record, facts);
        return record;
    }

    void hear(const Told<D>& told) {
        drive_ = (turned_back_ ? -1.0 : 1.0) * told.drive;
        if (drill_.motion.gravity > 0.0) drive_ -= drive_.dot(up_) * up_;
        if (!told.stance.empty()) wanted_stance_ = s_.stance_number(told.stance);
        if (drill_.motion.turns) {
            const Vec<D> level_drive = drive_ - drive_.dot(up_) * up_;
            if (level_drive.norm() > 1e-9) heading_ = level_drive.normalized();
        } else if (told.heading) {
            heading_ = level_heading<D>(*told.heading, up_);
        }
        if (wanted_stance_ != stance_ && !is_refused(wanted_stance_)) {
            stance_ = wanted_stance_;
            // A reading of another stance is of no meaning.
            std::fill(readings_.begin(), readings_.end(), Reading<D>{});
        }
    }

    [[nodiscard]] bool acts(const BoundReflex& reflex) const {
        return ((signals_on_ >> reflex.signal & 1U) != 0) != reflex.reflex.when_off;
    }

    [[nodiscard]] bool is_refused(std::size_t stance) const {
        return std::any_of(s_.reflexes.begin(), s_.reflexes.end(), [&](const BoundReflex& reflex) {
            return reflex.reflex.kind == ReflexKind::refuse_stance && reflex.stance == stance && acts(reflex);
        });
    }

    /// The velocity that the drive and gravity make.
    void plan() {
        const Motion& motion = drill_.motion;
        const bool all_ways = motion.gravity == 0.0;
        const Vec<D> rise = all_ways ? Vec<D>(Vec<D>::Zero()) : Vec<D>(velocity_.dot(up_) * up_);
        Vec<D> driven = velocity_ - rise;
        const Vec<D> change = motion.top_speed * drive_ - driven;
        const double most = motion.model == Model::loose ? motion.force / motion.mass * dt_
                            : motion.acceleration > 0.0  ? motion.acceleration * dt_
                                                         : infinity;
        const bool lets_go = motion.model == Model::loose && drive_.isZero(0.0);
        if (!lets_go) driven += change.norm() <= most ? change : Vec<D>(most * change.normalized());
        velocity_ = driven + rise;
        if (motion.model == Model::loose) velocity_ *= std::max(0.0, 1.0 - motion.drag * dt_);
        const bool holds = std::any_of(s_.reflexes.begin(), s_.reflexes.end(), [&](const BoundReflex& reflex) {
            const ReflexKind kind = reflex.reflex.kind;
            return (kind == ReflexKind::zero_fall || kind == ReflexKind::hold_height) && acts(reflex);
        });
        if (!holds) velocity_ -= motion.gravity * dt_ * up_;
    }

    void read(const Vec<D>& before, std::uint64_t events, double seconds) {
        MountedRig<D>& rig = mounted();
        const Situation<D> now{heading_, velocity_, drive_, memory_.grounded};
        std::optional<Situation<D>>& before_now = aimed_[stance_];
        if (!before_now || !same(*before_now, now)) rig.aim(now);
        before_now = now;
        if (rig_.reads == Reads::after_move) contacts_ = felt();
        signals_on_ = rig.tick(level(), {anchor_, before, seconds, events | late_events_, contacts_}, memory_, readings_);
        late_events_ = 0;
    }

    static bool same(const Situation<D>& a, const Situation<D>& b) {
        return a.heading == b.heading && a.velocity == b.velocity && a.drive == b.drive && a.grounded == b.grounded;
    }

    [[nodiscard]] std::vector<MoveContact<D>> felt() const {
        if (!s_.feels_contacts) return {};
        return touched_by<D>(level(), mounted(), anchor_, rig_.intent.touch);
    }

    /// What the signal's probes hit, the nearest of those that are on.
    [[nodiscard]] const Reading<D>* reading_of(const BoundReflex& reflex) const {
        const Reading<D>* nearest = nullptr;
        for (std::size_t i = 0; i < readings_.size(); ++i) {
            if ((reflex.probes >> i & 1U) == 0 || !readings_[i].on || !readings_[i].met) continue;
            if (nearest == nullptr || readings_[i].hit.distance < nearest->hit.distance) nearest = &readings_[i];
        }
        return nearest;
    }

    void react(const Told<D>& told, bool& jump) {
        const double rise = velocity_.dot(up_);
        const auto set_rise = [&](double speed) { velocity_ += (speed - velocity_.dot(up_)) * up_; };
        lift_ = hug_ = nullptr;
        carry_ = nullptr;
        for (BoundReflex& bound : s_.reflexes) {
            const bool active = acts(bound);
            const bool begins = active && !bound.acted;
            bound.acted = active;
            if (!active) continue;
            const Reflex& reflex = bound.reflex;
            switch (reflex.kind) {
                case ReflexKind::permit_jump:
                    jump = jump || told.pressed("jump");
                    break;
                case ReflexKind::zero_fall:
                case ReflexKind::hold_height:
                    set_rise(0.0);
                    break;
                case ReflexKind::stop_rise:
                    if (rise > 0.0) set_rise(-reflex.speed);
                    break;
                case ReflexKind::press_down:
                    set_rise(std::min(velocity_.dot(up_), -reflex.speed));
                    break;
                case ReflexKind::cancel_drive:
                    cancel_drive(bound);
                    break;
                case ReflexKind::cancel_axis:
                    cancel_axis(bound);
                    break;
                case ReflexKind::lift_over:
                    lift_ = &bound;
                    break;
                case ReflexKind::hug_ground:
                    hug_ = &bound;
                    break;
                case ReflexKind::carry_along:
                    carry_ = &bound;
                    break;
                case ReflexKind::turn_back:
                    if (begins) turned_back_ = !turned_back_;
                    break;
                case ReflexKind::refuse_stance:
                    break;
            }
        }
    }

    void cancel_drive(const BoundReflex& bound) {
        const Reading<D>* const reading = reading_of(bound);
        const Vec<D> across = velocity_ - velocity_.dot(up_) * up_;
        const Vec<D> normal = reading != nullptr ? reading->hit.normal : Vec<D>(Vec<D>::Zero());
        const Vec<D> level_normal = normal - normal.dot(up_) * up_;
        if (level_normal.norm() < 1e-6) {
            velocity_ -= across;  // there is no telling which way the wall is
            return;
        }
        const Vec<D> n = level_normal.normalized();
        if (across.dot(n) < 0.0) velocity_ -= across.dot(n) * n;
    }

    /// The model `free` asks on the way which part is cancelled; the others lose it here.
    void cancel_axis(const BoundReflex& bound) {
        const bool along_up = bound.reflex.axis == ReflexAxis::along_up;
        if (drill_.motion.model == Model::free && drill_.motion.grain > 0.0) {
            blocked_[along_up ? 1 : 0] = &bound;
            return;
        }
        const Vec<D> rise = velocity_.dot(up_) * up_;
        velocity_ = along_up ? Vec<D>(velocity_ - rise) : rise;
    }

    // The move itself.

    void move(std::size_t number, TickFacts& facts) {
        const Vec<D> before = anchor_;
        const std::optional<std::uint32_t> stood_on = ground_.piece;
        if (s_.shifting) move_level(number, facts);
        const Vec<D> game_velocity = velocity_;
        const Vec<D> start = anchor_;
        switch (drill_.motion.model) {
            case Model::free:
                move_free();
                break;
            case Model::slide:
                move_slide();
                break;
            case Model::push_out:
                anchor_ += dt_ * velocity_;
                push_out<D>(mover(), anchor_, dt_ * velocity_, &velocity_, 4);
                break;
            case Model::loose:
                move_slide();
                break;
        }
        if (drill_.motion.stopped == Stopped::kept) velocity_ = game_velocity;
        if (hug_ != nullptr && !jumped_) hug_ground();
        facts.stood_still = across_up(anchor_ - start).norm() <= 1e-6 * rig_.intent.touch;
        tunnelled_ = tunnel<D>(level(), {mounted().body.view(), start, mounted().meets}, anchor_ - start,
                               rig_.intent)
                         .on;
        if (stood_on && !jumped_) note_drift(before, *stood_on, facts);
    }

    [[nodiscard]] Vec<D> across_up(const Vec<D>& v) const { return v - v.dot(up_) * up_; }

    /// Solids move first, and push the body out of their way.
    void move_level(std::size_t number, TickFacts& facts) {
        solid_moves_.assign(level().solids().size(), Vec<D>(Vec<D>::Zero()));
        const ShiftingLevel<D>& moving = *s_.shifting;
        for (std::uint32_t i = 0; i < solid_moves_.size(); ++i) solid_moves_[i] = -moving.offset(i);
        if (loose_) loose_->move(dt_, placed(), velocity_, drill_.motion);
        level_at(static_cast<double>(number + 1) * dt_);
        for (std::uint32_t i = 0; i < solid_moves_.size(); ++i) solid_moves_[i] += moving.offset(i);
        if (carry_ != nullptr) {
            const Reading<D>* const reading = reading_of(*carry_);
            if (reading != nullptr && reading->hit.solid < solid_moves_.size()) carry(solid_moves_[reading->hit.solid]);
        }
        if (drill_.motion.model == Model::free) return;
        for (std::uint32_t i = 0; i < solid_moves_.size(); ++i) {
            if (!solid_moves_[i].isZero(0.0)) make_way(i, facts);
        }
    }

    void carry(const Vec<D>& way) {
        if (drill_.motion.model == Model::free || drill_.motion.model == Model::push_out) {
            anchor_ += way;
        } else {
            // The solid itself has moved away from under the body, or into it: make_way() sees to that.
            const Vec<D> risen = std::max(0.0, way.dot(up_)) * up_;
            anchor_ = sweep<D>(mover(), anchor_ + risen, way - risen);
        }
    }

    /// The body is pushed out of a solid that moved into it.
    void make_way(std::uint32_t number, TickFacts& facts) {
        const Solid<D>& solid = level().solids()[number];
        const Vec<D>& by = solid_moves_[number];
        if (solid.one_way && -by.dot(*solid.one_way) >= -1e-12) return;
        const Mover<D> body = mover();
        for (std::uint32_t i = solid.first_piece; i < solid.first_piece + solid.piece_count; ++i) {
            if (!level().on_layers(i, body.meets)) continue;
            const auto now = neighbour<D>(level(), {shape_, anchor_, body.meets}, i);
            if (now.gap >= 0.5 * body.skin) continue;
            if (solid.one_way &&
                neighbour<D>(level(), {shape_, anchor_ + by, body.meets}, i).gap < -rig_.intent.touch)
                continue;
            const Vec<D> wanted = anchor_ + (body.skin - now.gap) * now.normal;
            anchor_ = sweep<D>(body, anchor_, wanted - anchor_);
            if (velocity_.dot(now.normal) < by.dot(now.normal) / dt_ && drill_.motion.stopped == Stopped::lost)
                velocity_ += (by.dot(now.normal) / dt_ - velocity_.dot(now.normal)) * now.normal;
        }
        if (is_inside<D>(body, anchor_, rig_.intent.touch) &&
            !push_out<D>(body, anchor_, Vec<D>(-by), nullptr, 16)) facts.crushed = true;
    }

    void move_slide() {
        Mover<D> body = mover();
        const Vec<D> start = anchor_;
        if (is_inside<D>(body, anchor_, body.skin)) {
            // It began in a solid, or a stance was taken where there was no room for it.
            push_out<D>(body, anchor_, Vec<D>(Vec<D>::Zero()), nullptr, 16);
        }
        if (loose_) {
            body.struck = [&](const LevelHit<D>& hit, double speed) {
                return loose_->strike(hit, speed, drill_.motion);
            };
        }
        if (lift_ != nullptr && lift_over(body)) return;
        anchor_ = slide<D>(body, anchor_, velocity_, dt_);
        if (is_inside<D>(body, anchor_, 0.5 * rig_.intent.touch))
            anchor_ = start;  // rounding on the way: rather nowhere than into a solid
    }

    /// Up, on, and down again. False if that gets the body no farther than sliding would.
    bool lift_over(const Mover<D>& body) {
        const Vec<D> way = dt_ * across_up(velocity_);
        if (way.norm() == 0.0) return false;
        bool blocked = false;
        (void)sweep<D>(body, anchor_, way, &blocked);
        if (!blocked) return false;
        const Vec<D> lifted = sweep<D>(body, anchor_, lift_->reflex.by * up_);
        const Vec<D> over = sweep<D>(body, lifted, way);
        if (across_up(over - lifted).norm() <= 0.5 * way.norm()) return false;
        bool landed = false;
        const Vec<D> down = sweep<D>(body, over, Vec<D>(-(over - anchor_).dot(up_) * up_), &landed);
        if (!landed) return false;
        anchor_ = down;
        velocity_ -= std::min(0.0, velocity_.dot(up_)) * up_;
        return true;
    }

    /// Puts the body at the height its probe tells, as far as nothing is in the way.
    void hug_ground() {
        const Reading<D>* const reading = reading_of(*hug_);
        if (reading == nullptr || velocity_.dot(up_) > 1e-9) return;
        const double by = hug_->reflex.by;
        const Vec<D> way = std::clamp(told_height(*hug_), -by, by) * up_;
        anchor_ = drill_.motion.model == Model::free ? Vec<D>(anchor_ + way) : sweep<D>(mover(), anchor_, way);
        velocity_ -= velocity_.dot(up_) * up_;
    }

    /// Of the ground above the anchor: where the probe that tells it came to rest, or what it touched.
    [[nodiscard]] double told_height(const BoundReflex& bound) const {
        const Reading<D>* const reading = reading_of(bound);
        const auto number = static_cast<std::size_t>(reading - readings_.data());
        const MountedProbe<D>& probe = mounted().probes[number];
        if (!probe.is_line() || reading->hit.began_inside) return up_.dot(reading->hit.point - anchor_);
        const auto [low, high] = extent_along(probe.shape.view(), up_);
        const ProbeLine<D>& line = probe.lines.front();
        return up_.dot(line.from + reading->hit.distance * line.along) + low - probe.shape.radius();
    }

    void move_free() {
        const double grain = drill_.motion.grain;
        if (lift_ != nullptr) {
            const Reading<D>* const reading = reading_of(*lift_);
            if (reading != nullptr)
                anchor_ += std::clamp(up_.dot(reading->hit.point - anchor_), 0.0, lift_->reflex.by) * up_;
        }
        if (grain == 0.0) {
            anchor_ += dt_ * velocity_;
            return;
        }
        owed_ += dt_ * velocity_;
        const std::array<Vec<D>, 2> parts = {across_up(owed_), Vec<D>(owed_.dot(up_) * up_)};
        for (std::size_t k = 0; k < parts.size(); ++k) {
            if (blocked_[k] != nullptr) {
                stop_part(*blocked_[k], parts[k], k == 1);
                continue;
            }
            // Whole grains along the axes of the level, towards zero: what is left is owed.
            Vec<D> whole = Vec<D>::Zero();
            for (int axis = 0; axis < D; ++axis) whole[axis] = grain * std::trunc(parts[k][axis] / grain + 1e-9 * (parts[k][axis] < 0 ? -1 : 1));
            anchor_ += whole;
            owed_ -= whole;
        }
    }

    /// A cancelled part of the way: none of it, or as many grains as the signal's shift allows.
    void stop_part(const BoundReflex& bound, const Vec<D>& part, bool along_up) {
        const Vec<D> rise = velocity_.dot(up_) * up_;
        const Vec<D> speed = along_up ? rise : Vec<D>(velocity_ - rise);
        if (drill_.motion.approach == Approach::creep) creep(bound, speed);
        owed_ -= part;
        velocity_ -= speed;
    }

    void creep(const BoundReflex& bound, const Vec<D>& speed) {
        constexpr int most_grains = 4096;
        const double norm = speed.norm();
        const Vec<D> step = norm > 0.0 ? Vec<D>(drill_.motion.grain / norm * speed) : Vec<D>(Vec<D>::Zero());
        for (int i = 0; i < most_grains; ++i) {
            if (is_on_at(bound, step)) return;
            if (norm == 0.0) break;  // it would stay where it is, and ask again
            anchor_ += step;
        }
        ++keeper_.figures.endless_creeps;
    }

    /// Whether one of the signal's shifts overlaps something with the body placed `step` on.
    [[nodiscard]] bool is_on_at(const BoundReflex& bound, const Vec<D>& step) const {
        const MountedRig<D>& rig = mounted();
        for (std::size_t i = 0; i < rig.probes.size(); ++i) {
            const MountedProbe<D>& probe = rig.probes[i];
            if ((bound.probes >> i & 1U) == 0 || probe.kind != ProbeKind::shift || !probe.mounted) continue;
            std::array<LevelNeighbour<D>, 1> found{};
            const LevelQuery<D> query{probe.shape.view(), anchor_ + step, probe.sees, probe.one_way, step};
            if (LevelBackEnd<D>(level()).overlapping(query, found) > 0) return true;
        }
        return false;
    }

    void note_drift(const Vec<D>& before, std::uint32_t piece, TickFacts& facts) const {
        if (solid_moves_.empty() || !drive_.isZero(0.0)) return;
        const Vec<D>& by = solid_moves_[level().solid_of(piece)];
        if (!by.isZero(0.0)) facts.carried_off = (anchor_ - before - by).norm();
    }

    // Truth.

    struct Ground {
        bool on = false;
        bool decided = true;
        std::optional<std::uint32_t> piece;
    };

    [[nodiscard]] Ground truth_of_ground() const {
        const auto truth = ground<D>(level(), placed(), rig_.intent);
        return {truth.on, truth.decided, truth.on && truth.contact ? std::optional(truth.contact->piece) : std::nullopt};
    }

    void ask_truths(TickRecord<D>& record) const {
        const PlacedBody<D> body = placed();
        for (std::size_t i = 0; i < rig_.signals.size(); ++i) {
            const Signal& signal = rig_.signals[i];
            const auto set = [&](std::uint64_t& bits, bool on) { bits |= std::uint64_t{on} << i; };
            std::size_t first = 0;
            while (rig_.signals[first].claims != signal.claims || rig_.signals[first].stance != signal.stance)
                ++first;
            if (first < i) {
                set(record.truths_on, (record.truths_on >> first & 1U) != 0);
                set(record.undecided, (record.undecided >> first & 1U) != 0);
                continue;
            }
            if (signal.claims == Claim::ground) {
                set(record.truths_on, ground_.on);
                set(record.undecided, !ground_.decided);
                continue;
            }
            const auto truth =
                answer<D>(signal.claims, level(), {body, heading_, mounted().asked[i].view()}, rig_.intent, 0.0,
                          Margins::left_out);
            set(record.truths_on, truth.on);
            set(record.undecided, !truth.decided);
        }
    }

    /// How far the values that signals give are from truth, where they are rightly on.
    [[nodiscard]] std::vector<double> value_errors(const TickRecord<D>& record) const {
        std::vector<double> errors;
        for (std::size_t i = 0; i < rig_.signals.size(); ++i) {
            const Signal& signal = rig_.signals[i];
            if (signal.gives == Value::none) continue;
            errors.resize(i + 1, -1.0);
            if ((record.signals_on & record.truths_on & ~record.undecided) >> i == 0) continue;
            const std::size_t probe = s_.value_probes[i];
            const auto read = read_value<D>(signal.gives, mounted().probes[probe], readings_[probe], anchor_, up_);
            const auto truth = true_value<D>(signal.gives, signal.claims, level(),
                                             {placed(), heading_, mounted().asked[i].view()}, rig_.intent);
            if (read && truth) errors[i] = value_error<D>(signal.gives, *read, *truth);
        }
        return errors;
    }

    [[nodiscard]] bool touches_steep(std::uint32_t& count) const {
        bool steep = false;
        count = 0;
        const LevelQuery<D> query{mounted().body.view(), anchor_, mounted().meets};
        for_each_neighbour<D>(level(), query, rig_.intent.touch, [&](const LevelNeighbour<D>& piece) {
            ++count;
            const double slope = degrees(angle_between<D>(piece.normal, up_));
            steep = steep || (slope > rig_.intent.steepest_footing_degrees &&
                              slope < 180.0 - rig_.intent.ceiling_within_degrees);
        });
        return steep;
    }

    void fill(TickRecord<D>& record, TickFacts& facts, const Told<D>& told, double seconds) {
        ground_ = truth_of_ground();
        record.seconds = seconds;
        record.anchor = anchor_;
        record.velocity = velocity_;
        record.heading = heading_;
        record.drive = drive_;
        record.stance = stance_;
        record.pressed = told.keys;
        record.jumped = jumped_;
        record.on_ground = ground_.on;
        record.clip = clip<D>(level(), placed(), rig_.intent).depth;
        record.tunnelled = tunnelled_;
        record.signals_on = signals_on_;
        for (std::size_t i = 0; i < readings_.size(); ++i) record.probes_on |= std::uint64_t{readings_[i].on} << i;
        ask_truths(record);
        facts.on_steep = touches_steep(record.contacts);
        if (!ground_.on) record.under_ceiling = ceiling<D>(level(), placed(), rig_.intent).on;
        facts.value_errors = value_errors(record);
        if (facts.stood_still && !drive_.isZero(0.0)) facts.wall_gap = gap_ahead();
    }

    /// To the nearest thing along the drive that is too steep to walk on.
    [[nodiscard]] double gap_ahead() const {
        const Vec<D> level_drive = across_up(drive_);
        if (level_drive.norm() < 1e-9) return infinity;
        double gap = infinity;
        const double reach = bounds_of(mounted().body.view()).size().norm();
        for_each_contact(level(), placed(), level_drive.normalized(), reach, rig_.intent.touch,
                         [&](const Contact<D>& contact) {
                             const double slope = degrees(angle_between<D>(contact.normal, up_));
                             if (slope > rig_.intent.steepest_footing_degrees) gap = std::min(gap, contact.gap);
                         });
        return gap;
    }

    Inside& s_;
    const Rig<D>& rig_;
    const Drill<D>& drill_;
    const PlayOptions<D>& options_;
    Vec<D> up_;
    double dt_;
    FigureKeeper<D> keeper_;
    Inputs<D> inputs_;
    RigMemory memory_;
    std::vector<Reading<D>> readings_;
    std::vector<std::optional<Situation<D>>> aimed_;  // by stance: what its probes are turned to
    std::vector<MoveContact<D>> contacts_;  // of the last move, if the rig asks
    std::optional<LooseSolids<D>> loose_;
    Promises<D> promises_;
    HullView<D> shape_;
    std::uint64_t late_events_ = 0;  // that a rig which reads before the move has not heard of yet

    Vec<D> anchor_ = Vec<D>::Zero();
    Vec<D> velocity_ = Vec<D>::Zero();
    Vec<D> heading_ = Vec<D>::Zero();
    Vec<D> drive_ = Vec<D>::Zero();
    Vec<D> owed_ = Vec<D>::Zero();  // of the way, where moves are whole grains
    std::size_t stance_ = 0;
    std::size_t wanted_stance_ = 0;
    bool turned_back_ = false;
    bool jumped_ = false;
    bool tunnelled_ = false;
    std::uint64_t signals_on_ = 0;
    Ground ground_;
    std::array<const BoundReflex*, 2> blocked_{};  // free with a grain: the part across up, and along it
    const BoundReflex* lift_ = nullptr;
    const BoundReflex* hug_ = nullptr;
    const BoundReflex* carry_ = nullptr;
    std::vector<Vec<D>> solid_moves_;  // of this tick, by solid; empty where none moves
};

}  // namespace

template <int D>
Stage<D>::Stage(const Level<D>& level, const Rig<D>& rig) : inside_(std::make_unique<Inside>(level, rig)) {}
template <int D>
Stage<D>::~Stage() = default;
template <int D>
Stage<D>::Stage(Stage&&) noexcept = default;
template <int D>
Stage<D>& Stage<D>::operator=(Stage&&) noexcept = default;

template <int D>
DrillRecord<D> Stage<D>::play(const Drill<D>& drill, const PlayOptions<D>& options) {
    return Playing<D, Inside>(*inside_, drill, options).run();
}

template <int D>
DrillRecord<D> play(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                    const PlayOptions<D>& options) {
    return Stage<D>(level, rig).play(drill, options);
}

template class Stage<2>;
template class Stage<3>;
template DrillRecord<2> play<2>(const Level<2>&, const Rig<2>&, const Drill<2>&, const PlayOptions<2>&);
template DrillRecord<3> play<3>(const Level<3>&, const Rig<3>&, const Drill<3>&, const PlayOptions<3>&);

}  // namespace hollow_probe
