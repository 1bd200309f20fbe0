#include "hollow_probe/geometry/vec.hpp"

#include <array>
#include <charconv>

namespace hollow_probe {

std::string number_text(double x) {
    std::array<char, 32> text{};
    return {text.data(), std::to_chars(text.data(), text.data() + text.size(), x).ptr};
}

}  // namespace hollow_probe
