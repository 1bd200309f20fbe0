// A hash of 128 bits of whatever it is given, in order.
#pragma once

#include <algorithm>
#include <cstdint>
#include <cstring>
#include <string>
#include <string_view>

namespace hollow_probe {

/// Two rounds of the finalizer of A. Appleby's MurmurHash3 (2011), seeded apart.
class MixedHash {
  public:
    void add(std::uint64_t bits) {
        first_ = mixed(first_ ^ bits) + 0x9e3779b97f4a7c15U;
        second_ = mixed(second_ + bits) ^ 0xd1b54a32d192ed03U;
    }
    void add(double number) {
        std::uint64_t bits = 0;
        std::memcpy(&bits, &number, sizeof(bits));
        add(bits);
    }
    void add(std::string_view text) {
        add(static_cast<std::uint64_t>(text.size()));
        for (std::size_t i = 0; i < text.size(); i += sizeof(std::uint64_t)) {
            std::uint64_t bits = 0;
            std::memcpy(&bits, text.data() + i, std::min(sizeof(bits), text.size() - i));
            add(bits);
        }
    }

    [[nodiscard]] std::uint64_t first() const { return first_; }
    [[nodiscard]] std::uint64_t second() const { return second_; }
    /// Thirty-two hexadecimal digits.
    [[nodiscard]] std::string text() const {
        constexpr char digits[] = "0123456789abcdef";
        std::string result;
        for (std::uint64_t part : {first_, second_}) {
            for (int i = 0; i < 16; ++i, part >>= 4U) result += digits[part & 15U];
        }
        return result;
    }

  private:
    static std::uint64_t mixed(std::uint64_t bits) {
        bits = (bits ^ bits >> 33U) * 0xff51afd7ed558ccdU;
        bits = (bits ^ bits >> 33U) * 0xc4ceb9fe1a85ec53U;
        return bits ^ bits >> 33U;
    }

    std::uint64_t first_ = 0x243f6a8885a308d3U;
    std::uint64_t second_ = 0x13198a2e03707344U;
};

}  // namespace hollow_probe
