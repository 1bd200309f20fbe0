#include "hollow_probe/body/body.hpp"

#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {

template <int D>
Stance<D> Stance<D>::capsule(std::string name, double radius, double height) {
    if (!(height >= 2.0 * radius)) {
        throw InvalidInput("capsule height " + number_text(height) + " is less than twice its radius " +
                           number_text(radius));
    }
    const Vec<D> low = radius * Vec<D>::unit(1);
    const Vec<D> high = (height - radius) * Vec<D>::unit(1);
    return {std::move(name), RoundedHull<D>::capsule(low, high, radius)};
}

template <int D>
Stance<D> Stance<D>::box(std::string name, const Vec<D>& size) {
    return {std::move(name), RoundedHull<D>::box(0.5 * size[1] * Vec<D>::unit(1), size)};
}

template <int D>
Stance<D> Stance<D>::ball(std::string name, double radius) {
    return {std::move(name), RoundedHull<D>::ball(radius * Vec<D>::unit(1), radius)};
}

template <int D>
Stance<D> Stance<D>::hull(std::string name, std::vector<Vec<D>> points, double radius) {
    auto shape = RoundedHull<D>::hull(std::move(points), radius);
    const Bounds<D> bounds = shape.bounds();
    if (std::abs(bounds.low[1]) > tolerance::accuracy * bounds.size().norm()) {
        throw InvalidInput("stance hull has its lowest point at height " + number_text(bounds.low[1]) +
                           ", expected 0: the anchor is the bottom-centre point");
    }
    return {std::move(name), std::move(shape)};
}

template <int D>
Mat<D> body_frame(const Vec<D>& heading, const Vec<D>& up) {
    Mat<D> frame;
    frame.column(0) = heading;
    frame.column(1) = up;
    if constexpr (D == 3) frame.column(2) = heading.cross(up);
    return frame;
}

template struct Stance<2>;
template struct Stance<3>;
template Mat<2> body_frame<2>(const Vec<2>&, const Vec<2>&);
template Mat<3> body_frame<3>(const Vec<3>&, const Vec<3>&);

}  // namespace hollow_probe
