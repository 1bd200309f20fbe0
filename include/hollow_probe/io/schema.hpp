// JSON Schemas of the files the tool reads, for editors that complete and check TOML by them.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace hollow_probe {

/// "level", "rig", "drill", "suite".
std::vector<std::string_view> schema_names();

/// The schema (draft 2020-12) of one of these formats, made from the keys its loader accepts: no key but
/// those, each of its type, with its meaning, unit and default. What depends on other keys (a shape for a
/// cast, a limit that another one sets) is left to the loader. Throws InvalidInput for another name.
std::string file_schema(std::string_view name);

}  // namespace hollow_probe
