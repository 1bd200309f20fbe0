#include "hollow_probe/truth/contact.hpp"

#include "hollow_probe/geometry/separation.hpp"

namespace hollow_probe {

template <int D>
Noise noise_of(const HullView<D>& body, const Level<D>& level) {
    Noise noise;
    noise.distance = 1e-9 * bounds_of(body).size().norm() + 1e-12 * magnitude(level.bounds());
    return noise;
}

template <int D>
std::optional<Contact<D>> approach(const PlacedBody<D>& body, const Vec<D>& direction, double reach,
                                   double touch, const Level<D>& level, std::uint32_t piece) {
    constexpr int most_rounds = 100;
    constexpr double approaches = 1e-6;
    if (!level.faces(piece, direction)) return std::nullopt;
    const HullView<D> target = level.piece(piece);
    Separation<D> now = separation<D>(body.shape, body.anchor, target);
    if (now.gap <= 0.0) {
        if (-now.gap > touch || !(now.normal.dot(direction) < -approaches)) return std::nullopt;
        return Contact<D>{piece, now.gap, now.normal, now.on_b};
    }
    const double size = bounds_of(body.shape).size().norm();
    const double slack = 1e-12 * size + 1e-15 * magnitude(level.bounds());
    double travelled = 0.0;
    for (int round = 0; round < most_rounds && now.gap > slack; ++round) {
        const double speed = -now.normal.dot(direction);
        if (speed <= 1e-12) return std::nullopt;  // the gap no longer shrinks, and never will again
        travelled += now.gap / speed;
        if (travelled > reach + slack) return std::nullopt;
        now = separation<D>(body.shape, Vec<D>(body.anchor + travelled * direction), target);
    }
    if (now.gap > 10.0 * slack || !(now.normal.dot(direction) < -approaches)) return std::nullopt;
    return Contact<D>{piece, travelled, now.normal, now.on_b};
}

template <int D>
double deepest_overlap(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& direction, double from,
                       double to, std::uint32_t piece) {
    constexpr double golden = 0.6180339887498949;
    const auto depth_at = [&](double t) {
        return -separation<D>(body.shape, Vec<D>(body.anchor + t * direction), level.piece(piece)).gap;
    };
    double low = from;
    double high = to;
    double left = high - golden * (high - low);
    double right = low + golden * (high - low);
    double depth_left = depth_at(left);
    double depth_right = depth_at(right);
    double deepest = std::max({depth_at(from), depth_at(to), depth_left, depth_right});
    while (high - low > 1e-9 * (to - from)) {
        if (depth_left < depth_right) {
            low = left;
            left = right;
            depth_left = depth_right;
            right = low + golden * (high - low);
            depth_right = depth_at(right);
        } else {
            high = right;
            right = left;
            depth_right = depth_left;
            left = high - golden * (high - low);
            depth_left = depth_at(left);
        }
        deepest = std::max({deepest, depth_left, depth_right});
    }
    return deepest;
}

template Noise noise_of<2>(const HullView<2>&, const Level<2>&);
template Noise noise_of<3>(const HullView<3>&, const Level<3>&);
template std::optional<Contact<2>> approach<2>(const PlacedBody<2>&, const Vec<2>&, double, double,
                                               const Level<2>&, std::uint32_t);
template std::optional<Contact<3>> approach<3>(const PlacedBody<3>&, const Vec<3>&, double, double,
                                               const Level<3>&, std::uint32_t);

template double deepest_overlap<2>(const Level<2>&, const PlacedBody<2>&, const Vec<2>&, double, double,
                                   std::uint32_t);
template double deepest_overlap<3>(const Level<3>&, const PlacedBody<3>&, const Vec<3>&, double, double,
                                   std::uint32_t);

}  // namespace hollow_probe
