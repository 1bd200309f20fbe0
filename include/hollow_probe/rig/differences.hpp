// What two rigs have otherwise, key by key, in the words of a rig file.
#pragma once

#include <string>
#include <vector>

#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe {

/// One key of a rig file that two rigs have otherwise.
struct FieldChange {
    std::string table;  // "probe", "signal" or "intent"; empty: the root
    std::string name;   // of the probe or signal
    std::string key;    // "reach", "accept.angle[1]", "any[0].distance[1]"
    std::string now;    // as TOML; empty: the key is not given, and its default holds
    std::string then;   // … in the other rig
    /// Of a part of a key: the key, and the whole of it in the other rig, for files that do not give it yet.
    std::string whole_key = {};
    std::string whole_then = {};

    bool operator==(const FieldChange& other) const = default;
};

/// The changes that make `before`'s intent, probes, signals, reflexes and `reads` those of `after`: by name,
/// in the order of `before`; probes and signals that only one of them has are left out. A file of `before`
/// with these changes made is read as `after`: numbers are written with nine decimals at most, and `after` is
/// taken to be what they say.
template <int D>
std::vector<FieldChange> differences(const Rig<D>& before, const Rig<D>& after);

/// A number, a name or a shape as a rig file has it.
std::string file_number(double x);
std::string quoted_text(const std::string& text);
template <int D>
std::string vector_text(const Vec<D>& v);
template <int D>
std::string shape_text(const RoundedHull<D>& shape);
std::string list_text(const std::vector<std::string>& names);
std::string list_text(const std::array<double, 2>& numbers);
std::string list_text(const std::vector<Member>& members);

}  // namespace hollow_probe
