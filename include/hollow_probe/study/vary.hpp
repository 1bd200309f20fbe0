// Varying a setting of a rig: how wrong the rig is over it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "hollow_probe/rig/settings.hpp"
#include "hollow_probe/study/gauge.hpp"
#include "hollow_probe/verify/survey.hpp"

namespace hollow_probe {

/// A rig with a setting at a value, surveyed.
struct VaryPoint {
    double value = 0.0;
    Wrongness wrong;
    /// How far, at worst, a wrong place is from where the signal would be right; infinite: nowhere near; 0
    /// where nothing is wrong.
    double severity = 0.0;
    /// Over all signals, by measure; 1 where nothing is signalled, or true.
    [[nodiscard]] double precision() const { return 1.0 - wrong.false_share(); }
    [[nodiscard]] double recall() const { return 1.0 - wrong.missed_share(); }
};

struct VaryCurve {
    std::string setting;
    double now = 0.0;               // the rig's own value
    bool on_fixtures = false;       // what is wrong is told in parts of lines, not by measure
    std::vector<VaryPoint> points;  // ascending; values that the rig cannot have are left out
    std::vector<Stretch> right;     // where nothing is wrong: ends located within a thousandth of the range
};

/// A curve, with another setting at a value.
struct VaryMapRow {
    std::optional<std::pair<std::string, double>> with;
    VaryCurve curve;
};

/// Surveys the rig on the level with the setting at `steps` + 1 values from `from` to `to`, evenly, and at
/// its own value if that lies between, the truths found once. Causes are not looked for. The ends of
/// stretches in which nothing is wrong are bisected, seen with the same budget; a stretch that lies between
/// two neighbouring values may be overlooked. Throws InvalidInput for a setting there is not or that is no
/// number, for a range out of order, and for what survey() refuses.
template <int D>
VaryCurve vary_setting(const Level<D>& level, const Rig<D>& rig, const std::string& setting, double from,
                       double to, std::size_t steps, const SurveyOptions& options);

/// … measured on the fixtures of the data sheet instead: the named one's lines, or for an empty name those
/// that `options.lines` has. What is wrong is told in parts of each line's range, over all lines, each at its
/// worst; `missed_poses` and `false_poses` count lines, `severity` is the greatest part of one that is wrong.
/// Throws InvalidInput for a fixture there is not, too.
template <int D>
VaryCurve vary_setting(const Rig<D>& rig, const std::string& setting, double from, double to,
                       std::size_t steps, const GaugeOptions& options, const std::string& fixture = {});

extern template VaryCurve vary_setting<2>(const Rig<2>&, const std::string&, double, double, std::size_t,
                                          const GaugeOptions&, const std::string&);
extern template VaryCurve vary_setting<3>(const Rig<3>&, const std::string&, double, double, std::size_t,
                                          const GaugeOptions&, const std::string&);
extern template VaryCurve vary_setting<2>(const Level<2>&, const Rig<2>&, const std::string&, double, double,
                                          std::size_t, const SurveyOptions&);
extern template VaryCurve vary_setting<3>(const Level<3>&, const Rig<3>&, const std::string&, double, double,
                                          std::size_t, const SurveyOptions&);

}  // namespace hollow_probe
