// A body and its probes at a pose, as the modules of pages draw them.
#pragma once

#include "io/json.hpp"
#include "report/pose_reading.hpp"

namespace hollow_probe {

/// Body, probes with their lines, hits and words, and the box around all of it. Shapes are given where they
/// stand, relative to the anchor or to a line's start.
template <int D>
Json pose_data(const PoseReading<D>& reading);

}  // namespace hollow_probe
