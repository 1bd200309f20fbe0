#include "motion/loose_solids.hpp"

#include <algorithm>

#include "hollow_probe/geometry/cast.hpp"

namespace hollow_probe {
namespace {

constexpr std::uint32_t the_body = ~std::uint32_t{0};

/// The speeds of two masses after they have met, when the first was `first` and the second `second`.
struct Exchange {
    double first;
    double second;
};

Exchange exchange(double first_mass, double first, double second_mass, double second, double bounce) {
    if (first >= second) return {first, second};  // along the normal from the second to the first: parting
    const double all = first_mass + second_mass;
    const double common = (first_mass * first + second_mass * second) / all;
    const double back = bounce * (second - first);
    return {common + back * second_mass / all, common - back * first_mass / all};
}

}  // namespace

template <int D>
LooseSolids<D>::LooseSolids(ShiftingLevel<D>& level, const Drill<D>& drill, double touch)
    : level_(level),
      meets_(level.level().mask_of(level.level().layers(), Role::reference)),
      skin_(0.1 * touch) {
    const Level<D>& still = level.level();
    for (const LooseSolid& loose : drill.loose) {
        const auto found = std::find_if(still.solids().begin(), still.solids().end(),
                                        [&](const Solid<D>& solid) { return solid.name == loose.solid; });
        if (found == still.solids().end())
            throw InvalidInput("loose: the level has no solid '" + loose.solid + "'");
        if (found->path)
            throw InvalidInput("loose: '" + loose.solid + "' moves on a path: it cannot be pushed");
        const auto number = static_cast<std::uint32_t>(found - still.solids().begin());
        if (find(number) != nullptr) throw InvalidInput("loose: '" + loose.solid + "' is given twice");
        things_.push_back({number, loose.mass, loose.friction});
        level.place(number, Vec<D>::zero());
    }
    level.refit();
    for (const Thing& thing : things_) {
        const Solid<D>& solid = still.solids()[thing.solid];
        for (std::uint32_t i = 0; i < solid.piece_count; ++i) {
            const LevelQuery<D> query{still.piece(solid.first_piece + i), Vec<D>::zero(), meets_};
            for_each_neighbour<D>(still, query, -1e-9, [&](const LevelNeighbour<D>& other) {
                if (other.solid == thing.solid) return;
                throw InvalidInput("loose: '" + solid.name + "' overlaps '" +
                                   still.solids()[other.solid].name + "' at the start: expected it free");
            });
        }
    }
}

template <int D>
typename LooseSolids<D>::Thing* LooseSolids<D>::find(std::uint32_t solid) {
    const auto found = std::find_if(things_.begin(), things_.end(),
                                    [&](const Thing& thing) { return thing.solid == solid; });
    return found == things_.end() ? nullptr : &*found;
}

template <int D>
Mover<D> LooseSolids<D>::mover_of(const Thing& thing, std::vector<HullView<D>>& parts) const {
    const Level<D>& level = level_.level();
    const Solid<D>& solid = level.solids()[thing.solid];
    for (std::uint32_t i = 0; i < solid.piece_count; ++i) parts.push_back(level.piece(solid.first_piece + i));
    Mover<D> mover;
    mover.level = &level;
    mover.parts = parts;
    mover.meets = meets_;
    mover.skin = skin_;
    mover.friction = thing.friction;
    mover.is_in_level = true;
    return mover;
}

template <int D>
bool LooseSolids<D>::is_barred(const Thing& thing, const Vec<D>& direction, int deepest) {
    std::vector<HullView<D>> parts;
    const Mover<D> mover = mover_of(thing, parts);
    const auto hit = first_hit<D>(mover, Vec<D>::zero(), direction, 2.0 * skin_);
    if (!hit || hit->normal.dot(direction) > -0.5) return false;
    const Thing* const next = find(hit->solid);
    return next == nullptr || deepest == 0 || is_barred(*next, direction, deepest - 1);
}

template <int D>
bool LooseSolids<D>::push_from(Thing& thing, std::uint32_t number, const Vec<D>& by, double seconds) {
    const Level<D>& level = level_.level();
    const Solid<D>& from = level.solids()[number];
    const Solid<D>& solid = level.solids()[thing.solid];
    Vec<D> way = Vec<D>::zero();
    for (std::uint32_t k = solid.first_piece; k < solid.first_piece + solid.piece_count; ++k) {
        for (std::uint32_t i = from.first_piece; i < from.first_piece + from.piece_count; ++i) {
            if (!level.on_layers(i, meets_) || !level.faces(i, -by)) continue;
            const auto now = neighbour<D>(level, {level.piece(k), Vec<D>::zero(), meets_}, i);
            const double out = skin_ - now.gap;
            if (now.gap < 0.5 * skin_ && out > way.norm()) way = out * now.normal;
        }
    }
    if (way.is_zero(0.0)) return false;
    const Vec<D> normal = way.normalized();
    level_.place(thing.solid, level_.offset(thing.solid) + way);
    level_.refit();
    const double speed = by.dot(normal) / seconds;
    thing.velocity += std::max(0.0, speed - thing.velocity.dot(normal)) * normal;
    return true;
}

template <int D>
void LooseSolids<D>::make_way(std::span<const Vec<D>> moves, double seconds) {
    constexpr int most_rounds = 8;
    std::vector<Vec<D>> pushes(moves.begin(), moves.end());
    for (int round = 0; round < most_rounds; ++round) {
        bool any = false;
        for (Thing& thing : things_) {
            for (std::uint32_t i = 0; i < pushes.size(); ++i) {
                if (i == thing.solid || pushes[i].is_zero(0.0)) continue;
                const Vec<D> before = level_.offset(thing.solid);
                if (!push_from(thing, i, pushes[i], seconds)) continue;
                pushes[thing.solid] += level_.offset(thing.solid) - before;
                any = true;
            }
        }
        if (!any) return;
    }
}

template <int D>
double LooseSolids<D>::strike(const LevelHit<D>& hit, double speed, double mass, double bounce) {
    Thing* const other = find(hit.solid);
    if (other == nullptr) return 0.0;
    if (is_barred(*other, -hit.normal, static_cast<int>(things_.size()))) return 0.0;
    const double its = other->velocity.dot(hit.normal);
    const Exchange after = exchange(mass, speed, other->mass, its, bounce);
    other->velocity += (after.second - its) * hit.normal;
    return after.first;
}

template <int D>
void LooseSolids<D>::move(double seconds, const PlacedBody<D>& body, Vec<D>& body_velocity,
                          const Motion& motion) {
    const Level<D>& level = level_.level();
    for (Thing& thing : things_) {
        std::vector<HullView<D>> parts;
        Mover<D> mover = mover_of(thing, parts);
        mover.also = [&](const Vec<D>& at, const Vec<D>& direction, double reach) {
            std::optional<LevelHit<D>> first;
            for (const HullView<D>& part : parts) {
                const auto hit = cast<D>(part, at - body.anchor, direction, reach, body.shape);
                if (!hit || hit->began_inside || (first && first->distance <= hit->distance)) continue;
                first.emplace();
                first->distance = hit->distance;
                first->normal = hit->normal;
                first->solid = the_body;
            }
            return first;
        };
        mover.struck = [&](const LevelHit<D>& hit, double speed) {
            if (hit.solid == the_body) {
                const double its = body_velocity.dot(hit.normal);
                const Exchange after = exchange(thing.mass, speed, motion.mass, its, motion.bounce);
                body_velocity += (after.second - its) * hit.normal;
                return after.first;
            }
            return strike(hit, speed, thing.mass, motion.bounce);
        };
        thing.velocity -= motion.gravity * seconds * level.up();
        const Vec<D> moved = slide<D>(mover, Vec<D>::zero(), thing.velocity, seconds);
        level_.place(thing.solid, level_.offset(thing.solid) + moved);
        level_.refit();
    }
}

template <int D>
typename LooseSolids<D>::State LooseSolids<D>::keep() const {
    State state;
    for (const Thing& thing : things_) state.emplace_back(level_.offset(thing.solid), thing.velocity);
    return state;
}

template <int D>
void LooseSolids<D>::go_back(const State& state) {
    for (std::size_t i = 0; i < things_.size(); ++i) {
        level_.place(things_[i].solid, state[i].first);
        things_[i].velocity = state[i].second;
    }
}

template class LooseSolids<2>;
template class LooseSolids<3>;

}  // namespace hollow_probe
