// The same in another unit of length: with a power of two nothing is rounded otherwise.
#pragma once

#include "hollow_probe/motion/drill.hpp"
#include "hollow_probe/rig/fields.hpp"
#include "scenes.hpp"

namespace scenes {

/// A convex shape, so many times as large.
template <int D>
RoundedHull<D> scaled_shape(const HullView<D>& view, double by) {
    std::vector<Vec<D>> points;
    for (const Vec<D>& point : view.points) points.push_back(by * point);
    const double radius = by * view.radius;
    if (points.size() == 1) return RoundedHull<D>::ball(points[0], radius);
    if (points.size() == 2) return RoundedHull<D>::capsule(points[0], points[1], radius);
    return RoundedHull<D>::hull(points, radius);
}

/// A level of convex solids, with its areas.
template <int D>
Level<D> scaled(const Level<D>& level, double by) {
    LevelBuilder<D> builder(level.layers(), level.up());
    for (const Solid<D>& solid : level.solids()) {
        builder.add(solid.name, level.layers()[solid.layer],
                    scaled_shape<D>(level.piece(solid.first_piece), by));
        if (solid.one_way) builder.one_way(*solid.one_way);
        if (solid.path) {
            Path<D> path = *solid.path;
            for (Vec<D>& stop : path.stops) stop *= by;
            path.pace *= by;
            builder.path(path);
        }
    }
    for (const Area<D>& area : level.areas())
        builder.area(area.name, {by * area.box.low, by * area.box.high});
    return builder.build();
}

/// Every length and speed among the fields, those of shapes aside.
template <class Owner>
void scale_fields(std::span<const Field<Owner>> fields, std::size_t kind, Owner& owner, double by) {
    for (const Field<Owner>& field : fields) {
        if (field.unit != Unit::length && field.unit != Unit::speed) continue;
        if (field.set == nullptr || !field.is_for(kind) || field.key.starts_with("shape.")) continue;
        FieldValue value = field.get(owner);
        if (auto* const number = std::get_if<double>(&value)) *number *= by;
        if (auto* const list = std::get_if<std::vector<double>>(&value)) {
            for (double& number : *list) number *= by;
        }
        if (auto* const lists = std::get_if<std::vector<std::vector<double>>>(&value)) {
            for (auto& numbers : *lists) {
                for (double& number : numbers) number *= by;
            }
        }
        if (value.index() != 0) field.set(owner, value);
    }
}

template <int D>
Rig<D> scaled(Rig<D> rig, double by) {
    for (Probe<D>& probe : rig.probes) {
        scale_fields<Probe<D>>(probe_fields<D>(), static_cast<std::size_t>(probe.kind()), probe, by);
        if (auto* const shape = shape_of(probe)) *shape = scaled_shape<D>(shape->view(), by);
    }
    for (Reflex& reflex : rig.reflexes)
        scale_fields<Reflex>(reflex_fields(), static_cast<std::size_t>(reflex.kind), reflex, by);
    scale_fields<Intent>(intent_fields(), 0, rig.intent, by);
    for (Stance<D>& stance : rig.body.stances) stance.shape = scaled_shape<D>(stance.shape.view(), by);
    return rig;
}

template <int D>
Drill<D> scaled(Drill<D> drill, double by) {
    drill.at *= by;
    Motion& motion = drill.motion;
    motion.gravity *= by;
    motion.jump_speed *= by;
    motion.force *= by;
    motion.grain *= by;
    for (ByFooting* const each : {&motion.top_speed, &motion.acceleration}) {
        each->grounded *= by;
        each->airborne *= by;
    }
    return drill;
}

}  // namespace scenes
