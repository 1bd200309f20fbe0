// Numbers as little-endian bytes in base64: how pages hold long lists.
#pragma once

#include <bit>
#include <cstdint>
#include <string>
#include <vector>

#include "hollow_probe/geometry/vec.hpp"
#include "io/base64.hpp"

namespace hollow_probe {

class Packed {
  public:
    void add(std::uint8_t byte) { bytes_ += static_cast<char>(byte); }
    void add(std::uint16_t word) {
        add(static_cast<std::uint8_t>(word & 0xFFU));
        add(static_cast<std::uint8_t>(word >> 8U));
    }
    void add(float x) {
        const auto word = std::bit_cast<std::uint32_t>(x);
        add(static_cast<std::uint16_t>(word & 0xFFFFU));
        add(static_cast<std::uint16_t>(word >> 16U));
    }
    void add(double x) { add(static_cast<float>(x)); }
    template <int D>
    void add(const Vec<D>& v) {
        for (int axis = 0; axis < D; ++axis) add(v[axis]);
    }
    [[nodiscard]] std::string text() const { return base64(bytes_); }

  private:
    std::string bytes_;
};

}  // namespace hollow_probe
