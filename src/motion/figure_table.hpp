// The figures by name.
#pragma once

#include "hollow_probe/motion/figures.hpp"

namespace hollow_probe {

struct FigureEntry {
    const char* name = nullptr;
    double (*of_drill)(const DrillFigures&) = nullptr;    // one of these
    double (*of_signal)(const SignalFigures&) = nullptr;  // two
    bool counts = false;                                  // a whole number, of ticks or events
    bool only_grows = true;  // so that what breaks a limit can be told at the tick that does
};

/// Null for a name there is not.
const FigureEntry* find_figure(const std::string& name);
double value_of(const FigureEntry& entry, const DrillFigures& figures, const std::string& signal);

}  // namespace hollow_probe
