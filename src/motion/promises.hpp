// A drill's expectations, watched while it is played.
#pragma once

#include "hollow_probe/motion/play.hpp"
#include "motion/figure_table.hpp"

namespace hollow_probe {

template <int D>
class Promises {
  public:
    /// Throws InvalidInput for areas the level and signals the rig does not have. Both must outlive it.
    Promises(const Drill<D>& drill, const Level<D>& level, const Rig<D>& rig);

    void watch(const TickRecord<D>& tick, const DrillFigures& so_far);
    /// All that are broken, also those that show only at the end; by number.
    std::vector<Broken> conclude(const TickRecord<D>& last, const DrillFigures& figures);
    /// How near each came to being broken: 0 far from it, 1 at the limit, more beyond; of counts that are to
    /// be most, 1 is the first that is too many.
    [[nodiscard]] std::vector<double> nearness(const DrillFigures& figures) const;
    /// … at a tick: of areas, how near the body is to them there.
    [[nodiscard]] std::vector<double> nearness_now(const TickRecord<D>& tick,
                                                   const DrillFigures& figures) const;
    /// Whether one is broken already, whatever comes; and those that are, by number.
    [[nodiscard]] bool is_broken() const { return !broken_.empty(); }
    [[nodiscard]] std::vector<Broken> broken() const;

    struct State;
    [[nodiscard]] State keep() const { return {watched_, broken_}; }
    void go_back(const State& state) {
        watched_ = state.watched;
        broken_ = state.broken;
    }

  private:
    struct Watched {
        const FigureEntry* entry = nullptr;
        const Area<D>* area = nullptr;
        bool settled = false;       // broken, or an area reached
        double nearest = infinity;  // to the area
        TickRecord<D> nearest_tick;
    };
    void watch_area(std::size_t number, const TickRecord<D>& tick);
    void note(std::size_t number, double got, const TickRecord<D>& when);
    [[nodiscard]] double nearness_of_figure(std::size_t number, const DrillFigures& figures) const;
    static double away_from(const Area<D>& area, const TickRecord<D>& tick);

    const Drill<D>& drill_;
    double body_size_;
    std::vector<Watched> watched_;  // by number
    std::vector<Broken> broken_;
};

template <int D>
struct Promises<D>::State {
    std::vector<Watched> watched;
    std::vector<Broken> broken;
};

extern template class Promises<2>;
extern template class Promises<3>;

}  // namespace hollow_probe
