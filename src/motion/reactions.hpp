// What the game does to a body's velocity: drive, gravity and reflexes.
#pragma once

#include "hollow_probe/motion/drill.hpp"
#include "motion/body_mover.hpp"
#include "motion/going.hpp"

namespace hollow_probe {

template <int D>
class Reactions {
  public:
    /// `readings` are those last made.
    Reactions(Actor<D>& actor, const Drill<D>& drill, const std::vector<Reading<D>>& readings)
        : actor_(actor), drill_(drill), readings_(readings), acted_(actor.stage.reflexes.size()) {}

    /// Whether a reflex keeps the body from taking a stance.
    [[nodiscard]] bool refuses(std::size_t stance, SignalSet signals_on) const;
    /// -1 where the drive is turned round, else 1.
    [[nodiscard]] double way_of_drive() const { return turned_back_ ? -1.0 : 1.0; }

    /// The velocity that the drive and gravity make.
    void plan(SignalSet signals_on, const Going& going);
    /// All reflexes, in the order of the rig. `jump` is set where one is asked for and permitted.
    ChosenReflexes react(SignalSet signals_on, bool jump_asked, bool& jump);

    struct State {
        std::vector<bool> acted;
        bool turned_back = false;
    };
    [[nodiscard]] State keep() const { return {acted_, turned_back_}; }
    void go_back(const State& state) {
        acted_ = state.acted;
        turned_back_ = state.turned_back;
    }

  private:
    static bool acts(const BoundReflex& bound, SignalSet signals_on) {
        return signals_on.has(bound.signal) != bound.reflex.when_off;
    }
    void set_rise(double speed) { actor_.velocity += (speed - rise()) * actor_.up(); }
    [[nodiscard]] double rise() const { return actor_.velocity.dot(actor_.up()); }
    void cancel_drive(const BoundReflex& bound);
    void cancel_axis(const BoundReflex& bound, ChosenReflexes& chosen);

    Actor<D>& actor_;
    const Drill<D>& drill_;
    const std::vector<Reading<D>>& readings_;
    std::vector<bool> acted_;  // by reflex: in the tick before
    bool turned_back_ = false;
};

extern template class Reactions<2>;
extern template class Reactions<3>;

}  // namespace hollow_probe
