#include "motion/mover.hpp"

#include <algorithm>
#include <array>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

constexpr double into =
    -tolerance::angle;  // speeds along a normal, as parts of the speed, that lead into a plane

template <int D>
void rub(Vec<D>& velocity, double lost, double friction) {
    const double speed = velocity.norm();
    if (friction > 0.0 && speed > 0.0) velocity *= std::max(0.0, 1.0 - friction * lost / speed);
}

}  // namespace

template <int D>
Vec<D> along_planes(const Vec<D>& velocity, std::span<const Vec<D>> normals) {
    const double least = into * velocity.norm();
    const auto leads_into_none = [&](const Vec<D>& v) {
        return std::all_of(normals.begin(), normals.end(),
                           [&](const Vec<D>& n) { return v.dot(n) >= least; });
    };
    if (leads_into_none(velocity)) return velocity;
    Vec<D> best = Vec<D>::zero();
    const auto offer = [&](const Vec<D>& v) {
        if (v.squared_norm() > best.squared_norm() && leads_into_none(v)) best = v;
    };
    for (const Vec<D>& n : normals) {
        if (velocity.dot(n) < 0.0) offer(velocity - velocity.dot(n) * n);
    }
    if constexpr (D == 3) {
        if (!best.is_zero(0.0)) return best;
        for (std::size_t i = 0; i < normals.size(); ++i) {
            for (std::size_t k = 0; k < i; ++k) {
                const Vec<3> crease = normals[i].cross(normals[k]);
                const double length = crease.norm();
                if (length < 1e-9) continue;
                offer(crease * (crease.dot(velocity) / (length * length)));
            }
        }
    }
    return best;
}

template <int D>
std::optional<LevelHit<D>> first_hit(const Mover<D>& mover, const Vec<D>& at, const Vec<D>& direction,
                                     double reach) {
    std::optional<LevelHit<D>> first;
    const auto offer = [&](const std::optional<LevelHit<D>>& hit) {
        if (hit && (!first || hit->distance < first->distance)) first = hit;
    };
    for (const HullView<D>& part : mover.parts) {
        offer(
            first_hit<D>(*mover.level, LevelCast<D>{part, at, direction, reach, mover.meets,
                                                    mover.is_in_level ? IfInside::ignore : IfInside::against,
                                                    Seams::passed, OneWay::as_body}));
    }
    if (mover.also) offer(mover.also(at, direction, first ? first->distance : reach));
    return first;
}

namespace {

/// How far to go before a hit so that the skin is kept.
template <int D>
double way_before(const LevelHit<D>& hit, const Vec<D>& direction, double skin) {
    constexpr double most_grazing = 0.1;
    const double squareness = std::max(-hit.normal.dot(direction), most_grazing);
    return std::max(0.0, hit.distance - skin / squareness);
}

}  // namespace

template <int D>
Vec<D> sweep(const Mover<D>& mover, const Vec<D>& at, const Vec<D>& way, bool* met) {
    const double length = way.norm();
    if (met != nullptr) *met = false;
    if (length == 0.0) return at;
    const Vec<D> direction = way / length;
    const auto hit = first_hit(mover, at, direction, length + 10.0 * mover.skin);
    if (!hit) return at + way;
    const double go = way_before(*hit, direction, mover.skin);
    if (go >= length) return at + way;
    if (met != nullptr) *met = true;
    return at + go * direction;
}

template <int D>
Vec<D> parted(const Mover<D>& mover, const Vec<D>& at, const Vec<D>& velocity, double deepest) {
    constexpr int most_rounds = 4;
    const double near = 0.05 * mover.skin;
    Vec<D> now = at;
    for (int round = 0; round < most_rounds; ++round) {
        Vec<D> way = Vec<D>::zero();
        double least = near;
        for (const HullView<D>& part : mover.parts) {
            for_each_neighbour<D>(
                *mover.level, {part, now, mover.meets}, near, [&](const LevelNeighbour<D>& other) {
                    const bool one_way = mover.level->is_one_way(other.piece);
                    if (one_way && (other.gap < -deepest || velocity.dot(other.normal) > 0.0 ||
                                    !mover.level->faces(other.piece, -other.normal)))
                        return;
                    // The deepest first; of equals the first along the level's axes, whatever order they come
                    // in.
                    const Vec<D> out = (mover.skin - other.gap) * other.normal;
                    if (other.gap > least ||
                        (other.gap == least && !std::lexicographical_compare(out.data(), out.data() + D,
                                                                             way.data(), way.data() + D)))
                        return;
                    least = other.gap;
                    way = out;
                });
        }
        if (way.is_zero(0.0)) return now;
        now += way;
    }
    return is_inside<D>(mover, now, 0.0) ? at : now;
}

namespace {

/// The plane that a hit holds the mover to: where it holds its height, a slope beyond footing is a wall.
template <int D>
Vec<D> plane_of(const Mover<D>& mover, const Vec<D>& normal) {
    if (!mover.holds_height) return normal;
    const double rise = normal.dot(mover.up);
    const Vec<D> across = normal - rise * mover.up;
    const bool is_slope = rise > 0.0 && degrees(angle_between<D>(normal, mover.up)) > mover.footing_degrees;
    return is_slope && across.norm() > 1e-9 ? across.normalized() : normal;
}

/// Whether the mover comes to stand on what it hit: its fall ends there.
template <int D>
bool stands_on(const Mover<D>& mover, const Vec<D>& normal) {
    return mover.stands && degrees(angle_between<D>(normal, mover.up)) <= mover.footing_degrees;
}

}  // namespace

template <int D>
Vec<D> slide(const Mover<D>& mover, Vec<D> at, Vec<D>& velocity, double seconds) {
    constexpr std::size_t most_hits = 8;
    std::array<Vec<D>, most_hits> normals;
    std::size_t count = 0;
    Vec<D> moving = velocity;        // what is left of it for this move
    Vec<D> pushed = Vec<D>::zero();  // what it shares with loose things it ran into
    double left = seconds;
    while (left > 0.0 && count < most_hits) {
        const double speed = moving.norm();
        if (speed * left <= 1e-12 * (1.0 + at.norm())) break;
        const Vec<D> direction = moving / speed;
        const auto hit = first_hit(mover, at, direction, speed * left + 10.0 * mover.skin);
        const double go = hit ? way_before(*hit, direction, mover.skin) : infinity;
        if (go >= speed * left) {
            at += left * moving;
            break;
        }
        at += go * direction;
        left -= go / speed;
        if (stands_on(mover, hit->normal)) moving -= std::min(0.0, moving.dot(mover.up)) * mover.up;
        normals[count++] = plane_of(mover, hit->normal);
        const double before = moving.dot(hit->normal);
        const double after = mover.struck ? mover.struck(*hit, before) : 0.0;
        if (after > 0.0) {
            // Thrown back: it may move that way at once.
            moving += (after - before) * hit->normal;
        } else if (after < 0.0) {
            pushed += after * hit->normal;
        }
        const Vec<D> rest = along_planes<D>(moving, std::span<const Vec<D>>(normals.data(), count));
        const double lost = std::max(0.0, (moving - rest).norm() + after);
        moving = rest;
        rub<D>(moving, lost, mover.friction);
    }
    velocity = moving + pushed;
    return at;
}

template <int D>
bool is_inside(const Mover<D>& mover, const Vec<D>& at, double deeper_than) {
    for (const HullView<D>& part : mover.parts) {
        bool inside = false;
        // What overlaps the part's box along some axis by less than that is parted from it by less.
        const Bounds<D> box = bounds_of(part).moved(at);
        const double inwards = std::min(deeper_than, 0.49 * box.size().smallest());
        mover.level->tree().overlapping(
            box.inflated(-inwards), mover.meets, [&](std::uint32_t piece) -> bool {
                inside = !mover.level->is_one_way(piece) &&
                         separation<D>(part, at, mover.level->piece(piece)).gap < -deeper_than;
                return !inside;
            });
        if (inside) return true;
    }
    return false;
}

template <int D>
bool push_out(const Mover<D>& mover, Vec<D>& at, const Vec<D>& moved, Vec<D>* velocity, int rounds) {
    constexpr double noise = 1e-9;
    const Vec<D> came_from = at - moved;
    for (int round = 0; round < rounds; ++round) {
        std::vector<std::uint32_t> pieces;
        for (const HullView<D>& part : mover.parts) {
            const Bounds<D> around = bounds_of(part).moved(at);
            mover.level->tree().overlapping(around, mover.meets,
                                            [&](std::uint32_t piece) { pieces.push_back(piece); });
        }
        std::sort(pieces.begin(), pieces.end());
        pieces.erase(std::unique(pieces.begin(), pieces.end()), pieces.end());
        bool any = false;
        for (const std::uint32_t piece : pieces) {
            for (const HullView<D>& part : mover.parts) {
                if (!mover.level->faces(piece, moved)) continue;
                const auto now = neighbour<D>(*mover.level, {part, at, mover.meets}, piece);
                if (now.gap >= -noise) continue;
                if (mover.level->is_one_way(piece) &&
                    neighbour<D>(*mover.level, {part, came_from, mover.meets}, piece).gap < -mover.skin)
                    continue;
                any = true;
                at += -now.gap * now.normal;
                if (velocity == nullptr) continue;
                const double speed = velocity->dot(now.normal);
                if (speed >= 0.0) continue;
                *velocity -= speed * now.normal;
                rub<D>(*velocity, -speed, mover.friction);
            }
        }
        if (!any) return true;
    }
    return false;
}

template std::optional<LevelHit<2>> first_hit<2>(const Mover<2>&, const Vec<2>&, const Vec<2>&, double);
template std::optional<LevelHit<3>> first_hit<3>(const Mover<3>&, const Vec<3>&, const Vec<3>&, double);
template Vec<2> parted<2>(const Mover<2>&, const Vec<2>&, const Vec<2>&, double);
template Vec<3> parted<3>(const Mover<3>&, const Vec<3>&, const Vec<3>&, double);
template Vec<2> slide<2>(const Mover<2>&, Vec<2>, Vec<2>&, double);
template Vec<3> slide<3>(const Mover<3>&, Vec<3>, Vec<3>&, double);
template Vec<2> sweep<2>(const Mover<2>&, const Vec<2>&, const Vec<2>&, bool*);
template Vec<3> sweep<3>(const Mover<3>&, const Vec<3>&, const Vec<3>&, bool*);
template bool is_inside<2>(const Mover<2>&, const Vec<2>&, double);
template bool is_inside<3>(const Mover<3>&, const Vec<3>&, double);
template bool push_out<2>(const Mover<2>&, Vec<2>&, const Vec<2>&, Vec<2>*, int);
template bool push_out<3>(const Mover<3>&, Vec<3>&, const Vec<3>&, Vec<3>*, int);
template Vec<2> along_planes<2>(const Vec<2>&, std::span<const Vec<2>>);
template Vec<3> along_planes<3>(const Vec<3>&, std::span<const Vec<3>>);

}  // namespace hollow_probe
