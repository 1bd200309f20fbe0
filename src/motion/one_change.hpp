// All that can be otherwise in a rig, one setting at a time.
#pragma once

#include <functional>
#include <optional>

#include "hollow_probe/rig/fields.hpp"

namespace hollow_probe {

/// One number of a rig, or one choice.
template <int D>
struct Setting {
    std::string table;  // "probe", "signal", "reflex"; empty: the rig's own
    std::string name;
    std::string key;
    /// A number: what it is now, and how far is far.
    std::optional<double> now;
    double scale = 1.0;
    Limits limits;
    bool whole = false;  // a count
    /// The rig with the number, or (for choices) with choice number `x`. Nothing for a rig that cannot be.
    std::function<std::optional<Rig<D>>(double x)> with;
    std::size_t choices = 0;
    /// In words of a rig file what the setting is in a rig.
    std::function<std::string(const Rig<D>&)> text;
};

/// Every setting of probes, signals and reflexes but names, kinds and claims: what a thing is stays.
template <int D>
std::vector<Setting<D>> settings_of(const Rig<D>& rig, const std::vector<std::string>& layers,
                                    double top_speed);

extern template std::vector<Setting<2>> settings_of<2>(const Rig<2>&, const std::vector<std::string>&,
                                                       double);
extern template std::vector<Setting<3>> settings_of<3>(const Rig<3>&, const std::vector<std::string>&,
                                                       double);

}  // namespace hollow_probe
