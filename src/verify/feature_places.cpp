#include "verify/feature_places.hpp"

#include <algorithm>

namespace hollow_probe {
namespace {

template <int D>
bool before(const Place<D>& a, const Place<D>& b) {
    return std::lexicographical_compare(a.data(), a.data() + a.size(), b.data(), b.data() + b.size());
}

template <int D>
Place<D> place_of(const Grid<D>& grid, const Vec<D>& point) {
    Place<D> place;
    for (std::size_t axis = 0; axis + 1 < D; ++axis)
        place[static_cast<Eigen::Index>(axis)] = grid.axes.across[axis].dot(point);
    return place;
}

/// How far beside the anchor, along a direction across up, the shapes that a facing feels with begin and end.
template <int D>
std::vector<double> rims_along(const Feelers<D>& feelers, const Vec<D>& aside, double same) {
    std::vector<double> rims = {0.0};
    for (const Feeler<D>& feeler : feelers.feelers) {
        const auto [low, high] = extent_along(feeler.shape.view(), aside);
        rims.push_back(low - feeler.shape.radius());
        rims.push_back(high + feeler.shape.radius());
    }
    std::sort(rims.begin(), rims.end());
    rims.erase(std::unique(rims.begin(), rims.end(), [&](double a, double b) { return b - a < same; }),
               rims.end());
    return rims;
}

/// Corners of what a facing can meet, and places on its edges, with the direction to stand aside in.
template <int D>
struct Feature {
    Place<D> at;
    Place<D> aside;
};

template <int D>
std::vector<Feature<D>> features_of(const Surveyed<D>& s, std::size_t facing, const Feelers<D>& feelers) {
    const Level<D>& level = s.level_of(facing);
    std::vector<Feature<D>> found;
    // Columns stand beside it within the feelers' reach at most.
    const double reach = feelers.reach.size().norm();
    HeightSpan heights{-infinity, infinity};
    if (s.region) {
        const auto box = RoundedHull<D>::box(s.region->center(), s.region->size());
        const auto [low, high] = extent_along(box.view(), level.up());
        heights = {low - reach, high + reach};
    }
    const auto reaches_grid = [&](const HullView<D>& hull) {
        const auto [bottom, top] = extent_along(hull, level.up());
        if (top + hull.radius < heights.low || bottom - hull.radius > heights.high) return false;
        for (std::size_t axis = 0; axis + 1 < D; ++axis) {
            const auto [low, high] = extent_along(hull, s.grid.axes.across[axis]);
            const double first = s.grid.first[static_cast<Eigen::Index>(axis)];
            const double last = first + s.grid.spacing * static_cast<double>(s.grid.counts[axis]);
            if (high + hull.radius + reach < first || low - hull.radius - reach > last) return false;
        }
        return true;
    };
    for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece) {
        if (!level.on_layers(piece, feelers.layers)) continue;
        const HullView<D> hull = level.piece(piece);
        if (!reaches_grid(hull)) continue;
        for (const Vec<D>& corner : hull.points) {
            for (Eigen::Index axis = 0; axis + 1 < D; ++axis) {
                const Place<D> aside = Place<D>::Unit(axis);
                found.push_back({place_of<D>(s.grid, corner), aside});
                if (hull.radius == 0.0) continue;
                found.push_back({place_of<D>(s.grid, corner) + hull.radius * aside, aside});
                found.push_back({place_of<D>(s.grid, corner) - hull.radius * aside, aside});
            }
        }
        if constexpr (D == 3) {
            for (const auto& edge : hull.topology->edges) {
                const Place<3> from = place_of<3>(s.grid, hull.points[edge[0]]);
                const Place<3> along = place_of<3>(s.grid, hull.points[edge[1]]) - from;
                const double length = along.norm();
                if (length < 1e-6) continue;
                const Place<3> aside = Place<3>(-along.y(), along.x()) / length;
                // One at least, off the middle, and then as far apart as columns are.
                const auto parts = static_cast<int>(std::ceil(length / (2.0 * s.grid.spacing)));
                for (int i = 0; i < parts; ++i) found.push_back({from + ((i + 0.41) / parts) * along, aside});
            }
        }
    }
    const auto less = [](const Feature<D>& a, const Feature<D>& b) {
        return a.at == b.at ? before<D>(a.aside, b.aside) : before<D>(a.at, b.at);
    };
    std::sort(found.begin(), found.end(), less);
    found.erase(std::unique(found.begin(), found.end(),
                            [](const auto& a, const auto& b) { return a.at == b.at && a.aside == b.aside; }),
                found.end());
    return found;
}

}  // namespace

template <int D>
std::vector<Place<D>> feature_places(const Surveyed<D>& s, std::size_t facing, const ColumnJudge<D>& judge,
                                     std::size_t most, std::size_t& left_out) {
    const double rim = 0.5 * s.narrowest_width;
    const double hair = 1e-3 * rim;
    std::vector<Feature<D>> features = features_of<D>(s, facing, judge.feelers());
    Place<D> low;
    Place<D> high;
    for (Eigen::Index axis = 0; axis + 1 < D; ++axis) {
        low[axis] = s.grid.first[axis];
        high[axis] = low[axis] +
                     s.grid.spacing * static_cast<double>(s.grid.counts[static_cast<std::size_t>(axis)] - 1);
    }
    std::vector<Place<D>> places;
    const auto vector_of = [&](const Place<D>& aside) {
        Vec<D> way = Vec<D>::Zero();
        for (std::size_t axis = 0; axis + 1 < D; ++axis)
            way += aside[static_cast<Eigen::Index>(axis)] * s.grid.axes.across[axis];
        return way;
    };
    const std::size_t rims =
        rims_along<D>(judge.feelers(), vector_of(Place<D>(Place<D>::Unit(0))), hair).size();
    const std::size_t allowed = std::max<std::size_t>(1, most / (2 * rims));
    const std::size_t step = std::max<std::size_t>(1, (features.size() + allowed - 1) / allowed);
    left_out += features.size() - (features.size() + step - 1) / step;
    for (std::size_t i = 0; i < features.size(); i += step) {
        const Feature<D>& feature = features[i];
        for (const double at : rims_along<D>(judge.feelers(), vector_of(feature.aside), hair)) {
            for (const double beside : {-hair, hair}) {
                const Place<D> place = feature.at + (beside - at) * feature.aside;
                if ((place.array() > low.array()).all() && (place.array() < high.array()).all())
                    places.push_back(place);
            }
        }
    }
    std::sort(places.begin(), places.end(), before<D>);
    places.erase(
        std::unique(places.begin(), places.end(),
                    [&](const Place<D>& a, const Place<D>& b) { return (b - a).norm() < 0.1 * hair; }),
        places.end());
    return places;
}

template std::vector<Place<2>> feature_places<2>(const Surveyed<2>&, std::size_t, const ColumnJudge<2>&,
                                                 std::size_t, std::size_t&);
template std::vector<Place<3>> feature_places<3>(const Surveyed<3>&, std::size_t, const ColumnJudge<3>&,
                                                 std::size_t, std::size_t&);

}  // namespace hollow_probe
