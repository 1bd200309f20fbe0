// Files written whole or not at all.
#pragma once

#include <string>
#include <string_view>

#include "hollow_probe/io/input_error.hpp"

namespace hollow_probe {

/// Writes to a temporary file beside `path` and renames it, so that a reader sees the old content or the new,
/// never a part. Throws InputError and leaves nothing behind if it cannot.
void write_file(const std::string& path, std::string_view content);

/// The whole file. Throws InputError for files missing, not regular, unreadable, or longer than `most_bytes`.
std::string read_file(const std::string& path, std::size_t most_bytes);

}  // namespace hollow_probe
