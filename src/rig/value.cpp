#include "hollow_probe/rig/value.hpp"

namespace hollow_probe {

template <int D>
std::optional<GivenValue<D>> read_value(Value value, const MountedProbe<D>& probe, const Reading<D>& reading,
                                        const Vec<D>& anchor, const Vec<D>& up) noexcept {
    const auto across = [&](const Vec<D>& way) { return (way - way.dot(up) * up).norm(); };
    if (value == Value::edge_distance) {
        double nearest = infinity;
        for (std::size_t line = 0; line < probe.lines.size(); ++line) {
            if ((reading.lines_on >> line & 1U) == 0)
                nearest = std::min(nearest, across(probe.start(line, reading)));
        }
        if (nearest < infinity) return GivenValue<D>{nearest};
        if (reading.on) return GivenValue<D>{across(reading.hit.point - anchor)};
        return std::nullopt;
    }
    if (!reading.on || !reading.met) return std::nullopt;
    switch (value) {
        case Value::ground_height:
        case Value::step_rise:
            return GivenValue<D>{up.dot(reading.hit.point - anchor)};
        case Value::slope:
            return GivenValue<D>{degrees(angle_between<D>(reading.hit.normal, up))};
        case Value::wall_normal:
            return GivenValue<D>{0.0, reading.hit.normal};
        case Value::none:
        case Value::edge_distance:
            break;
    }
    return std::nullopt;
}

template std::optional<GivenValue<2>> read_value<2>(Value, const MountedProbe<2>&, const Reading<2>&,
                                                    const Vec<2>&, const Vec<2>&) noexcept;
template std::optional<GivenValue<3>> read_value<3>(Value, const MountedProbe<3>&, const Reading<3>&,
                                                    const Vec<3>&, const Vec<3>&) noexcept;

}  // namespace hollow_probe
