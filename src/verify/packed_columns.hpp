// Truths of columns in few bytes, and of columns that are alike once.
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <mutex>
#include <optional>
#include <string>
#include <string_view>

#include "verify/column_truth.hpp"
#include "verify/hash_table.hpp"

namespace hollow_probe {

/// Each number that occurs in a column once, and then which of them stands where.
std::string packed(const TruthColumn& column);
/// Throws InvalidInput for bytes that are no packed column.
TruthColumn unpacked(std::string_view bytes);

/// Packed columns under numbers; columns that are alike have one number. Safe from any number of threads.
class PackedColumns {
  public:
    using Number = std::uint32_t;

    /// The number of the column that is alike; if none is, of this one, provided that may_take(bytes) of
    /// memory. None where it may not, or all numbers are given.
    std::optional<Number> add(std::string_view packed, const std::function<bool(std::size_t)>& may_take);
    /// The column of a number that was given.
    [[nodiscard]] std::string at(Number number);

  private:
    struct Part {
        std::mutex mutex;
        std::string bytes;  // of all columns, each after its length
        HashTable<std::uint32_t> starts;
    };
    static constexpr std::size_t part_bits = 6;

    std::array<Part, std::size_t{1} << part_bits> parts_;
};

}  // namespace hollow_probe
