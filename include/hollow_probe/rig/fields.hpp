// The fields of a rig: each setting of a probe, a signal, a member, a reflex, a stance and the intent, said
// once. Loaders, checks, descriptions of changes, documents and schemas all read them here.
#pragma once

#include <cstdint>
#include <limits>
#include <span>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "hollow_probe/rig/rig.hpp"

namespace hollow_probe {

enum class Unit : std::uint8_t { none, length, degrees, seconds, speed, count };

const char* name_of(Unit unit);  // "", "length", "degrees", "s", "length/s", ""

/// What a field holds.
enum class FieldType : std::uint8_t {
    number,
    integer,
    flag,
    text,
    word,             // one of `words`
    names,            // a list of them
    pair,             // two numbers
    vector,           // D numbers
    points,           // a list of vectors
    direction,        // a word or a vector
    members,          // of a group
    number_or_table,  // a number, or several fields in a table of that name
};

const char* name_of(FieldType type);  // "number", "list of strings", …: as the documents have it

/// The finite numbers a field may be: each of them, where it holds several.
struct Limits {
    double least = -std::numeric_limits<double>::infinity();  // inclusive …
    double most = std::numeric_limits<double>::infinity();    // inclusive
    bool above = false;                                       // … or not

    [[nodiscard]] bool hold(double x) const;
    /// "more than 0", "0 or more", "0 to 90"; empty: any number.
    [[nodiscard]] std::string text() const;
};

inline constexpr Limits above_0 = {0.0, std::numeric_limits<double>::infinity(), true};
inline constexpr Limits from_0 = {0.0, std::numeric_limits<double>::infinity(), false};

/// What a field is, for one owner: nothing, where it is not given or its kind has none. A word is its number
/// among the field's words.
using FieldValue =
    std::variant<std::monostate, double, std::int64_t, bool, std::string, std::vector<double>,
                 std::vector<std::string>, std::vector<Member>, std::vector<std::vector<double>>>;

/// Which names a field may hold.
enum class NamesOf : std::uint8_t { any, layers, stances, probes, signals };

/// A key as in files below its owner's table: "reach", "reach.grounded", "accept.angle".
template <class Owner>
struct Field {
    std::string_view key;
    FieldType type = FieldType::number;
    Unit unit = Unit::none;
    std::string_view standard = "required";  // the default in words; "required…" where there is none
    std::string_view meaning;                // one sentence
    Limits limits = {};
    bool ordered = false;       // a pair: the lower first
    std::uint32_t kinds = ~0U;  // of the owner that it is for: bit i stands for kind i
    std::span<const std::string_view> words = {};
    NamesOf names = NamesOf::any;
    FieldValue (*get)(const Owner&) = nullptr;
    /// Takes what `get` gives; none: it is given together with others, and read and written with them.
    void (*set)(Owner&, const FieldValue&) = nullptr;

    [[nodiscard]] bool is_for(std::size_t kind) const { return (kinds >> kind & 1U) != 0; }
    [[nodiscard]] bool is_required() const { return standard.starts_with("required"); }
};

/// In the order in which files and documents give them.
template <int D>
std::span<const Field<Probe<D>>> probe_fields();
std::span<const Field<Signal>> signal_fields();
std::span<const Field<Member>> member_fields();
std::span<const Field<Reflex>> reflex_fields();
std::span<const Field<Intent>> intent_fields();
template <int D>
std::span<const Field<Stance<D>>> stance_fields();

/// The field of that key. Throws InvalidInput where there is none.
template <class Owner>
const Field<Owner>& field_named(std::span<const Field<Owner>> fields, std::string_view key) {
    for (const Field<Owner>& field : fields) {
        if (field.key == key) return field;
    }
    throw InvalidInput("there is no field '" + std::string(key) + "'");
}

/// The first field of an owner of that kind with a number outside of its limits: "<key> must be more than 0"
/// or the like; nothing where all are within.
template <class Owner>
std::optional<std::string> broken_limit(std::span<const Field<Owner>> fields, const Owner& owner,
                                        std::size_t kind);

/// A value as a rig file has it; empty for nothing.
std::string text_of(const FieldValue& value, std::span<const std::string_view> words);

}  // namespace hollow_probe
