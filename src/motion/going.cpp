#include "motion/going.hpp"

namespace hollow_probe {

Going going_of(const Motion& motion, bool has_ground, const std::string* layer) {
    Going going{motion.top_speed.at(has_ground),
                motion.acceleration.at(has_ground),
                motion.drag.at(has_ground),
                motion.friction,
                motion.coasts == Coasts::always || (motion.coasts == Coasts::airborne && !has_ground),
                motion.friction > 0.0 || motion.model == Model::loose};
    if (layer == nullptr) return going;
    for (const OnLayer& on : motion.on) {
        if (on.layer != *layer) continue;
        going.top_speed = on.top_speed.value_or(going.top_speed);
        going.acceleration = on.acceleration.value_or(going.acceleration);
        going.drag = on.drag.value_or(going.drag);
        going.friction = on.friction.value_or(going.friction);
        going.is_physical = going.is_physical || on.friction.has_value();
    }
    return going;
}

}  // namespace hollow_probe
