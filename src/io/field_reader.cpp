#include "io/field_reader.hpp"

namespace hollow_probe {
namespace {

const char* one_of(NamesOf names) {
    static constexpr std::array words = {"name", "layer", "stance", "probe", "signal"};
    return words[static_cast<std::size_t>(names)];
}

void hold_limits(const TableReader& table, std::string_view key, double number, const Limits& limits) {
    if (!limits.hold(number))
        table.fail(key, fmt::format("'{}' is {}, expected {}", key, number, limits.text()));
}

FieldValue read_pair(const TableReader& table, std::string_view key, const Limits& limits, bool ordered) {
    const Vec<2> pair = table.vector<2>(key);
    if (!limits.hold(pair[0]) || !limits.hold(pair[1]) || (ordered && pair[0] > pair[1])) {
        const std::string within = limits.text();
        table.fail(key, fmt::format("'{}' is [{}, {}], expected two numbers{}{}", key, pair[0], pair[1],
                                    within.empty() ? "" : ", " + within, ordered ? ", the lower first" : ""));
    }
    return std::vector<double>{pair[0], pair[1]};
}

template <int D>
FieldValue read_vector(const TableReader& table, std::string_view key) {
    const Vec<D> vector = table.vector<D>(key);
    return std::vector<double>(vector.data(), vector.data() + D);
}

/// Of a body whose stances cannot be told that is said already.
bool can_be_told(NamesOf names, const KnownNames& known) {
    return names != NamesOf::stances || !known.stances.empty();
}

FieldValue read_text(const TableReader& table, std::string_view key, NamesOf names, const KnownNames& known) {
    const std::string text = table.text(key);
    if (names != NamesOf::any) {
        if (can_be_told(names, known)) require_known(table, key, {text}, known.of(names), one_of(names));
    } else if (text.empty()) {
        table.fail(key, fmt::format("'{}' is empty, expected a name", key));
    }
    return text;
}

FieldValue read_names(const TableReader& table, std::string_view key, NamesOf names,
                      const KnownNames& known) {
    const std::vector<std::string> given = table.texts(key);
    if (can_be_told(names, known)) require_known(table, key, given, known.of(names), one_of(names));
    if (given.empty())
        table.fail(key, fmt::format("'{}' is empty, expected at least one {}", key, one_of(names)));
    return given;
}

}  // namespace

std::string kinds_text(std::uint32_t kinds, std::span<const std::string_view> words) {
    std::string text;
    for (std::size_t i = words.size(); i-- > 0;) {
        if ((kinds >> i & 1U) == 0) continue;
        const bool is_last = text.empty();
        const bool is_before_last = !is_last && text.find(' ') == std::string::npos;
        text = std::string(words[i]) + (is_last ? "" : is_before_last ? " or " : ", ") + text;
    }
    return text;
}

const std::vector<std::string>& KnownNames::of(NamesOf names) const {
    const std::array<const std::vector<std::string>*, 4> lists = {&layers, &stances, &probes, &signals};
    return *lists[static_cast<std::size_t>(names) - 1];
}

void require_known(const TableReader& table, std::string_view key, const std::vector<std::string>& given,
                   const std::vector<std::string>& known, const std::string& what) {
    for (std::size_t i = 0; i < given.size(); ++i) {
        if (std::find(known.begin(), known.end(), given[i]) != known.end()) continue;
        std::string expected;
        for (const std::string& name : known) expected += (expected.empty() ? "" : ", ") + name;
        const std::string hint = suggestion(given[i], known);
        table.fail_at(key, i,
                      fmt::format("there is no {} '{}'{}", what, given[i],
                                  hint.empty() ? ", expected one of " + expected : hint));
    }
}

FieldValue read_value(const TableReader& table, std::string_view key, FieldType type, const Limits& limits,
                      bool ordered, std::span<const std::string_view> words, NamesOf names,
                      const KnownNames& known, int dimensions) {
    switch (type) {
        case FieldType::number:
        case FieldType::number_or_table: {
            const double number = table.number(key);
            hold_limits(table, key, number, limits);
            return number;
        }
        case FieldType::integer: {
            const std::int64_t whole = table.integer(key);
            hold_limits(table, key, static_cast<double>(whole), limits);
            return whole;
        }
        case FieldType::flag:
            return table.flag(key, false);
        case FieldType::text:
            return read_text(table, key, names, known);
        case FieldType::word:
            return static_cast<std::int64_t>(table.choice(key, words));
        case FieldType::names:
            return read_names(table, key, names, known);
        case FieldType::pair:
            return read_pair(table, key, limits, ordered);
        case FieldType::direction:
            if (table.is_text(key)) return table.text(key);
            return dimensions == 2 ? read_vector<2>(table, key) : read_vector<3>(table, key);
        case FieldType::vector:
            return dimensions == 2 ? read_vector<2>(table, key) : read_vector<3>(table, key);
        case FieldType::points:
        case FieldType::members:
            break;  // read in ways of their own
    }
    return {};
}

}  // namespace hollow_probe
