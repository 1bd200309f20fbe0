#include "hollow_probe/truth/rest.hpp"

#include <algorithm>

#include "hollow_probe/truth/ground.hpp"

namespace hollow_probe {

template <int D>
void find_rests(const Level<D>& level, const PlacedBody<D>& column, const Intent& intent,
                std::vector<double>& heights, std::size_t* clipped, Held held, const HeightRange& range) {
    heights.clear();
    // Upside down, what holds from above holds from below.
    const double sign = held == Held::from_below ? 1.0 : -1.0;
    const Vec<D> up = sign * level.up();
    const Bounds<D>& whole = level.bounds();
    const double lowest_of_body = extent_along(column.shape, up)[0] - column.shape.radius;
    // A height from which the whole level lies below the body.
    double highest = -infinity;
    for (int corner = 0; corner < 1 << D; ++corner) {
        Vec<D> point;
        for (int axis = 0; axis < D; ++axis)
            point[axis] = corner >> axis & 1 ? whole.high[axis] : whole.low[axis];
        highest = std::max(highest, up.dot(point));
    }
    double lift = highest - up.dot(column.anchor) - lowest_of_body + intent.touch;
    const double low = sign > 0.0 ? range.low : -range.high;
    const double high = sign > 0.0 ? range.high : -range.low;
    lift = std::min(lift, high + intent.touch);
    const double reach = lift - low + intent.touch;
    if (reach < 0.0) return;
    Sweep<D> sweep = sweep_of<D>(column.shape, column.anchor + lift * up, -up, reach);
    sweep.radius += noise_of(column.shape, level).distance;
    sweep.layers = column.meets;
    level.tree().along(sweep, [&](std::uint32_t piece, double limit) {
        // Start close above the piece, so that small numbers stay exact.
        const HullView<D> hull = level.piece(piece);
        const double start =
            extent_along(hull, up)[1] + hull.radius - up.dot(column.anchor) - lowest_of_body + intent.touch;
        const PlacedBody<D> body{column.shape, column.anchor + start * up, column.meets};
        if (const auto contact = approach<D>(body, -up, infinity, 0.0, level, piece)) {
            const double height = start - contact->gap;
            if (height >= low && height <= high) heights.push_back(height);
        }
        return limit;
    });
    std::sort(heights.begin(), heights.end());
    const double noise = noise_of(column.shape, level).distance;
    const auto same = [&](double a, double b) { return b - a <= noise; };
    heights.erase(std::unique(heights.begin(), heights.end(), same), heights.end());
    std::erase_if(heights, [&](double height) {
        const ClipTruth<D> truth =
            clip<D>(level, {column.shape, column.anchor + height * up, column.meets}, intent);
        const bool pushed_off = sign > 0.0 ? truth.lifted : truth.lowered;
        if (truth.on && !pushed_off && clipped != nullptr) ++*clipped;
        return truth.on || pushed_off;
    });
    for (double& height : heights) height *= sign;
    std::sort(heights.begin(), heights.end());
}

template void find_rests<2>(const Level<2>&, const PlacedBody<2>&, const Intent&, std::vector<double>&,
                            std::size_t*, Held, const HeightRange&);
template void find_rests<3>(const Level<3>&, const PlacedBody<3>&, const Intent&, std::vector<double>&,
                            std::size_t*, Held, const HeightRange&);

}  // namespace hollow_probe
