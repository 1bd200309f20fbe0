// All that can be otherwise in a rig, one setting at a time: what is varied, tuned and tried as a cure.
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
    /// A rig with the number, or (for choices) with choice number `x`; else as it was. Nothing for a rig that
    /// cannot be. The rig has the same probes and signals as the one the setting was made of.
    std::function<std::optional<Rig<D>>(const Rig<D>& rig, double x)> with;
    std::size_t choices = 0;
    /// In words of a rig file what the setting is in a rig.
    std::function<std::string(const Rig<D>&)> text;
};

/// A setting's whole name: "probe.sole.reach", "probe.sole.accept.angle[1]", "signal.grounded.grace",
/// "reads".
template <int D>
std::string path_of(const Setting<D>& setting);

/// Every setting of probes, signals and reflexes but names, kinds and claims: what a thing is stays. `layers`
/// are those a probe might see; `top_speed` says how far is far for speeds.
template <int D>
std::vector<Setting<D>> settings_of(const Rig<D>& rig, const std::vector<std::string>& layers,
                                    double top_speed);

/// The setting of that name. The form of a shape may be left out: "probe.sole.shape.radius". Throws
/// InvalidInput where the rig has none of that name; where the name begins that of others, these are named.
template <int D>
const Setting<D>& setting_named(const std::vector<Setting<D>>& settings, const std::string& path);

extern template std::string path_of<2>(const Setting<2>&);
extern template std::string path_of<3>(const Setting<3>&);
extern template const Setting<2>& setting_named<2>(const std::vector<Setting<2>>&, const std::string&);
extern template const Setting<3>& setting_named<3>(const std::vector<Setting<3>>&, const std::string&);
extern template std::vector<Setting<2>> settings_of<2>(const Rig<2>&, const std::vector<std::string>&,
                                                       double);
extern template std::vector<Setting<3>> settings_of<3>(const Rig<3>&, const std::vector<std::string>&,
                                                       double);

}  // namespace hollow_probe
