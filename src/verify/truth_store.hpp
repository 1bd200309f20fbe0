// Where truths are kept: by what they depend on, and by place.
#pragma once

#include <array>
#include <atomic>
#include <bit>
#include <cstring>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <string_view>
#include <unordered_map>
#include <vector>

#include "hollow_probe/verify/kept_truths.hpp"
#include "verify/enclosed.hpp"
#include "verify/grid.hpp"
#include "verify/packed_columns.hpp"

namespace hollow_probe {

/// One column, seen from the anchor at height 0, as one probe feels it, or all that truths feel with.
struct FeltHeights {
    std::vector<double> candidates;  // ascending; where something may change
    std::vector<HeightSpan> busy;    // heights at which something may be sensed or true: apart, ascending
};

/// What some probes feel of a column, and what others do that were asked before them.
struct ProbesFelt {
    /// For each probe the number it is kept under, how many candidates and how many spans there are, and
    /// these.
    std::vector<double> numbers;
    std::shared_ptr<const ProbesFelt> before;
    std::size_t asked = 1;  // how often, these included
};

/// Some numbers, compared bit by bit.
template <std::size_t Count>
struct NumbersKey {
    std::array<double, Count> numbers;

    bool operator==(const NumbersKey& other) const {
        return std::equal(numbers.begin(), numbers.end(), other.numbers.begin(), [](double a, double b) {
            return std::bit_cast<std::uint64_t>(a) == std::bit_cast<std::uint64_t>(b);
        });
    }
    struct Hash {
        std::size_t operator()(const NumbersKey& key) const {
            std::uint64_t hash = 0x9e3779b97f4a7c15U;
            for (const double number : key.numbers) {
                std::uint64_t bits = 0;
                std::memcpy(&bits, &number, sizeof(bits));
                hash = (hash ^ bits) * 0xff51afd7ed558ccdU;
                hash ^= hash >> 32U;
            }
            return hash;
        }
    };
};

/// A map that threads share, in parts that are locked one at a time.
template <class Key, class Value>
class SharedMap {
  public:
    /// The value kept for a key.
    [[nodiscard]] std::optional<Value> find(const Key& key) {
        Part& part = part_of(key);
        const std::lock_guard lock(part.mutex);
        const auto found = part.values.find(key);
        return found == part.values.end() ? std::nullopt : std::optional<Value>(found->second);
    }
    /// Calls change(value) on what is kept for a key, a new value if there is none.
    template <class Change>
    void change(const Key& key, Change change) {
        Part& part = part_of(key);
        const std::lock_guard lock(part.mutex);
        change(part.values[key]);
    }

  private:
    struct Part;
    Part& part_of(const Key& key) { return parts_[typename Key::Hash()(key) >> 32U & (parts_.size() - 1)]; }

    struct Part {
        std::mutex mutex;
        std::unordered_map<Key, Value, typename Key::Hash> values;
    };
    std::array<Part, 64> parts_;
};

template <int D>
struct KeptTruths<D>::Store {
    /// A number for what truths depend on besides level, region and anchor; the same terms have the same.
    double number_of(const std::vector<double>& terms) {
        const std::lock_guard lock(mutex);
        return static_cast<double>(numbers.emplace(terms, numbers.size()).first->second);
    }
    /// … for what heights at which a probe may say another thing depend on besides place.
    double number_of_probe(const std::vector<double>& terms) {
        const std::lock_guard lock(mutex);
        return static_cast<double>(numbers_of_probes.emplace(terms, numbers_of_probes.size()).first->second);
    }
    /// What is inside of the level's meshes at a time.
    std::shared_ptr<const Enclosed<D>> insides_of(const Level<D>& level, double seconds) {
        {
            const std::lock_guard lock(mutex);
            const auto found = insides.find(seconds);
            if (found != insides.end()) return found->second;
        }
        auto made = std::make_shared<const Enclosed<D>>(level);
        const std::lock_guard lock(mutex);
        return insides.emplace(seconds, std::move(made)).first->second;
    }
    /// From the lowest to the highest point of the level at a time.
    HeightSpan heights_of(const Level<D>& level, double seconds) {
        const std::lock_guard lock(mutex);
        const auto [found, is_new] = spans.try_emplace(seconds, HeightSpan{infinity, -infinity});
        HeightSpan& span = found->second;
        for (std::uint32_t piece = 0; is_new && piece < level.piece_count(); ++piece) {
            const HullView<D> hull = level.piece(piece);
            const auto [low, high] = extent_along(hull, level.up());
            span.low = std::min(span.low, low - hull.radius);
            span.high = std::max(span.high, high + hull.radius);
        }
        return span;
    }
    /// Room for so many bytes more, if there is; from any thread, and never for more than there is in all.
    [[nodiscard]] bool take(std::size_t more) {
        std::size_t now = bytes.load(std::memory_order_relaxed);
        do {
            if (now + more > most_bytes) return false;
        } while (!bytes.compare_exchange_weak(now, now + more, std::memory_order_relaxed));
        return true;
    }

    /// … for what a probe feels of a column: no more than a quarter of all is for that, and it is only kept
    /// in memory.
    [[nodiscard]] bool take_for_heights(std::size_t numbers_felt) {
        const std::size_t more =
            sizeof(NumbersKey<D>) + sizeof(ProbesFelt) + 6 * sizeof(void*) + sizeof(double) * numbers_felt;
        if (bytes_of_heights.fetch_add(more, std::memory_order_relaxed) + more > most_bytes / 4 ||
            !take(more)) {
            bytes_of_heights.fetch_sub(more, std::memory_order_relaxed);
            return false;
        }
        return true;
    }

    /// The truths of a column, if they are kept.
    [[nodiscard]] std::optional<TruthColumn> find_column(const Hash128& key) {
        const auto number = columns.find(key);
        if (!number) return std::nullopt;
        return unpacked(packed_columns.at(*number));
    }
    /// Keeps what was packed, if there is room.
    void add_column(const Hash128& key, std::string_view packed_column) {
        const auto number =
            packed_columns.add(packed_column, [this](std::size_t more) { return take(more); });
        if (number && take(decltype(columns)::bytes_each)) columns.add(key, *number);
    }
    void add_doubt(const Hash128& key, bool is_in_doubt) {
        if (take(decltype(doubts)::bytes_each)) doubts.add(key, static_cast<std::uint8_t>(is_in_doubt));
    }

    std::size_t most_bytes = 0;
    std::atomic<std::size_t> bytes{0};
    std::atomic<std::size_t> bytes_of_heights{0};  // of these
    std::mutex mutex;
    std::map<std::vector<double>, std::size_t> numbers;
    std::map<std::vector<double>, std::size_t> numbers_of_probes;
    std::map<double, std::shared_ptr<const Enclosed<D>>> insides;         // by time
    std::map<double, HeightSpan> spans;                                   // by time
    SharedMap<NumbersKey<D>, std::shared_ptr<const ProbesFelt>> heights;  // by terms and place
    PackedColumns packed_columns;
    SharedTable<PackedColumns::Number> columns;  // by terms and place
    SharedTable<std::uint8_t> doubts;            // by terms, anchor and signal; 1: there is one
};

}  // namespace hollow_probe
