// Drill files: TOML, format "hollow-probe drill 1"; every key is described in docs/formats.md.
#pragma once

#include <string>

#include "hollow_probe/io/input_error.hpp"
#include "hollow_probe/level/level.hpp"
#include "hollow_probe/motion/drill.hpp"
#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe {

/// The files a drill names, as paths from where the program runs.
struct DrillFiles {
    std::string level;
    std::string rig;
};

/// Only what is needed to load the level and the rig. Throws InputError.
DrillFiles files_of_drill(const std::string& path);

/// Reads a drill for its level and rig. Its name is that of the file without folder and endings. Throws
/// InputError. Files above 64 MiB are refused.
template <int D>
Drill<D> load_drill(const std::string& path, const Level<D>& level, const Rig<D>& rig);
template <int D>
Drill<D> drill_from_toml(const std::string& text, const std::string& name, const Level<D>& level,
                         const Rig<D>& rig);

/// The text of a drill file with other cues, seconds and tick rate, and everything else as the author wrote
/// it, to be kept in `folder`: the files it names are looked up from there. `comment` goes before the cues, a
/// line each. Throws InputError if the text is no drill file.
template <int D>
std::string with_cues(const std::string& text, const std::string& name, const std::string& folder,
                      const Drill<D>& drill, const std::string& comment);

extern template Drill<2> load_drill<2>(const std::string&, const Level<2>&, const Rig<2>&);
extern template Drill<3> load_drill<3>(const std::string&, const Level<3>&, const Rig<3>&);
extern template Drill<2> drill_from_toml<2>(const std::string&, const std::string&, const Level<2>&,
                                            const Rig<2>&);
extern template Drill<3> drill_from_toml<3>(const std::string&, const std::string&, const Level<3>&,
                                            const Rig<3>&);

}  // namespace hollow_probe
