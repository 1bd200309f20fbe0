// What a drill came to, whatever its dimension: for tables and files.
#pragma once

#include "hollow_probe/motion/drill_cures.hpp"

namespace hollow_probe {

struct DrillOutcome {
    std::string name;
    double tick_rate = 60.0;
    double phase = 0.0;
    double seconds = 0.0;
    DrillFigures figures;
    std::vector<Expectation> expectations;
    std::vector<Broken> broken;
    DrillWhy why = {};  // if it was asked for

    [[nodiscard]] bool kept() const { return broken.empty(); }
};

template <int D>
DrillOutcome outcome_of(const Drill<D>& drill, const DrillRecord<D>& record) {
    return {drill.name,     drill.tick_rate,    drill.phase,   drill.seconds,
            record.figures, drill.expectations, record.broken, {}};
}

}  // namespace hollow_probe
