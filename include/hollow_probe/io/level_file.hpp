// Level files: TOML, format "hollow-probe level 1"; every key is described in docs/formats.md.
#pragma once

#include <string>
#include <variant>

#include "hollow_probe/io/input_error.hpp"
#include "hollow_probe/level/level.hpp"

namespace hollow_probe {

using AnyLevel = std::variant<Level<2>, Level<3>>;

/// Reads a level of either dimension, or a mesh file (.gltf, .glb, .obj, .stl) as a level of its own: a solid
/// a part, on layer "solid" or the one its extras name. Other files are looked up relative to the level file.
/// Throws InputError for anything the format does not allow; nothing half-loaded is ever returned. Files
/// above 64 MiB are refused.
AnyLevel load_level(const std::string& path);

/// The same from text; `name` stands for the file in messages and its folder is where meshes are looked up.
AnyLevel level_from_toml(const std::string& text, const std::string& name);

}  // namespace hollow_probe
