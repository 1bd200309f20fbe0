#include "hollow_probe/body/body.hpp"

#include <Eigen/Geometry>

namespace hollow_probe {

template <int D>
Stance<D> Stance<D>::capsule(std::string name, double radius, double height) {
    if (!(height >= 2.0 * radius)) {
        throw InvalidInput("capsule height " + number_text(height) + " is less than twice its radius " +
                           number_text(radius));
    }
    const Vec<D> low = radius * Vec<D>::Unit(1);
    const Vec<D> high = (height - radius) * Vec<D>::Unit(1);
    return {std::move(name), RoundedHull<D>::capsule(low, high, radius)};
}

template <int D>
Stance<D> Stance<D>::box(std::string name, const Vec<D>& size) {
    return {std::move(name), RoundedHull<D>::box(0.5 * size[1] * Vec<D>::Unit(1), size)};
}

template <int D>
Stance<D> Stance<D>::ball(std::string name, double radius) {
    return {std::move(name), RoundedHull<D>::ball(radius * Vec<D>::Unit(1), radius)};
}

template <int D>
Stance<D> Stance<D>::hull(std::string name, std::vector<Vec<D>> points, double radius) {
    auto shape = RoundedHull<D>::hull(std::move(points), radius);
    const Bounds<D> bounds = shape.bounds();
    if (std::abs(bounds.low[1]) > 1e-9 * bounds.size().norm()) {
        throw InvalidInput("stance hull has its lowest point at height " + number_text(bounds.low[1]) +
                           ", expected 0: the anchor is the bottom-centre point");
    }
    return {std::move(name), std::move(shape)};
}

void check(const Intent& intent) {
    const auto require = [](bool holds, const char* what) {
        if (!holds) throw InvalidInput(what);
    };
    const auto angle = [](double degrees) { return degrees >= 0.0 && degrees <= 90.0; };
    const auto length = [](double x) { return std::isfinite(x) && x >= 0.0; };
    require(std::isfinite(intent.touch) && intent.touch > 0.0, "touch must be more than 0");
    require(angle(intent.steepest_footing_degrees), "steepest_footing must be from 0 to 90 degrees");
    require(angle(intent.ceiling_within_degrees), "ceiling_within must be from 0 to 90 degrees");
    require(length(intent.lowest_step), "lowest_step must be 0 or more");
    require(std::isfinite(intent.tallest_step) && intent.tallest_step > intent.lowest_step,
            "tallest_step must be more than lowest_step");
    require(length(intent.ahead_step), "ahead_step must be 0 or more");
    require(length(intent.tread), "tread must be 0 or more");
    require(length(intent.ahead_wall), "ahead_wall must be 0 or more");
    require(length(intent.ahead_drop), "ahead_drop must be 0 or more");
    require(length(intent.deepest_drop), "deepest_drop must be 0 or more");
    require(length(intent.ahead_ledge), "ahead_ledge must be 0 or more");
    require(std::isfinite(intent.ledge_between[0]) && std::isfinite(intent.ledge_between[1]) &&
                intent.ledge_between[0] <= intent.ledge_between[1],
            "ledge_between must be two heights, the lower first");
}

template <int D>
Mat<D> body_frame(const Vec<D>& heading, const Vec<D>& up) {
    Mat<D> frame;
    frame.col(0) = heading;
    frame.col(1) = up;
    if constexpr (D == 3) frame.col(2) = heading.cross(up);
    return frame;
}

template struct Stance<2>;
template struct Stance<3>;
template Mat<2> body_frame<2>(const Vec<2>&, const Vec<2>&);
template Mat<3> body_frame<3>(const Vec<3>&, const Vec<3>&);

}  // namespace hollow_probe
