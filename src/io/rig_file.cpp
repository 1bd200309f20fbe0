#include "hollow_probe/io/rig_file.hpp"

#include <algorithm>

#include "io/toml_reader.hpp"

namespace hollow_probe {
namespace {

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

template <int D>
Vec<D> read_along(const TableReader& table) {
    if (!table.has("along")) return -Vec<D>::Unit(1);
    if (!table.is_text("along")) {
        const Vec<D> along = table.vector<D>("along");
        if (along.norm() == 0.0) table.fail("along", "'along' has no length, expected a direction");
        return along.normalized();
    }
    static constexpr std::array<std::string_view, 6> words = {"down",     "up",   "forward",
                                                              "backward", "left", "right"};
    const std::size_t word = table.choice("along", std::span(words).first(D == 2 ? 4 : 6));
    const int axis = word < 2 ? 1 : word < 4 ? 0 : D - 1;
    const bool negative = word == 0 || word == 3 || word == 4;
    return (negative ? -1.0 : 1.0) * Vec<D>::Unit(axis);
}

template <int D>
Probe<D> read_probe(const TableReader& table, const std::vector<std::string>& layers,
                    const std::vector<std::string>& stances) {
    static constexpr std::array<std::string_view, 2> kinds = {"ray", "cast"};
    static constexpr std::array<std::string_view, 2> takes = {"first", "all"};
    static constexpr std::array<std::string_view, 2> insides = {"report", "ignore"};
    Probe<D> probe;
    probe.name = table.text("name");
    probe.kind = table.choice("kind", kinds) == 0 ? ProbeKind::ray : ProbeKind::cast;
    if (probe.kind == ProbeKind::cast) {
        probe.shape = read_shape<D>(table);
    } else if (table.has("shape")) {
        table.fail("shape", "a ray has no shape; expected kind = \"cast\" or no 'shape'");
    }
    if (table.has("from")) probe.from = table.vector<D>("from");
    probe.along = read_along<D>(table);
    probe.reach = table.positive("reach");
    probe.sees = table.texts("sees");
    require_known(table, "sees", probe.sees, layers, "layer");
    if (table.has("accept")) {
        const TableReader accept = table.table("accept");
        if (accept.has("angle")) {
            const Vec<2> angle = accept.vector<2>("angle");
            if (!(0.0 <= angle[0] && angle[0] <= angle[1] && angle[1] <= 180.0)) {
                accept.fail(
                    "angle",
                    fmt::format("'angle' is [{}, {}], expected two angles from 0 to 180, the lower first",
                                angle[0], angle[1]));
            }
            probe.accept_least_degrees = angle[0];
            probe.accept_most_degrees = angle[1];
        }
    }
    if (table.has("take")) probe.take = table.choice("take", takes) == 0 ? Take::first : Take::all;
    if (table.has("if_inside")) {
        probe.if_inside = table.choice("if_inside", insides) == 0 ? IfInside::report : IfInside::ignore;
    }
    if (table.has("stances")) {
        probe.stances = table.texts("stances");
        require_known(table, "stances", probe.stances, stances, "stance");
        if (probe.stances.empty())
            table.fail("stances", "'stances' is empty: the probe would never be mounted");
    }
    return probe;
}

Intent read_intent(const TableReader& table) {
    Intent intent;
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
    return intent;
}

Signal read_signal(const TableReader& table, const std::vector<std::string>& probes,
                   const std::vector<std::string>& stances) {
    std::array<std::string_view, all_claims.size()> claims;
    std::transform(all_claims.begin(), all_claims.end(), claims.begin(),
                   [](Claim claim) { return name_of(claim); });
    Signal signal;
    signal.name = table.text("name");
    signal.claims = all_claims[table.choice("claims", claims)];
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
    const auto group = [&](std::string_view key, std::vector<std::string>& members) {
        if (!table.has(key)) return;
        members = table.texts(key);
        require_known(table, key, members, probes, "probe");
        if (members.empty()) table.fail(key, fmt::format("'{}' is empty, expected at least one probe", key));
    };
    group("any", signal.any);
    group("all", signal.all);
    group("none", signal.none);
    if (table.has("at_least")) {
        const TableReader at_least = table.table("at_least");
        auto& of = signal.at_least.of;
        of = at_least.texts("of");
        require_known(at_least, "of", of, probes, "probe");
        const std::int64_t count = at_least.integer("count");
        if (count < 1 || count > static_cast<std::int64_t>(of.size())) {
            at_least.fail("count",
                          fmt::format("'count' is {}, expected 1 to {}, the number of probes in 'of'", count,
                                      of.size()));
        }
        signal.at_least.count = static_cast<std::size_t>(count);
    }
    if (signal.any.empty() && signal.all.empty() && signal.none.empty() && signal.at_least.of.empty()) {
        table.fail("name",
                   "signal '" + signal.name + "' names no probe, expected any, all, none or at_least");
    }
    return signal;
}

template <class Named>
void require_new_name(const TableReader& table, const std::vector<Named>& things, const std::string& what) {
    const std::string name = table.text("name");
    for (const Named& thing : things) {
        if (thing.name == name) table.fail("name", what + " '" + name + "' is named twice");
    }
}

}  // namespace

template <int D>
Rig<D> rig_from_toml(const std::string& text, const std::string& name, const Level<D>& level) {
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
    const TableReader body = root.table("body");
    rig.body.meets = body.texts("meets");
    require_known(body, "meets", rig.body.meets, level.layers(), "layer");
    if (rig.body.meets.empty())
        body.fail("meets", "'meets' is empty: the body would fall through everything");
    for (const TableReader& stance : body.tables("stance")) {
        require_new_name(stance, rig.body.stances, "stance");
        rig.body.stances.push_back(read_stance<D>(stance));
    }
    if (rig.body.stances.empty())
        body.fail("stance", "the body has no stance, expected at least one [[body.stance]]");
    if (root.has("intent")) rig.intent = read_intent(root.table("intent"));
    for (const TableReader& probe : root.tables("probe")) {
        require_new_name(probe, rig.probes, "probe");
        rig.probes.push_back(read_probe<D>(probe, level.layers(), names_of(rig.body.stances)));
    }
    for (const TableReader& signal : root.tables("signal")) {
        require_new_name(signal, rig.signals, "signal");
        rig.signals.push_back(read_signal(signal, names_of(rig.probes), names_of(rig.body.stances)));
    }
    root.placed("probe", [&] { check(rig); });
    return rig;
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
