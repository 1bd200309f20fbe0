// Makes figures of a drill's ticks as they come.
#pragma once

#include "hollow_probe/motion/play.hpp"
#include "motion/forgiven_ticks.hpp"

namespace hollow_probe {

/// What a tick's record does not tell, but figures need.
struct TickFacts {
    bool on_steep = false;       // the body touches what is too steep for footing, and no ceiling
    bool stood_still = false;    // it did not move across up
    double wall_gap = infinity;  // asked for where it stood still though driven
    std::vector<double>
        carried_off;            // how it moved otherwise than the moving solid it stood on; empty: on none
    bool jump_refused = false;  // a jump was asked for and not given
    bool tunnelled = false;     // its way crossed a piece that neither end shows
    std::size_t endless_creeps = 0;    // creeps that could not have ended
    bool crushed = false;              // solids that moved left it no room
    double top_speed = 0.0;            // that a full drive reaches
    bool turn_held = false;            // it could not turn as far as it was to
    bool ground_before = false;        // truth, where the tick began
    std::vector<double> value_errors;  // by signal; negative: none
};

template <int D>
class FigureKeeper {
  public:
    FigureKeeper(const Rig<D>& rig, const Drill<D>& drill, const Vec<D>& up);

    /// `start` is the state before the first tick.
    void begin(const TickRecord<D>& start);
    void take(const TickRecord<D>& tick, const TickFacts& facts);
    /// No further tick comes.
    void finish();

    DrillFigures figures;  // as of the last tick taken; wrong ticks that may yet be forgiven come later

  private:
    void take_signals(const TickRecord<D>& tick, const TickFacts& facts);
    /// The change of speed along up over two windows of a thirtieth of a second, but not around jumps.
    void take_bumps(const TickRecord<D>& tick);
    [[nodiscard]] double rise_of(double speed) const;
    void take_drift(const TickFacts& facts);
    /// Off the ground, but not falling; on it, but not at rest; and take-offs that came to nothing.
    void take_idling(const TickRecord<D>& tick, const TickFacts& facts, double rise);
    void take_climb(const TickRecord<D>& tick, const TickFacts& facts);

    /// A truth's last change that its signal has not followed yet.
    struct Pending {
        bool waits = false;
        std::size_t since = 0;
    };

    /// Jumps given just after the ground was left, and refused just after it was reached or left by a jump.
    void take_jumps(const TickRecord<D>& tick, const TickFacts& facts);

    Vec<D> up_;
    double tick_seconds_;
    Forgiveness forgive_;
    std::vector<ForgivenTicks> forgiven_;  // by signal
    double off_ground_ = 1e300;            // s, since the body last stood
    double on_ground_ = 0.0;               // s, since it stands
    double since_jump_ = 1e300;
    double gravity_;
    double jump_speed_;
    TickRecord<D> before_;
    std::vector<Pending> pending_;  // by signal
    double hanging_ = 0.0;          // s, of the present runs
    double stuck_ = 0.0;
    double covered_ = 0.0;  // along the drive
    double wanted_ = 0.0;
    double left_ground_at_ = 0.0;  // height
    double take_off_ = 0.0;        // speed along up
    double squared_ = 0.0;         // sum of squared vertical accelerations
    std::size_t accelerations_ = 0;
    std::vector<double> heights_;  // of the last two windows of ticks, the oldest first
    double hovering_ = 0.0;        // s, of the present runs
    double clinging_ = 0.0;
    std::vector<double> idle_at_;  // where the body was let be; empty: it is not
    bool took_off_ = false;        // in the tick before
    bool jumping_ = false;         // it has not stood since it jumped
    std::vector<double> drifted_;  // from the moving solid it stands on, since it does
};

extern template class FigureKeeper<2>;
extern template class FigureKeeper<3>;

}  // namespace hollow_probe
