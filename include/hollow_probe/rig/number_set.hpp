// Sets of signals, and of readings: one cannot be taken for the other.
#pragma once

#include <bit>
#include <cstddef>
#include <cstdint>

namespace hollow_probe {

/// Numbers from 0 to 63 of one kind of thing.
template <class Of>
class NumberSet {
  public:
    constexpr NumberSet() = default;

    static constexpr NumberSet of(std::size_t number) noexcept {
        return NumberSet(std::uint64_t{1} << number);
    }
    /// Bit i stands for number i.
    static constexpr NumberSet of_bits(std::uint64_t bits) noexcept { return NumberSet(bits); }
    /// Those below `count`, which is at most 64.
    static constexpr NumberSet below(std::size_t count) noexcept {
        return NumberSet(count >= 64 ? ~std::uint64_t{0} : (std::uint64_t{1} << count) - 1U);
    }

    [[nodiscard]] constexpr bool has(std::size_t number) const noexcept {
        return (bits_ >> number & 1U) != 0;
    }
    constexpr void put(std::size_t number, bool in = true) noexcept {
        bits_ |= static_cast<std::uint64_t>(in) << number;
    }

    [[nodiscard]] constexpr bool any() const noexcept { return bits_ != 0; }
    [[nodiscard]] constexpr bool none() const noexcept { return bits_ == 0; }
    [[nodiscard]] constexpr int count() const noexcept { return std::popcount(bits_); }
    /// The least number; there must be one.
    [[nodiscard]] constexpr std::size_t first() const noexcept {
        return static_cast<std::size_t>(std::countr_zero(bits_));
    }
    /// Bit i stands for number i.
    [[nodiscard]] constexpr std::uint64_t bits() const noexcept { return bits_; }

    constexpr bool operator==(const NumberSet&) const noexcept = default;
    friend constexpr NumberSet operator|(NumberSet a, NumberSet b) noexcept {
        return NumberSet(a.bits_ | b.bits_);
    }
    friend constexpr NumberSet operator&(NumberSet a, NumberSet b) noexcept {
        return NumberSet(a.bits_ & b.bits_);
    }
    /// In one of them.
    friend constexpr NumberSet operator^(NumberSet a, NumberSet b) noexcept {
        return NumberSet(a.bits_ ^ b.bits_);
    }
    /// All others.
    constexpr NumberSet operator~() const noexcept { return NumberSet(~bits_); }
    constexpr NumberSet& operator|=(NumberSet other) noexcept { return *this = *this | other; }
    constexpr NumberSet& operator&=(NumberSet other) noexcept { return *this = *this & other; }

  private:
    explicit constexpr NumberSet(std::uint64_t bits) noexcept : bits_(bits) {}

    std::uint64_t bits_ = 0;
};

/// The rig's signals by number; nested groups follow them.
using SignalSet = NumberSet<struct OfSignals>;
/// The rig's probes by number; conditions on them follow.
using ReadingSet = NumberSet<struct OfReadings>;

}  // namespace hollow_probe
