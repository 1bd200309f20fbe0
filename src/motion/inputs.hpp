// What the game is told of the player, tick by tick.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/motion/drill.hpp"
#include "hollow_probe/rig/mount.hpp"

namespace hollow_probe {

template <int D>
struct Told {
    Vec<D> drive = Vec<D>::zero();
    const Vec<D>* heading = nullptr;  // if a cue has set one
    std::string stance;               // asked for last; empty: never
    std::uint32_t keys = 0;           // pressed, bits of `names`
    const std::vector<std::string>* names = nullptr;

    [[nodiscard]] bool pressed(const char* name) const {
        for (std::size_t i = 0; i < names->size(); ++i) {
            if ((*names)[i] == name) return (keys >> i & 1U) != 0;
        }
        return false;
    }
    /// The keys as events of a rig.
    [[nodiscard]] std::uint64_t events(const MountedRig<D>& rig) const {
        std::uint64_t bits = 0;
        for (std::size_t i = 0; i < names->size(); ++i) {
            if ((keys >> i & 1U) != 0) bits |= rig.event((*names)[i]);
        }
        return bits;
    }
};

template <int D>
class Inputs {
  public:
    explicit Inputs(const Drill<D>& drill);

    [[nodiscard]] const std::vector<std::string>& keys() const { return keys_; }
    /// One more, no earlier than those there are and than the tick told last.
    void add(Cue<D> cue);
    /// What tick `number`, which begins at `seconds`, is told. Ticks are asked in order.
    Told<D> tell(std::size_t number, double seconds);
    /// Presses that no tick so far was told of though their time has passed, and that more than one was.
    [[nodiscard]] std::size_t lost() const;
    [[nodiscard]] std::size_t doubled() const;

    struct State;
    [[nodiscard]] State keep() const;
    void go_back(const State& state);

  private:
    /// When a press shows: to the tick or frame of that number.
    struct Press {
        double number = 0.0;
        std::size_t key = 0;
        std::size_t told = 0;  // to how many ticks
    };

    void add_press(const Cue<D>& cue);
    /// The number of the tick or frame that a press shows to.
    [[nodiscard]] double shows_at(double seconds) const;

    const Drill<D>& drill_;
    std::vector<Cue<D>> cues_;    // ascending in time, the phase added
    std::vector<double> frames_;  // when each begins; empty: ticks are told as they come
    std::size_t next_ = 0;
    std::vector<std::string> keys_;
    std::vector<Press> presses_;
    Told<D> told_;
    Vec<D> heading_ = Vec<D>::zero();  // set by a cue last
    double shown_ = -1.0;              // the number of the last tick or frame
};

/// What was told so far, and what is still to be told.
template <int D>
struct Inputs<D>::State {
    std::vector<Cue<D>> cues;
    std::size_t next = 0;
    std::vector<std::string> keys;
    std::vector<Press> presses;
    Told<D> told;  // without a heading
    std::optional<Vec<D>> heading;
    double shown = -1.0;

    /// Leaves out what was to be told later.
    void forget_what_comes() {
        cues.resize(next);
        std::erase_if(presses, [&](const Press& press) { return press.number > shown; });
    }
};

extern template class Inputs<2>;
extern template class Inputs<3>;

}  // namespace hollow_probe
