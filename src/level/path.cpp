#include "hollow_probe/level/path.hpp"

#include <algorithm>
#include <cmath>

namespace hollow_probe {
namespace {

/// The leg a path is on: which, and the seconds since it arrived at its first stop.
struct Leg {
    std::size_t from = 0;
    std::size_t to = 0;
    double seconds = 0.0;
};

template <int D>
Leg leg_at(const Path<D>& path, double seconds) {
    const double period = path.period();
    Leg leg;
    if (period <= 0.0) return leg;
    leg.seconds = std::fmod(seconds, period);
    if (leg.seconds < 0.0) leg.seconds += period;
    for (leg.from = 0; leg.from < path.stops.size(); ++leg.from) {
        leg.to = (leg.from + 1) % path.stops.size();
        const double lasts = path.wait + (path.stops[leg.to] - path.stops[leg.from]).norm() / path.pace;
        if (leg.seconds < lasts || leg.from + 1 == path.stops.size()) break;
        leg.seconds -= lasts;
    }
    return leg;
}

}  // namespace

template <int D>
double Path<D>::period() const {
    double length = 0.0;
    for (std::size_t i = 0; i < stops.size(); ++i)
        length += (stops[(i + 1) % stops.size()] - stops[i]).norm();
    return length / pace + wait * static_cast<double>(stops.size());
}

template <int D>
Vec<D> Path<D>::at(double seconds) const {
    const Leg leg = leg_at(*this, seconds);
    const Vec<D> way = stops[leg.to] - stops[leg.from];
    const double length = way.norm();
    if (length == 0.0) return stops[leg.from];
    const double gone = std::clamp(pace * (leg.seconds - wait), 0.0, length);
    return stops[leg.from] + way * (gone / length);
}

template <int D>
Vec<D> Path<D>::velocity(double seconds) const {
    const Leg leg = leg_at(*this, seconds);
    const Vec<D> way = stops[leg.to] - stops[leg.from];
    if (leg.seconds < wait || way.norm() == 0.0) return Vec<D>::zero();
    return pace * way.normalized();
}

template struct Path<2>;
template struct Path<3>;

}  // namespace hollow_probe
