// One field of one probe, signal or condition of a rig.
#pragma once

#include <string>
#include <string_view>

#include "hollow_probe/rig/fields.hpp"

namespace hollow_probe {

struct FieldPlace {
    int probe = -1;          // its number; -1: of a signal …
    int condition = -1;      // … or of the member that has the condition of that number
    std::size_t signal = 0;  // where it is of a signal
    std::string_view key;    // of the field
    int part = -1;           // of a pair: 0 or 1; -1: the whole

    bool operator==(const FieldPlace& other) const = default;
};

/// A pair that is not given has its widest limits.
template <int D>
FieldValue value_at(const Rig<D>& rig, const FieldPlace& place);
/// False, and nothing is done, where a probe of its kind has no such field.
template <int D>
bool set_value(Rig<D>& rig, const FieldPlace& place, const FieldValue& value);
template <int D>
bool set_value(Probe<D>& probe, const FieldPlace& place, const FieldValue& value);
/// A number of the field, or the part of it the place names. Nothing where there is none.
template <int D>
std::optional<double> number_at(const Rig<D>& rig, const FieldPlace& place);

/// What the table of fields says of it.
struct FieldFacts {
    Unit unit = Unit::none;
    Limits limits = {};
    std::string_view standard;
    std::span<const std::string_view> words;
};
template <int D>
FieldFacts facts_of(const Rig<D>& rig, const FieldPlace& place);

/// The name of the probe that it is of, or that its condition is about; empty for a signal's own.
template <int D>
std::string probe_named(const Rig<D>& rig, const FieldPlace& place);
/// Its key below the probe's or signal's table: "accept.angle[1]", "any[0].distance[1]".
template <int D>
std::string path_of(const Rig<D>& rig, const FieldPlace& place);

}  // namespace hollow_probe
