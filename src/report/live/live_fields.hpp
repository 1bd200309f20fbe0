// A rig's fields as the live bench shows and changes them.
#pragma once

#include <string>

#include "hollow_probe/level/level.hpp"
#include "hollow_probe/rig/fields.hpp"
#include "io/json.hpp"

namespace hollow_probe {

/// Probes, signals and the intent with every field that their kind has: key, type, unit, limits, words,
/// meaning, standard and value; and the names that fields may hold.
template <int D>
Json rig_fields(const Rig<D>& rig, const Level<D>& level);

/// The rig with one field otherwise. `table` is "probe", "signal" or "intent" (whose `name` is empty). Throws
/// InvalidInput for what there is not, for a value of another type or outside of the limits, and for a rig
/// that check() refuses.
template <int D>
Rig<D> with_field(Rig<D> rig, const std::string& table, const std::string& name, const std::string& key,
                  const Json& value);

/// The rig with no member, and no value, taken from a probe or signal.
template <int D>
Rig<D> without_mentions(Rig<D> rig, const std::string& name);

}  // namespace hollow_probe
