// Rig files: TOML, format "hollow-probe rig 1"; every key is described in docs/formats.md.
#pragma once

#include <string>

#include "hollow_probe/io/input_error.hpp"
#include "hollow_probe/level/level.hpp"
#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe {

/// Reads a rig for a level: dimensions and layers are held against it, with the place in the rig file in
/// every message. Throws InputError. Files above 64 MiB are refused.
template <int D>
Rig<D> load_rig(const std::string& path, const Level<D>& level);

/// Reads a rig by itself: whatever layers it names, there are. For what needs no level, or makes its own.
template <int D>
Rig<D> load_rig(const std::string& path);

/// Whether a file says that it is one of a rig. Throws InputError for what cannot be read, or is no TOML.
bool is_rig_file(const std::string& path);

/// The dimensions that a rig file states. Throws InputError for what is no rig file.
int dimensions_of_rig(const std::string& path);

/// The same from text; `name` stands for the file in messages.
template <int D>
Rig<D> rig_from_toml(const std::string& text, const std::string& name, const Level<D>& level);

extern template Rig<2> load_rig<2>(const std::string&, const Level<2>&);
extern template Rig<3> load_rig<3>(const std::string&, const Level<3>&);
extern template Rig<2> load_rig<2>(const std::string&);
extern template Rig<3> load_rig<3>(const std::string&);
extern template Rig<2> rig_from_toml<2>(const std::string&, const std::string&, const Level<2>&);
extern template Rig<3> rig_from_toml<3>(const std::string&, const std::string&, const Level<3>&);

}  // namespace hollow_probe
