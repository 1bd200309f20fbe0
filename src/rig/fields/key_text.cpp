#include "rig/key_text.hpp"

#include <charconv>

#include "hollow_probe/rig/differences.hpp"
#include "hollow_probe/rig/fields.hpp"

namespace hollow_probe {
/// A number as a person would write it in a rig file: the shortest that is right to about 1e-9.
std::string file_number(double x) {
    if (std::isinf(x)) return x > 0.0 ? "inf" : "-inf";
    std::array<char, 400> text{};  // a double may have 309 digits before the point
    const auto end =
        std::to_chars(text.data(), text.data() + text.size(), x, std::chars_format::fixed, 9).ptr;
    std::string result(text.data(), end);
    while (result.back() == '0') result.pop_back();
    if (result.back() == '.') result += '0';
    return result == "-0.0" ? "0.0" : result;
}

std::string quoted_text(const std::string& text) {
    std::string result = "\"";
    for (const char c : text) {
        if (c == '"' || c == '\\') result += '\\';
        result += c;
    }
    return result + '"';
}

std::string list_text(const std::vector<std::string>& names) {
    return joined(names, quoted_text);
}

std::string list_text(const std::array<double, 2>& numbers) {
    return joined(numbers, file_number);
}

namespace {

/// A field that is given: its path below the key, and its value.
struct Given {
    std::string path;  // empty: the key itself
    std::string text;
};

/// "{ row = { count = 3, width = 0.5 }, least = 2 }"
std::string table_text(const std::vector<Given>& given) {
    std::string text;
    for (std::size_t i = 0; i < given.size();) {
        const std::size_t dot = given[i].path.find('.');
        const std::string name = given[i].path.substr(0, dot);
        text += (text.empty() ? "" : ", ") + name + " = ";
        if (dot == std::string::npos) {
            text += given[i++].text;
            continue;
        }
        std::vector<Given> below;
        for (; i < given.size() && given[i].path.starts_with(name + "."); ++i)
            below.push_back({given[i].path.substr(dot + 1), given[i].text});
        text += table_text(below);
    }
    return "{ " + text + " }";
}

std::string member_text(const Member& member) {
    if (!member.name.empty() && !member.has_condition()) return quoted_text(member.name);
    std::vector<Given> given;
    for (const Field<Member>& field : member_fields()) {
        const FieldValue value = field.get(member);
        if (!std::holds_alternative<std::monostate>(value))
            given.push_back({std::string(field.key), text_of(value, field.words)});
    }
    return table_text(given);
}

}  // namespace

std::string list_text(const std::vector<Member>& members) {
    return joined(members, member_text);
}

template <int D>
std::string vector_text(const Vec<D>& v) {
    return joined(std::vector<double>(v.data(), v.data() + D), file_number);
}

namespace {

/// The parts of one field: itself, and the numbers of a pair one by one.
template <class Owner>
void add_parts(const Field<Owner>& field, const FieldValue& value,
               std::vector<std::pair<std::string, std::string>>& parts) {
    const std::string key(field.key);
    if (field.type == FieldType::pair) {
        const auto& numbers = std::get<std::vector<double>>(value);
        for (std::size_t i = 0; i < numbers.size(); ++i)
            parts.emplace_back(key + "[" + std::to_string(i) + "]", file_number(numbers[i]));
    } else if (key.find('.') != std::string::npos) {
        parts.emplace_back(key, text_of(value, field.words));
    }
}

/// Every key that the owner's kind makes something of, in the order of the fields; what is as `standard` has
/// it is not given.
template <class Owner>
std::vector<KeyText> keys_of(std::span<const Field<Owner>> fields, const Owner& owner, const Owner& standard,
                             std::size_t kind) {
    std::vector<KeyText> keys;
    for (std::size_t i = 0; i < fields.size();) {
        const std::string key(fields[i].key.substr(0, fields[i].key.find('.')));
        const auto belongs = [&](std::string_view other) {
            return other == key || (other.starts_with(key) && other[key.size()] == '.');
        };
        KeyText& result = keys.emplace_back(KeyText{key, {}});
        std::vector<Given> given;
        for (; i < fields.size() && belongs(fields[i].key); ++i) {
            const Field<Owner>& field = fields[i];
            if (!field.is_for(kind) || field.get == nullptr) continue;
            const FieldValue value = field.get(owner);
            if (std::holds_alternative<std::monostate>(value)) continue;
            if (!field.is_required() && value == field.get(standard)) continue;
            const std::string path(field.key.size() == key.size() ? "" : field.key.substr(key.size() + 1));
            given.push_back({path, text_of(value, field.words)});
            add_parts(field, value, result.parts);
        }
        if (given.empty()) continue;
        result.text = given.front().path.empty() ? given.front().text : table_text(given);
    }
    return keys;
}

}  // namespace

template <int D>
std::vector<KeyText> keys_of(const Probe<D>& probe) {
    const Probe<D> standard = std::visit(
        []<class Kind>(const Kind& kind) {
            if constexpr (std::is_same_v<Kind, ZoneProbe<D>>)
                return Probe<D>{.of_kind = ZoneProbe<D>{kind.shape}};
            else
                return Probe<D>{.of_kind = Kind{}};
        },
        probe.of_kind);
    return keys_of<Probe<D>>(probe_fields<D>(), probe, standard, static_cast<std::size_t>(probe.kind()));
}

template <int D>
std::string shape_text(const RoundedHull<D>& shape) {
    const Probe<D> probe{.of_kind = LineProbe<D>{shape}};
    for (const KeyText& key : keys_of<D>(probe)) {
        if (key.key == "shape") return key.text;
    }
    return {};
}

namespace {

/// The parts of members that can be changed by themselves: the numbers of conditions, nested ones included.
void add_conditions(const Group& group, const std::string& where,
                    std::vector<std::pair<std::string, std::string>>& parts) {
    const std::array<std::pair<const char*, const std::vector<Member>*>, 4> lists = {
        {{"any", &group.any},
         {"all", &group.all},
         {"none", &group.none},
         {"at_least.of", &group.at_least.of}}};
    for (const auto& [name, members] : lists) {
        for (std::size_t i = 0; i < members->size(); ++i) {
            const Member& member = (*members)[i];
            const std::string here = where + name + "[" + std::to_string(i) + "]";
            if (member.name.empty()) {
                // What else stands in a group has to be alike for its parts to be changed alone.
                parts.emplace_back(here, "group");
                add_conditions(member.group.front(), here + ".", parts);
                continue;
            }
            parts.emplace_back(here + ".probe", quoted_text(member.name));
            const auto pair = [&](const char* key, const std::array<double, 2>& numbers) {
                for (std::size_t k = 0; k < 2; ++k)
                    parts.emplace_back(here + "." + key + "[" + std::to_string(k) + "]",
                                       file_number(numbers[k]));
            };
            if (member.angle_degrees) pair("angle", *member.angle_degrees);
            if (member.distance) pair("distance", *member.distance);
            if (!member.layers.empty()) parts.emplace_back(here + ".layers", list_text(member.layers));
        }
    }
}

}  // namespace

std::vector<KeyText> keys_of(const Signal& signal) {
    Signal standard;
    standard.claims.reset();
    const std::size_t kind = signal.claims ? static_cast<std::size_t>(*signal.claims) : all_claims.size();
    std::vector<KeyText> keys = keys_of<Signal>(signal_fields(), signal, standard, kind);
    const Group& all = signal.members;
    for (KeyText& key : keys) {
        Group alone;
        if (key.key == "any") alone.any = all.any;
        if (key.key == "all") alone.all = all.all;
        if (key.key == "none") alone.none = all.none;
        if (key.key == "at_least") {
            alone.at_least = all.at_least;
            // Members are changed as a list, or in their conditions.
            std::erase_if(key.parts, [](const auto& part) { return part.first == "at_least.of"; });
        }
        add_conditions(alone, "", key.parts);
    }
    return keys;
}

std::vector<KeyText> keys_of(const Reflex& reflex) {
    Reflex standard;
    standard.kind = reflex.kind;
    return keys_of<Reflex>(reflex_fields(), reflex, standard, static_cast<std::size_t>(reflex.kind));
}

std::vector<KeyText> keys_of(const Intent& intent) {
    return keys_of<Intent>(intent_fields(), intent, Intent{}, 0);
}

template std::vector<KeyText> keys_of<2>(const Probe<2>&);
template std::vector<KeyText> keys_of<3>(const Probe<3>&);
template std::string vector_text<2>(const Vec<2>&);
template std::string vector_text<3>(const Vec<3>&);
template std::string shape_text<2>(const RoundedHull<2>&);
template std::string shape_text<3>(const RoundedHull<3>&);

}  // namespace hollow_probe
