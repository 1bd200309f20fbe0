#include "motion/reactions.hpp"

#include <algorithm>

namespace hollow_probe {

template <int D>
bool Reactions<D>::refuses(std::size_t stance, SignalSet signals_on) const {
    const auto& reflexes = actor_.stage.reflexes;
    return std::any_of(reflexes.begin(), reflexes.end(), [&](const BoundReflex& bound) {
        return bound.reflex.kind == ReflexKind::refuse_stance && bound.stance == stance &&
               acts(bound, signals_on);
    });
}

template <int D>
void Reactions<D>::plan(SignalSet signals_on, const Going& going) {
    const Motion& motion = drill_.motion;
    const double tick_seconds = 1.0 / drill_.tick_rate;
    const bool loose = motion.model == Model::loose;
    // Without gravity the drive goes up and down as well.
    const Vec<D> along_up = motion.gravity == 0.0 ? Vec<D>::zero() : rise() * actor_.up();
    Vec<D> driven = actor_.velocity - along_up;
    const Vec<D> change = going.top_speed * actor_.drive - driven;
    const double most = loose                      ? motion.force / motion.mass * tick_seconds
                        : going.acceleration > 0.0 ? going.acceleration * tick_seconds
                                                   : infinity;
    const bool lets_go = (loose || going.coasts) && actor_.drive.is_zero(0.0);
    if (!lets_go) driven += change.norm() <= most ? change : most * change.normalized();
    actor_.velocity = driven + along_up;
    if (going.drag > 0.0) actor_.velocity *= std::max(0.0, 1.0 - going.drag * tick_seconds);
    const auto& reflexes = actor_.stage.reflexes;
    const bool held = std::any_of(reflexes.begin(), reflexes.end(), [&](const BoundReflex& bound) {
        const ReflexKind kind = bound.reflex.kind;
        return (kind == ReflexKind::zero_fall || kind == ReflexKind::hold_height) && acts(bound, signals_on);
    });
    if (!held) actor_.velocity -= motion.gravity * tick_seconds * actor_.up();
}

template <int D>
ChosenReflexes Reactions<D>::react(SignalSet signals_on, bool jump_asked, bool& jump) {
    ChosenReflexes chosen;
    const bool rises = rise() > 0.0;
    for (std::size_t i = 0; i < acted_.size(); ++i) {
        const BoundReflex& bound = actor_.stage.reflexes[i];
        const Reflex& reflex = bound.reflex;
        const bool active = acts(bound, signals_on);
        const bool begins = active && !acted_[i];
        acted_[i] = active;
        if (!active) continue;
        switch (reflex.kind) {
            case ReflexKind::permit_jump:
                jump = jump || jump_asked;
                break;
            case ReflexKind::zero_fall:
                set_rise(0.0);
                break;
            case ReflexKind::hold_height:
                set_rise(0.0);
                chosen.holds_height = true;
                break;
            case ReflexKind::stop_rise:
                if (rises) set_rise(-reflex.speed);
                break;
            case ReflexKind::press_down:
                set_rise(std::min(rise(), -reflex.speed));
                break;
            case ReflexKind::cancel_drive:
                cancel_drive(bound);
                break;
            case ReflexKind::cancel_axis:
                cancel_axis(bound, chosen);
                break;
            case ReflexKind::lift_over:
                chosen.lift = &bound;
                break;
            case ReflexKind::hug_ground:
                chosen.hug = &bound;
                break;
            case ReflexKind::carry_along:
                chosen.carry = &bound;
                break;
            case ReflexKind::turn_back:
                if (begins) turned_back_ = !turned_back_;
                break;
            case ReflexKind::refuse_stance:
                break;  // asked when a stance is
        }
    }
    return chosen;
}

template <int D>
void Reactions<D>::cancel_drive(const BoundReflex& bound) {
    const Reading<D>* const reading = nearest_reading<D>(bound, readings_);
    const Vec<D> across = actor_.across_up(actor_.velocity);
    const Vec<D> normal = reading != nullptr ? actor_.across_up(reading->hit.normal) : Vec<D>::zero();
    if (normal.norm() < 1e-6) {
        actor_.velocity -= across;  // there is no telling which way the wall is
        return;
    }
    const Vec<D> n = normal.normalized();
    if (across.dot(n) < 0.0) actor_.velocity -= across.dot(n) * n;
}

/// The model `free` with a grain asks on the way which part is cancelled; the others lose it here.
template <int D>
void Reactions<D>::cancel_axis(const BoundReflex& bound, ChosenReflexes& chosen) {
    const bool along_up = bound.reflex.axis == ReflexAxis::along_up;
    if (drill_.motion.model == Model::free && drill_.motion.grain > 0.0) {
        chosen.blocked[along_up ? 1 : 0] = &bound;
        return;
    }
    const Vec<D> across = actor_.across_up(actor_.velocity);
    actor_.velocity = along_up ? across : actor_.velocity - across;
}

template class Reactions<2>;
template class Reactions<3>;

}  // namespace hollow_probe
