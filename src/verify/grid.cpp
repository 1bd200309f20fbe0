#include "verify/grid.hpp"
#include "geometry/random.hpp"

#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

// Levels are built on round numbers. Columns laid a hair closer than asked, an even number of them around the
// middle, do not fall exactly on edges and seams, where a verdict would hang on rounding.
constexpr double hair_closer = 1.0 - 0.001 * 0.6180339887498949;

/// The nearest multiple.
double multiple_of(double unit, double x) {
    return unit * std::round(x / unit);
}

/// A unit in which sums of places have no rounding, so that rigs which feel farther or less far are surveyed
/// at the very same places, and truths kept for one serve the others. It depends on the spacing alone.
double unit_of_places(double spacing) {
    constexpr int bits = 24;
    return std::ldexp(1.0, std::ilogb(spacing) - bits);
}

}  // namespace

template <int D>
LevelAxes<D>::LevelAxes(const Vec<D>& level_up) : up(level_up) {
    if constexpr (D == 2) {
        across[0] = Vec<2>(up.y(), -up.x());
    } else {
        // The least turn that takes +y to up, by O. Rodrigues' formula; straight down there are many, and
        // this one is around x.
        const double cosine = up.y();
        const Vec<3> axis = Vec<3>::unit(1).cross(up);
        const auto turned = [&](const Vec<3>& v) {
            if (cosine < -1.0 + tolerance::direction) return Vec<3>(v.x(), -v.y(), -v.z());
            return cosine * v + axis.cross(v) + axis * (axis.dot(v) / (1.0 + cosine));
        };
        across = {turned(Vec<3>::unit(0)), turned(Vec<3>::unit(2))};
    }
}

template <int D>
Grid<D>::Grid(const LevelAxes<D>& given_axes, const Extents<D>& extents, double distance, std::uint64_t seed)
    : axes(given_axes), spacing(distance * hair_closer) {
    double columns = 1.0;
    const double unit = unit_of_places(spacing);
    spacing = std::max(multiple_of(2.0 * unit, spacing), 2.0 * unit);
    for (std::size_t axis = 0; axis + 1 < D; ++axis) {
        const double low = extents[axis][0] - spacing;
        const double high = extents[axis][1] + spacing;
        const double count = 2.0 * std::ceil(0.5 * (high - low) / spacing) + 2.0;
        columns *= count;
        if (!(columns <= most_columns)) {
            throw InvalidInput("spacing " + number_text(distance) +
                               " makes a grid of more than 50 million columns: choose a wider one");
        }
        counts[axis] = static_cast<std::size_t>(count);
        // Centered, so that a mirrored level is surveyed at mirrored places.
        double middle = 0.5 * (low + high);
        if (seed != 0) {
            std::uint64_t state = seed + axis;
            middle += spacing * (static_cast<double>(next_random(state) >> 11U) * 0x1p-53 - 0.5);
        }
        first[static_cast<std::ptrdiff_t>(axis)] = multiple_of(unit, middle) - 0.5 * spacing * (count - 1.0);
    }
}

template <int D>
std::size_t Grid<D>::column_count() const {
    std::size_t count = 1;
    for (const std::size_t along_axis : counts) count *= along_axis;
    return count;
}

template <int D>
Place<D> Grid<D>::place(std::size_t column) const {
    Place<D> result = first;
    result[0] += spacing * static_cast<double>(column % counts[0]);
    if constexpr (D == 3) {
        const std::size_t row = column / counts[0];
        result[1] += spacing * static_cast<double>(row);
    }
    return result;
}

template <int D>
bool Grid<D>::has_next(std::size_t column, std::size_t axis) const {
    const std::size_t index = axis == 0 ? column % counts[0] : column / counts[0];
    return index + 1 < counts[axis];
}

template <int D>
Vec<D> Grid<D>::point(const Place<D>& place, double height) const {
    Vec<D> result = height * axes.up;
    for (std::size_t axis = 0; axis + 1 < D; ++axis) {
        result += place[static_cast<std::ptrdiff_t>(axis)] * axes.across[axis];
    }
    return result;
}

template struct LevelAxes<2>;
template struct LevelAxes<3>;
template struct Grid<2>;
template struct Grid<3>;

}  // namespace hollow_probe
