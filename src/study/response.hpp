// What a rig says and what is true on a fixture, at one value and over a range.
#pragma once

#include "hollow_probe/rig/number_set.hpp"
#include "hollow_probe/study/gauge.hpp"

namespace hollow_probe {

/// Signals on and truths of them, of those that are judged.
struct Look {
    SignalSet on;
    SignalSet intended;

    bool operator==(const Look&) const = default;
};

/// A fixture with the body turned one way.
template <int D>
struct Viewpoint {
    const Rig<D>& rig;
    const Fixture<D>& fixture;
    std::size_t axis = 0;
    std::vector<double> values;
    double turn_degrees = 0.0;
    bool remembers_ground = false;

    /// At a value of the axis. In motion: the signals that are right at every tick, and all that are judged.
    [[nodiscard]] Look look(double value) const;
};

/// At a scene, without time.
template <int D>
Look look_at(const Rig<D>& rig, const FixtureScene<D>& scene);

/// By signal: where it is on and intended between `from` and `to`, changes located within `within`. `steps`
/// looks and those at `also` are made at least.
template <int D>
std::vector<ResponseCurve> responses(const Viewpoint<D>& view, double from, double to, std::size_t steps,
                                     double within, const std::vector<double>& also);

extern template Look look_at<2>(const Rig<2>&, const FixtureScene<2>&);
extern template Look look_at<3>(const Rig<3>&, const FixtureScene<3>&);
extern template std::vector<ResponseCurve> responses<2>(const Viewpoint<2>&, double, double, std::size_t,
                                                        double, const std::vector<double>&);
extern template std::vector<ResponseCurve> responses<3>(const Viewpoint<3>&, double, double, std::size_t,
                                                        double, const std::vector<double>&);

}  // namespace hollow_probe
