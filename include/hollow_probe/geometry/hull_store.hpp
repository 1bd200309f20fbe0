// Many rounded hulls in flat arrays: the pieces of a level.
#pragma once

#include <cstdint>
#include <memory>
#include <vector>

#include "hollow_probe/geometry/page_allocator.hpp"
#include "hollow_probe/geometry/rounded_hull.hpp"

namespace hollow_probe {

/// A growing list of hulls. Facets (triangles, segments) are kept as their corners only, so that a mesh of
/// millions of them stays small; their views carry no normals (see for_each_normal()).
template <int D>
class HullStore {
  public:
    [[nodiscard]] std::uint32_t size() const { return static_cast<std::uint32_t>(places_.size()); }

    void add(const RoundedHull<D>& hull);
    void add_facet(const std::array<Vec<D>, D>& corners);
    void reserve_facets(std::size_t count);

    void move(std::uint32_t index, const Vec<D>& offset);
    /// Where a copy of this store has the hull, moved by `offset`: the same to the last digit however often
    /// it was moved before.
    void place(std::uint32_t index, const HullStore& copied, const Vec<D>& offset);

    /// A view into the store; good until the next add.
    [[nodiscard]] HullView<D> operator[](std::uint32_t index) const {
        if (is_facet(index)) return {{corners(index), D}, 0.0, {}, topologies_.front().get()};
        const Record& r = records_[places_[index] & ~facet];
        return {{points_.data() + r.first_point, r.point_count},
                r.radius,
                {normals_.data() + r.first_normal, r.normal_count},
                topologies_[r.topology].get()};
    }
    /// A segment (2D) or triangle (3D) of radius 0.
    [[nodiscard]] bool is_facet(std::uint32_t index) const { return (places_[index] & facet) != 0; }
    /// The corners of a facet: D points, one after another.
    [[nodiscard]] const Vec<D>* corners(std::uint32_t index) const {
        return facets_.data() + std::size_t{D} * (places_[index] & ~facet);
    }
    /// Asks the memory for a piece that is wanted soon.
    void prefetch(std::uint32_t index) const {
        if (!is_facet(index)) return;
        const char* place = reinterpret_cast<const char*>(corners(index));
        __builtin_prefetch(place);
        __builtin_prefetch(place + sizeof(Vec<D>) * D - 1);
    }
    [[nodiscard]] Bounds<D> bounds(std::uint32_t index) const { return bounds_of<D>((*this)[index]); }
    [[nodiscard]] std::size_t bytes() const {
        return places_.size() * sizeof(std::uint32_t) + records_.size() * sizeof(Record) +
               (facets_.size() + points_.size() + normals_.size()) * sizeof(Vec<D>);
    }

  private:
    static constexpr std::uint32_t facet = 0x80000000U;

    struct Record {
        std::uint32_t first_point = 0;
        std::uint32_t first_normal = 0;
        std::uint16_t point_count = 0;
        std::uint16_t normal_count = 0;
        std::uint32_t topology = 0;
        double radius = 0.0;
    };

    PageVector<std::uint32_t> places_;  // in records_, or in facets_ with the facet bit
    PageVector<Vec<D>> facets_;         // D corners each
    std::vector<Record> records_;
    std::vector<Vec<D>> points_;
    std::vector<Vec<D>> normals_;
    std::vector<std::shared_ptr<const HullTopology>> topologies_ = {facet_topology<D>()};
};

extern template class HullStore<2>;
extern template class HullStore<3>;

}  // namespace hollow_probe
