#include "hollow_probe/level/value.hpp"

namespace hollow_probe {

const char* name_of(Value value) {
    static constexpr std::array names = {"none",        "ground_height", "slope",
                                         "wall_normal", "step_rise",     "edge_distance"};
    return names[static_cast<std::size_t>(value)];
}

}  // namespace hollow_probe
