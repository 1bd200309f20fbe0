// Yes or no, how far from flipping, and whether that far is more than rounding; and how such answers combine.
#pragma once

#include <algorithm>
#include <cmath>

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/truth/contact.hpp"

namespace hollow_probe {

/// How far an answer is from flipping. Infinite: no change of that kind alone would flip it, as far as was
/// looked.
struct Margin {
    double distance = infinity;  // in the level's unit
    double degrees = infinity;
};

/// Example: footing within touch is `both(at_most(gap, touch, noise), angle_at_most(slope, 45.0, noise))`.
struct Decision {
    bool on = false;
    bool decided = true;  // false: the margin is below numerical noise
    Margin margin;
};

/// Whether margins are wanted: to say no surely is often much sooner done than to say by how much.
enum class Margins {
    told,
    left_out,  // `on` and `decided` are the same; of what an answer points out, and of margins, nothing is
               // sure
};

/// value <= limit, in lengths.
inline Decision at_most(double value, double limit, const Noise& noise) {
    const double spare = limit - value;
    return {spare >= 0.0, std::abs(spare) > noise.distance, {std::abs(spare), infinity}};
}

/// value <= limit, in degrees; equal to within 1e-9 rad is equal.
inline Decision angle_at_most(double value, double limit, const Noise& noise) {
    constexpr double slack_degrees = tolerance::angle * (180.0 / std::numbers::pi);
    const double spare = limit + slack_degrees - value;
    return {spare >= 0.0, std::abs(spare) > noise.degrees, {infinity, std::abs(spare)}};
}

inline Decision opposite(Decision a) {
    a.on = !a.on;
    return a;
}

/// On if both are. Off: what would have to change for both to be on.
inline Decision both(const Decision& a, const Decision& b) {
    const Margin least{std::min(a.margin.distance, b.margin.distance),
                       std::min(a.margin.degrees, b.margin.degrees)};
    if (a.on && b.on) return {true, a.decided && b.decided, least};
    if (a.on) return b;
    if (b.on) return a;
    return {false,
            a.decided || b.decided,
            {std::max(a.margin.distance, b.margin.distance), std::max(a.margin.degrees, b.margin.degrees)}};
}

/// On if one of them is.
inline Decision either(const Decision& a, const Decision& b) {
    return opposite(both(opposite(a), opposite(b)));
}

}  // namespace hollow_probe
