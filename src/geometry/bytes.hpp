// Values as bytes, in the byte order of this machine, and back.
//
// A struct is given a function `members(archive, value)` beside it, which calls archive(member) for each of
// its members: one list for both ways.
#pragma once

#include <array>
#include <cstdint>
#include <cstring>
#include <deque>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <variant>
#include <vector>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

template <class T>
concept PlainNumber = std::is_arithmetic_v<T> || std::is_enum_v<T>;

class ByteWriter {
  public:
    static constexpr bool reads = false;

    template <PlainNumber Number>
    void operator()(Number& number) {
        std::array<char, sizeof(Number)> raw{};
        std::memcpy(raw.data(), &number, sizeof(Number));
        bytes.append(raw.data(), raw.size());
    }
    std::size_t count(std::size_t count, std::size_t) {
        auto number = static_cast<std::uint64_t>(count);
        (*this)(number);
        return count;
    }
    void raw(std::string& text) { bytes += text; }

    std::string bytes;
};

/// Throws InvalidInput where the bytes end too soon.
class ByteReader {
  public:
    static constexpr bool reads = true;

    explicit ByteReader(std::string_view bytes) : left_(bytes) {}

    template <PlainNumber Number>
    void operator()(Number& number) {
        const std::string_view raw = take(sizeof(Number));
        if constexpr (std::is_same_v<Number, bool>) {
            number = raw.front() != 0;
        } else {
            std::memcpy(&number, raw.data(), sizeof(Number));
        }
    }
    /// How many of something follow, of so many bytes each at least.
    std::size_t count(std::size_t, std::size_t bytes_each) {
        std::uint64_t number = 0;
        (*this)(number);
        if (number > left_.size() / bytes_each) throw InvalidInput("the bytes end too soon");
        return static_cast<std::size_t>(number);
    }
    void raw(std::string& text) { std::memcpy(text.data(), take(text.size()).data(), text.size()); }
    std::string_view take(std::size_t size) {
        if (left_.size() < size) throw InvalidInput("the bytes end too soon");
        const std::string_view taken = left_.substr(0, size);
        left_.remove_prefix(size);
        return taken;
    }
    [[nodiscard]] bool is_done() const { return left_.empty(); }

  private:
    std::string_view left_;
};

template <class Archive, PlainNumber Number>
void members(Archive& archive, Number& number) {
    archive(number);
}

template <class Archive>
void members(Archive& archive, std::string& text) {
    text.resize(archive.count(text.size(), 1));
    archive.raw(text);
}

template <class Archive, int D>
void members(Archive& archive, VecOf<D, double>& vec) {
    for (int axis = 0; axis < D; ++axis) archive(vec[axis]);
}

template <class Archive, class First, class Second>
void members(Archive& archive, std::pair<First, Second>& pair);
template <class Archive, class Value>
void members(Archive& archive, std::optional<Value>& value);
template <class Archive, class Value, std::size_t Count>
void members(Archive& archive, std::array<Value, Count>& values);
template <class Archive, class Value>
void members(Archive& archive, std::vector<Value>& values);
template <class Archive, class Value>
void members(Archive& archive, std::deque<Value>& values);
template <class Archive, class... Kinds>
void members(Archive& archive, std::variant<Kinds...>& value);
template <class Archive>
void members(Archive&, std::monostate&) {}

template <class Archive, class First, class Second>
void members(Archive& archive, std::pair<First, Second>& pair) {
    members(archive, pair.first);
    members(archive, pair.second);
}

template <class Archive, class Value>
void members(Archive& archive, std::optional<Value>& value) {
    bool is_there = value.has_value();
    archive(is_there);
    if (!is_there) {
        value.reset();
        return;
    }
    if (!value) value.emplace();
    members(archive, *value);
}

template <class Archive, class Value, std::size_t Count>
void members(Archive& archive, std::array<Value, Count>& values) {
    for (Value& value : values) members(archive, value);
}

template <class Archive, class Value>
void members(Archive& archive, std::vector<Value>& values) {
    values.resize(archive.count(values.size(), 1));
    for (Value& value : values) members(archive, value);
}

template <class Archive, class Value>
void members(Archive& archive, std::deque<Value>& values) {
    values.resize(archive.count(values.size(), 1));
    for (Value& value : values) members(archive, value);
}

/// The number of its kind first.
template <class Archive, class... Kinds>
void members(Archive& archive, std::variant<Kinds...>& value) {
    auto kind = static_cast<std::uint8_t>(value.index());
    archive(kind);
    if constexpr (Archive::reads) {
        const bool known = [&]<std::size_t... numbers>(std::index_sequence<numbers...>) {
            return ((numbers == kind && (value.template emplace<numbers>(), true)) || ...);
        }
        (std::index_sequence_for<Kinds...>());
        if (!known) throw InvalidInput("the bytes are of no kind that is known");
    }
    std::visit([&](auto& held) { members(archive, held); }, value);
}

template <class Value>
std::string bytes_of(Value value) {
    ByteWriter writer;
    members(writer, value);
    return std::move(writer.bytes);
}

/// Throws InvalidInput for bytes that are not wholly one such value.
template <class Value>
Value from_bytes(std::string_view bytes) {
    ByteReader reader(bytes);
    Value value{};
    members(reader, value);
    if (!reader.is_done()) throw InvalidInput("the bytes go on where they should end");
    return value;
}

}  // namespace hollow_probe
