// What the ground under a body makes of its motion.
#pragma once

#include <optional>

#include "hollow_probe/motion/drill.hpp"

namespace hollow_probe {

/// Motion as it is in one tick.
struct Going {
    double top_speed = 0.0;
    double acceleration = 0.0;  // 0: at once
    double drag = 0.0;
    double friction = 0.0;
    bool coasts = false;       // without drive the speed across up is kept
    bool is_physical = false;  // friction was asked for: it says what stands and what slides
};

/// `layer` is that of the ground, if the body is on any.
Going going_of(const Motion& motion, bool has_ground, const std::string* layer);

}  // namespace hollow_probe
