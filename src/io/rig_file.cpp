#include "hollow_probe/io/rig_file.hpp"

#include <algorithm>
#include <filesystem>

#include "io/toml_reader.hpp"

namespace hollow_probe {
namespace {

constexpr std::array<std::string_view, 2> face_words = {"both", "front"};
constexpr std::array<std::string_view, 4> shape_kinds = {"capsule", "box", "ball", "hull"};

template <class Named>
std::vector<std::string> names_of(const std::vector<Named>& things) {
    std::vector<std::string> names;
    names.reserve(things.size());
    for (const Named& thing : things) names.push_back(thing.name);
    return names;
}

/// Refuses names that are not known, at their place.
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

double read_hull_radius(const TableReader& shape) {
    const double radius = shape.number("radius", 0.0);
    if (radius < 0.0) shape.fail("radius", "'radius' is negative, expected at least 0");
    return radius;
}

template <int D>
Stance<D> read_stance(const TableReader& table) {
    const std::string name = table.text("name");
    const std::string kind = table.one_of(shape_kinds);
    const TableReader shape = table.table(kind);
    if (kind == "capsule") {
        const double radius = shape.positive("radius");
        const double height = shape.positive("height");
        return shape.placed("height", [&] { return Stance<D>::capsule(name, radius, height); });
    }
    if (kind == "box") {
        const Vec<D> size = shape.vector<D>("size");
        return shape.placed("size", [&] { return Stance<D>::box(name, size); });
    }
    if (kind == "ball") return Stance<D>::ball(name, shape.positive("radius"));
    const double radius = read_hull_radius(shape);
    return shape.placed("points", [&] { return Stance<D>::hull(name, shape.vectors<D>("points"), radius); });
}

template <int D>
RoundedHull<D> read_shape(const TableReader& probe) {
    const TableReader table = probe.table("shape");
    const std::string kind = table.one_of(shape_kinds);
    const TableReader shape = table.table(kind);
    if (kind == "ball") return RoundedHull<D>::ball(Vec<D>::Zero(), shape.positive("radius"));
    if (kind == "box") {
        const Vec<D> size = shape.vector<D>("size");
        return shape.placed("size", [&] { return RoundedHull<D>::box(Vec<D>::Zero(), size); });
    }
    if (kind == "capsule") {
        const double radius = shape.positive("radius");
        const double height = shape.positive("height");
        if (height < 2.0 * radius) shape.fail("height", "'height' is less than twice the radius");
        const Vec<D> end = (0.5 * height - radius) * Vec<D>::Unit(1);
        return RoundedHull<D>::capsule(-end, end, radius);
    }
    const double radius = read_hull_radius(shape);
    return shape.placed("points", [&] { return RoundedHull<D>::hull(shape.vectors<D>("points"), radius); });
}

std::array<double, 2> read_angles(const TableReader& table, std::string_view key) {
    const Vec<2> angle = table.vector<2>(key);
    if (!(0.0 <= angle[0] && angle[0] <= angle[1] && angle[1] <= 180.0)) {
        table.fail(key, fmt::format("'{}' is [{}, {}], expected two angles from 0 to 180, the lower first",
                                    key, angle[0], angle[1]));
    }
    return {angle[0], angle[1]};
}

/// The direction, and where it comes from.
template <int D>
void read_along(const TableReader& table, Probe<D>& probe) {
    if (!table.has("along")) return;
    if (!table.is_text("along")) {
        const Vec<D> along = table.vector<D>("along");
        if (along.norm() == 0.0) table.fail("along", "'along' has no length, expected a direction");
        probe.along = along.normalized();
        return;
    }
    static constexpr std::array<std::string_view, 8> in_3d = {"down",  "up",       "forward", "backward",
                                                              "drive", "velocity", "left",    "right"};
    const std::size_t word = table.choice("along", std::span(in_3d).first(D == 2 ? 6 : 8));
    if (word == 4 || word == 5) {
        probe.aim = word == 4 ? Aim::drive : Aim::velocity;
        probe.along = Vec<D>::Unit(0);
        return;
    }
    const int axis = word < 2 ? 1 : word < 4 ? 0 : D - 1;
    const bool negative = word == 0 || word == 3 || word == 6;
    probe.along = (negative ? -1.0 : 1.0) * Vec<D>::Unit(axis);
}

template <int D>
void read_reach(const TableReader& table, Probe<D>& probe) {
    const bool may_be_none = probe.kind == ProbeKind::shift;
    if (!table.is_table("reach")) {
        probe.reach = may_be_none ? table.number("reach") : table.positive("reach");
        if (probe.reach < 0.0) table.fail("reach", "'reach' is negative, expected 0 or more");
        return;
    }
    const TableReader reach = table.table("reach");
    const bool by_state = reach.has("grounded") || reach.has("airborne");
    const bool by_speed = reach.has("base") || reach.has("per_speed");
    if (by_state == by_speed) {
        table.fail("reach",
                   "'reach' is a table, expected { grounded = …, airborne = … } or "
                   "{ base = …, per_speed = … }");
    }
    if (by_state) {
        probe.reach = reach.positive("airborne");
        probe.reach_grounded = reach.positive("grounded");
        return;
    }
    probe.reach = reach.number("base");
    if (probe.reach < 0.0) reach.fail("base", "'base' is negative, expected 0 or more");
    probe.reach_per_speed = reach.positive("per_speed");
}

int read_count(const TableReader& table, std::string_view key, int most) {
    const std::int64_t count = table.integer(key);
    if (count < 2 || count > most)
        table.fail(key, fmt::format("'{}' is {}, expected 2 to {}", key, count, most));
    return static_cast<int>(count);
}

Spread read_spread(const TableReader& probe, int dimensions) {
    static constexpr std::array<std::string_view, 4> kinds = {"row", "fan", "ring", "grid"};
    static constexpr std::array<std::string_view, 3> axes = {"forward", "up", "right"};
    const TableReader table = probe.table("spread");
    Spread spread;
    const std::string kind = table.one_of(kinds);
    const TableReader lines = table.table(kind);
    const auto read_axis = [&] {
        if (!lines.has("axis")) return;
        const auto words = std::span(axes).first(dimensions == 2 ? 2 : 3);
        spread.axis = static_cast<SpreadAxis>(lines.choice("axis", words) + 1);
    };
    if (kind == "row") {
        spread.kind = SpreadKind::row;
        spread.count = read_count(lines, "count", most_lines);
        spread.width = lines.positive("width");
        read_axis();
    } else if (kind == "fan") {
        spread.kind = SpreadKind::fan;
        spread.count = read_count(lines, "count", most_lines);
        spread.degrees = lines.positive("degrees");
        if (spread.degrees > 360.0) lines.fail("degrees", "'degrees' is more than 360, a full turn");
        read_axis();
    } else if (dimensions == 2) {
        table.fail(kind, "'" + kind + "' is for 3D rigs, expected row or fan");
    } else if (kind == "ring") {
        spread.kind = SpreadKind::ring;
        spread.count = read_count(lines, "count", most_lines);
        spread.radius = lines.positive("radius");
    } else {
        spread.kind = SpreadKind::grid;
        const Vec<2> counts = lines.vector<2>("counts");
        for (std::size_t i = 0; i < 2; ++i) {
            const double count = counts[static_cast<Eigen::Index>(i)];
            if (count < 1.0 || count > 64.0 || count != std::floor(count))
                lines.fail_at("counts", i,
                              fmt::format("a count is {}, expected a whole number from 1", count));
            spread.counts[i] = static_cast<int>(count);
        }
        const Vec<2> size = lines.vector<2>("size");
        if (size.minCoeff() < 0.0) lines.fail("size", "'size' is negative, expected 0 or more");
        spread.size = {size[0], size[1]};
        if (spread.line_count() > most_lines)
            lines.fail("counts", fmt::format("'counts' makes {} lines, expected at most {}",
                                             spread.line_count(), most_lines));
    }
    if (table.has("least")) {
        const std::int64_t least = table.integer("least");
        if (least < 1 || least > spread.line_count()) {
            table.fail("least", fmt::format("'least' is {}, expected 1 to {}, the number of lines", least,
                                            spread.line_count()));
        }
        spread.least = static_cast<int>(least);
    }
    return spread;
}

/// Refuses keys that a kind of probe makes nothing of.
void refuse_foreign_keys(const TableReader& table, ProbeKind kind) {
    struct Use {
        std::string_view key;
        std::string_view kinds;  // the first letters of those that use it; z for zone
    };
    // r ray, c cast, z zone, s shift, t contact
    static constexpr std::array uses = {
        Use{"shape", "cz"},     Use{"from", "rcz"},        Use{"along", "rczs"},   Use{"reach", "rcs"},
        Use{"accept", "rc"},    Use{"take", "rc"},         Use{"if_inside", "rc"}, Use{"spread", "rc"},
        Use{"one_way", "rczs"}, Use{"ignores_body", "rc"}, Use{"keeps", "z"},      Use{"used_by", "z"},
        Use{"axes", "s"},       Use{"inset", "s"},         Use{"side", "t"},       Use{"match", "t"},
        Use{"within", "t"},     Use{"reads", "rczs"},      Use{"faces", "rc"}};
    constexpr std::string_view letters = "rczst";
    const char letter = letters[static_cast<std::size_t>(kind)];
    for (const Use& use : uses) {
        if (table.has(use.key) && use.kinds.find(letter) == std::string_view::npos)
            table.fail(use.key, fmt::format("a {} has no {}, expected another kind or no '{}'", name_of(kind),
                                            use.key, use.key));
    }
}

template <int D>
Probe<D> read_probe(const TableReader& table, const std::vector<std::string>& layers,
                    const std::vector<std::string>& stances) {
    static constexpr std::array<std::string_view, 5> kinds = {"ray", "cast", "zone", "shift", "contact"};
    static constexpr std::array<std::string_view, 2> takes = {"first", "all"};
    static constexpr std::array<std::string_view, 3> insides = {"report", "ignore", "against"};
    static constexpr std::array<std::string_view, 3> one_ways = {"as_body", "always", "never"};
    static constexpr std::array<std::string_view, 3> keepings = {"set", "last_event", "until_used"};
    static constexpr std::array<std::string_view, 3> axes = {"both", "across_up", "along_up"};
    static constexpr std::array<std::string_view, 3> sides = {"below", "above", "beside"};
    static constexpr std::array<std::string_view, 2> matches = {"includes", "only"};
    static constexpr std::array<std::string_view, 2> readings = {"after_move", "before_move"};
    Probe<D> probe;
    probe.name = table.text("name");
    probe.kind = static_cast<ProbeKind>(table.choice("kind", kinds));
    refuse_foreign_keys(table, probe.kind);
    if (probe.kind == ProbeKind::cast || probe.kind == ProbeKind::zone) probe.shape = read_shape<D>(table);
    if (table.has("from")) probe.from = table.vector<D>("from");
    if (probe.kind == ProbeKind::shift) probe.along = Vec<D>::Unit(0);
    read_along(table, probe);
    if (probe.kind != ProbeKind::zone && probe.kind != ProbeKind::contact) read_reach(table, probe);
    if (table.has("spread")) probe.spread = read_spread(table, D);
    probe.sees = table.texts("sees");
    require_known(table, "sees", probe.sees, layers, "layer");
    if (table.has("accept")) {
        const TableReader accept = table.table("accept");
        if (accept.has("angle")) {
            const auto angle = read_angles(accept, "angle");
            probe.accept_least_degrees = angle[0];
            probe.accept_most_degrees = angle[1];
        }
    }
    if (table.has("take")) probe.take = static_cast<Take>(table.choice("take", takes));
    if (table.has("if_inside")) probe.if_inside = static_cast<IfInside>(table.choice("if_inside", insides));
    if (table.has("one_way")) probe.one_way = static_cast<OneWay>(table.choice("one_way", one_ways));
    probe.ignores_body = table.flag("ignores_body", true);
    if (table.has("keeps")) probe.keeps = static_cast<Keeps>(table.choice("keeps", keepings));
    if (table.has("used_by")) {
        probe.used_by = table.text("used_by");
        if (probe.keeps != Keeps::until_used)
            table.fail("used_by", "'used_by' is for keeps = \"until_used\"");
    }
    if (table.has("axes")) probe.axes = static_cast<ShiftAxes>(table.choice("axes", axes));
    if (table.has("inset")) probe.inset = table.positive("inset");
    if (probe.kind == ProbeKind::contact) probe.side = static_cast<Side>(table.choice("side", sides));
    if (table.has("match")) probe.match = static_cast<Match>(table.choice("match", matches));
    if (table.has("within")) {
        probe.side_within_degrees = table.positive("within");
        if (probe.side_within_degrees > 90.0) table.fail("within", "'within' is more than 90 degrees");
    }
    if (table.has("reads")) probe.reads = static_cast<Reads>(table.choice("reads", readings));
    if (table.has("faces")) probe.faces = static_cast<Faces>(table.choice("faces", face_words));
    if (table.has("stances")) {
        probe.stances = table.texts("stances");
        require_known(table, "stances", probe.stances, stances, "stance");
        if (probe.stances.empty())
            table.fail("stances", "'stances' is empty: the probe would never be mounted");
    }
    return probe;
}

/// A length, or seconds of the present speed.
void read_planned_move(const TableReader& table, Intent& intent) {
    if (!table.is_table("ahead_move")) {
        intent.ahead_move = table.positive("ahead_move");
        return;
    }
    intent.ahead_move = 0.0;
    intent.ahead_move_seconds = table.table("ahead_move").positive("seconds");
}

/// Keys not given are left as they are.
Intent read_intent(const TableReader& table, Intent intent) {
    const auto angle = [&](std::string_view key, double& value) {
        value = table.number(key, value);
        if (value < 0.0 || value > 90.0) {
            table.fail(key, fmt::format("'{}' is {}, expected 0 to 90 degrees", key, value));
        }
    };
    const auto length = [&](std::string_view key, double& value) {
        value = table.number(key, value);
        if (value < 0.0) table.fail(key, fmt::format("'{}' is {}, expected 0 or more", key, value));
    };
    if (table.has("touch")) intent.touch = table.positive("touch");
    angle("steepest_footing", intent.steepest_footing_degrees);
    angle("ceiling_within", intent.ceiling_within_degrees);
    length("lowest_step", intent.lowest_step);
    length("tallest_step", intent.tallest_step);
    if (!(intent.tallest_step > intent.lowest_step)) {
        table.fail(table.has("tallest_step") ? "tallest_step" : "lowest_step",
                   fmt::format("'tallest_step' is {} and 'lowest_step' {}, expected the tallest to be more",
                               intent.tallest_step, intent.lowest_step));
    }
    length("ahead_step", intent.ahead_step);
    if (table.has("tread")) intent.tread = table.positive("tread");
    length("ahead_wall", intent.ahead_wall);
    length("ahead_drop", intent.ahead_drop);
    length("deepest_drop", intent.deepest_drop);
    length("ahead_ledge", intent.ahead_ledge);
    if (table.has("ledge_between")) {
        const Vec<2> between = table.vector<2>("ledge_between");
        if (between[0] > between[1]) {
            table.fail("ledge_between",
                       fmt::format("'ledge_between' is [{}, {}], expected the lower height first", between[0],
                                   between[1]));
        }
        intent.ledge_between = {between[0], between[1]};
    }
    if (table.has("ahead_move")) read_planned_move(table, intent);
    if (table.has("forgive")) {
        const TableReader forgive = table.table("forgive");
        const auto amount = [&](std::string_view key, double& value) {
            value = forgive.number(key, value);
            if (value < 0.0) forgive.fail(key, fmt::format("'{}' is {}, expected 0 or more", key, value));
        };
        amount("late", intent.forgive.late);
        amount("early", intent.forgive.early);
        amount("hold", intent.forgive.hold);
        amount("after_take_off", intent.forgive.after_take_off);
        if (intent.forgive.hold > 0.0 && intent.forgive.hold <= intent.touch)
            forgive.fail("hold", fmt::format("'hold' is {}, expected more than touch, {}",
                                             intent.forgive.hold, intent.touch));
    }
    return intent;
}

/// What members can name, and conditions be about.
struct Known {
    std::vector<std::string> members;  // probes, and signals declared before
    std::vector<std::string> probes;
    std::vector<std::string> layers;
};

Group read_group(const TableReader& table, const Known& known);

/// A list of members: names, or tables with a condition or a group of their own.
std::vector<Member> read_members(const TableReader& table, std::string_view key, const Known& known) {
    constexpr const char* expected = "the name of a probe, or a table";
    std::vector<Member> members;
    const std::size_t count = table.length(key, "a list of probes");
    for (std::size_t i = 0; i < count; ++i) {
        const auto name = table.text_at(key, i);
        if (name) {
            if (std::find(known.members.begin(), known.members.end(), *name) == known.members.end()) {
                const std::string hint = suggestion(*name, known.members);
                std::string all;
                for (const std::string& other : known.members) all += (all.empty() ? "" : ", ") + other;
                table.fail_at(key, i,
                              fmt::format("there is no probe '{}'{}", *name,
                                          hint.empty() ? ", expected one of " + all : hint));
            }
            for (const Member& other : members) {
                if (other.name == *name && !other.has_condition())
                    table.fail_at(key, i, fmt::format("'{}' names \"{}\" twice", key, *name));
            }
            members.emplace_back(*name);
            continue;
        }
        const TableReader element = table.table_at(key, i, "signal[].any[].", expected);
        Member& member = members.emplace_back();
        if (!element.has("probe")) {
            for (const std::string_view condition : {"angle", "distance", "layers"}) {
                if (element.has(condition))
                    element.fail(condition,
                                 fmt::format("'{}' needs 'probe', the one it is about", condition));
            }
            member.group.push_back(read_group(element, known));
            continue;
        }
        for (const std::string_view group : {"any", "all", "none", "at_least"}) {
            if (element.has(group)) element.fail(group, "a member is either a probe or a group, not both");
        }
        member.name = element.text("probe");
        require_known(element, "probe", {member.name}, known.probes, "probe");
        if (element.has("angle")) member.angle_degrees = read_angles(element, "angle");
        if (element.has("distance")) {
            const Vec<2> distance = element.vector<2>("distance");
            if (!(0.0 <= distance[0] && distance[0] <= distance[1]))
                element.fail("distance", "'distance' needs two lengths of 0 or more, the lower first");
            member.distance = {distance[0], distance[1]};
        }
        if (element.has("layers")) {
            member.layers = element.texts("layers");
            require_known(element, "layers", member.layers, known.layers, "layer");
        }
    }
    if (members.empty()) table.fail(key, fmt::format("'{}' is empty, expected at least one probe", key));
    return members;
}

Group read_group(const TableReader& table, const Known& known) {
    Group group;
    if (table.has("any")) group.any = read_members(table, "any", known);
    if (table.has("all")) group.all = read_members(table, "all", known);
    if (table.has("none")) group.none = read_members(table, "none", known);
    if (table.has("at_least")) {
        const TableReader at_least = table.table("at_least");
        group.at_least.of = read_members(at_least, "of", known);
        const std::int64_t count = at_least.integer("count");
        const std::size_t most = group.at_least.of.size();
        if (count < 1 || count > static_cast<std::int64_t>(most)) {
            at_least.fail(
                "count",
                fmt::format("'count' is {}, expected 1 to {}, the number of probes in 'of'", count, most));
        }
        group.at_least.count = static_cast<std::size_t>(count);
    }
    if (group.any.empty() && group.all.empty() && group.none.empty() && group.at_least.of.empty())
        table.fail("name", "it names no probe, expected any, all, none or at_least");
    return group;
}

double read_seconds(const TableReader& table, std::string_view key) {
    const double seconds = table.number(key, 0.0);
    if (seconds < 0.0) table.fail(key, fmt::format("'{}' is {}, expected 0 seconds or more", key, seconds));
    return seconds;
}

Signal read_signal(const TableReader& table, const Known& known, const std::vector<std::string>& stances) {
    std::array<std::string_view, all_claims.size()> claims;
    std::transform(all_claims.begin(), all_claims.end(), claims.begin(),
                   [](Claim claim) { return name_of(claim); });
    static constexpr std::array<std::string_view, 3> ways = {"heading", "drive", "velocity"};
    Signal signal;
    signal.name = table.text("name");
    signal.claims.reset();
    if (table.has("claims")) signal.claims = all_claims[table.choice("claims", claims)];
    for (const std::string_view key : {"stance", "of", "toward", "gives"}) {
        if (table.has(key) && !signal.claims)
            table.fail(key,
                       fmt::format("'{}' is for signals that claim a truth, this one has no 'claims'", key));
    }
    if (table.has("of")) {
        signal.of = table.texts("of");
        require_known(table, "of", signal.of, known.layers, "layer");
        if (signal.of.empty()) table.fail("of", "'of' is empty: no truth would be left");
    }
    if (table.has("toward")) {
        signal.toward = static_cast<Toward>(table.choice("toward", ways));
        if (!is_toward(*signal.claims))
            table.fail("toward", fmt::format("'toward' is for claims about a direction, not for {}",
                                             name_of(signal.claims)));
    }
    if (table.has("stance")) {
        signal.stance = table.text("stance");
        require_known(table, "stance", {signal.stance}, stances, "stance");
        if (signal.claims != Claim::headroom && signal.claims != Claim::ledge) {
            table.fail("stance",
                       fmt::format("'stance' is for signals that claim headroom or ledge, this one claims {}",
                                   name_of(signal.claims)));
        }
    } else if (signal.claims == Claim::headroom) {
        table.fail("claims", "a signal that claims headroom needs 'stance', the one that is to fit");
    }
    Group group = read_group(table, known);
    signal.any = std::move(group.any);
    signal.all = std::move(group.all);
    signal.none = std::move(group.none);
    signal.at_least = std::move(group.at_least);
    signal.settle = read_seconds(table, "settle");
    signal.grace = read_seconds(table, "grace");
    if (table.has("mute_after")) {
        const TableReader mute = table.table("mute_after");
        signal.mute_after.event = mute.text("event");
        if (signal.mute_after.event.empty()) mute.fail("event", "'event' is empty, expected its name");
        (void)mute.number("seconds");
        signal.mute_after.seconds = read_seconds(mute, "seconds");
    }
    if (table.has("gives")) {
        const TableReader gives = table.table("gives");
        std::array<std::string_view, all_values.size() - 1> words;
        std::transform(all_values.begin() + 1, all_values.end(), words.begin(),
                       [](Value value) { return name_of(value); });
        signal.gives = all_values[gives.choice("value", words) + 1];
        signal.gives_from = gives.text("from");
        require_known(gives, "from", {signal.gives_from}, known.probes, "probe");
    }
    return signal;
}

Reflex read_reflex(const TableReader& table, const std::vector<std::string>& signals,
                   const std::vector<std::string>& stances) {
    std::array<std::string_view, all_reflexes.size()> words;
    std::transform(all_reflexes.begin(), all_reflexes.end(), words.begin(),
                   [](ReflexKind kind) { return name_of(kind); });
    static constexpr std::array<std::string_view, 2> states = {"on", "off"};
    static constexpr std::array<std::string_view, 2> axes = {"across_up", "along_up"};
    Reflex reflex;
    reflex.on = table.text("on");
    require_known(table, "on", {reflex.on}, signals, "signal");
    reflex.kind = all_reflexes[table.choice("do", words)];
    const auto only_for = [&](std::string_view key, std::initializer_list<ReflexKind> kinds) {
        if (!table.has(key) || std::find(kinds.begin(), kinds.end(), reflex.kind) != kinds.end()) return;
        table.fail(key, fmt::format("'{}' is not for {}", key, name_of(reflex.kind)));
    };
    only_for("kickback", {ReflexKind::stop_rise});
    only_for("speed", {ReflexKind::press_down});
    only_for("by", {ReflexKind::lift_over, ReflexKind::hug_ground});
    only_for("axis", {ReflexKind::cancel_axis});
    only_for("stance", {ReflexKind::refuse_stance});
    if (table.has("when")) reflex.when_off = table.choice("when", states) == 1;
    reflex.speed = table.number(table.has("kickback") ? "kickback" : "speed", 0.0);
    if (reflex.speed < 0.0)
        table.fail(table.has("kickback") ? "kickback" : "speed", "a speed of 0 or more is expected");
    const bool moves = reflex.kind == ReflexKind::lift_over || reflex.kind == ReflexKind::hug_ground;
    if (moves) reflex.by = table.positive("by");
    if (table.has("axis")) reflex.axis = static_cast<ReflexAxis>(table.choice("axis", axes));
    if (reflex.kind == ReflexKind::refuse_stance) {
        reflex.stance = table.text("stance");
        require_known(table, "stance", {reflex.stance}, stances, "stance");
    }
    return reflex;
}

template <class Named>
void require_new_name(const TableReader& table, const std::vector<Named>& things, const std::string& what) {
    const std::string name = table.text("name");
    for (const Named& thing : things) {
        if (thing.name == name) table.fail("name", what + " '" + name + "' is named twice");
    }
}

/// A thing of that name is replaced, a new one added.
template <class Named>
void put(std::vector<Named>& things, Named thing) {
    const auto same = std::find_if(things.begin(), things.end(),
                                   [&](const Named& other) { return other.name == thing.name; });
    if (same != things.end()) {
        *same = std::move(thing);
    } else {
        things.push_back(std::move(thing));
    }
}

template <int D>
void read_body(const TableReader& table, bool extends, const Level<D>& level, Faults& faults, Body<D>& body) {
    if (!extends || table.has("meets")) {
        faults.in([&] {
            body.meets = table.texts("meets");
            require_known(table, "meets", body.meets, level.layers(), "layer");
            if (body.meets.empty())
                table.fail("meets", "'meets' is empty: the body would fall through everything");
        });
    }
    if (table.has("layer")) {
        faults.in([&] {
            body.layer = table.text("layer");
            require_known(table, "layer", {body.layer}, level.layers(), "layer");
        });
    }
    faults.in([&] { body.turns = table.flag("turns", body.turns); });
    if (table.has("faces"))
        faults.in([&] { body.faces = static_cast<Faces>(table.choice("faces", face_words)); });
    std::vector<Stance<D>> own;
    table.each("stance", faults, [&](const TableReader& stance) {
        require_new_name(stance, own, "stance");
        own.push_back(read_stance<D>(stance));
    });
    for (Stance<D>& stance : own) put(body.stances, std::move(stance));
    if (body.stances.empty() && table.names_in("stance").empty())
        table.fail("stance", "the body has no stance, expected at least one [[body.stance]]");
}

void append(std::vector<std::string>& names, const std::vector<std::string>& more) {
    for (const std::string& name : more) {
        if (std::find(names.begin(), names.end(), name) == names.end()) names.push_back(name);
    }
}

template <int D>
Rig<D> rig_of(const std::string& text, const std::string& name, const Level<D>& level,
              std::vector<std::string> read_already) {
    const TomlFile file(text, name);
    const TableReader root(file, rig_file_keys(), "hollow-probe rig 1");
    const std::int64_t dimensions = root.integer("dimensions");
    if (dimensions != 2 && dimensions != 3) {
        root.fail("dimensions", fmt::format("'dimensions' is {}, expected 2 or 3", dimensions));
    }
    if (dimensions != D) {
        root.fail("dimensions", fmt::format("the rig has dimensions = {} but the level has dimensions = {}",
                                            dimensions, D));
    }
    Rig<D> rig;
    const bool extends = root.has("extends");
    if (extends) {
        constexpr std::size_t deepest = 16;
        const std::filesystem::path base = std::filesystem::path(name).parent_path() / root.text("extends");
        const std::string path = base.lexically_normal().string();
        read_already.push_back(std::filesystem::path(name).lexically_normal().string());
        if (std::find(read_already.begin(), read_already.end(), path) != read_already.end() ||
            read_already.size() > deepest)
            root.fail("extends", "'" + root.text("extends") + "' extends this file in turn: a circle");
        if (!std::filesystem::is_regular_file(base))
            root.fail("extends", "there is no file '" + base.string() + "'");
        rig = rig_of<D>(read_toml_text(path), path, level, read_already);
    }
    Faults faults;
    if (!extends || root.has("body"))
        faults.in([&] { read_body<D>(root.table("body"), extends, level, faults, rig.body); });
    if (root.has("intent")) faults.in([&] { rig.intent = read_intent(root.table("intent"), rig.intent); });
    if (root.has("reads")) {
        static constexpr std::array<std::string_view, 2> words = {"after_move", "before_move"};
        faults.in([&] { rig.reads = static_cast<Reads>(root.choice("reads", words)); });
    }
    std::vector<std::string> stances = names_of(rig.body.stances);
    append(stances, root.names_in("body", "stance"));
    std::vector<Probe<D>> own_probes;
    root.each("probe", faults, [&](const TableReader& probe) {
        require_new_name(probe, own_probes, "probe");
        own_probes.push_back(read_probe<D>(probe, level.layers(), stances));
    });
    for (Probe<D>& probe : own_probes) put(rig.probes, std::move(probe));
    // What names a thing with something wrong is not wrong for that.
    Known known{names_of(rig.probes), {}, level.layers()};
    append(known.probes, root.names_in("probe"));
    std::vector<std::string> signals = names_of(rig.signals);
    std::vector<Signal> own_signals;
    root.each("signal", faults, [&](const TableReader& signal) {
        const std::string own = signal.text("name");
        known.members = known.probes;
        std::copy_if(signals.begin(), signals.end(), std::back_inserter(known.members),
                     [&](const std::string& earlier) { return earlier != own; });
        append(signals, {own});
        require_new_name(signal, own_signals, "signal");
        own_signals.push_back(read_signal(signal, known, stances));
        put(rig.signals, own_signals.back());
    });
    // A rig that states reflexes has these and no others.
    if (root.has("reflex")) rig.reflexes.clear();
    root.each("reflex", faults, [&](const TableReader& reflex) {
        rig.reflexes.push_back(read_reflex(reflex, signals, stances));
    });
    faults.tell();
    root.placed("probe", [&] { check(rig); });
    return rig;
}

}  // namespace

template <int D>
Rig<D> rig_from_toml(const std::string& text, const std::string& name, const Level<D>& level) {
    return rig_of<D>(text, name, level, {});
}

template <int D>
Rig<D> load_rig(const std::string& path, const Level<D>& level) {
    return rig_from_toml<D>(read_toml_text(path), path, level);
}

template Rig<2> load_rig<2>(const std::string&, const Level<2>&);
template Rig<3> load_rig<3>(const std::string&, const Level<3>&);
template Rig<2> rig_from_toml<2>(const std::string&, const std::string&, const Level<2>&);
template Rig<3> rig_from_toml<3>(const std::string&, const std::string&, const Level<3>&);

}  // namespace hollow_probe
