// Changes written into an author's rig file.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "hollow_probe/rig/differences.hpp"

namespace hollow_probe {

/// The text of a rig file with keys changed, and every other line and comment as it was. `name` stands for
/// the file in messages. A key that is not there yet is added below the name of its table, one that is left
/// to its default is taken out. A probe or signal that stands in a file this one extends is taken over from
/// there, with its comments, and then changed. Throws InputError for no change at all, and for one to a probe
/// or signal that neither has.
std::string with_changes(const std::string& text, const std::string& name,
                         const std::vector<FieldChange>& changes);

/// … with a block more: text as blocks_text() gives it, put below the last block of `table` ("probe",
/// "signal") or at the end.
std::string with_block(const std::string& text, const std::string& name, const std::string& table,
                       const std::string& block);

/// … without the block of that name, and the comments right above it. Throws InputError where the file itself
/// has none, whatever it extends.
std::string without_block(const std::string& text, const std::string& name, const std::string& table,
                          const std::string& which);

/// … with another name for a probe or signal, in its block and wherever signals and reflexes of this file
/// name it. Throws InputError as without_block() does.
std::string renamed_in(const std::string& text, const std::string& name, const std::string& table,
                       const std::string& which, const std::string& to);

/// Line and column, from 1, of the key that a change is about; of its table where the key is not given; 1, 1
/// where the file has no such table itself.
std::pair<std::size_t, std::size_t> place_of_change(const std::string& text, const std::string& name,
                                                    const FieldChange& change);

/// The text of a rig file that is to be written elsewhere: what it extends is named from there.
std::string extended_from(const std::string& text, const std::string& name, const std::string& to);

}  // namespace hollow_probe
