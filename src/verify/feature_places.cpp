#include "verify/feature_places.hpp"

#include <algorithm>

namespace hollow_probe {
namespace {

/// A corner or a place on an edge, and the direction across up in which to stand beside it.
template <int D>
struct Feature {
    Place<D> at;
    Place<D> aside;

    bool operator==(const Feature& other) const { return at == other.at && aside == other.aside; }
    bool operator<(const Feature& other) const {
        const auto less = [](const Place<D>& a, const Place<D>& b) {
            return std::lexicographical_compare(a.data(), a.data() + a.size(), b.data(), b.data() + b.size());
        };
        return at == other.at ? less(aside, other.aside) : less(at, other.at);
    }
};

template <int D>
class Features {
  public:
    explicit Features(const Grid<D>& grid) : grid_(grid) {
        for (Eigen::Index axis = 0; axis + 1 < D; ++axis) {
            low_[axis] = grid.first[axis];
            high_[axis] =
                low_[axis] + grid.spacing * static_cast<double>(grid.counts[static_cast<std::size_t>(axis)]);
        }
    }

    void add(const HullView<D>& piece) {
        for (const Vec<D>& corner : piece.points) {
            for (Eigen::Index axis = 0; axis + 1 < D; ++axis)
                add(place_of(corner), Place<D>(Place<D>::Unit(axis)));
        }
        if constexpr (D == 3) {
            for (const auto& edge : piece.topology->edges)
                add_edge(place_of(piece.points[edge[0]]), place_of(piece.points[edge[1]]));
        }
    }

    /// Each once, in order.
    std::vector<Feature<D>> take() {
        std::sort(found_.begin(), found_.end());
        found_.erase(std::unique(found_.begin(), found_.end()), found_.end());
        return std::move(found_);
    }

  private:
    Place<D> place_of(const Vec<D>& point) const {
        Place<D> place;
        for (std::size_t axis = 0; axis + 1 < D; ++axis)
            place[static_cast<Eigen::Index>(axis)] = grid_.axes.across[axis].dot(point);
        return place;
    }

    void add(const Place<D>& at, const Place<D>& aside) {
        if ((at.array() < low_.array()).any() || (at.array() > high_.array()).any()) return;
        found_.push_back({at, aside});
    }

    /// Places no farther apart than the grid's columns.
    void add_edge(const Place<3>& from, const Place<3>& to) {
        const Place<3> along = to - from;
        const double length = along.norm();
        if (length <= grid_.spacing) return;
        const Place<3> aside = Place<3>(-along.y(), along.x()) / length;
        const auto parts = static_cast<int>(std::ceil(length / grid_.spacing));
        for (int i = 1; i < parts; ++i) add(from + (i / static_cast<double>(parts)) * along, aside);
    }

    const Grid<D>& grid_;
    Place<D> low_;
    Place<D> high_;
    std::vector<Feature<D>> found_;
};

}  // namespace

template <int D>
std::vector<Place<D>> feature_places(const Surveyed<D>& s, std::size_t most_columns) {
    Features<D> features(s.grid);
    for (std::uint32_t piece = 0; piece < s.level.piece_count(); ++piece) features.add(s.level.piece(piece));
    const std::vector<Feature<D>> found = features.take();
    // Just beside it, and with the rim of the narrowest stance just on and just off it.
    const double rim = 0.5 * s.narrowest_width;
    const std::array<double, 3> beside = {1e-3 * rim, 0.999 * rim, 1.001 * rim};
    const std::size_t most = std::max<std::size_t>(1, most_columns / (2 * beside.size()));
    const std::size_t step = std::max<std::size_t>(1, (found.size() + most - 1) / most);
    std::vector<Place<D>> places;
    for (std::size_t i = 0; i < found.size(); i += step) {
        for (const double aside : beside) {
            places.push_back(found[i].at + aside * found[i].aside);
            places.push_back(found[i].at - aside * found[i].aside);
        }
    }
    return places;
}

template std::vector<Place<2>> feature_places<2>(const Surveyed<2>&, std::size_t);
template std::vector<Place<3>> feature_places<3>(const Surveyed<3>&, std::size_t);

}  // namespace hollow_probe
