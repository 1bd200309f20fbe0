// How things look, in every figure.
#pragma once

#include "hollow_probe/verify/survey.hpp"
#include "report/canvas.hpp"

namespace hollow_probe {

inline constexpr double page_width = 1280.0;
inline constexpr double page_height = 800.0;

inline constexpr Color ink{0.13, 0.13, 0.13};
inline constexpr Color faint{0.45, 0.44, 0.42};
inline constexpr Color frame_color{0.70, 0.68, 0.65};
inline constexpr Color body_color{0.10, 0.14, 0.22};
// M. Okabe, K. Ito, "Color universal design", 2008.
inline constexpr Color probe_color{0.0, 0.447, 0.698};
inline constexpr Color bluish_green{0.0, 0.620, 0.451};
inline constexpr Color orange{0.902, 0.624, 0.0};
inline constexpr Color reddish_purple{0.800, 0.475, 0.655};
inline constexpr Color clear_grey{0.62, 0.61, 0.60};

struct LayerLook {
    Color fill;
    double hatch_angle = 0.0;
};

LayerLook look_of(std::uint32_t layer);

Color darker(Color c, double part);
Color paler(Color c, double part);

/// The mark of a verdict: told by form first, by colour second. Hollow rings are what the product is named
/// for.
void draw_mark(Canvas& canvas, Verdict verdict, const Vec<2>& at, double size);

const char* words_for(Verdict verdict);

/// 1, 2 or 5 times a power of ten, no less than `x`.
double round_step(double x);

}  // namespace hollow_probe
