// A series of hunts and all that may be asked for of it, whether it is made at once or of parts.
#pragma once

#include <string>
#include <vector>

#include "common.hpp"
#include "drills.hpp"
#include "hollow_probe/motion/hunt_series.hpp"

namespace hollow_probe::tool {

struct HuntWanted {
    CommonOptions common;
    std::string file;  // the drill
    std::string write;
    std::size_t ticks = 20'000'000;
    std::size_t seeds = 1;
    double seconds = 0.0;
    std::vector<double> tick_rates;
    std::uint64_t most_ticks_to_explain = 2'000'000;
};

HuntOptions hunt_options(const HuntWanted& wanted);

/// --write and --try.
void add_hunt_outputs(Command& command, HuntWanted& wanted);

/// Where a drill that is found is written.
std::string hunt_target(const HuntWanted& wanted);

/// Hunts at one rate after the other, writes, prints. `parts` has what parts found, by rate. Returns the exit
/// code.
template <int D>
int hunt_and_tell(const HuntWanted& wanted, const LoadedDrill<D>& loaded,
                  const std::vector<std::vector<std::string>>& parts = {});

}  // namespace hollow_probe::tool
