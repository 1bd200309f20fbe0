// Getting and setting a field through pointers to members.
#pragma once

#include <optional>
#include <type_traits>

#include "hollow_probe/rig/fields.hpp"

namespace hollow_probe {

template <class T>
struct is_optional : std::false_type {};
template <class T>
struct is_optional<std::optional<T>> : std::true_type {};

/// A member as a field's value.
template <class T>
FieldValue value_of(const T& member) {
    if constexpr (is_optional<T>::value) {
        return member ? value_of(*member) : FieldValue();
    } else if constexpr (!std::is_same_v<T, bool> && (std::is_enum_v<T> || std::is_integral_v<T>)) {
        return static_cast<std::int64_t>(member);
    } else if constexpr (std::is_same_v<T, std::array<double, 2>> || std::is_same_v<T, std::array<int, 2>>) {
        return std::vector<double>(member.begin(), member.end());
    } else if constexpr (std::is_same_v<T, Vec<2>> || std::is_same_v<T, Vec<3>>) {
        return std::vector<double>(member.data(), member.data() + member.size());
    } else if constexpr (std::is_same_v<T, std::string> || std::is_same_v<T, std::vector<std::string>> ||
                         std::is_same_v<T, std::vector<Member>>) {
        if (member.empty()) return {};
        return member;
    } else {
        return member;
    }
}

template <class T>
void assign(T& member, const FieldValue& value) {
    if constexpr (is_optional<T>::value) {
        if (std::holds_alternative<std::monostate>(value)) {
            member.reset();
        } else {
            assign(member.emplace(), value);
        }
    } else if constexpr (std::is_same_v<T, bool>) {
        member = std::get<bool>(value);
    } else if constexpr (std::is_enum_v<T> || std::is_integral_v<T>) {
        member = static_cast<T>(std::get<std::int64_t>(value));
    } else if constexpr (std::is_same_v<T, std::array<double, 2>> || std::is_same_v<T, std::array<int, 2>> ||
                         std::is_same_v<T, Vec<2>> || std::is_same_v<T, Vec<3>>) {
        using Number = std::decay_t<decltype(member[0])>;
        const auto& numbers = std::get<std::vector<double>>(value);
        if (numbers.size() != static_cast<std::size_t>(member.size()))
            throw InvalidInput("a field was given another count of numbers than it holds");
        for (std::size_t i = 0; i < numbers.size(); ++i)
            member[static_cast<int>(i)] = static_cast<Number>(numbers[i]);
    } else {
        member = std::get<T>(value);
    }
}

/// owner.*first.*second…
template <auto First, auto... Further, class Owner>
auto& through(Owner& owner) {
    if constexpr (sizeof...(Further) == 0) {
        return owner.*First;
    } else {
        return through<Further...>(owner.*First);
    }
}

/// The field with access through these pointers to members, each into what the one before points to.
template <auto... Path, class Owner>
constexpr Field<Owner> held_at(Field<Owner> field) {
    field.get = [](const Owner& owner) { return value_of(through<Path...>(owner)); };
    field.set = [](Owner& owner, const FieldValue& value) { assign(through<Path...>(owner), value); };
    return field;
}

/// The bits of kinds.
template <class... Kinds>
constexpr std::uint32_t only(Kinds... kinds) {
    return ((1U << static_cast<unsigned>(kinds)) | ...);
}

}  // namespace hollow_probe
