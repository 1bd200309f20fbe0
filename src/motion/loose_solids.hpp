// Solids of a level that can be pushed: masses that fall, rub and strike each other and the body.
#pragma once

#include "hollow_probe/level/shifting_level.hpp"
#include "hollow_probe/motion/drill.hpp"
#include "hollow_probe/truth/contact.hpp"
#include "motion/mover.hpp"

namespace hollow_probe {

template <int D>
class LooseSolids {
  public:
    /// Throws InvalidInput for solids there are not, that move on a path, or that overlap something at the
    /// start.
    LooseSolids(ShiftingLevel<D>& level, const Drill<D>& drill, double touch);

    /// One tick of all of them, one after the other. Those that run into the body share their momentum with
    /// it.
    void move(double seconds, const PlacedBody<D>& body, Vec<D>& body_velocity, const Motion& motion);

    /// Solids have moved by these ways, by number: what they moved into goes out of their way, and pushes on
    /// what is in its own.
    void make_way(std::span<const Vec<D>> moves, double seconds);

    /// A mass ran into something with this speed along the normal: its speed along it afterwards. What is
    /// loose, and has room to go, takes its part of the momentum; anything else stands fast.
    double strike(const LevelHit<D>& hit, double speed, double mass, double bounce);

    /// Where each thing is, from where the level has it, and its velocity.
    using State = std::vector<std::pair<Vec<D>, Vec<D>>>;
    [[nodiscard]] State keep() const;
    /// Takes effect when the level is refitted.
    void go_back(const State& state);

  private:
    struct Thing {
        std::uint32_t solid = 0;
        double mass = 0.0;
        double friction = 0.0;
        Vec<D> velocity = Vec<D>::zero();
    };
    Thing* find(std::uint32_t solid);
    /// What moves a thing; `parts` are filled, and must outlive it.
    Mover<D> mover_of(const Thing& thing, std::vector<HullView<D>>& parts) const;
    /// Whether a thing is kept from going along a direction by what stands fast, be it through other things.
    bool is_barred(const Thing& thing, const Vec<D>& direction, int deepest);
    /// Out of a solid that came by `by` into the thing. Whether it went.
    bool push_from(Thing& thing, std::uint32_t solid, const Vec<D>& by, double seconds);

    ShiftingLevel<D>& level_;
    LayerSet meets_;
    double skin_;
    std::vector<Thing> things_;
};

extern template class LooseSolids<2>;
extern template class LooseSolids<3>;

}  // namespace hollow_probe
