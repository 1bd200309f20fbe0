// Floors and cues that tests of motion share.
#pragma once

#include "hollow_probe/motion/drill.hpp"
#include "scenes.hpp"

namespace scenes {

/// Solid from `low` to `high` along the first axis, down from `top` by its thickness.
template <int D>
RoundedHull<D> slab(double low, double high, double top, double thickness = 1.0) {
    Vec<D> size = 40.0 * Vec<D>::ones();
    size[0] = high - low;
    size[1] = thickness;
    return RoundedHull<D>::box(at<D>(0.5 * (low + high), top - 0.5 * thickness), size);
}

template <int D>
Cue<D> drive(double seconds, const Vec<D>& direction) {
    Cue<D> cue;
    cue.at = seconds;
    cue.drive = direction;
    return cue;
}

template <int D>
Cue<D> press(double seconds, const std::string& key = "jump") {
    Cue<D> cue;
    cue.at = seconds;
    cue.press = key;
    return cue;
}

}  // namespace scenes
