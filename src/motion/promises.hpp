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
    /// How near each came to being broken: 0 far from it, 1 at the limit, more beyond.
    [[nodiscard]] std::vector<double> nearness(const DrillFigures& figures) const;

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

    const Drill<D>& drill_;
    double body_size_;
    std::vector<Watched> watched_;  // by number
    std::vector<Broken> broken_;
};

extern template class Promises<2>;
extern template class Promises<3>;

}  // namespace hollow_probe
