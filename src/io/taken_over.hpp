// Lists in a file that extends another, in which "..." stands for what the other has.
#pragma once

#include <functional>

#include "io/toml_reader.hpp"

namespace hollow_probe {

/// Puts the other file's elements where "..." stands in lists of strings: in tables of the same keys, and in
/// blocks of the same name. Calls fail(node, words) for one that stands for nothing.
void take_over_lists(toml::table& own, const toml::table& other,
                     const std::function<void(const toml::node&, const std::string&)>& fail);

/// Adds to a file what it does not say and the other does: keys of tables, and blocks of names it has none
/// of.
void fill_in(toml::table& own, const toml::table& other);

}  // namespace hollow_probe
