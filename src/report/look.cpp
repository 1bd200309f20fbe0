#include "report/look.hpp"

#include <array>
#include <cmath>

namespace hollow_probe {

LayerLook look_of(std::uint32_t layer) {
    constexpr std::array<LayerLook, 6> looks = {{{{0.855, 0.830, 0.790}, -45.0},
                                                 {{0.760, 0.725, 0.670}, 45.0},
                                                 {{0.905, 0.885, 0.850}, 0.0},
                                                 {{0.690, 0.650, 0.590}, 90.0},
                                                 {{0.810, 0.765, 0.700}, -20.0},
                                                 {{0.725, 0.700, 0.665}, 20.0}}};
    return looks[layer % looks.size()];
}

Color darker(Color c, double part) {
    return {c.red * part, c.green * part, c.blue * part, c.alpha};
}

Color paler(Color c, double part) {
    return {1.0 - part * (1.0 - c.red), 1.0 - part * (1.0 - c.green), 1.0 - part * (1.0 - c.blue), c.alpha};
}

void draw_mark(Canvas& canvas, Verdict verdict, const Vec<2>& at, double size) {
    switch (verdict) {
        case Verdict::true_contact:
            canvas.disc(at, 0.62 * size, bluish_green);
            break;
        case Verdict::missed_contact:
            canvas.ring(at, size, {1, 1, 1}, 0.75 * size);
            canvas.ring(at, size, orange, 0.5 * size);
            break;
        case Verdict::false_contact:
            canvas.cross(at, 0.85 * size, {1, 1, 1}, 0.75 * size);
            canvas.cross(at, 0.85 * size, reddish_purple, 0.45 * size);
            break;
        case Verdict::true_clear:
            canvas.disc(at, 0.35 * size, clear_grey);
            break;
        case Verdict::undecided:
            canvas.square(at, 0.8 * size, ink, 1.0);
            break;
        case Verdict::forgiven:
            canvas.disc(at, 0.45 * size, bluish_green);
            canvas.square(at, 0.8 * size, bluish_green, 1.0);
            break;
    }
}

const char* words_for(Verdict verdict) {
    switch (verdict) {
        case Verdict::true_contact:
            return "true contact";
        case Verdict::missed_contact:
            return "missed contact";
        case Verdict::false_contact:
            return "false contact";
        case Verdict::true_clear:
            return "true clear";
        case Verdict::undecided:
            return "undecided";
        case Verdict::forgiven:
            return "forgiven";
    }
    return "";
}

double round_step(double x) {
    const double power = std::pow(10.0, std::floor(std::log10(x)));
    for (const double factor : {1.0, 2.0, 5.0}) {
        if (factor * power >= x) return factor * power;
    }
    return 10.0 * power;
}

}  // namespace hollow_probe
