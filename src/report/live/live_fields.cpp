#include "report/live/live_fields.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "hollow_probe/rig/differences.hpp"

namespace hollow_probe {
namespace {

/// What a thing is stays: it is made anew as another.
constexpr std::array<std::string_view, 3> not_changed = {"name", "kind", "shape.hull.points"};

Json member_json(const Member& member) {
    // "[member]" without its brackets
    const std::string text = list_text(std::vector<Member>{member});
    return {{"name", member.has_condition() ? "" : member.name}, {"text", text.substr(1, text.size() - 2)}};
}

Json value_json(const FieldValue& value, std::span<const std::string_view> words) {
    return std::visit(
        [&](const auto& held) -> Json {
            using T = std::decay_t<decltype(held)>;
            if constexpr (std::is_same_v<T, std::monostate>) {
                return nullptr;
            } else if constexpr (std::is_same_v<T, double>) {
                return number_or_null(held);
            } else if constexpr (std::is_same_v<T, std::int64_t>) {
                if (!words.empty()) return std::string(words[static_cast<std::size_t>(held)]);
                return held;
            } else if constexpr (std::is_same_v<T, std::vector<Member>>) {
                Json list = Json::array();
                for (const Member& member : held) list.push_back(member_json(member));
                return list;
            } else {
                return held;
            }
        },
        value);
}

template <class Owner>
Json fields_json(std::span<const Field<Owner>> fields, const Owner& owner, std::size_t kind) {
    Json list = Json::array();
    for (const Field<Owner>& field : fields) {
        const bool fixed = std::find(not_changed.begin(), not_changed.end(), field.key) != not_changed.end();
        if (fixed || !field.is_for(kind) || field.get == nullptr || field.set == nullptr) continue;
        const FieldValue value = field.get(owner);
        // A shape, spread or reach of another form than this one's is no choice of a number.
        const bool of_other_form =
            std::holds_alternative<std::monostate>(value) && field.key.find('.') != std::string_view::npos;
        if (of_other_form) continue;
        list.push_back({{"key", field.key},
                        {"type", name_of(field.type)},
                        {"unit", name_of(field.unit)},
                        {"least", number_or_null(field.limits.least)},
                        {"above", field.limits.above},
                        {"most", number_or_null(field.limits.most)},
                        {"words", field.words},
                        {"names", static_cast<int>(field.names)},
                        {"standard", field.standard},
                        {"meaning", field.meaning},
                        {"value", value_json(value, field.words)}});
    }
    return list;
}

[[noreturn]] void refuse(std::string_view key, const std::string& expected) {
    throw InvalidInput(fmt::format("'{}' was given a value of another type, expected {}", key, expected));
}

double number_from(std::string_view key, const Json& json) {
    if (!json.is_number() || !std::isfinite(json.get<double>())) refuse(key, "a number");
    return json.get<double>();
}

std::vector<double> numbers_from(std::string_view key, const Json& json) {
    if (!json.is_array()) refuse(key, "a list of numbers");
    std::vector<double> numbers;
    for (const Json& one : json) numbers.push_back(number_from(key, one));
    return numbers;
}

/// A member is kept with its conditions if its text is that of one there was; else it is a name.
std::vector<Member> members_from(std::string_view key, const Json& json, const FieldValue& before) {
    if (!json.is_array()) refuse(key, "a list of members");
    std::vector<Member> members;
    for (const Json& one : json) {
        if (!one.is_string()) refuse(key, "a list of members");
        const std::string text = one.get<std::string>();
        Member member = text;
        if (const auto* const there = std::get_if<std::vector<Member>>(&before)) {
            for (const Member& old : *there) {
                if (member_json(old)["text"] == text) member = old;
            }
        }
        members.push_back(std::move(member));
    }
    return members;
}

template <class Owner>
FieldValue value_from(const Field<Owner>& field, const Json& json, const FieldValue& before) {
    if (json.is_null()) return {};
    switch (field.type) {
        case FieldType::number:
        case FieldType::number_or_table:
            return number_from(field.key, json);
        case FieldType::integer:
            return static_cast<std::int64_t>(
                std::llround(std::clamp(number_from(field.key, json), -1e9, 1e9)));
        case FieldType::flag:
            if (!json.is_boolean()) refuse(field.key, "true or false");
            return json.get<bool>();
        case FieldType::word: {
            if (!json.is_string()) refuse(field.key, "a word");
            const auto found = std::find(field.words.begin(), field.words.end(), json.get<std::string>());
            if (found == field.words.end()) refuse(field.key, "one of its words");
            return static_cast<std::int64_t>(found - field.words.begin());
        }
        case FieldType::text:
            if (!json.is_string()) refuse(field.key, "a text");
            return json.get<std::string>();
        case FieldType::names: {
            std::vector<std::string> names;
            if (!json.is_array()) refuse(field.key, "a list of names");
            for (const Json& one : json) {
                if (!one.is_string()) refuse(field.key, "a list of names");
                names.push_back(one.get<std::string>());
            }
            return names;
        }
        case FieldType::pair:
        case FieldType::vector:
            return numbers_from(field.key, json);
        case FieldType::direction:
            if (json.is_string()) return json.get<std::string>();
            return numbers_from(field.key, json);
        case FieldType::members:
            return members_from(field.key, json, before);
        case FieldType::points:
            break;
    }
    refuse(field.key, "what is written in the file");
}

template <class Owner>
void set_field(std::span<const Field<Owner>> fields, Owner& owner, std::size_t kind, const std::string& key,
               const Json& json) {
    for (const Field<Owner>& field : fields) {
        if (field.key != key || !field.is_for(kind) || field.set == nullptr) continue;
        const FieldValue value = value_from(field, json, field.get(owner));
        try {
            field.set(owner, value);
        } catch (const std::bad_variant_access&) {
            refuse(key, std::string(name_of(field.type)));
        }
        if (const auto broken = broken_limit<Owner>(fields, owner, kind)) throw InvalidInput(*broken);
        return;
    }
    throw InvalidInput("there is no field '" + key + "' to change here");
}

template <class Things>
auto& named(Things& things, const std::string& name, const char* what) {
    const auto found =
        std::find_if(things.begin(), things.end(), [&](const auto& t) { return t.name == name; });
    if (found == things.end()) throw InvalidInput(fmt::format("there is no {} '{}'", what, name));
    return *found;
}

std::size_t kind_of(const Signal& signal) {
    return signal.claims ? static_cast<std::size_t>(*signal.claims) : all_claims.size();
}

void forget(std::vector<Member>& members, const std::string& name) {
    std::erase_if(members, [&](Member& member) {
        if (member.name == name) return true;
        if (!member.name.empty()) return false;
        Group& group = member.group.front();
        for (auto* list : {&group.any, &group.all, &group.none, &group.at_least.of}) forget(*list, name);
        return group.any.empty() && group.all.empty() && group.none.empty() && group.at_least.of.empty();
    });
}

}  // namespace

template <int D>
Json rig_fields(const Rig<D>& rig, const Level<D>& level) {
    Json json = {{"probes", Json::array()},
                 {"signals", Json::array()},
                 {"intent", fields_json<Intent>(intent_fields(), rig.intent, 0)},
                 {"stances", Json::array()},
                 {"layers", level.layers()},
                 {"reads", rig.reads == Reads::after_move ? "after_move" : "before_move"},
                 {"size", rig.body.stances.front().shape.bounds().size().largest()}};
    for (const Probe<D>& probe : rig.probes) {
        const auto kind = static_cast<std::size_t>(probe.kind());
        json["probes"].push_back({{"name", probe.name},
                                  {"kind", name_of(probe.kind())},
                                  {"fields", fields_json<Probe<D>>(probe_fields<D>(), probe, kind)}});
    }
    for (const Signal& signal : rig.signals) {
        json["signals"].push_back(
            {{"name", signal.name},
             {"claims", signal.claims ? Json(name_of(signal.claims)) : Json(nullptr)},
             {"fields", fields_json<Signal>(signal_fields(), signal, kind_of(signal))}});
    }
    for (const Stance<D>& stance : rig.body.stances) json["stances"].push_back(stance.name);
    return json;
}

template <int D>
Rig<D> with_field(Rig<D> rig, const std::string& table, const std::string& name, const std::string& key,
                  const Json& value) {
    if (table == "probe") {
        Probe<D>& probe = named(rig.probes, name, "probe");
        set_field<Probe<D>>(probe_fields<D>(), probe, static_cast<std::size_t>(probe.kind()), key, value);
    } else if (table == "signal") {
        Signal& signal = named(rig.signals, name, "signal");
        set_field<Signal>(signal_fields(), signal, kind_of(signal), key, value);
    } else if (table == "intent") {
        set_field<Intent>(intent_fields(), rig.intent, 0, key, value);
    } else {
        throw InvalidInput("there is no table '" + table + "', expected probe, signal or intent");
    }
    check(rig.intent);
    check(rig);
    return rig;
}

template <int D>
Rig<D> without_mentions(Rig<D> rig, const std::string& name) {
    for (Signal& signal : rig.signals) {
        Group& group = signal.members;
        for (auto* list : {&group.any, &group.all, &group.none, &group.at_least.of}) forget(*list, name);
        if (signal.gives_from != name) continue;
        signal.gives = Value::none;
        signal.gives_from.clear();
    }
    return rig;
}

template Json rig_fields<2>(const Rig<2>&, const Level<2>&);
template Json rig_fields<3>(const Rig<3>&, const Level<3>&);
template Rig<2> with_field<2>(Rig<2>, const std::string&, const std::string&, const std::string&,
                              const Json&);
template Rig<3> with_field<3>(Rig<3>, const std::string&, const std::string&, const std::string&,
                              const Json&);
template Rig<2> without_mentions<2>(Rig<2>, const std::string&);
template Rig<3> without_mentions<3>(Rig<3>, const std::string&);

}  // namespace hollow_probe
