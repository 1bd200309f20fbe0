#include "verify/feature_places.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <tuple>

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
        place[static_cast<Eigen::Index>(axis)] = grid.axes.across[axis].dot(point);
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
        if (!outside || feeler.of_probe) rims.push_back({high + radius, of_thin});
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
    Place<D> along = Place<D>::Zero();  // an edge: the way to its other end
    int parts = 1;                      // an edge: places along it
    bool outside = false;               // an edge: its solid lies against `aside`
    bool of_many = false;  // of a solid of many pieces, whose edges mostly lie inside its surface

    [[nodiscard]] auto key() const {
        if constexpr (D == 3)
            return std::tuple(aside[0], aside[1], along[0], along[1], radius, outside, of_many);
        else
            return std::tuple(aside[0], along[0], radius, outside, of_many);
    }
};

/// Corners and edges of a level's pieces.
template <int D>
class Features {
  public:
    Features(const Planned<D>& planned, std::size_t facing, const Feelers<D>& feelers)
        : s_(planned),
          level_(planned.level_of(facing)),
          feelers_(feelers),
          reach_(feelers.reach.size().norm()) {
        if (!s_.region) return;
        const auto box = RoundedHull<D>::box(s_.region->center(), s_.region->size());
        const auto [low, high] = extent_along(box.view(), level_.up());
        heights_ = {low - reach_, high + reach_};
    }

    /// Of all that is felt, each once, in order.
    std::vector<Feature<D>> all() {
        for (std::uint32_t piece = 0; piece < level_.piece_count(); ++piece) {
            if (!level_.on_layers(piece, feelers_.layers)) continue;
            const HullView<D> hull = level_.piece(piece);
            if (!reaches_grid(hull)) continue;
            of_many_ = level_.solids()[level_.solid_of(piece)].piece_count > 1;
            // In 3D corners are the ends of edges.
            if (D == 2 || hull.radius > 0.0 || hull.points.size() < 3) {
                for (const Vec<D>& corner : hull.points) add_corner(hull, corner);
            }
            if constexpr (D == 3) add_edges(hull);
        }
        std::sort(found_.begin(), found_.end(), [](const Feature<D>& a, const Feature<D>& b) {
            return a.at == b.at ? a.key() < b.key() : before<D>(a.at, b.at);
        });
        const auto same = [](const Feature<D>& a, const Feature<D>& b) {
            return a.at == b.at && a.key() == b.key();
        };
        found_.erase(std::unique(found_.begin(), found_.end(), same), found_.end());
        return std::move(found_);
    }

  private:
    /// Columns stand beside it within the feelers' reach at most.
    [[nodiscard]] bool reaches_grid(const HullView<D>& hull) const {
        const auto [bottom, top] = extent_along(hull, level_.up());
        if (top + hull.radius < heights_.low || bottom - hull.radius > heights_.high) return false;
        for (std::size_t axis = 0; axis + 1 < D; ++axis) {
            const auto [low, high] = extent_along(hull, s_.grid.axes.across[axis]);
            const double first = s_.grid.first[static_cast<Eigen::Index>(axis)];
            const double last = first + s_.grid.spacing * static_cast<double>(s_.grid.counts[axis]);
            if (high + hull.radius + reach_ < first || low - hull.radius - reach_ > last) return false;
        }
        return true;
    }

    void add(Feature<D> feature) {
        feature.of_many = of_many_;
        found_.push_back(feature);
    }

    void add_corner(const HullView<D>& hull, const Vec<D>& corner) {
        for (Eigen::Index axis = 0; axis + 1 < D; ++axis) {
            const Place<D> aside = Place<D>::Unit(axis);
            add({place_of<D>(s_.grid, corner), aside, hull.radius});
            if (hull.radius == 0.0) continue;
            add({place_of<D>(s_.grid, corner) + hull.radius * aside, aside, -1.0});
            add({place_of<D>(s_.grid, corner) - hull.radius * aside, aside, -1.0});
        }
    }

    void add_edges(const HullView<3>& hull) requires(D == 3) {
        Place<3> middle = Place<3>::Zero();
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
            const Place<3> aside = Place<3>(-way.y(), way.x()) / length;
            const double inside = aside.dot(middle - begin);
            const bool silhouette = std::abs(inside) > tolerance::accuracy * (length + std::abs(inside));
            // As far past its ends as the body feels it; one at least, off the middle, and then twice as far
            // apart as columns are.
            const Place<3> beyond = (of_many_ ? 0.0 : s_.half_width / length) * way;
            const Place<3> along = way + 2.0 * beyond;
            const auto parts = static_cast<int>(std::ceil(along.norm() / (2.0 * s_.grid.spacing)));
            add({begin - beyond, inside > 0.0 ? Place<3>(-aside) : aside, hull.radius, along, parts,
                 silhouette});
        }
    }

    const Planned<D>& s_;
    const Level<D>& level_;
    const Feelers<D>& feelers_;
    double reach_;
    HeightSpan heights_{-infinity, infinity};
    bool of_many_ = false;  // the piece is one of several of its solid
    std::vector<Feature<D>> found_;
};

}  // namespace

template <int D>
std::vector<Row<D>> feature_places(const Planned<D>& s, std::size_t facing, const ColumnJudge<D>& judge,
                                   std::size_t most, std::size_t& left_out) {
    const double rim = 0.5 * s.narrowest_width;
    const double hair = 1e-3 * rim;
    std::vector<Feature<D>> features = Features<D>(s, facing, judge.feelers()).all();
    if (most == 0) {
        left_out += features.size();
        return {};
    }
    Place<D> low;
    Place<D> high;
    for (Eigen::Index axis = 0; axis + 1 < D; ++axis) {
        low[axis] = s.grid.first[axis];
        high[axis] = low[axis] +
                     s.grid.spacing * static_cast<double>(s.grid.counts[static_cast<std::size_t>(axis)] - 1);
    }
    std::vector<Row<D>> rows;
    const auto vector_of = [&](const Place<D>& aside) {
        Vec<D> way = Vec<D>::Zero();
        for (std::size_t axis = 0; axis + 1 < D; ++axis)
            way += aside[static_cast<Eigen::Index>(axis)] * s.grid.axes.across[axis];
        return way;
    };
    const auto rims_of = [&](const Place<D>& aside, bool outside) {
        return rims_along<D>(judge.feelers(), vector_of(aside), s.rig.intent.touch, rim, outside);
    };
    const auto tilts_of = [&](const Place<D>& aside) {
        return tilts_along<D>(judge.feelers(), vector_of(aside));
    };
    const std::size_t rims = rims_of(Place<D>::Unit(0), D == 3).size() + tilts_of(Place<D>::Unit(0)).size();
    const std::size_t allowed = std::max<std::size_t>(1, most / ((D == 2 ? 2 : 1) * rims));
    // Every so many of the solids of many pieces are left out first.
    const auto steps = [&](bool of_many, std::size_t room) {
        std::size_t all = 0;
        for (const Feature<D>& feature : features)
            all += feature.of_many == of_many ? static_cast<std::size_t>(feature.parts) : 0;
        return std::pair(all, std::max<std::size_t>(1, (all + room - 1) / room));
    };
    const auto [of_single, single_step] = steps(false, allowed);
    const std::size_t left = allowed - std::min(of_single / single_step, allowed);
    const std::size_t many_step = steps(true, std::max<std::size_t>(left, allowed / 8 + 1)).second;
    std::array<std::size_t, 2> seen = {0, 0};
    for (const Feature<D>& feature : features) {
        if (seen[feature.of_many ? 1 : 0]++ % (feature.of_many ? many_step : single_step) != 0) {
            ++left_out;
            continue;
        }
        const auto stand = [&](double aside, bool inside) {
            for (const double beside : {-hair, hair}) {
                if (!inside && beside < 0.0) continue;
                Row<D> row;
                for (int part = 0; part < feature.parts; ++part) {
                    const double on = feature.parts == 1 ? 0.41 : (part + 0.5) / feature.parts;
                    const Place<D> place = feature.at + on * feature.along + (aside + beside) * feature.aside;
                    if ((place.array() > low.array()).all() && (place.array() < high.array()).all())
                        row.push_back(place);
                }
                if (!row.empty()) rows.push_back(std::move(row));
            }
        };
        // Something as wide as a body goes on being felt towards the middle of the solid: the outside of the
        // rim is enough. A thin one may be felt on the inside alone.
        for (const Rim& at : rims_of(feature.aside, feature.outside))
            stand(-at.at, !feature.outside || at.of_thin);
        if (feature.radius < 0.0) continue;
        for (const Tilt& tilt : tilts_of(feature.aside))
            stand(tilt.beside + feature.radius * tilt.sine, !feature.outside);
    }
    std::sort(rows.begin(), rows.end(), [](const Row<D>& a, const Row<D>& b) {
        return a.front() == b.front() ? before<D>(a.back(), b.back()) : before<D>(a.front(), b.front());
    });
    const auto same = [&](const Row<D>& a, const Row<D>& b) {
        return a.size() == b.size() && (b.front() - a.front()).norm() < 0.1 * hair &&
               (b.back() - a.back()).norm() < 0.1 * hair;
    };
    rows.erase(std::unique(rows.begin(), rows.end(), same), rows.end());
    return rows;
}

template std::vector<Row<2>> feature_places<2>(const Planned<2>&, std::size_t, const ColumnJudge<2>&,
                                               std::size_t, std::size_t&);
template std::vector<Row<3>> feature_places<3>(const Planned<3>&, std::size_t, const ColumnJudge<3>&,
                                               std::size_t, std::size_t&);

}  // namespace hollow_probe
