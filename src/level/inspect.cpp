#include "hollow_probe/level/inspect.hpp"

#include <algorithm>
#include <bit>
#include <functional>
#include <limits>
#include <numeric>
#include <tuple>

#include "geometry/mixed_hash.hpp"
#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

/// Numbers places in the order in which they come: a hash table of open addresses, half full at most.
template <int D>
class Places {
  public:
    explicit Places(std::size_t expected) : slots_(std::bit_ceil(2 * expected + 16), none) {
        places_.reserve(expected);
    }

    std::uint32_t number_of(const Vec<D>& place) {
        if (2 * places_.size() >= slots_.size()) grow();
        std::uint32_t& slot = slot_of(place);
        if (slot == none) {
            slot = static_cast<std::uint32_t>(places_.size());
            places_.push_back(place);
        }
        return slot;
    }
    [[nodiscard]] std::size_t count() const { return places_.size(); }

  private:
    static constexpr std::uint32_t none = std::numeric_limits<std::uint32_t>::max();

    std::uint32_t& slot_of(const Vec<D>& place) {
        MixedHash hash;
        for (int axis = 0; axis < D; ++axis) hash.add(place[axis] + 0.0);  // -0.0 is the same place as 0.0
        const std::size_t last = slots_.size() - 1;
        std::size_t slot = hash.first() & last;
        while (slots_[slot] != none && places_[slots_[slot]] != place) slot = (slot + 1) & last;
        return slots_[slot];
    }

    void grow() {
        slots_.assign(2 * slots_.size(), none);
        for (std::uint32_t i = 0; i < places_.size(); ++i) slot_of(places_[i]) = i;
    }

    std::vector<std::uint32_t> slots_;  // numbers of places
    std::vector<Vec<D>> places_;
};

/// Sorts what has numbers below `count`, few of them the same: by number, and by `less` where it is the same.
template <class Item, class NumberOf, class Less>
std::vector<Item> sorted_by_number(const std::vector<Item>& items, std::size_t count, NumberOf number_of,
                                   Less less) {
    std::vector<std::size_t> begins(count + 1, 0);
    for (const Item& item : items) ++begins[number_of(item) + 1];
    std::partial_sum(begins.begin(), begins.end(), begins.begin());
    std::vector<Item> sorted(items.size());
    std::vector<std::size_t> next(begins.begin(), begins.end() - 1);
    for (const Item& item : items) sorted[next[number_of(item)]++] = item;
    for (std::size_t i = 0; i < count; ++i) {
        const auto begin = sorted.begin() + static_cast<std::ptrdiff_t>(begins[i]);
        std::sort(begin, sorted.begin() + static_cast<std::ptrdiff_t>(begins[i + 1]), less);
    }
    return sorted;
}

/// A side of a facet: the edge between two corners in 3D, a corner in 2D; from which of its ends it is run
/// through.
struct FacetSide {
    std::uint32_t low = 0;  // the numbers of its ends
    std::uint32_t high = 0;
    std::uint32_t facet = 0;  // of the solid
    std::uint8_t number = 0;
    bool forward = false;

    [[nodiscard]] bool is_same(const FacetSide& other) const {
        return low == other.low && high == other.high;
    }
};

template <int D>
class SolidInspector {
  public:
    SolidInspector(const Level<D>& level, std::uint32_t solid, const InspectOptions& options,
                   LevelReport<D>& report)
        : level_(level), solid_(solid), options_(options), report_(report), own_(report.solids[solid]) {}

    void run() {
        const Solid<D>& solid = level_.solids()[solid_];
        for (std::uint32_t i = 0; i < solid.piece_count; ++i) {
            const std::uint32_t piece = solid.first_piece + i;
            if (level_.pieces().is_facet(piece)) {
                facets_.push_back(piece);
            } else {
                ++own_.convex;
                if (options_.gap_width > 0.0) find_gaps_of_hull(piece);
            }
        }
        own_.facets = facets_.size();
        if (facets_.empty()) return;
        weld();
        find_flat();
        find_duplicates();
        look_at_sides();
        look_at_volume();
    }

  private:
    using Corners = std::array<std::uint32_t, D>;

    void weld() {
        Places<D> places(facets_.size() / 2);
        corners_.reserve(facets_.size());
        for (const std::uint32_t piece : facets_) {
            Corners corners{};
            for (int i = 0; i < D; ++i) corners[i] = places.number_of(level_.pieces().corners(piece)[i]);
            corners_.push_back(corners);
        }
        places_ = places.count();
        // Islands: facets joined through corners.
        std::vector<std::uint32_t> parent(places_);
        std::iota(parent.begin(), parent.end(), 0U);
        const auto root = [&](std::uint32_t v) {
            while (parent[v] != v) v = parent[v] = parent[parent[v]];
            return v;
        };
        own_.islands = places_;
        for (const Corners& corners : corners_) {
            for (int i = 1; i < D; ++i) {
                const std::uint32_t a = root(corners[0]);
                const std::uint32_t b = root(corners[i]);
                if (a == b) continue;
                parent[b] = a;
                --own_.islands;
            }
        }
    }

    void find_flat() {
        for (const std::uint32_t facet : facets_) {
            const Vec<D>* p = level_.pieces().corners(facet);
            bool flat = false;
            if constexpr (D == 2) {
                flat = p[0] == p[1];
            } else {
                const Vec<3> u = p[1] - p[0];
                const Vec<3> v = p[2] - p[0];
                const double longest = std::max({u.norm(), v.norm(), (v - u).norm()});
                flat = u.cross(v).norm() <= tolerance::side * longest * longest;
            }
            if (flat) note(Oddity::zero_area, middle(facet));
        }
    }

    void find_duplicates() {
        using Numbered = std::pair<Corners, std::uint32_t>;
        std::vector<Numbered> sorted;
        sorted.reserve(corners_.size());
        for (std::uint32_t i = 0; i < corners_.size(); ++i) {
            Corners corners = corners_[i];
            std::sort(corners.begin(), corners.end());
            sorted.emplace_back(corners, i);
        }
        sorted = sorted_by_number(
            sorted, places_, [](const Numbered& one) { return one.first.front(); }, std::less<>());
        for (std::size_t i = 1; i < sorted.size(); ++i) {
            if (sorted[i].first != sorted[i - 1].first) continue;
            const bool alike = turns_alike(corners_[sorted[i].second], corners_[sorted[i - 1].second]);
            note(alike ? Oddity::duplicate_face : Oddity::both_sided, middle(facets_[sorted[i].second]));
        }
    }

    /// Whether two facets with the same corners face the same side.
    static bool turns_alike(const Corners& a, const Corners& b) {
        for (std::size_t shift = 0; shift < (D == 2 ? 1 : D); ++shift) {
            bool same = true;
            for (std::size_t k = 0; k < D; ++k) same = same && a[k] == b[(k + shift) % D];
            if (same) return true;
        }
        return false;
    }

    /// A closed surface that faces inwards encloses a negative volume.
    void look_at_volume() {
        if constexpr (D == 3) {
            if (!own_.closed() || own_.odd[static_cast<std::size_t>(Oddity::both_sided)] > 0) return;
            const Vec<3> origin = level_.pieces().corners(facets_.front())[0];
            double six_volumes = 0.0;
            for (const std::uint32_t facet : facets_) {
                const Vec<3>* p = level_.pieces().corners(facet);
                six_volumes += (p[0] - origin).dot((p[1] - origin).cross(p[2] - origin));
            }
            if (six_volumes < 0.0) note(Oddity::inside_out, middle(facets_.front()));
        }
    }

    void look_at_sides() {
        std::vector<FacetSide> sides;
        sides.reserve(D * corners_.size());
        for (std::uint32_t i = 0; i < corners_.size(); ++i) {
            for (std::size_t k = 0; k < D; ++k) {
                const std::uint32_t a = corners_[i][k];
                const std::uint32_t b = D == 2 ? a : corners_[i][(k + 1) % D];
                if (D == 3 && a == b) continue;
                const auto [low, high] = std::minmax(a, b);
                sides.push_back({low, high, i, static_cast<std::uint8_t>(k), D == 2 ? k == 0 : a == low});
            }
        }
        sides = sorted_by_number(
            sides, places_, [](const FacetSide& side) { return side.low; },
            [](const FacetSide& a, const FacetSide& b) {
                return std::tie(a.high, a.facet) < std::tie(b.high, b.facet);
            });
        for (std::size_t i = 0; i < sides.size();) {
            std::size_t end = i + 1;
            while (end < sides.size() && sides[end].is_same(sides[i])) ++end;
            if (end - i == 1) {
                note(Oddity::open_edge, place_of(sides[i]));
                if (options_.gap_width > 0.0) find_gap_beside(sides[i]);
            } else if (end - i > 2) {
                note(Oddity::nonmanifold_edge, place_of(sides[i]));
            } else if (sides[i].forward == sides[i + 1].forward) {
                note(Oddity::flipped_normal, place_of(sides[i]));
            }
            i = end;
        }
    }

    /// From the middle of an open side to the nearest piece that is not its own.
    void find_gap_beside(const FacetSide& side) {
        const std::uint32_t own = facets_[side.facet];
        const Vec<D> at = place_of(side);
        const double noise = tolerance::accuracy * (1.0 + magnitude(level_.bounds()));
        const auto point = RoundedHull<D>::ball(at, 1.0).with_radius(0.0);
        Bounds<D> box;
        box.grow(at);
        double nearest = options_.gap_width;
        bool touches = false;
        level_.tree().overlapping(box.inflated(options_.gap_width), all_layers, [&](std::uint32_t piece) {
            if (piece == own) return;
            const double gap = separation<D>(point.view(), level_.piece(piece)).gap;
            if (gap <= noise) {
                touches = true;
            } else if (!shares_corner(own, piece)) {
                nearest = std::min(nearest, gap);
            }
        });
        if (!touches && nearest < options_.gap_width) note(Oddity::narrow_gap, at, nearest);
    }

    bool shares_corner(std::uint32_t a, std::uint32_t b) const {
        if (!level_.pieces().is_facet(b)) return false;
        for (int i = 0; i < D; ++i) {
            for (int k = 0; k < D; ++k) {
                if (level_.pieces().corners(a)[i] == level_.pieces().corners(b)[k]) return true;
            }
        }
        return false;
    }

    void find_gaps_of_hull(std::uint32_t piece) {
        const double noise = tolerance::accuracy * (1.0 + magnitude(level_.bounds()));
        const HullView<D> hull = level_.piece(piece);
        level_.tree().overlapping(bounds_of(hull).inflated(options_.gap_width), all_layers,
                                  [&](std::uint32_t other) {
                                      const bool is_surface = level_.pieces().is_facet(other);
                                      if (level_.solid_of(other) == solid_ || (!is_surface && other < piece))
                                          return;
                                      const Separation<D> apart = separation<D>(hull, level_.piece(other));
                                      if (apart.gap <= noise || apart.gap >= options_.gap_width) return;
                                      const Vec<D> between = 0.5 * (apart.on_a + apart.on_b);
                                      if (!is_filled(between, noise))
                                          note(Oddity::narrow_gap, between, apart.gap);
                                  });
    }

    /// Between parts of two solids there may be another part of either.
    bool is_filled(const Vec<D>& at, double noise) const {
        const auto point = RoundedHull<D>::ball(at, 1.0).with_radius(0.0);
        bool filled = false;
        Bounds<D> box;
        box.grow(at);
        level_.tree().overlapping(box, all_layers, [&](std::uint32_t piece) -> bool {
            filled = separation<D>(point.view(), level_.piece(piece)).gap <= noise;
            return !filled;
        });
        return filled;
    }

    Vec<D> place_of(const FacetSide& side) const {
        const Vec<D>* p = level_.pieces().corners(facets_[side.facet]);
        return D == 2 ? p[side.number] : 0.5 * (p[side.number] + p[(side.number + 1) % D]);
    }

    Vec<D> middle(std::uint32_t piece) const {
        Vec<D> sum = Vec<D>::zero();
        for (int i = 0; i < D; ++i) sum += level_.pieces().corners(piece)[i] / D;
        return sum;
    }

    void note(Oddity oddity, const Vec<D>& at, double width = 0.0) {
        auto& count = own_.odd[static_cast<std::size_t>(oddity)];
        if (count++ < options_.places_of_each) report_.places.push_back({oddity, solid_, at, width});
    }

    const Level<D>& level_;
    std::uint32_t solid_;
    const InspectOptions& options_;
    LevelReport<D>& report_;
    SolidReport& own_;
    std::vector<std::uint32_t> facets_;  // piece numbers
    std::vector<Corners> corners_;       // of each, as numbers of places
    std::size_t places_ = 0;
};

}  // namespace

const char* name_of(Oddity oddity, bool many) {
    switch (oddity) {
        case Oddity::zero_area:
            return many ? "facets without area" : "facet without area";
        case Oddity::duplicate_face:
            return many ? "duplicate faces" : "duplicate face";
        case Oddity::both_sided:
            return many ? "both-sided faces" : "both-sided face";
        case Oddity::inside_out:
            return many ? "closed surfaces inside out" : "closed surface inside out";
        case Oddity::flipped_normal:
            return many ? "flipped normals" : "flipped normal";
        case Oddity::open_edge:
            return many ? "open edges" : "open edge";
        case Oddity::nonmanifold_edge:
            return many ? "non-manifold edges" : "non-manifold edge";
        case Oddity::narrow_gap:
            return many ? "narrow gaps" : "narrow gap";
    }
    return "";
}

template <int D>
std::size_t LevelReport<D>::count(Oddity oddity) const {
    std::size_t sum = 0;
    for (const SolidReport& solid : solids) sum += solid.odd[static_cast<std::size_t>(oddity)];
    return sum;
}

template <int D>
LevelReport<D> inspect(const Level<D>& level, const InspectOptions& options) {
    if (!(options.gap_width >= 0.0) || !std::isfinite(options.gap_width)) {
        throw InvalidInput("the width of gaps to look for is " + number_text(options.gap_width) +
                           ", expected 0 or more");
    }
    LevelReport<D> report;
    report.solids.resize(level.solids().size());
    for (std::uint32_t solid = 0; solid < level.solids().size(); ++solid) {
        SolidInspector<D>(level, solid, options, report).run();
    }
    return report;
}

template struct LevelReport<2>;
template struct LevelReport<3>;
template LevelReport<2> inspect<2>(const Level<2>&, const InspectOptions&);
template LevelReport<3> inspect<3>(const Level<3>&, const InspectOptions&);

}  // namespace hollow_probe
