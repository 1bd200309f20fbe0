// What a signal can tell besides yes or no, and truth can be asked for.
#pragma once

#include <array>
#include <cmath>
#include <cstddef>
#include <string_view>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

enum class Value {
    none,
    ground_height,  // of the surface beneath the anchor, above it
    slope,          // of the ground, in degrees
    wall_normal,    // out of the wall
    step_rise,      // above the anchor
    edge_distance,  // from the anchor along the heading, to where the ground ends or the ledge begins
};
inline constexpr std::array all_values = {Value::none,        Value::ground_height, Value::slope,
                                          Value::wall_normal, Value::step_rise,     Value::edge_distance};
inline constexpr std::array<std::string_view, all_values.size()> value_words = {
    "none", "ground_height", "slope", "wall_normal", "step_rise", "edge_distance"};

const char* name_of(Value value);  // "none", …

/// A value as a probe's reading, or the geometry, gives it.
template <int D>
struct GivenValue {
    double number = 0.0;                // a length, or degrees
    Vec<D> direction = Vec<D>::zero();  // of a normal
};

/// How far apart two values are: a length, or degrees.
template <int D>
double value_error(Value value, const GivenValue<D>& a, const GivenValue<D>& b) {
    if (value == Value::wall_normal) return degrees(angle_between<D>(a.direction, b.direction));
    return std::abs(a.number - b.number);
}

}  // namespace hollow_probe
