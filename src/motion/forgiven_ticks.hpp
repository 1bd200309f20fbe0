// Wrong ticks of one signal, and which of them the intent forgives.
#pragma once

#include <deque>

#include "hollow_probe/body/body.hpp"
#include "hollow_probe/motion/figures.hpp"

namespace hollow_probe {

/// What one tick says of a signal.
struct ToldTick {
    bool on = false;
    bool truth = false;
    bool undecided = false;
    bool held = false;          // on, and true with the larger touch that holds remembered contact
    bool about_ground = false;  // it claims ground
    bool jumped = false;        // the body took off
};

class ForgivenTicks {
  public:
    ForgivenTicks(const Forgiveness& forgive, double tick_seconds);

    /// Counts a tick, or keeps it until it is known whether truth comes to what the signal says in time.
    void take(const ToldTick& tick, SignalFigures& figures);
    /// No further tick comes: what still waits was wrong.
    void finish(SignalFigures& figures);

  private:
    struct Waiting {
        std::size_t number = 0;
        bool on = false;
    };
    static void count(const Waiting& wrong, SignalFigures& figures);

    std::size_t late_;
    std::size_t early_;
    std::size_t after_take_off_;
    std::size_t number_ = 0;
    std::size_t last_with_[2] = {none, none};  // the last tick with truth off, on
    std::size_t last_jump_ = none;
    std::deque<Waiting> waiting_;

    static constexpr std::size_t none = ~std::size_t{0};
};

}  // namespace hollow_probe
