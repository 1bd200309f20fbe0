// Where a body that goes ahead comes down on what is steep.
#pragma once

#include "truth/ground_ahead.hpp"
#include "truth/stretch_over.hpp"

namespace hollow_probe {

template <int D>
class SteepStretches {
  public:
    using Below = typename GroundAhead<D>::Below;

    SteepStretches(const Ahead<D>& ahead, const Standing& standing, const GroundAhead<D>& ground)
        : ahead_(ahead), standing_(standing), ground_(ground) {}

    /// Ways just within the stretches at which a body comes down on a piece's steep sides, and on both sides
    /// of where it comes down there as high as the present footing goes on: what is hidden is hidden between
    /// such ways.
    const std::vector<double>& of(const Below& below, double farthest) const {
        if (!below.has_steep_places) {
            below.has_steep_places = true;
            const HullView<D> hull = ahead_.level.piece(below.piece);
            if (hull.radius > 0.0 || !add_flat_sides(hull, below.steep_places))
                add_round_sides(below, farthest, below.steep_places);
        }
        return below.steep_places;
    }

  private:
    /// Of a piece with flat sides: a body rests on one with the points of its core that lie lowest against
    /// it, from where these come over the side to where they leave it. False for needles and points, which
    /// have none.
    bool add_flat_sides(const HullView<D>& hull, std::vector<double>& places) const {
        return for_each_side<D>(
            hull, [&](std::size_t side, const Vec<D>& normal) { add_flat_side(hull, side, normal, places); });
    }

    void add_flat_side(const HullView<D>& hull, std::size_t side, const Vec<D>& n,
                       std::vector<double>& places) const {
        const Vec<D>& up = ahead_.level.up();
        const double upwards = n.dot(up);
        if (upwards <= tolerance::approaches || upwards >= ground_.flat()) return;
        for_each_foot_over<D>(ahead_, hull, side, n, [&](const Vec<D>& foot, const auto& stretch) {
            const auto [begin, end] = stretch;
            const double hair = GroundAhead<D>::hairs.back() * ground_.resolution();
            for (const double way : {begin + hair, end - hair, 0.5 * (begin + end)}) places.push_back(way);
            // Its height above where it is put: as high as n says, less so much for each unit of way.
            const double height = n.dot(hull.points[first_corner<D>(hull, side)] - foot) / upwards;
            const double steepness = n.dot(ahead_.heading) / upwards + standing_.rise;
            const double level_at = (height - standing_.height) / steepness;
            if (!(level_at > begin && level_at < end)) return;
            places.push_back(level_at - hair);
            places.push_back(level_at + hair);
        });
    }

    /// Of any other piece, by halving: going over it a body meets what rises steeply, then footing, then what
    /// falls off steeply.
    void add_round_sides(const Below& below, double farthest, std::vector<double>& places) const {
        constexpr int rounds = 24;
        const double begin = std::max(below.from - ground_.front(), 0.0);
        const double end = std::min(below.to - ground_.back(), farthest);
        if (!(begin < end)) return;
        // −1: rises steeply; 1: falls off steeply.
        const auto side_at = [&](double way) {
            const auto& landing = ground_.landing_at(below, way);
            if (!landing) return 2.0 * way < begin + end ? -1 : 1;
            if (landing->footing.on) return 0;
            return landing->contact.normal.dot(ahead_.heading) < 0.0 ? -1 : 1;
        };
        const auto above_standing = [&](double way) {
            const auto& landing = ground_.landing_at(below, way);
            return landing && landing->height > standing_.height + way * standing_.rise;
        };
        const auto halve = [&](double low, double high, auto is_beyond) {
            for (int round = 0; round < rounds; ++round) {
                const double middle = 0.5 * (low + high);
                (is_beyond(middle) ? high : low) = middle;
            }
            places.push_back(low);
            places.push_back(high);
            return high;
        };
        const double flat = halve(begin, end, [&](double way) { return side_at(way) >= 0; });
        const double steep = halve(begin, end, [&](double way) { return side_at(way) >= 1; });
        halve(begin, flat, above_standing);
        halve(steep, end, [&](double way) { return !above_standing(way); });
    }

    const Ahead<D>& ahead_;
    const Standing& standing_;
    const GroundAhead<D>& ground_;
};

}  // namespace hollow_probe
