#include "verify/feature_places.hpp"

#include <algorithm>

namespace hollow_probe {

template <int D>
std::vector<Place<D>> feature_places(const Surveyed<D>& s, std::size_t most_columns) {
    std::vector<Place<D>> corners;
    for (std::uint32_t piece = 0; piece < s.level.piece_count(); ++piece) {
        for (const Vec<D>& corner : s.level.piece(piece).points) {
            Place<D> place;
            for (std::size_t axis = 0; axis + 1 < D; ++axis)
                place[static_cast<Eigen::Index>(axis)] = s.grid.axes.across[axis].dot(corner);
            corners.push_back(place);
        }
    }
    const auto less = [](const Place<D>& a, const Place<D>& b) {
        return std::lexicographical_compare(a.data(), a.data() + a.size(), b.data(), b.data() + b.size());
    };
    std::sort(corners.begin(), corners.end(), less);
    corners.erase(std::unique(corners.begin(), corners.end()), corners.end());
    // Just beside a corner, and with the rim of the narrowest stance just on and just off it.
    const double rim = 0.5 * s.narrowest_width;
    const std::array<double, 3> beside = {1e-3 * rim, 0.999 * rim, 1.001 * rim};
    const std::size_t each = 2 * beside.size() * (D - 1);
    const std::size_t most = std::max<std::size_t>(1, most_columns / each);
    const std::size_t step = (corners.size() + most - 1) / most;
    std::vector<Place<D>> places;
    for (std::size_t i = 0; i < corners.size(); i += std::max<std::size_t>(step, 1)) {
        for (Eigen::Index axis = 0; axis + 1 < D; ++axis) {
            for (const double aside : beside) {
                for (const double sign : {-1.0, 1.0}) {
                    places.push_back(corners[i]);
                    places.back()[axis] += sign * aside;
                }
            }
        }
    }
    return places;
}

template std::vector<Place<2>> feature_places<2>(const Surveyed<2>&, std::size_t);
template std::vector<Place<3>> feature_places<3>(const Surveyed<3>&, std::size_t);

}  // namespace hollow_probe
