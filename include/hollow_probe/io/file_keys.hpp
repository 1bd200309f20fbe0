// Every key the level, rig, drill and suite files may have: the loaders accept these and no others.
#pragma once

#include <span>
#include <string_view>

#include "hollow_probe/rig/fields.hpp"

namespace hollow_probe {

struct FileKey {
    std::string_view path;  // "solid[].box.size": [] stands for one element of an array of tables
    std::string_view type;
    std::string_view unit;
    std::string_view standard;  // the default; "required" where there is none
    std::string_view meaning;
    Limits limits = {};                            // of its numbers
    std::span<const std::string_view> words = {};  // those it may be; none: any
};

std::span<const FileKey> level_file_keys();
std::span<const FileKey> rig_file_keys();
std::span<const FileKey> drill_file_keys();
std::span<const FileKey> suite_file_keys();

}  // namespace hollow_probe
