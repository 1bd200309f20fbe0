#include "motion/body_mover.hpp"

#include <algorithm>
#include <cmath>

#include "hollow_probe/rig/touched.hpp"
#include "hollow_probe/truth/fit.hpp"
#include "hollow_probe/truth/ground.hpp"

namespace hollow_probe {

namespace {

/// Whether every stance looks the same from all sides: its points lie on the line along up through its
/// anchor.
template <int D>
bool is_round(const StageParts<D>& stage) {
    return std::all_of(stage.mounted.begin(), stage.mounted.end(), [&](const MountedRig<D>& rig) {
        const HullView<D> body = rig.body.view();
        return std::all_of(body.points.begin(), body.points.end(), [&](const Vec<D>& p) {
            const Vec<D>& up = stage.level.up();
            return (p - p.dot(up) * up).norm() <= 1e-12 * (1.0 + p.norm());
        });
    });
}

/// Headings from one to another by the shorter way, a few degrees apart; the last is the other.
template <int D>
std::vector<Vec<D>> headings_between(const Vec<D>& from, const Vec<D>& to, const Vec<D>& up) {
    if constexpr (D == 2) {
        return {to};
    } else {
        constexpr double step_degrees = 4.0;
        const double angle = std::atan2(from.cross(to).dot(up), from.dot(to));
        const int steps = std::max(1, static_cast<int>(std::ceil(std::abs(degrees(angle)) / step_degrees)));
        std::vector<Vec<D>> headings;
        for (int i = 1; i < steps; ++i) headings.push_back(turn_about(up, angle * i / steps) * from);
        headings.push_back(to);
        return headings;
    }
}

}  // namespace

template <int D>
BodyMover<D>::BodyMover(Actor<D>& actor, const Drill<D>& drill, const std::vector<Reading<D>>& readings)
    : actor_(actor),
      drill_(drill),
      readings_(readings),
      dt_(1.0 / drill.tick_rate),
      is_round_(is_round(actor.stage)) {
    if (!drill.loose.empty()) {
        if (!actor.stage.shifting) actor.stage.shifting.emplace(actor.stage.level);
        loose_.emplace(*actor.stage.shifting, drill, actor.intent().touch);
    }
    if (drill.motion.model != Model::free) require_room();
}

template <int D>
typename BodyMover<D>::State BodyMover<D>::keep() const {
    State state{chosen_.holds_height, going_, owed_, {}};
    if (loose_) state.loose = loose_->keep();
    return state;
}

template <int D>
void BodyMover<D>::go_back(const State& state) {
    chosen_ = {};
    chosen_.holds_height = state.holds_height;
    going_ = state.going;
    owed_ = state.owed;
    if (loose_) loose_->go_back(state.loose);
}

template <int D>
void BodyMover<D>::turn(const Vec<D>& heading, TickFacts& facts) {
    const Vec<D> before = actor_.heading;
    if (is_round_ || drill_.motion.model == Model::free || heading == before) {
        actor_.heading = heading;
        actor_.aim();
        return;
    }
    actor_.aim();
    for (const Vec<D>& next : headings_between<D>(before, heading, actor_.up())) {
        if (put_into(next)) continue;
        facts.turn_held = true;
        return;
    }
}

template <int D>
bool BodyMover<D>::put_into(const Vec<D>& heading) {
    const Vec<D> before = actor_.heading;
    actor_.heading = heading;
    actor_.aim();
    const Mover<D> body = mover();
    Vec<D> aside = actor_.anchor;
    if (!is_inside<D>(body, aside, body.skin)) return true;
    if (push_out<D>(body, aside, Vec<D>::zero(), nullptr, 8)) {
        actor_.anchor = aside;
        return true;
    }
    actor_.heading = before;
    actor_.aim();
    return false;
}

template <int D>
Mover<D> BodyMover<D>::mover() {
    shape_ = actor_.mounted().body.view();
    Mover<D> result;
    result.level = &actor_.level();
    result.parts = {&shape_, 1};
    result.meets = actor_.mounted().meets;
    result.skin = 0.1 * actor_.intent().touch;
    result.friction = going_.friction;
    result.up = actor_.up();
    result.footing_degrees = actor_.intent().steepest_footing_degrees;
    result.stands =
        !going_.is_physical && !going_.coasts && drill_.motion.gravity > 0.0 && actor_.drive.is_zero(0.0);
    result.holds_height = chosen_.holds_height;
    return result;
}

template <int D>
void BodyMover<D>::move(std::size_t number, const ChosenReflexes& chosen, const Going& going,
                        std::optional<std::uint32_t> stood_on, TickFacts& facts) {
    chosen_ = chosen;
    going_ = going;
    endless_creeps_ = 0;
    pushed_ = Vec<D>::zero();
    const Vec<D> before = actor_.anchor;
    if (actor_.stage.shifting) move_level(number, facts);
    const Vec<D> game_velocity = actor_.velocity;
    const Vec<D> start = actor_.anchor;
    way_ = {start};
    switch (drill_.motion.model) {
        case Model::free:
            move_free();
            break;
        case Model::push_out:
            move_push_out();
            break;
        case Model::slide:
        case Model::loose:
            move_slide();
            break;
    }
    if (drill_.motion.stopped == Stopped::kept) actor_.velocity = game_velocity;
    if (chosen_.hug != nullptr && !chosen_.jumped) hug_ground();
    way_.push_back(actor_.anchor);
    facts.stood_still = actor_.across_up(actor_.anchor - start).norm() <= 1e-6 * actor_.intent().touch;
    facts.endless_creeps = endless_creeps_;
    facts.tunnelled = tunnelled();
    if (stood_on && !chosen_.jumped) note_drift(before, *stood_on, facts);
}

template <int D>
bool BodyMover<D>::tunnelled() const {
    const bool is_pushed_out = drill_.motion.model == Model::push_out;
    for (std::size_t i = 0; i + 1 < way_.size(); ++i) {
        if (is_pushed_out && i == 1) continue;
        const PlacedBody<D> from{actor_.mounted().body.view(), way_[i], actor_.mounted().meets};
        if (tunnel<D>(actor_.level(), from, way_[i + 1] - way_[i], actor_.intent()).on) return true;
    }
    return is_pushed_out && came_out_behind(way_[1], way_[2]);
}

template <int D>
bool BodyMover<D>::came_out_behind(const Vec<D>& before, const Vec<D>& after) const {
    if (before == after) return false;
    bool behind = false;
    const auto lies = [&](const Vec<D>& where, std::uint32_t piece) {
        return neighbour<D>(actor_.level(), {actor_.mounted().body.view(), where, actor_.mounted().meets},
                            piece);
    };
    const LevelQuery<D> inside{actor_.mounted().body.view(), before, actor_.mounted().meets};
    for_each_neighbour<D>(actor_.level(), inside, -actor_.intent().touch,
                          [&](const LevelNeighbour<D>& piece) {
                              if (actor_.level().is_one_way(piece.piece)) return;
                              const LevelNeighbour<D> first = lies(way_.front(), piece.piece);
                              behind = behind || (first.gap >= -actor_.intent().touch &&
                                                  first.normal.dot(lies(after, piece.piece).normal) < -0.5);
                          });
    return behind;
}

template <int D>
void BodyMover<D>::move_level(std::size_t number, TickFacts& facts) {
    solid_moves_.assign(actor_.level().solids().size(), Vec<D>::zero());
    const ShiftingLevel<D>& moving = *actor_.stage.shifting;
    for (std::uint32_t i = 0; i < solid_moves_.size(); ++i) solid_moves_[i] = -moving.offset(i);
    if (loose_) loose_->move(dt_, actor_.placed(), actor_.velocity, drill_.motion);
    actor_.stage.set_time(static_cast<double>(number + 1) * dt_);
    const std::vector<Vec<D>> before = solid_moves_;
    for (std::uint32_t i = 0; i < solid_moves_.size(); ++i) solid_moves_[i] += moving.offset(i);
    if (loose_) {
        loose_->make_way(moves_of_paths(), dt_);
        for (std::uint32_t i = 0; i < solid_moves_.size(); ++i)
            solid_moves_[i] = before[i] + moving.offset(i);
    }
    if (chosen_.carry != nullptr) {
        const Reading<D>* const reading = nearest_reading<D>(*chosen_.carry, readings_);
        if (reading != nullptr && reading->hit.solid < solid_moves_.size())
            carry(solid_moves_[reading->hit.solid]);
    }
    if (drill_.motion.model == Model::free) return;
    for (std::uint32_t i = 0; i < solid_moves_.size(); ++i) {
        if (!solid_moves_[i].is_zero(0.0)) make_way(i, facts);
    }
}

template <int D>
std::vector<Vec<D>> BodyMover<D>::moves_of_paths() const {
    std::vector<Vec<D>> moves = solid_moves_;
    for (std::uint32_t i = 0; i < moves.size(); ++i) {
        if (!actor_.level().solids()[i].path) moves[i] = Vec<D>::zero();
    }
    return moves;
}

template <int D>
void BodyMover<D>::carry(const Vec<D>& way) {
    if (drill_.motion.model == Model::free || drill_.motion.model == Model::push_out) {
        actor_.anchor += way;
    } else {
        // The solid itself has moved away from under the body, or into it: make_way() sees to that.
        const Vec<D> risen = std::max(0.0, way.dot(actor_.up())) * actor_.up();
        actor_.anchor = sweep<D>(mover(), actor_.anchor + risen, way - risen);
    }
}

template <int D>
void BodyMover<D>::make_way(std::uint32_t number, TickFacts& facts) {
    const Solid<D>& solid = actor_.level().solids()[number];
    const Vec<D>& by = solid_moves_[number];
    if (solid.one_way && -by.dot(*solid.one_way) >= -1e-12) return;
    const Mover<D> body = mover();
    for (std::uint32_t i = solid.first_piece; i < solid.first_piece + solid.piece_count; ++i) {
        if (!actor_.level().on_layers(i, body.meets)) continue;
        const auto now = neighbour<D>(actor_.level(), {shape_, actor_.anchor, body.meets}, i);
        if (now.gap >= 0.5 * body.skin) continue;
        if (solid.one_way && neighbour<D>(actor_.level(), {shape_, actor_.anchor + by, body.meets}, i).gap <
                                 -actor_.intent().touch)
            continue;
        const Vec<D> from = actor_.anchor;
        actor_.anchor = sweep<D>(body, from, (body.skin - now.gap) * now.normal);
        pushed_ += actor_.anchor - from;
        if (actor_.velocity.dot(now.normal) < by.dot(now.normal) / dt_ &&
            drill_.motion.stopped == Stopped::lost)
            actor_.velocity += (by.dot(now.normal) / dt_ - actor_.velocity.dot(now.normal)) * now.normal;
    }
    if (is_inside<D>(body, actor_.anchor, actor_.intent().touch) &&
        !push_out<D>(body, actor_.anchor, -by, nullptr, 16))
        facts.crushed = true;
}

template <int D>
void BodyMover<D>::move_slide() {
    Mover<D> body = mover();
    if (is_inside<D>(body, actor_.anchor, body.skin)) {
        // It began in a solid, or a stance was taken where there was no room for it.
        push_out<D>(body, actor_.anchor, Vec<D>::zero(), nullptr, 16);
    }
    actor_.anchor = parted<D>(body, actor_.anchor, actor_.velocity, actor_.intent().touch);
    const Vec<D> start = actor_.anchor;
    if (loose_) {
        body.struck = [&](const LevelHit<D>& hit, double speed) {
            return loose_->strike(hit, speed, drill_.motion.mass, drill_.motion.bounce);
        };
    }
    if (chosen_.lift != nullptr && lift_over(body)) return;
    // What a solid that moved has pushed it already is not to be gone again by the speed it gave.
    Vec<D> gone = Vec<D>::zero();
    if (const double way = pushed_.norm(); way > 0.0) {
        const Vec<D> along = pushed_ / way;
        gone = std::clamp(actor_.velocity.dot(along), 0.0, way / dt_) * along;
    }
    actor_.velocity -= gone;
    actor_.anchor = slide<D>(body, actor_.anchor, actor_.velocity, dt_);
    actor_.velocity += gone;
    if (is_inside<D>(body, actor_.anchor, 0.5 * actor_.intent().touch))
        actor_.anchor = start;  // rounding on the way: rather nowhere than into a solid
}

template <int D>
void BodyMover<D>::move_push_out() {
    const Mover<D> body = mover();
    const bool only_falls = actor_.velocity.dot(actor_.up()) <= 0.0 &&
                            actor_.across_up(actor_.velocity).norm() <= 1e-9 * actor_.velocity.norm();
    if (body.stands && only_falls && is_on_footing()) {
        actor_.velocity = Vec<D>::zero();
        way_.push_back(actor_.anchor);
        return;
    }
    const Vec<D> moved = dt_ * actor_.velocity;
    actor_.anchor += moved;
    way_.push_back(actor_.anchor);
    push_out<D>(body, actor_.anchor, moved, &actor_.velocity, 4);
}

template <int D>
bool BodyMover<D>::is_on_footing() const {
    const auto truth = ground<D>(actor_.level(), actor_.placed(), actor_.intent());
    return truth.on;
}

template <int D>
bool BodyMover<D>::lift_over(const Mover<D>& body) {
    const Vec<D> way = dt_ * actor_.across_up(actor_.velocity);
    if (way.norm() == 0.0) return false;
    bool blocked = false;
    (void)sweep<D>(body, actor_.anchor, way, &blocked);
    if (!blocked) return false;
    const Vec<D> lifted = sweep<D>(body, actor_.anchor, chosen_.lift->reflex.by * actor_.up());
    const Vec<D> over = sweep<D>(body, lifted, way);
    if (actor_.across_up(over - lifted).norm() <= 0.5 * way.norm()) return false;
    bool landed = false;
    const Vec<D> down = sweep<D>(body, over, -(over - actor_.anchor).dot(actor_.up()) * actor_.up(), &landed);
    if (!landed) return false;
    way_.insert(way_.end(), {lifted, over});
    actor_.anchor = down;
    actor_.velocity -= std::min(0.0, actor_.velocity.dot(actor_.up())) * actor_.up();
    return true;
}

template <int D>
void BodyMover<D>::hug_ground() {
    if (actor_.velocity.dot(actor_.up()) > 1e-9) return;
    // Where it is now: what was read before the move tells of ground that it has left behind.
    actor_.aim();
    const auto contacts = actor_.stage.feels_contacts ? touched_by<D>(actor_.level(), actor_.mounted(),
                                                                      actor_.anchor, actor_.intent().touch)
                                                      : std::vector<MoveContact<D>>{};
    fresh_.resize(readings_.size());
    (void)actor_.mounted().evaluate(actor_.level(), actor_.anchor, fresh_, contacts);
    const Reading<D>* const reading = nearest_reading<D>(*chosen_.hug, fresh_);
    if (reading == nullptr) return;
    const double by = chosen_.hug->reflex.by;
    const auto number = static_cast<std::size_t>(reading - fresh_.data());
    const Vec<D> way = std::clamp(told_height(number, *reading), -by, by) * actor_.up();
    actor_.anchor =
        drill_.motion.model == Model::free ? actor_.anchor + way : sweep<D>(mover(), actor_.anchor, way);
    actor_.velocity -= actor_.velocity.dot(actor_.up()) * actor_.up();
}

template <int D>
double BodyMover<D>::told_height(std::size_t number, const Reading<D>& reading) const {
    const MountedProbe<D>& probe = actor_.mounted().probes[number];
    if (!probe.is_line() || reading.hit.began_inside)
        return actor_.up().dot(reading.hit.point - actor_.anchor);
    const auto [low, high] = extent_along(probe.shape.view(), actor_.up());
    return actor_.up().dot(probe.start(0, reading) + reading.hit.distance * probe.lines.front().along) + low -
           probe.shape.radius();
}

template <int D>
void BodyMover<D>::move_free() {
    const double grain = drill_.motion.grain;
    if (chosen_.lift != nullptr) {
        const Reading<D>* const reading = nearest_reading<D>(*chosen_.lift, readings_);
        if (reading != nullptr)
            actor_.anchor += std::clamp(actor_.up().dot(reading->hit.point - actor_.anchor), 0.0,
                                        chosen_.lift->reflex.by) *
                             actor_.up();
    }
    if (grain == 0.0) {
        actor_.anchor += dt_ * actor_.velocity;
        return;
    }
    owed_ += dt_ * actor_.velocity;
    const std::array<Vec<D>, 2> parts = {actor_.across_up(owed_), owed_.dot(actor_.up()) * actor_.up()};
    for (std::size_t k = 0; k < parts.size(); ++k) {
        if (chosen_.blocked[k] != nullptr) {
            stop_part(*chosen_.blocked[k], parts[k], k == 1);
            continue;
        }
        // Whole grains along the axes of the level, towards zero: what is left is owed.
        Vec<D> whole = Vec<D>::zero();
        for (int axis = 0; axis < D; ++axis)
            whole[axis] = grain * std::trunc(parts[k][axis] / grain + 1e-9 * (parts[k][axis] < 0 ? -1 : 1));
        actor_.anchor += whole;
        owed_ -= whole;
    }
}

template <int D>
void BodyMover<D>::stop_part(const BoundReflex& bound, const Vec<D>& part, bool along_up) {
    const Vec<D> rise = actor_.velocity.dot(actor_.up()) * actor_.up();
    const Vec<D> speed = along_up ? rise : actor_.velocity - rise;
    if (drill_.motion.approach == Approach::creep) creep(bound, speed);
    owed_ -= part;
    actor_.velocity -= speed;
}

template <int D>
void BodyMover<D>::creep(const BoundReflex& bound, const Vec<D>& speed) {
    constexpr int most_grains = 4096;
    const double norm = speed.norm();
    const Vec<D> step = norm > 0.0 ? drill_.motion.grain / norm * speed : Vec<D>::zero();
    for (int i = 0; i < most_grains; ++i) {
        if (is_on_at(bound, step)) return;
        if (norm == 0.0) break;  // it would stay where it is, and ask again
        actor_.anchor += step;
    }
    ++endless_creeps_;
}

template <int D>
bool BodyMover<D>::is_on_at(const BoundReflex& bound, const Vec<D>& step) const {
    const MountedRig<D>& rig = actor_.mounted();
    for (std::size_t i = 0; i < rig.probes.size(); ++i) {
        const MountedProbe<D>& probe = rig.probes[i];
        if (!bound.probes.has(i) || probe.kind != ProbeKind::shift || !probe.mounted) continue;
        std::array<LevelNeighbour<D>, 1> found{};
        const LevelQuery<D> query{probe.shape.view(), actor_.anchor + step, probe.sees, probe.one_way, step};
        if (LevelBackEnd<D>(actor_.level()).overlapping(query, found) > 0) return true;
    }
    return false;
}

template <int D>
void BodyMover<D>::note_drift(const Vec<D>& before, std::uint32_t piece, TickFacts& facts) const {
    if (solid_moves_.empty() || !actor_.drive.is_zero(0.0)) return;
    const Vec<D>& by = solid_moves_[actor_.level().solid_of(piece)];
    if (by.is_zero(0.0)) return;
    const Vec<D> off = actor_.anchor - before - by;
    facts.carried_off.assign(off.data(), off.data() + D);
}

template <int D>
void BodyMover<D>::require_room() const {
    const auto truth = clip<D>(actor_.level(), actor_.placed(), actor_.intent());
    if (!truth.on) return;
    throw InvalidInput("the body starts " + std::to_string(truth.depth) + " deep in '" +
                       actor_.level().solids()[actor_.level().solid_of(*truth.piece)].name +
                       "': expected it free");
}

template class BodyMover<2>;
template class BodyMover<3>;

}  // namespace hollow_probe
