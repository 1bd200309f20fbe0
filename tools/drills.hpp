// Loading drills with their levels and rigs, and playing them at several rates: what three commands share.
#pragma once

#include <fmt/format.h>

#include <map>
#include <memory>
#include <variant>

#include "common.hpp"
#include "hollow_probe/io/drill_file.hpp"
#include "hollow_probe/motion/outcome.hpp"
#include "hollow_probe/report/page.hpp"

namespace hollow_probe::tool {

template <int D>
struct LoadedDrill {
    std::shared_ptr<const Level<D>> level;
    Rig<D> rig;
    Drill<D> drill;
};
using AnyDrill = std::variant<LoadedDrill<2>, LoadedDrill<3>>;

/// Levels are loaded once for all drills on them.
class DrillLoader {
  public:
    /// `rig`: the path of another than the drill names.
    AnyDrill load(const std::string& path, const std::string& rig = {});

  private:
    std::map<std::string, std::variant<std::shared_ptr<const Level<2>>, std::shared_ptr<const Level<3>>>>
        levels_;
};

/// The drill at each rate, and so many times, each a part of a tick later than the one before. No rates: at
/// its own.
template <int D>
std::vector<Drill<D>> variants(const Drill<D>& drill, const std::vector<double>& tick_rates,
                               std::size_t phases) {
    std::vector<Drill<D>> all;
    for (const double rate : tick_rates.empty() ? std::vector<double>{drill.tick_rate} : tick_rates) {
        for (std::size_t i = 0; i < phases; ++i) {
            all.push_back(drill);
            all.back().tick_rate = rate;
            all.back().phase = static_cast<double>(i) / static_cast<double>(phases);
        }
    }
    return all;
}

/// Plays a drill for a page; returns the report's number.
template <int D>
std::size_t add_to_page(Page& page, const LoadedDrill<D>& loaded, const Drill<D>& drill,
                        const std::string& file) {
    PlayOptions<D> all;
    all.keep_readings = true;
    std::string command = "hollow-probe drill " + file;
    if (drill.tick_rate != loaded.drill.tick_rate)
        command += fmt::format(" --tick-rates {}", drill.tick_rate);
    return page.add<D>(*loaded.level, loaded.rig, drill, play<D>(*loaded.level, loaded.rig, drill, all),
                       command);
}

}  // namespace hollow_probe::tool
