#include "verify/amounts.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>

namespace hollow_probe {
namespace {

template <int D>
const MountedCondition& condition_of(const Surveyed<D>& s, const ProvenCause<D>& cause) {
    return s.mounted.front().conditions[static_cast<std::size_t>(cause.detail)];
}

}  // namespace

template <int D>
std::optional<double> amount_unchanged(const Surveyed<D>& s, const ProvenCause<D>& cause,
                                       std::size_t signal) {
    const Signal& given = s.rig.signals[signal];
    switch (cause.change) {
        case Change::from:
        case Change::start_back:
        case Change::narrower:
        case Change::lower_end:
            return 0.0;
        case Change::settle:
            return given.settle;
        case Change::grace:
            return given.grace;
        case Change::mute:
            return given.mute_after.seconds;
        case Change::condition_angle_most:
            return degrees(condition_of(s, cause).angle.most);
        case Change::condition_angle_least:
            return degrees(condition_of(s, cause).angle.least);
        case Change::condition_distance_most:
            return condition_of(s, cause).most_distance;
        case Change::condition_distance_least:
            return condition_of(s, cause).least_distance;
        default:
            break;
    }
    if (cause.probe < 0) return std::nullopt;
    const Probe<D>& probe = s.rig.probes[static_cast<std::size_t>(cause.probe)];
    switch (cause.change) {
        case Change::reach:
            return probe.reach;
        case Change::reach_grounded:
            return probe.reach_grounded;
        case Change::accept_most:
            return probe.accept_most_degrees;
        case Change::accept_least:
            return probe.accept_least_degrees;
        case Change::inset:
            return probe.inset;
        case Change::side_within:
            return probe.side_within_degrees;
        default:
            return std::nullopt;
    }
}

template <int D>
void set_amount(ProvenCause<D>& cause, double amount, double unchanged) {
    if (cause.change == Change::from && cause.amount != 0.0) cause.shift *= amount / cause.amount;
    cause.amount = amount;
    cause.by = std::abs(amount - unchanged);
}

namespace {

/// What is narrowed: a radius, or a width on both sides.
template <int D>
struct Width {
    double now = 0.0;
    double sides = 1.0;
};

template <int D>
Width<D> width_of(const Probe<D>& probe) {
    if (probe.shape->radius() > 0.0) return {probe.shape->radius(), 1.0};
    return {probe.shape->bounds().size()[0], 2.0};
}

template <int D>
const Probe<D>& probe_of(const Surveyed<D>& s, const ProvenCause<D>& cause) {
    return s.rig.probes[static_cast<std::size_t>(cause.probe)];
}

}  // namespace

template <int D>
std::optional<double> file_value(const Surveyed<D>& s, const ProvenCause<D>& cause, double amount) {
    switch (cause.change) {
        case Change::narrower: {
            if (!probe_of(s, cause).shape) return std::nullopt;
            const Width<D> width = width_of<D>(probe_of(s, cause));
            return width.now - width.sides * amount;
        }
        case Change::start_back:
            return probe_of(s, cause).reach + amount;
        case Change::reach:
        case Change::reach_grounded:
        case Change::accept_most:
        case Change::accept_least:
        case Change::inset:
        case Change::side_within:
        case Change::settle:
        case Change::grace:
        case Change::mute:
        case Change::condition_angle_most:
        case Change::condition_angle_least:
        case Change::condition_distance_most:
        case Change::condition_distance_least:
        case Change::lower_end:
        case Change::from:
            return amount;
        default:
            return std::nullopt;
    }
}

template <int D>
double amount_of_value(const Surveyed<D>& s, const ProvenCause<D>& cause, double value) {
    if (cause.change == Change::narrower) {
        const Width<D> width = width_of<D>(probe_of(s, cause));
        return (width.now - value) / width.sides;
    }
    return cause.change == Change::start_back ? value - probe_of(s, cause).reach : value;
}

double roundest_between(double low, double high) {
    if (low > high) std::swap(low, high);
    const double middle = 0.5 * (low + high);
    constexpr int most_decimals = 9;  // that numbers are written with
    for (int decimals = 0; decimals <= most_decimals; ++decimals) {
        const double scale = std::pow(10.0, decimals);
        for (const double step : {5.0, 1.0}) {
            if (step == 5.0 && decimals == 0) continue;
            const double number = std::round(middle * scale / step) * step / scale;
            // As a file would give it back.
            std::array<char, 400> text{};
            const auto end = std::to_chars(text.data(), text.data() + text.size(), number,
                                           std::chars_format::fixed, decimals)
                                 .ptr;
            double parsed = 0.0;
            std::from_chars(text.data(), end, parsed);
            if (parsed >= low && parsed <= high) return parsed == 0.0 ? 0.0 : parsed;
        }
    }
    return std::round(middle * 1e9) / 1e9;
}

template std::optional<double> amount_unchanged<2>(const Surveyed<2>&, const ProvenCause<2>&, std::size_t);
template std::optional<double> amount_unchanged<3>(const Surveyed<3>&, const ProvenCause<3>&, std::size_t);
template void set_amount<2>(ProvenCause<2>&, double, double);
template void set_amount<3>(ProvenCause<3>&, double, double);
template std::optional<double> file_value<2>(const Surveyed<2>&, const ProvenCause<2>&, double);
template std::optional<double> file_value<3>(const Surveyed<3>&, const ProvenCause<3>&, double);
template double amount_of_value<2>(const Surveyed<2>&, const ProvenCause<2>&, double);
template double amount_of_value<3>(const Surveyed<3>&, const ProvenCause<3>&, double);

}  // namespace hollow_probe
