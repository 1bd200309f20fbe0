#include "hollow_probe/geometry/vec.hpp"

#include <array>
#include <charconv>

namespace hollow_probe {

std::string number_text(double x) {
    std::array<char, 32> text{};
    return {text.data(), std::to_chars(text.data(), text.data() + text.size(), x).ptr};
}

Mat<2> turn_by(double angle) {
    Mat<2> turn;
    turn.column(0) = Vec<2>(std::cos(angle), std::sin(angle));
    turn.column(1) = Vec<2>(-std::sin(angle), std::cos(angle));
    return turn;
}

// O. Rodrigues, "Des lois géométriques qui régissent les déplacements d'un système solide", 1840.
Mat<3> turn_about(const Vec<3>& axis, double angle) {
    const Vec<3> sines = std::sin(angle) * axis;
    const Vec<3> rest = (1.0 - std::cos(angle)) * axis;
    Mat<3> turn;
    for (int row = 0; row < 3; ++row)
        for (int column = 0; column < 3; ++column) turn(row, column) = rest[row] * axis[column];
    for (int i = 0; i < 3; ++i) {
        const int next = (i + 1) % 3;
        const int last = (i + 2) % 3;
        turn(i, i) += std::cos(angle);
        turn(next, last) -= sines[i];
        turn(last, next) += sines[i];
    }
    return turn;
}

}  // namespace hollow_probe
