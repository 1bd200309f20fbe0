// How a drill moves its body, by the model chosen, and what moves it.
#pragma once

#include <array>
#include <optional>

#include "hollow_probe/motion/drill.hpp"
#include "motion/figure_keeper.hpp"
#include "motion/going.hpp"
#include "motion/loose_solids.hpp"
#include "motion/mover.hpp"
#include "motion/stage_parts.hpp"

namespace hollow_probe {

/// Reflexes that act on this tick's move itself.
struct ChosenReflexes {
    std::array<const BoundReflex*, 2> blocked{};  // free with a grain: the part across up, and along it
    const BoundReflex* lift = nullptr;
    const BoundReflex* hug = nullptr;
    const BoundReflex* carry = nullptr;
    bool holds_height = false;
    bool jumped = false;
};

template <int D>
class BodyMover {
  public:
    /// `readings` are those last made. Throws InvalidInput for loose solids that cannot be, and for a body
    /// that starts in a solid where the model keeps it out of them.
    BodyMover(Actor<D>& actor, const Drill<D>& drill, const std::vector<Reading<D>>& readings);

    /// Turns the body to look along `heading`. A body of other sides than round turns as far as there is
    /// room, by the shorter way, moved aside where that makes room; `facts` say if it was held.
    void turn(const Vec<D>& heading, TickFacts& facts);

    /// One tick: solids on paths and loose ones move, and then the body. `stood_on` is the piece that is its
    /// ground before.
    void move(std::size_t number, const ChosenReflexes& chosen, const Going& going,
              std::optional<std::uint32_t> stood_on, TickFacts& facts);

    struct State {
        bool holds_height = false;
        Going going;
        Vec<D> owed = Vec<D>::zero();
        typename LooseSolids<D>::State loose;
    };
    [[nodiscard]] State keep() const;
    /// Solids with paths are put where they are by others.
    void go_back(const State& state);

  private:
    [[nodiscard]] Mover<D> mover();
    /// Solids move first, and push the body out of their way.
    void move_level(std::size_t number, TickFacts& facts);
    /// What solids with paths moved by in this tick; of the others nothing.
    [[nodiscard]] std::vector<Vec<D>> moves_of_paths() const;
    void carry(const Vec<D>& way);
    /// The body is pushed out of a solid that moved into it.
    void make_way(std::uint32_t number, TickFacts& facts);
    void move_slide();
    void move_push_out();
    [[nodiscard]] bool is_on_footing() const;
    /// Puts the body into a heading if there is room for it, or there is when it is moved aside a little.
    bool put_into(const Vec<D>& heading);
    /// Whether the way went through something. A body that was pushed out of what it overlapped went through
    /// that only if it came out on the other side.
    [[nodiscard]] bool tunnelled() const;
    [[nodiscard]] bool came_out_behind(const Vec<D>& before, const Vec<D>& after) const;
    /// Up, on, and down again. False if that gets the body no farther than sliding would.
    bool lift_over(const Mover<D>& body);
    /// Puts the body at the height its probe tells, as far as nothing is in the way.
    void hug_ground();
    /// Of the ground above the anchor: where the probe that tells it came to rest, or what it touched.
    [[nodiscard]] double told_height(std::size_t probe, const Reading<D>& reading) const;
    void move_free();
    /// A cancelled part of the way: none of it, or as many grains as the signal's shift allows.
    void stop_part(const BoundReflex& bound, const Vec<D>& part, bool along_up);
    void creep(const BoundReflex& bound, const Vec<D>& speed);
    /// Whether one of the signal's shifts overlaps something with the body placed `step` on.
    [[nodiscard]] bool is_on_at(const BoundReflex& bound, const Vec<D>& step) const;
    void note_drift(const Vec<D>& before, std::uint32_t piece, TickFacts& facts) const;
    void require_room() const;

    Actor<D>& actor_;
    const Drill<D>& drill_;
    const std::vector<Reading<D>>& readings_;
    double dt_;
    ChosenReflexes chosen_;
    Going going_;
    std::optional<LooseSolids<D>> loose_;
    HullView<D> shape_;
    std::vector<Reading<D>> fresh_;    // where the body has come to
    Vec<D> owed_ = Vec<D>::zero();     // of the way, where moves are whole grains
    std::vector<Vec<D>> solid_moves_;  // of this tick, by solid; empty where none moves
    std::size_t endless_creeps_ = 0;   // in this tick
    Vec<D> pushed_ = Vec<D>::zero();   // in this tick, by solids that moved into it
    std::vector<Vec<D>> way_;          // of this tick: where it went, corner by corner
    bool is_round_ = false;            // turning it makes no difference
};

extern template class BodyMover<2>;
extern template class BodyMover<3>;

}  // namespace hollow_probe
