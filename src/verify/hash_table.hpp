// Small values, each under a hash of all that it depends on, in flat memory.
#pragma once

#include <array>
#include <cstdint>
#include <mutex>
#include <optional>
#include <utility>
#include <vector>

#include "geometry/mixed_hash.hpp"
#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

/// Of 10^9 hashes two are the same with a chance of 10^-21.
using Hash128 = std::array<std::uint64_t, 2>;

/// The hash of a place and some more numbers, told apart bit by bit.
template <int N, class... Numbers>
Hash128 hash_of(const VecOf<N, double>& place, Numbers... numbers) {
    MixedHash hash;
    for (int axis = 0; axis < N; ++axis) hash.add(place[axis]);
    (hash.add(numbers), ...);
    return {hash.first(), hash.second()};
}

/// Open addressing, searched onward from where a key belongs. For one thread.
template <class Value>
class HashTable {
  public:
    /// What a value takes of memory, on average.
    static constexpr std::size_t bytes_each = (sizeof(Hash128) + sizeof(Value)) * 3 / 2;

    [[nodiscard]] std::size_t size() const { return count_; }

    /// Null if there is none.
    [[nodiscard]] const Value* find(const Hash128& key) const {
        if (keys_.empty()) return nullptr;
        const std::size_t slot = slot_of(key);
        return keys_[slot] == key ? &values_[slot] : nullptr;
    }
    /// Keeps a value, unless there is one.
    void add(const Hash128& key, Value value) {
        if (5 * (count_ + 1) > 4 * keys_.size()) grow();
        const std::size_t slot = slot_of(key);
        if (keys_[slot] == key) return;
        keys_[slot] = key;
        values_[slot] = value;
        ++count_;
    }
    template <class Visit>
    void for_each(Visit visit) const {
        for (std::size_t slot = 0; slot < keys_.size(); ++slot) {
            if (keys_[slot] != Hash128{}) visit(keys_[slot], values_[slot]);
        }
    }

  private:
    /// Where a key is, or would be put.
    [[nodiscard]] std::size_t slot_of(const Hash128& key) const {
        std::size_t slot = (key[0] >> 32U) * keys_.size() >> 32U;
        while (keys_[slot] != key && keys_[slot] != Hash128{}) {
            if (++slot == keys_.size()) slot = 0;
        }
        return slot;
    }
    void grow() {
        HashTable larger;
        larger.keys_.resize(keys_.size() + keys_.size() / 2 + 8);
        larger.values_.resize(larger.keys_.size());
        for_each([&](const Hash128& key, const Value& value) {
            const std::size_t slot = larger.slot_of(key);
            larger.keys_[slot] = key;
            larger.values_[slot] = value;
        });
        larger.count_ = count_;
        *this = std::move(larger);
    }

    std::vector<Hash128> keys_;  // zero: free
    std::vector<Value> values_;
    std::size_t count_ = 0;
};

/// A table that threads share, in parts that are locked one at a time.
template <class Value>
class SharedTable {
  public:
    static constexpr std::size_t bytes_each = HashTable<Value>::bytes_each;

    [[nodiscard]] std::optional<Value> find(const Hash128& key) {
        Part& part = part_of(key);
        const std::lock_guard lock(part.mutex);
        const Value* const found = part.table.find(key);
        return found == nullptr ? std::nullopt : std::optional<Value>(*found);
    }
    /// Keeps a value, unless there is one.
    void add(const Hash128& key, Value value) {
        Part& part = part_of(key);
        const std::lock_guard lock(part.mutex);
        part.table.add(key, value);
    }
    /// While nobody else adds to it.
    template <class Visit>
    void for_each(Visit visit) const {
        for (const Part& part : parts_) part.table.for_each(visit);
    }
    [[nodiscard]] std::size_t size() const {
        std::size_t size = 0;
        for (const Part& part : parts_) size += part.table.size();
        return size;
    }

  private:
    struct Part {
        std::mutex mutex;
        HashTable<Value> table;
    };
    Part& part_of(const Hash128& key) { return parts_[key[1] % parts_.size()]; }

    std::array<Part, 64> parts_;
};

}  // namespace hollow_probe
