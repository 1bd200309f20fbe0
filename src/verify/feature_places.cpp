#include "verify/feature_places.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <tuple>

#include "geometry/mixed_hash.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

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
        place[static_cast<std::ptrdiff_t>(axis)] = grid.axes.across[axis].dot(point);
    return place;
}

/// Where something begins or ends to be felt beside an edge.
struct Rim {
    double at = 0.0;      // beside the anchor
    bool of_thin = true;  // what feels there may fit between two columns
};

/// How far beside the anchor, along a direction across up, the shapes that a facing feels with begin and end,
/// the body overlaps by no more than a touch, and what is ahead begins to count. `outside`: without where the
/// body itself ends, for an edge whose solid lies the other way.
template <int D>
std::vector<Rim> rims_along(const Feelers<D>& feelers, const Vec<D>& aside, double touch, double thin,
                            bool outside) {
    const double same = 1e-3 * thin;
    std::vector<Rim> rims = {{0.0, true}};
    const RoundedHull<D>& body = feelers.feelers.front().shape;
    const auto [back, front] = extent_along(body.view(), aside);
    rims.push_back({back - body.radius() + touch, false});
    if (!outside) rims.push_back({front + body.radius() - touch, false});
    for (const Vec<D>& lip : feelers.lips) rims.push_back({aside.dot(lip), true});
    for (const Feeler<D>& feeler : feelers.feelers) {
        const auto [low, high] = extent_along(feeler.shape.view(), aside);
        const double radius = feeler.shape.radius();
        const bool of_thin = high - low + 2.0 * radius < thin;
        rims.push_back({low - radius, of_thin});
        if (!outside || feeler.probe >= 0) rims.push_back({high + radius, of_thin});
    }
    std::sort(rims.begin(), rims.end(), [](const Rim& a, const Rim& b) { return a.at < b.at; });
    std::size_t kept = 0;
    for (const Rim& rim : rims) {
        if (kept > 0 && rim.at - rims[kept - 1].at < same) {
            rims[kept - 1].of_thin |= rim.of_thin;
        } else {
            rims[kept++] = rim;
        }
    }
    rims.resize(kept);
    return rims;
}

/// Where a round corner is touched at a normal that is told apart: how far beside the corner's middle the
/// anchor is then, less what the corner's own radius adds by `sine`.
struct Tilt {
    double beside = 0.0;
    double sine = 0.0;  // positive where the anchor lies that way
};

template <int D>
std::vector<Tilt> tilts_along(const Feelers<D>& feelers, const Vec<D>& aside) {
    std::vector<Tilt> tilts;
    for (const Feeler<D>& feeler : feelers.feelers) {
        const auto [low, high] = extent_along(feeler.shape.view(), aside);
        for (const double angle : feeler.tilts) {
            const double sine = std::sin(angle);
            if (sine < tolerance::needle || sine > 1.0 - tolerance::needle)
                continue;  // on top of it, or a rim
            tilts.push_back({feeler.shape.radius() * sine - low, sine});
            tilts.push_back({-feeler.shape.radius() * sine - high, -sine});
        }
    }
    const auto key = [](const Tilt& tilt) { return std::pair(tilt.beside, tilt.sine); };
    std::sort(tilts.begin(), tilts.end(), [&](const Tilt& a, const Tilt& b) { return key(a) < key(b); });
    tilts.erase(std::unique(tilts.begin(), tilts.end(),
                            [&](const Tilt& a, const Tilt& b) { return key(a) == key(b); }),
                tilts.end());
    return tilts;
}

/// Corners of what a facing can meet, and places on its edges, with the direction to stand aside in.
template <int D>
struct Feature {
    Place<D> at;
    Place<D> aside;
    double radius = 0.0;                // of a round corner whose middle it is; negative: of its side
    Place<D> along = Place<D>::zero();  // an edge: the way to its other end
    int parts = 1;                      // an edge: places along it
    bool outside = false;               // an edge: its solid lies against `aside`
    std::uint64_t chance = 0;           // that decides which of too many are kept

    [[nodiscard]] auto key() const {
        if constexpr (D == 3)
            return std::tuple(aside[0], aside[1], along[0], along[1], radius, outside);
        else
            return std::tuple(aside[0], along[0], radius, outside);
    }
};

/// A number that tells two points apart from others, whichever of them comes first.
template <int D>
std::uint64_t chance_of(const Vec<D>& a, const Vec<D>& b) {
    const auto of_one = [](const Vec<D>& point) {
        MixedHash hash;
        for (int axis = 0; axis < D; ++axis) hash.add(point[axis]);
        return hash.first();
    };
    MixedHash both;
    both.add(of_one(a) + of_one(b));
    return both.first();
}

/// Solids of one piece, or those of many, whose edges mostly lie inside their surfaces.
enum class Of : std::uint8_t { one_piece, many_pieces };

/// Corners and edges of a level's pieces.
template <int D>
class Features {
  public:
    /// Where there are more than `most` about half as many are kept, or more.
    Features(const Planned<D>& planned, std::size_t facing, const Feelers<D>& feelers, Of of,
             std::size_t most)
        : s_(planned),
          level_(planned.level_of(facing)),
          feelers_(feelers),
          reach_(feelers.reach.size().norm()),
          of_many_(of == Of::many_pieces),
          most_(most),
          sort_beyond_(2 * most) {
        if (!s_.region) return;
        const auto box = RoundedHull<D>::box(s_.region->center(), s_.region->size());
        const auto [low, high] = extent_along(box.view(), level_.up());
        heights_ = {low - reach_, high + reach_};
    }

    /// Of what is felt, each once, in order.
    std::vector<Feature<D>> found() {
        for (const Solid<D>& solid : level_.solids()) {
            if ((solid.piece_count > 1) != of_many_) continue;
            for (std::uint32_t i = 0; i < solid.piece_count; ++i) look_at(solid.first_piece + i);
        }
        leave_out();
        std::sort(found_.begin(), found_.end(), [](const Feature<D>& a, const Feature<D>& b) {
            return a.at == b.at ? a.key() < b.key() : before<D>(a.at, b.at);
        });
        keep_once();  // those above one another, too
        return std::move(found_);
    }
    /// How many there were beside those, about.
    [[nodiscard]] std::size_t passed_over() const { return passed_over_; }

  private:
    void look_at(std::uint32_t piece) {
        if (!level_.on_layers(piece, feelers_.layers)) return;
        const HullView<D> hull = level_.piece(piece);
        if (!reaches_grid(hull)) return;
        // In 3D corners are the ends of edges.
        if (D == 2 || hull.radius > 0.0 || hull.points.size() < 3) {
            for (const Vec<D>& corner : hull.points) add_corner(hull, corner);
        }
        if constexpr (D == 3) add_edges(hull);
    }

    void keep_once() {
        const auto same = [](const Feature<D>& a, const Feature<D>& b) {
            return a.at == b.at && a.key() == b.key();
        };
        found_.erase(std::unique(found_.begin(), found_.end(), same), found_.end());
    }

    /// Keeps no more than there is room for, those that neighbours have in common once.
    void leave_out() {
        std::sort(found_.begin(), found_.end(), [](const Feature<D>& a, const Feature<D>& b) {
            if (a.chance != b.chance) return a.chance < b.chance;
            return a.at == b.at ? a.key() < b.key() : before<D>(a.at, b.at);
        });
        keep_once();
        const std::size_t all = found_.size();
        while (found_.size() > most_ && greatest_ > 0) {
            greatest_ /= 2;
            while (!found_.empty() && found_.back().chance > greatest_) found_.pop_back();
        }
        passed_over_ += all - found_.size();
    }

    /// Whether a feature is to be kept; counted if not.
    bool keeps(std::uint64_t chance) {
        if (chance <= greatest_) return true;
        ++passed_over_;
        return false;
    }

    void add(const Feature<D>& feature) {
        found_.push_back(feature);
        if (found_.size() <= sort_beyond_) return;
        leave_out();
        sort_beyond_ = found_.size() + 2 * most_;
    }

    /// Columns stand beside it within the feelers' reach at most.
    [[nodiscard]] bool reaches_grid(const HullView<D>& hull) const {
        const auto [bottom, top] = extent_along(hull, level_.up());
        if (top + hull.radius < heights_.low || bottom - hull.radius > heights_.high) return false;
        for (std::size_t axis = 0; axis + 1 < D; ++axis) {
            const auto [low, high] = extent_along(hull, s_.grid.axes.across[axis]);
            const double first = s_.grid.first[static_cast<std::ptrdiff_t>(axis)];
            const double last = first + s_.grid.spacing * static_cast<double>(s_.grid.counts[axis]);
            if (high + hull.radius + reach_ < first || low - hull.radius - reach_ > last) return false;
        }
        return true;
    }

    void add_corner(const HullView<D>& hull, const Vec<D>& corner) {
        const std::uint64_t chance = chance_of<D>(corner, corner);
        if (!keeps(chance)) return;
        for (std::ptrdiff_t axis = 0; axis + 1 < D; ++axis) {
            Feature<D> feature{.at = place_of<D>(s_.grid, corner),
                               .aside = Place<D>::unit(axis),
                               .radius = hull.radius,
                               .chance = chance};
            add(feature);
            if (hull.radius == 0.0) continue;
            const Place<D> middle = feature.at;
            feature.radius = -1.0;
            for (const double side : {hull.radius, -hull.radius}) {
                feature.at = middle + side * feature.aside;
                add(feature);
            }
        }
    }

    void add_edges(const HullView<3>& hull) requires(D == 3) {
        Place<3> middle = Place<3>::zero();
        for (const Vec<3>& corner : hull.points) middle += place_of<3>(s_.grid, corner);
        middle /= static_cast<double>(hull.points.size());
        for (const auto& edge : hull.topology->edges) {
            const Place<3> one = place_of<3>(s_.grid, hull.points[edge[0]]);
            const Place<3> other = place_of<3>(s_.grid, hull.points[edge[1]]);
            // Edges above one another are one.
            const Place<3>& begin = before<3>(other, one) ? other : one;
            const Place<3> way = before<3>(other, one) ? Place<3>(one - other) : Place<3>(other - one);
            const double length = way.norm();
            if (length < 1e-6) continue;
            const std::uint64_t chance = chance_of<3>(hull.points[edge[0]], hull.points[edge[1]]);
            if (!keeps(chance)) continue;
            const Place<3> aside = Place<3>(-way.y(), way.x()) / length;
            const double inside = aside.dot(middle - begin);
            const bool silhouette = std::abs(inside) > tolerance::accuracy * (length + std::abs(inside));
            // As far past its ends as the body feels it; one at least, off the middle, and then twice as far
            // apart as columns are.
            const Place<3> beyond = (of_many_ ? 0.0 : s_.half_width / length) * way;
            const Place<3> along = way + 2.0 * beyond;
            const auto parts = static_cast<int>(std::ceil(along.norm() / (2.0 * s_.grid.spacing)));
            add({begin - beyond, inside > 0.0 ? Place<3>(-aside) : aside, hull.radius, along, parts,
                 silhouette, chance});
        }
    }

    const Planned<D>& s_;
    const Level<D>& level_;
    const Feelers<D>& feelers_;
    double reach_;
    HeightSpan heights_{-infinity, infinity};
    bool of_many_;
    std::size_t most_;
    std::size_t sort_beyond_;  // so many found, to leave some out
    std::vector<Feature<D>> found_;
    std::uint64_t greatest_ = std::numeric_limits<std::uint64_t>::max();  // chance of what is kept
    std::size_t passed_over_ = 0;
};

/// Rows of places beside features, within the grid.
template <int D>
class Rows {
  public:
    Rows(const Planned<D>& planned, std::size_t facing, const Feelers<D>& feelers)
        : s_(planned),
          facing_(facing),
          feelers_(feelers),
          rim_(0.5 * planned.narrowest_width),
          hair_(1e-3 * rim_),
          low_(planned.grid.first) {
        for (std::ptrdiff_t axis = 0; axis + 1 < D; ++axis) {
            const std::size_t count = s_.grid.counts[static_cast<std::size_t>(axis)];
            high_[axis] = low_[axis] + s_.grid.spacing * static_cast<double>(count - 1);
        }
    }

    /// Something as wide as a body goes on being felt towards the middle of the solid: the outside of the rim
    /// is enough. A thin one may be felt on the inside alone.
    void add_beside(const Feature<D>& feature) {
        for (const Rim& at : rims_of(feature.aside, feature.outside))
            add(feature, -at.at, !feature.outside || at.of_thin);
        if (feature.radius < 0.0) return;
        for (const Tilt& tilt : tilts_along<D>(feelers_, vector_of(feature.aside)))
            add(feature, tilt.beside + feature.radius * tilt.sine, !feature.outside);
    }

    /// How many stand beside an edge, about.
    [[nodiscard]] std::size_t of_each() const {
        const Place<D> aside = Place<D>::unit(0);
        return rims_of(aside, D == 3).size() + tilts_along<D>(feelers_, vector_of(aside)).size();
    }

    /// Each once, in order. Of more than `most` places `taken` by chance.
    std::vector<Row<D>> finish(std::size_t most, std::size_t taken) {
        std::sort(rows_.begin(), rows_.end(), [](const Row<D>& a, const Row<D>& b) {
            return a.front() == b.front() ? before<D>(a.back(), b.back()) : before<D>(a.front(), b.front());
        });
        const auto same = [&](const Row<D>& a, const Row<D>& b) {
            return a.size() == b.size() && (b.front() - a.front()).norm() < 0.1 * hair_ &&
                   (b.back() - a.back()).norm() < 0.1 * hair_;
        };
        rows_.erase(std::unique(rows_.begin(), rows_.end(), same), rows_.end());
        std::size_t all = 0;
        for (const Row<D>& row : rows_) all += row.size();
        are_some_left_out_ = all > most;
        if (are_some_left_out_) take_some(taken, all);
        return std::move(rows_);
    }
    [[nodiscard]] bool are_some_left_out() const { return are_some_left_out_; }

  private:
    /// Places beside one another are the two sides of one edge: every so many would be one side alone.
    void take_some(std::size_t most, std::size_t all) {
        const auto chance = [&](const Place<D>& place) {
            MixedHash hash;
            hash.add(facing_);
            for (const double x : place) hash.add(x);
            return hash.first();
        };
        std::vector<std::uint64_t> chances;
        chances.reserve(all);
        for (const Row<D>& row : rows_)
            for (const Place<D>& place : row) chances.push_back(chance(place));
        const auto last = chances.begin() + static_cast<std::ptrdiff_t>(most);
        std::nth_element(chances.begin(), last, chances.end());
        for (Row<D>& row : rows_)
            std::erase_if(row, [&](const Place<D>& place) { return chance(place) >= *last; });
        std::erase_if(rows_, [](const Row<D>& row) { return row.empty(); });
    }

    /// A hair on either side, or on the outside alone.
    void add(const Feature<D>& feature, double aside, bool inside) {
        for (const double beside : {-hair_, hair_}) {
            if (!inside && beside < 0.0) continue;
            Row<D> row;
            for (int part = 0; part < feature.parts; ++part) {
                const double on = feature.parts == 1 ? 0.41 : (part + 0.5) / feature.parts;
                const Place<D> place = feature.at + on * feature.along + (aside + beside) * feature.aside;
                if (all_below(low_, place) && all_below(place, high_)) row.push_back(place);
            }
            columns_ += static_cast<double>(row.size());
            if (columns_ > most_columns)
                throw InvalidInput(
                    "beside all corners and edges there are more than 50 million columns: set a budget");
            if (!row.empty()) rows_.push_back(std::move(row));
        }
    }

    [[nodiscard]] std::vector<Rim> rims_of(const Place<D>& aside, bool outside) const {
        return rims_along<D>(feelers_, vector_of(aside), s_.rig.intent.touch, rim_, outside);
    }

    [[nodiscard]] Vec<D> vector_of(const Place<D>& aside) const {
        Vec<D> way = Vec<D>::zero();
        for (std::size_t axis = 0; axis + 1 < D; ++axis)
            way += aside[static_cast<std::ptrdiff_t>(axis)] * s_.grid.axes.across[axis];
        return way;
    }

    const Planned<D>& s_;
    std::size_t facing_;
    const Feelers<D>& feelers_;
    double rim_;
    double hair_;
    Place<D> low_;
    Place<D> high_;
    std::vector<Row<D>> rows_;
    double columns_ = 0.0;
    bool are_some_left_out_ = false;
};

}  // namespace

template <int D>
FeaturePlaces<D>::FeaturePlaces(const Planned<D>& s, std::size_t facing, std::size_t most) {
    const Feelers<D> feelers(s, facing);
    Rows<D> places(s, facing, feelers);
    // Evenly, at about so many places in all. Returns how many these are.
    const auto choose = [&](Of of, std::size_t room) -> std::size_t {
        constexpr std::size_t plenty = 65'536;
        Features<D> features(s, facing, feelers, of, std::max(16 * room, plenty));
        const std::vector<Feature<D>> found = features.found();
        std::size_t all = 0;
        for (const Feature<D>& feature : found) all += static_cast<std::size_t>(feature.parts);
        left_out += features.passed_over() + found.size();
        if (most == 0) return 0;
        const std::size_t taken = std::min(all, room);
        std::size_t passed = 0;
        for (const Feature<D>& feature : found) {
            const std::size_t before = passed;
            passed += static_cast<std::size_t>(feature.parts);
            if (passed * taken / all == before * taken / all) continue;
            --left_out;
            places.add_beside(feature);
        }
        return taken;
    };
    const std::size_t beside_one = (D == 2 ? 2 : 1) * places.of_each();
    // Of few places, those beside four times as many edges are found, and some of them taken.
    const bool are_few = most < 4 * beside_one;
    const std::size_t allowed = are_few ? 1 + 4 * most / beside_one : most / beside_one;
    const std::size_t of_one_piece = choose(Of::one_piece, allowed);
    // Where there is not room for all, solids of many pieces leave out more.
    const std::size_t left = allowed - std::min(of_one_piece, allowed);
    choose(Of::many_pieces, std::max<std::size_t>(left, allowed / 8 + 1));
    rows = places.finish(are_few ? most : most + most / 4, most);
    if (places.are_some_left_out()) left_out = std::max<std::size_t>(left_out, 1);
}

template struct FeaturePlaces<2>;
template struct FeaturePlaces<3>;

}  // namespace hollow_probe
