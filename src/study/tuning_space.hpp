// The free settings of a rig as a cube of numbers from 0 to 1: what is searched in.
#pragma once

#include <algorithm>
#include <cmath>

#include "hollow_probe/study/tune.hpp"

namespace hollow_probe {

/// A free setting, mapped to 0 to 1.
template <int D>
struct Variable {
    Setting<D> setting;
    double low = 0.0;
    double high = 1.0;

    [[nodiscard]] bool is_choice() const { return !setting.now.has_value(); }
    /// Choices: number 0 leaves it as it is.
    [[nodiscard]] std::size_t choice(double at) const {
        const auto many = static_cast<double>(setting.choices + 1);
        return static_cast<std::size_t>(std::clamp(std::floor(at * many), 0.0, many - 1.0));
    }
    [[nodiscard]] double value(double at) const {
        const double x = low + std::clamp(at, 0.0, 1.0) * (high - low);
        return setting.whole ? std::round(x) : x;
    }
    [[nodiscard]] double place_of(double value) const { return (value - low) / (high - low); }
};

using Point = std::vector<double>;

template <int D>
class TuningSpace {
  public:
    /// Of what `options` leave free; of what causes name, where they leave nothing. Both must outlive it.
    /// Throws InvalidInput as tune() does for settings and ranges.
    TuningSpace(const std::vector<const Level<D>*>& levels, const Rig<D>& rig, const TuneOptions<D>& options);

    [[nodiscard]] const std::vector<Variable<D>>& variables() const { return variables_; }
    /// The rig at a point; nothing for one that cannot be.
    [[nodiscard]] std::optional<Rig<D>> rig_at(const Point& point) const;
    /// Where the rig as it is lies, as far as it lies within.
    [[nodiscard]] Point as_it_is() const;
    /// The rig at a point with its numbers as their decimals say, not as they come out of a range.
    [[nodiscard]] std::optional<Rig<D>> written_at(const Point& point) const;

  private:
    [[nodiscard]] Variable<D> variable_of(const FreeSetting& free, const Setting<D>& setting) const;

    const Rig<D>& rig_;
    std::vector<Variable<D>> variables_;
};

extern template class TuningSpace<2>;
extern template class TuningSpace<3>;

}  // namespace hollow_probe
