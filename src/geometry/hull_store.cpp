#include "hollow_probe/geometry/hull_store.hpp"

#include <algorithm>

namespace hollow_probe {

template <int D>
void HullStore<D>::add(const RoundedHull<D>& hull) {
    if (hull.topology() == facet_topology<D>() && hull.radius() == 0.0) {
        std::array<Vec<D>, D> corners;
        std::copy(hull.points().begin(), hull.points().end(), corners.begin());
        return add_facet(corners);
    }
    Record record;
    record.first_point = static_cast<std::uint32_t>(points_.size());
    record.point_count = static_cast<std::uint16_t>(hull.points().size());
    record.first_normal = static_cast<std::uint32_t>(normals_.size());
    record.normal_count = static_cast<std::uint16_t>(hull.normals().size());
    record.radius = hull.radius();
    if (topologies_.back() != hull.topology()) {
        topologies_.push_back(hull.topology());
    }
    record.topology = static_cast<std::uint32_t>(topologies_.size() - 1);
    points_.insert(points_.end(), hull.points().begin(), hull.points().end());
    normals_.insert(normals_.end(), hull.normals().begin(), hull.normals().end());
    places_.push_back(static_cast<std::uint32_t>(records_.size()));
    records_.push_back(record);
}

template <int D>
void HullStore<D>::add_facet(const std::array<Vec<D>, D>& corners) {
    places_.push_back(static_cast<std::uint32_t>(facets_.size() / D) | facet);
    facets_.insert(facets_.end(), corners.begin(), corners.end());
}

template <int D>
void HullStore<D>::move(std::uint32_t index, const Vec<D>& offset) {
    if (is_facet(index)) {
        Vec<D>* const first = facets_.data() + std::size_t{D} * (places_[index] & ~facet);
        for (int i = 0; i < D; ++i) first[i] += offset;
        return;
    }
    const Record& record = records_[places_[index]];
    for (std::uint32_t i = 0; i < record.point_count; ++i) points_[record.first_point + i] += offset;
}

template <int D>
void HullStore<D>::place(std::uint32_t index, const HullStore& copied, const Vec<D>& offset) {
    const HullView<D> there = copied[index];
    Vec<D>* const first = is_facet(index) ? facets_.data() + std::size_t{D} * (places_[index] & ~facet)
                                          : points_.data() + records_[places_[index]].first_point;
    for (std::size_t i = 0; i < there.points.size(); ++i) first[i] = there.points[i] + offset;
}

template <int D>
void HullStore<D>::reserve_facets(std::size_t count) {
    places_.reserve(places_.size() + count);
    facets_.reserve(facets_.size() + D * count);
}

template class HullStore<2>;
template class HullStore<3>;

}  // namespace hollow_probe
