#include "hollow_probe/rig/differences.hpp"

#include <algorithm>
#include <charconv>

namespace hollow_probe {
namespace {

template <class Things, class Text>
std::string joined(const Things& things, Text text) {
    std::string result = "[";
    for (const auto& thing : things) result += (result.size() > 1 ? ", " : "") + text(thing);
    return result + "]";
}

}  // namespace

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

std::string member_text(const Member& member) {
    if (!member.name.empty() && !member.has_condition()) return quoted_text(member.name);
    std::string text;
    const auto add = [&](const std::string& part) { text += (text.empty() ? "" : ", ") + part; };
    if (member.name.empty()) {
        const Group& group = member.group.front();
        if (!group.any.empty()) add("any = " + list_text(group.any));
        if (!group.all.empty()) add("all = " + list_text(group.all));
        if (!group.none.empty()) add("none = " + list_text(group.none));
        if (!group.at_least.of.empty()) {
            add("at_least = { count = " + std::to_string(group.at_least.count) +
                ", of = " + list_text(group.at_least.of) + " }");
        }
    } else {
        add("probe = " + quoted_text(member.name));
        if (member.angle_degrees) add("angle = " + list_text(*member.angle_degrees));
        if (member.distance) add("distance = " + list_text(*member.distance));
        if (!member.layers.empty()) add("layers = " + list_text(member.layers));
    }
    return "{ " + text + " }";
}

}  // namespace

std::string list_text(const std::vector<Member>& members) {
    return joined(members, member_text);
}

template <int D>
std::string vector_text(const Vec<D>& v) {
    return joined(std::vector<double>(v.data(), v.data() + D), file_number);
}

template <int D>
std::string shape_text(const RoundedHull<D>& shape) {
    if (shape.points().size() == 1) return "{ ball = { radius = " + file_number(shape.radius()) + " } }";
    if (shape.points().size() == 2) {
        const double height = (shape.points()[1] - shape.points()[0]).norm() + 2.0 * shape.radius();
        return "{ capsule = { radius = " + file_number(shape.radius()) + ", height = " + file_number(height) +
               " } }";
    }
    const bool is_box = shape.points().size() == (D == 2 ? 4U : 8U) && shape.radius() == 0.0;
    if (is_box) return "{ box = { size = " + vector_text<D>(shape.bounds().size()) + " } }";
    return "{ hull = { points = " + joined(shape.points(), vector_text<D>) +
           ", radius = " + file_number(shape.radius()) + " } }";
}

namespace {

template <std::size_t N>
std::string word(const std::array<const char*, N>& words, std::size_t number) {
    return quoted_text(words[number]);
}

/// A key of a table, and parts of it that can be changed by themselves.
struct KeyText {
    std::string key;
    std::string text;  // empty: not given
    std::vector<std::pair<std::string, std::string>> parts = {};
};

template <int D>
std::string along_text(const Probe<D>& probe) {
    if (probe.kind == ProbeKind::contact) return {};
    if (probe.aim != Aim::fixed) return probe.aim == Aim::drive ? "\"drive\"" : "\"velocity\"";
    static constexpr std::array<std::array<const char*, 2>, 3> names = {
        {{"forward", "backward"}, {"up", "down"}, {"right", "left"}}};
    for (int axis = 0; axis < D; ++axis) {
        for (std::size_t side = 0; side < 2; ++side) {
            if (probe.along == (side == 0 ? 1.0 : -1.0) * Vec<D>::Unit(axis))
                return quoted_text(names[static_cast<std::size_t>(axis)][side]);
        }
    }
    return vector_text<D>(probe.along);
}

template <int D>
KeyText reach_text(const Probe<D>& probe) {
    if (probe.kind == ProbeKind::zone || probe.kind == ProbeKind::contact) return {"reach", {}};
    const std::string reach = file_number(probe.reach);
    if (probe.reach_grounded) {
        const std::string grounded = file_number(*probe.reach_grounded);
        return {"reach",
                "{ grounded = " + grounded + ", airborne = " + reach + " }",
                {{"reach.grounded", grounded}, {"reach.airborne", reach}}};
    }
    if (probe.reach_per_speed > 0.0) {
        const std::string per_speed = file_number(probe.reach_per_speed);
        return {"reach",
                "{ base = " + reach + ", per_speed = " + per_speed + " }",
                {{"reach.base", reach}, {"reach.per_speed", per_speed}}};
    }
    return {"reach", reach};
}

std::string spread_text(const Spread& spread) {
    static constexpr std::array axes = {"", "forward", "up", "right"};
    const auto axis = [&] {
        const std::string name = axes[static_cast<std::size_t>(spread.axis)];
        return name.empty() ? name : ", axis = " + quoted_text(name);
    };
    const std::string count = "count = " + std::to_string(spread.count);
    const auto pair = [](const std::array<int, 2>& n) {
        return "[" + std::to_string(n[0]) + ", " + std::to_string(n[1]) + "]";
    };
    std::string text;
    switch (spread.kind) {
        case SpreadKind::none:
            return {};
        case SpreadKind::row:
            text = "row = { " + count + ", width = " + file_number(spread.width) + axis();
            break;
        case SpreadKind::fan:
            text = "fan = { " + count + ", degrees = " + file_number(spread.degrees) + axis();
            break;
        case SpreadKind::ring:
            text = "ring = { " + count + ", radius = " + file_number(spread.radius);
            break;
        case SpreadKind::grid:
            text = "grid = { counts = " + pair(spread.counts) + ", size = " + list_text(spread.size);
            break;
    }
    text += " }";
    if (spread.least > 1) text += ", least = " + std::to_string(spread.least);
    return "{ " + text + " }";
}

/// Every key that a probe's kind makes something of; what is at its default is not given.
template <int D>
std::vector<KeyText> keys_of(const Probe<D>& probe) {
    const bool is_line = probe.kind == ProbeKind::ray || probe.kind == ProbeKind::cast;
    const bool is_zone = probe.kind == ProbeKind::zone;
    const bool is_shift = probe.kind == ProbeKind::shift;
    const bool is_contact = probe.kind == ProbeKind::contact;
    static constexpr std::array kinds = {"ray", "cast", "zone", "shift", "contact"};
    static constexpr std::array takes = {"first", "all"};
    static constexpr std::array insides = {"report", "ignore", "against"};
    static constexpr std::array one_ways = {"as_body", "always", "never"};
    static constexpr std::array keepings = {"set", "last_event", "until_used"};
    static constexpr std::array axes = {"both", "across_up", "along_up"};
    static constexpr std::array sides = {"below", "above", "beside"};
    static constexpr std::array matches = {"includes", "only"};
    static constexpr std::array readings = {"after_move", "before_move"};
    static constexpr std::array faces = {"both", "front"};
    const auto given = [](const auto& words, auto value, bool is_default, bool has) {
        return is_default || !has ? std::string() : word(words, static_cast<std::size_t>(value));
    };
    std::vector<KeyText> keys;
    keys.push_back({"kind", word(kinds, static_cast<std::size_t>(probe.kind))});
    keys.push_back({"shape", probe.shape ? shape_text<D>(*probe.shape) : std::string()});
    keys.push_back({"from", (is_line || is_zone) && !probe.from.isZero(0.0) ? vector_text<D>(probe.from)
                                                                            : std::string()});
    keys.push_back({"along", along_text<D>(probe)});
    keys.push_back(reach_text<D>(probe));
    keys.push_back({"sees", list_text(probe.sees)});
    const std::array angles = {probe.accept_least_degrees, probe.accept_most_degrees};
    if (is_line && angles != std::array{0.0, 180.0}) {
        keys.push_back(
            {"accept",
             "{ angle = " + list_text(angles) + " }",
             {{"accept.angle[0]", file_number(angles[0])}, {"accept.angle[1]", file_number(angles[1])}}});
    } else {
        keys.push_back({"accept", {}});
    }
    keys.push_back({"take", given(takes, probe.take, probe.take == Take::first, is_line)});
    keys.push_back(
        {"if_inside", given(insides, probe.if_inside, probe.if_inside == IfInside::report, is_line)});
    keys.push_back({"spread", spread_text(probe.spread)});
    keys.push_back(
        {"one_way", given(one_ways, probe.one_way, probe.one_way == OneWay::as_body, !is_contact)});
    keys.push_back({"ignores_body", is_line && !probe.ignores_body ? "false" : ""});
    keys.push_back({"keeps", given(keepings, probe.keeps, probe.keeps == Keeps::set, is_zone)});
    keys.push_back(
        {"used_by", is_zone && probe.keeps == Keeps::until_used ? quoted_text(probe.used_by) : ""});
    keys.push_back({"axes", given(axes, probe.axes, probe.axes == ShiftAxes::both, is_shift)});
    keys.push_back({"inset", is_shift && probe.inset > 0.0 ? file_number(probe.inset) : ""});
    keys.push_back({"side", given(sides, probe.side, false, is_contact)});
    keys.push_back({"match", given(matches, probe.match, probe.match == Match::includes, is_contact)});
    keys.push_back({"within", is_contact && probe.side_within_degrees != 45.0
                                  ? file_number(probe.side_within_degrees)
                                  : ""});
    keys.push_back({"reads", probe.reads ? word(readings, static_cast<std::size_t>(*probe.reads)) : ""});
    keys.push_back({"faces", given(faces, probe.faces, probe.faces == Faces::both, is_line)});
    keys.push_back({"stances", probe.stances.empty() ? std::string() : list_text(probe.stances)});
    return keys;
}

/// The parts of members that can be changed by themselves: the numbers of conditions, nested ones included.
template <class Group>
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

std::vector<KeyText> keys_of(const Signal& signal) {
    std::vector<KeyText> keys;
    static constexpr std::array directions = {"heading", "drive", "velocity"};
    const auto words_or_none = [](const std::vector<std::string>& words) {
        return words.empty() ? std::string() : list_text(words);
    };
    keys.push_back({"claims", signal.claims ? quoted_text(name_of(*signal.claims)) : ""});
    keys.push_back({"of", words_or_none(signal.of)});
    keys.push_back(
        {"toward", signal.toward ? word(directions, static_cast<std::size_t>(*signal.toward)) : ""});
    keys.push_back({"stance", signal.stance.empty() ? "" : quoted_text(signal.stance)});
    const auto members = [&](const char* name, const std::vector<Member>& list) {
        KeyText& key = keys.emplace_back(KeyText{name, list.empty() ? "" : list_text(list)});
        Group alone;
        (std::string(name) == "any" ? alone.any : std::string(name) == "all" ? alone.all : alone.none) = list;
        add_conditions(alone, "", key.parts);
    };
    members("any", signal.any);
    members("all", signal.all);
    members("none", signal.none);
    KeyText& counted = keys.emplace_back(KeyText{"at_least", {}});
    if (!signal.at_least.of.empty()) {
        const std::string count = std::to_string(signal.at_least.count);
        const std::string of = list_text(signal.at_least.of);
        counted.text = "{ count = " + count + ", of = " + of + " }";
        counted.parts = {{"at_least.count", count}};
        Group alone;
        alone.at_least.of = signal.at_least.of;
        add_conditions(alone, "", counted.parts);
    }
    keys.push_back({"settle", signal.settle > 0.0 ? file_number(signal.settle) : ""});
    keys.push_back({"grace", signal.grace > 0.0 ? file_number(signal.grace) : ""});
    KeyText& mute = keys.emplace_back(KeyText{"mute_after", {}});
    if (!signal.mute_after.event.empty()) {
        const std::string event = quoted_text(signal.mute_after.event);
        const std::string seconds = file_number(signal.mute_after.seconds);
        mute.text = "{ event = " + event + ", seconds = " + seconds + " }";
        mute.parts = {{"mute_after.event", event}, {"mute_after.seconds", seconds}};
    }
    const std::string gives = std::string("{ value = ") + quoted_text(name_of(signal.gives)) +
                              ", from = " + quoted_text(signal.gives_from) + " }";
    keys.push_back({"gives", signal.gives == Value::none ? "" : gives});
    return keys;
}

/// What differs between two tables' keys.
void compare(const std::vector<KeyText>& before, const std::vector<KeyText>& after, const char* table,
             const std::string& name, std::vector<FieldChange>& changes) {
    for (std::size_t i = 0; i < before.size(); ++i) {
        const KeyText& a = before[i];
        const KeyText& b = after[i];
        if (a.text == b.text) continue;
        const bool in_parts =
            !a.parts.empty() && std::equal(a.parts.begin(), a.parts.end(), b.parts.begin(), b.parts.end(),
                                           [](const auto& x, const auto& y) { return x.first == y.first; });
        if (!in_parts) {
            changes.push_back({table, name, a.key, a.text, b.text});
            continue;
        }
        for (std::size_t k = 0; k < a.parts.size(); ++k) {
            if (a.parts[k].second == b.parts[k].second) continue;
            changes.push_back(
                {table, name, a.parts[k].first, a.parts[k].second, b.parts[k].second, b.key, b.text});
        }
    }
}

template <class Things>
void compare_named(const Things& before, const Things& after, const char* table,
                   std::vector<FieldChange>& changes) {
    for (const auto& one : before) {
        const auto other =
            std::find_if(after.begin(), after.end(), [&](const auto& o) { return o.name == one.name; });
        if (other != after.end()) compare(keys_of(one), keys_of(*other), table, one.name, changes);
    }
}

}  // namespace

template <int D>
std::vector<FieldChange> differences(const Rig<D>& before, const Rig<D>& after) {
    std::vector<FieldChange> changes;
    const auto reads = [](const Rig<D>& rig) {
        return rig.reads == Reads::after_move ? std::string() : std::string("\"before_move\"");
    };
    if (before.reads != after.reads) changes.push_back({"", "", "reads", reads(before), reads(after)});
    compare_named(before.probes, after.probes, "probe", changes);
    compare_named(before.signals, after.signals, "signal", changes);
    return changes;
}

template std::vector<FieldChange> differences<2>(const Rig<2>&, const Rig<2>&);
template std::vector<FieldChange> differences<3>(const Rig<3>&, const Rig<3>&);
template std::string vector_text<2>(const Vec<2>&);
template std::string vector_text<3>(const Vec<3>&);
template std::string shape_text<2>(const RoundedHull<2>&);
template std::string shape_text<3>(const RoundedHull<3>&);

}  // namespace hollow_probe
