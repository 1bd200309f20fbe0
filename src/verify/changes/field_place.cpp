#include "verify/changes/field_place.hpp"

namespace hollow_probe {
namespace {

/// Calls visit(member, path) for the members of a group that have a condition, nested ones included, in the
/// order in which a mounted rig numbers conditions; until it returns false.
template <class SomeGroup, class Visit>
bool for_each_condition(SomeGroup& group, const std::string& where, Visit visit) {
    static constexpr std::array names = {"any", "all", "none", "at_least.of"};
    const std::array lists = {&group.any, &group.all, &group.none, &group.at_least.of};
    for (std::size_t list = 0; list < lists.size(); ++list) {
        for (std::size_t i = 0; i < lists[list]->size(); ++i) {
            auto& member = (*lists[list])[i];
            const std::string here = where + names[list] + "[" + std::to_string(i) + "]";
            if (member.name.empty()) {
                if (!for_each_condition(member.group.front(), here + ".", visit)) return false;
            } else if (member.has_condition() && !visit(member, here)) {
                return false;
            }
        }
    }
    return true;
}

/// Calls visit(member, path) for the member that has the condition of that number.
template <class SomeRig, class Visit>
void with_condition(SomeRig& rig, int number, Visit visit) {
    bool found = false;
    for (auto& signal : rig.signals) {
        for_each_condition(signal.members, "", [&](auto& member, const std::string& path) {
            if (number-- != 0) return true;
            visit(member, path);
            found = true;
            return false;
        });
        if (found) return;
    }
    throw InvalidInput("there is no condition of that number");
}

/// Calls use(fields, owner) with the table of fields and the owner of a place.
template <int D, class SomeRig, class Use>
void at_place(SomeRig& rig, const FieldPlace& place, Use use) {
    if (place.probe >= 0) {
        use(probe_fields<D>(), rig.probes[static_cast<std::size_t>(place.probe)]);
    } else if (place.condition >= 0) {
        with_condition(rig, place.condition,
                       [&](auto& member, const std::string&) { use(member_fields(), member); });
    } else {
        use(signal_fields(), rig.signals[place.signal]);
    }
}

template <class Owner>
bool is_for(const Field<Owner>& field, const Owner& owner) {
    std::size_t kind = 0;
    if constexpr (requires { owner.kind(); }) kind = static_cast<std::size_t>(owner.kind());
    return field.is_for(kind);
}

template <class Owner>
const Field<Owner>& field_for(std::span<const Field<Owner>> fields, const Owner& owner,
                              std::string_view key) {
    for (const Field<Owner>& field : fields) {
        if (field.key == key && is_for(field, owner)) return field;
    }
    return field_named(fields, key);
}

/// Both ends of a pair, where it is not given as wide as can be.
std::vector<double> pair_of(const FieldValue& value, const Limits& limits) {
    if (const auto* const numbers = std::get_if<std::vector<double>>(&value)) return *numbers;
    return {limits.least, limits.most};
}

template <class Owner>
bool set_in(Owner& owner, const Field<Owner>& field, int part, const FieldValue& value) {
    if (!is_for(field, owner)) return false;
    if (part < 0) {
        field.set(owner, value);
        return true;
    }
    std::vector<double> pair = pair_of(field.get(owner), field.limits);
    pair[static_cast<std::size_t>(part)] = std::get<double>(value);
    field.set(owner, pair);
    return true;
}

}  // namespace

template <int D>
FieldValue value_at(const Rig<D>& rig, const FieldPlace& place) {
    FieldValue value;
    at_place<D>(rig, place, [&](const auto& fields, const auto& owner) {
        const auto& field = field_for(fields, owner, place.key);
        value = field.get(owner);
        if (place.part >= 0) value = pair_of(value, field.limits)[static_cast<std::size_t>(place.part)];
    });
    return value;
}

template <int D>
bool set_value(Rig<D>& rig, const FieldPlace& place, const FieldValue& value) {
    bool is_set = false;
    at_place<D>(rig, place, [&](const auto& fields, auto& owner) {
        is_set = set_in(owner, field_for(fields, owner, place.key), place.part, value);
    });
    return is_set;
}

template <int D>
bool set_value(Probe<D>& probe, const FieldPlace& place, const FieldValue& value) {
    return set_in(probe, field_for(probe_fields<D>(), probe, place.key), place.part, value);
}

template <int D>
std::optional<double> number_at(const Rig<D>& rig, const FieldPlace& place) {
    const FieldValue value = value_at<D>(rig, place);
    const auto* const number = std::get_if<double>(&value);
    return number != nullptr ? std::optional(*number) : std::nullopt;
}

template <int D>
FieldFacts facts_of(const Rig<D>& rig, const FieldPlace& place) {
    FieldFacts facts;
    at_place<D>(rig, place, [&](const auto& fields, const auto& owner) {
        const auto& field = field_for(fields, owner, place.key);
        facts = {field.unit, field.limits, field.standard, field.words};
    });
    return facts;
}

template <int D>
std::string probe_named(const Rig<D>& rig, const FieldPlace& place) {
    if (place.probe >= 0) return rig.probes[static_cast<std::size_t>(place.probe)].name;
    std::string name;
    if (place.condition >= 0)
        with_condition(rig, place.condition,
                       [&](const Member& member, const std::string&) { name = member.name; });
    return name;
}

template <int D>
std::string path_of(const Rig<D>& rig, const FieldPlace& place) {
    std::string path(place.key);
    if (place.part >= 0) path += "[" + std::to_string(place.part) + "]";
    if (place.condition >= 0)
        with_condition(rig, place.condition,
                       [&](const Member&, const std::string& member) { path = member + "." + path; });
    return path;
}

template FieldValue value_at<2>(const Rig<2>&, const FieldPlace&);
template FieldValue value_at<3>(const Rig<3>&, const FieldPlace&);
template bool set_value<2>(Rig<2>&, const FieldPlace&, const FieldValue&);
template bool set_value<3>(Rig<3>&, const FieldPlace&, const FieldValue&);
template bool set_value<2>(Probe<2>&, const FieldPlace&, const FieldValue&);
template bool set_value<3>(Probe<3>&, const FieldPlace&, const FieldValue&);
template std::optional<double> number_at<2>(const Rig<2>&, const FieldPlace&);
template std::optional<double> number_at<3>(const Rig<3>&, const FieldPlace&);
template FieldFacts facts_of<2>(const Rig<2>&, const FieldPlace&);
template FieldFacts facts_of<3>(const Rig<3>&, const FieldPlace&);
template std::string probe_named<2>(const Rig<2>&, const FieldPlace&);
template std::string probe_named<3>(const Rig<3>&, const FieldPlace&);
template std::string path_of<2>(const Rig<2>&, const FieldPlace&);
template std::string path_of<3>(const Rig<3>&, const FieldPlace&);

}  // namespace hollow_probe
