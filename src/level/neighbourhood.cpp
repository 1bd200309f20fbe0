#include "hollow_probe/level/neighbourhood.hpp"

#include <algorithm>
#include <bit>
#include <cstring>

#include "level/cast_query.hpp"

namespace hollow_probe {

template <int D>
bool Neighbourhood<D>::keep(const Level<D>& level, const Vec<D>& at, const Bounds<D>& box,
                            const Casts& casts) noexcept {
    if (casts.size() > most_casts) return false;
    std::array<PlacedSweep<D>, most_casts> placed;
    LayerSet layers = 0;
    for (std::size_t i = 0; i < casts.size(); ++i) {
        placed[i] = {&casts[i].sweep, at + casts[i].middle};
        layers |= casts[i].layers;
    }
    const Bounds<D> asked = box.moved(at);
    const bool is_at_hand = level_ == &level && shifts_ == level.shifts() && (layers & ~layers_) == 0 &&
                            all_at_most(covered_.low, asked.low) && all_at_most(asked.high, covered_.high);
    if (!is_at_hand) {
        level_ = &level;
        shifts_ = level.shifts();
        const double margin = margin_ * box.size().largest();
        // Where there was no room for a margin, it is not tried again before much room is left.
        const bool may_have_room = !crowded_ || pieces_.count <= Gathered<D>::most_blocks / 2;
        const bool has_margin = margin > 0.0 && may_have_room && gather(asked.inflated(margin), layers);
        crowded_ = margin > 0.0 && !has_margin;
        if (!has_margin && !gather(asked, layers)) return false;
    }
    level.tree().candidates(pieces_, {placed.data(), casts.size()}, lanes_);
    return true;
}

template <int D>
bool Neighbourhood<D>::gather(const Bounds<D>& box, LayerSet layers) noexcept {
    ++times_gathered_;
    covered_ = {};
    if (!level_->tree().gather(box, layers, pieces_)) return false;
    covered_ = box;
    layers_ = layers;
    std::fill_n(has_normal_.begin(), 8 * pieces_.count, false);
    return true;
}

template <int D>
std::span<const std::uint8_t> Neighbourhood<D>::lanes_of(std::size_t number) const noexcept {
    return {lanes_.data() + pieces_.count * number, pieces_.count};
}

/// normal_against() a direction, of the facet with these corners, which is lane `place` % 8 of block `place`
/// / 8.
template <int D>
Vec<D> Neighbourhood<D>::normal_against(std::size_t place, const Vec<D>* corners,
                                        const Vec<D>& direction) noexcept {
    if (!has_normal_[place]) {
        normals_[place] = hollow_probe::normal_against<D>(corners, Vec<D>::zero());
        has_normal_[place] = true;
    }
    const Vec<D>& n = normals_[place];
    return n.dot(direction) > 0.0 ? -n : n;
}

namespace {

/// Calls visit(place, piece) for the pieces in `lanes` that are on `layers`, until it returns false; place is
/// the number of the block times 8, and of the lane in it.
template <int D, class Visit>
bool for_each_lane(const Gathered<D>& gathered, std::span<const std::uint8_t> lanes, LayerSet layers,
                   Visit visit) {
    static_assert(std::endian::native == std::endian::little, "a block's byte lies where its lanes' bits do");
    for (std::size_t first = 0; first < gathered.count; first += sizeof(std::uint64_t)) {
        std::uint64_t left = 0;
        std::memcpy(&left, lanes.data() + first, std::min(sizeof(left), gathered.count - first));
        for (; left != 0; left &= left - 1U) {
            const std::size_t place = 8 * first + static_cast<std::size_t>(std::countr_zero(left));
            const TreeBlock<D>& block = gathered.blocks[place / 8];
            if ((layers >> block.layer[place % 8] & 1U) != 0 && !visit(place, block.item[place % 8]))
                return false;
        }
    }
    return true;
}

}  // namespace

/// A ray at facets: the commonest probe, without what only other shapes need. Unsure where the general way
/// has to decide.
template <int D>
Meets Neighbourhood<D>::first_ray_hit(std::size_t number, const PreparedCast<D>& cast, const Vec<D>& origin,
                                      const AngleRange& angles, LevelHit<D>& hit) noexcept {
    const Level<D>& level = *level_;
    const HullStore<D>& pieces = level.pieces();
    double nearest = cast.reach;
    std::uint32_t best = 0;
    std::size_t best_place = 0;
    bool any = false;
    const auto consider = [&](std::size_t place, std::uint32_t piece) {
        if (!pieces.is_facet(piece)) return false;
        const Vec<D>* corners = pieces.corners(piece);
        double t = 0.0;
        const Meets meets = ray_meets_facet<D>(cast.frame, origin, nearest, corners, t);
        if (meets != Meets::yes) return meets == Meets::no;
        if (any && (t > nearest || (t == nearest && piece > best))) return true;
        if (!heeds<D>(level, piece, cast.one_way, cast.direction)) return true;
        if (cast.faces == Faces::front && is_back<D>(corners, -cast.direction)) return true;
        if (!angles.everything() &&
            !within<D>(angles, normal_against(place, corners, cast.direction), cast.direction, level.up())) {
            return true;
        }
        nearest = t;
        best = piece;
        best_place = place;
        any = true;
        return true;
    };
    if (!for_each_lane(pieces_, lanes_of(number), cast.layers, consider)) return Meets::unsure;
    if (!any) return Meets::no;
    hit.distance = nearest;
    hit.point = origin + nearest * cast.direction;
    hit.normal = normal_against(best_place, pieces.corners(best), cast.direction);
    hit.piece = best;
    hit.solid = level.solid_of(best);
    hit.layer = level.layer_of(best);
    hit.began_inside = false;
    hit.depth = 0.0;
    return Meets::yes;
}

namespace {

template <int D>
bool first_cast_hit(const Level<D>& level, const Gathered<D>& gathered, std::span<const std::uint8_t> lanes,
                    const PreparedCast<D>& cast, const Vec<D>& at, const AngleRange& angles,
                    LevelHit<D>& hit) {
    const CastQuery<D> query = query_of<D>(level, cast, at, angles);
    BestHit<D> best = first_of(query, [&](const CastQuery<D>& q, BestHit<D>& found) {
        double limit = cast.reach;
        for_each_lane(gathered, lanes, cast.layers, [&](std::size_t, std::uint32_t piece) {
            limit = q.consider(piece, limit, found);
            return true;
        });
    });
    if (best.any) query.finish(best, hit);
    return best.any;
}

}  // namespace

template <int D>
bool Neighbourhood<D>::first_hit(std::size_t number, const PreparedCast<D>& cast, const Vec<D>& at,
                                 const AngleRange& angles, LevelHit<D>& hit) noexcept {
    if (cast.is_ray) {
        const Meets meets = first_ray_hit(number, cast, at + cast.middle, angles, hit);
        if (meets != Meets::unsure) return meets == Meets::yes;
    }
    return first_cast_hit<D>(*level_, pieces_, lanes_of(number), cast, at, angles, hit);
}

template class Neighbourhood<2>;
template class Neighbourhood<3>;

}  // namespace hollow_probe
