#include "hollow_probe/io/rig_file.hpp"

#include <algorithm>
#include <filesystem>

#include "io/field_reader.hpp"
#include "io/taken_over.hpp"

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
    if (kind == "ball") return RoundedHull<D>::ball(Vec<D>::zero(), shape.positive("radius"));
    if (kind == "box") {
        const Vec<D> size = shape.vector<D>("size");
        return shape.placed("size", [&] { return RoundedHull<D>::box(Vec<D>::zero(), size); });
    }
    if (kind == "capsule") {
        const double radius = shape.positive("radius");
        const double height = shape.positive("height");
        if (height < 2.0 * radius) shape.fail("height", "'height' is less than twice the radius");
        const Vec<D> end = (0.5 * height - radius) * Vec<D>::unit(1);
        return RoundedHull<D>::capsule(-end, end, radius);
    }
    const double radius = read_hull_radius(shape);
    return shape.placed("points", [&] { return RoundedHull<D>::hull(shape.vectors<D>("points"), radius); });
}

/// A reach, or two by state or speed.
template <int D>
void read_reach(const TableReader& table, const FieldReader<Probe<D>>& fields) {
    fields.read("reach");
    if (!table.is_table("reach")) return;
    const TableReader reach = table.table("reach");
    const bool by_state = reach.has("grounded") || reach.has("airborne");
    const bool by_speed = reach.has("base") || reach.has("per_speed");
    if (by_state == by_speed) {
        table.fail("reach",
                   "'reach' is a table, expected { grounded = …, airborne = … } or "
                   "{ base = …, per_speed = … }");
    }
    fields.read(by_state ? "reach.airborne" : "reach.base");
    fields.read(by_state ? "reach.grounded" : "reach.per_speed");
}

template <int D>
void read_spread(const TableReader& probe, const FieldReader<Probe<D>>& fields, Spread& spread) {
    static constexpr std::array<std::string_view, 4> kinds = {"row", "fan", "ring", "grid"};
    const TableReader table = probe.table("spread");
    const std::string kind = table.one_of(kinds);
    if (D == 2 && (kind == "ring" || kind == "grid"))
        table.fail(kind, "'" + kind + "' is for 3D rigs, expected row or fan");
    (void)table.table(kind);
    fields.read_below("spread." + kind);
    if (kind == "grid") {
        const TableReader grid = table.table(kind);
        const Vec<2> counts = grid.vector<2>("counts");
        for (std::size_t i = 0; i < 2; ++i) {
            const double count = counts[static_cast<std::ptrdiff_t>(i)];
            if (count != std::floor(count))
                grid.fail_at("counts", i, fmt::format("a count is {}, expected a whole number", count));
        }
        if (spread.line_count() > most_lines)
            grid.fail("counts", fmt::format("'counts' makes {} lines, expected at most {}",
                                            spread.line_count(), most_lines));
    }
    fields.read("spread.least");
    if (spread.least > spread.line_count()) {
        table.fail("least", fmt::format("'least' is {}, expected 1 to {}, the number of lines", spread.least,
                                        spread.line_count()));
    }
}

template <int D>
Probe<D> read_probe(const TableReader& table, const KnownNames& known) {
    const auto kind =
        static_cast<ProbeKind>(table.choice("kind", field_named(probe_fields<D>(), "kind").words));
    Probe<D> probe;
    const FieldReader<Probe<D>> fields(table, probe_fields<D>(), static_cast<std::size_t>(kind), known, D,
                                       probe);
    fields.refuse_foreign([&](std::string_view key, std::uint32_t) {
        return fmt::format("a {} has no {}, expected another kind or no '{}'", name_of(kind), key, key);
    });
    if (kind == ProbeKind::cast) probe.of_kind = LineProbe<D>{read_shape<D>(table)};
    if (kind == ProbeKind::zone) probe.of_kind = ZoneProbe<D>{read_shape<D>(table)};
    if (kind == ProbeKind::shift) probe.of_kind = ShiftProbe<D>{};
    if (kind == ProbeKind::contact) probe.of_kind = ContactProbe{};
    fields.read_all_but({"shape", "reach", "spread"});
    read_reach<D>(table, fields);
    if (table.has("spread")) read_spread<D>(table, fields, probe.line().spread);
    return probe;
}

/// Keys not given are left as they are.
Intent read_intent(const TableReader& table, Intent intent) {
    FieldReader<Intent>(table, intent_fields(), 0, {}, 0, intent).read_all_but({});
    if (!(intent.tallest_step > intent.lowest_step)) {
        table.fail(table.has("tallest_step") ? "tallest_step" : "lowest_step",
                   fmt::format("'tallest_step' is {} and 'lowest_step' {}, expected the tallest to be more",
                               intent.tallest_step, intent.lowest_step));
    }
    if (intent.forgive.hold > 0.0 && intent.forgive.hold <= intent.touch)
        table.fail("forgive", fmt::format("'hold' is {}, expected more than touch, {}", intent.forgive.hold,
                                          intent.touch));
    return intent;
}

Group read_group(const TableReader& table, const KnownNames& known, const std::vector<std::string>& nameable);

/// A list of members: names, or tables with a condition or a group of their own.
std::vector<Member> read_members(const TableReader& table, std::string_view key, const KnownNames& known,
                                 const std::vector<std::string>& nameable) {
    constexpr const char* expected = "the name of a probe, or a table";
    std::vector<Member> members;
    const std::size_t count = table.length(key, "a list of probes");
    for (std::size_t i = 0; i < count; ++i) {
        const auto name = table.text_at(key, i);
        if (name) {
            if (std::find(nameable.begin(), nameable.end(), *name) == nameable.end()) {
                const std::string hint = suggestion(*name, nameable);
                std::string all;
                for (const std::string& other : nameable) all += (all.empty() ? "" : ", ") + other;
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
            member.group.push_back(read_group(element, known, nameable));
            continue;
        }
        for (const std::string_view group : {"any", "all", "none", "at_least"}) {
            if (element.has(group)) element.fail(group, "a member is either a probe or a group, not both");
        }
        FieldReader<Member>(element, member_fields(), 0, known, 0, member)
            .read_all_but({"any", "all", "none", "at_least"});
    }
    if (members.empty()) table.fail(key, fmt::format("'{}' is empty, expected at least one probe", key));
    return members;
}

Group read_group(const TableReader& table, const KnownNames& known,
                 const std::vector<std::string>& nameable) {
    Group group;
    if (table.has("any")) group.any = read_members(table, "any", known, nameable);
    if (table.has("all")) group.all = read_members(table, "all", known, nameable);
    if (table.has("none")) group.none = read_members(table, "none", known, nameable);
    if (table.has("at_least")) {
        const TableReader at_least = table.table("at_least");
        group.at_least.of = read_members(at_least, "of", known, nameable);
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

Signal read_signal(const TableReader& table, const KnownNames& known,
                   const std::vector<std::string>& nameable) {
    Signal signal;
    signal.claims.reset();
    if (table.has("claims"))
        signal.claims = all_claims[table.choice("claims", field_named(signal_fields(), "claims").words)];
    const std::size_t kind = signal.claims ? static_cast<std::size_t>(*signal.claims) : all_claims.size();
    const FieldReader<Signal> fields(table, signal_fields(), kind, known, 0, signal);
    fields.refuse_foreign([&](std::string_view key, std::uint32_t kinds) {
        return signal.claims
                   ? fmt::format("'{}' is for signals that claim {}, this one claims {}", key,
                                 kinds_text(kinds, claim_words), name_of(*signal.claims))
                   : fmt::format("'{}' is for signals that claim a truth, this one has no 'claims'", key);
    });
    if (signal.claims == Claim::headroom && !table.has("stance"))
        table.fail("claims", "a signal that claims headroom needs 'stance', the one that is to fit");
    fields.read_all_but({"claims", "any", "all", "none", "at_least"});
    signal.members = read_group(table, known, nameable);
    return signal;
}

Reflex read_reflex(const TableReader& table, const KnownNames& known) {
    Reflex reflex;
    reflex.kind = all_reflexes[table.choice("do", field_named(reflex_fields(), "do").words)];
    const FieldReader<Reflex> fields(table, reflex_fields(), static_cast<std::size_t>(reflex.kind), known, 0,
                                     reflex);
    fields.refuse_foreign([&](std::string_view key, std::uint32_t kinds) {
        return fmt::format("'{}' is for {}, not for {}", key,
                           kinds_text(kinds, field_named(reflex_fields(), "do").words), name_of(reflex.kind));
    });
    fields.read_all_but({});
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

/// The file's own, in place of those of their names and after the others; without those left out.
void read_reflexes(const TableReader& root, const KnownNames& known, Faults& faults,
                   std::vector<Reflex>& reflexes) {
    if (root.has("leaves_out")) {
        faults.in([&] {
            std::vector<std::string> names;
            names.reserve(reflexes.size());
            for (const Reflex& reflex : reflexes) names.push_back(name_of(reflex));
            const std::vector<std::string> out = root.texts("leaves_out");
            require_known(root, "leaves_out", out, names, "reflex");
            std::erase_if(reflexes, [&](const Reflex& reflex) {
                return std::find(out.begin(), out.end(), name_of(reflex)) != out.end();
            });
        });
    }
    std::vector<Reflex> own;
    root.each("reflex", faults, [&](const TableReader& table) {
        Reflex reflex = read_reflex(table, known);
        if (table.has("name")) require_new_name(table, own, "reflex");
        own.push_back(std::move(reflex));
    });
    std::vector<Reflex> added;
    std::vector<std::string> replaced;
    for (Reflex& reflex : own) {
        const std::string name = name_of(reflex);
        const auto same = std::find_if(reflexes.begin(), reflexes.end(),
                                       [&](const Reflex& other) { return name_of(other) == name; });
        const bool another = std::find(replaced.begin(), replaced.end(), name) != replaced.end();
        if (same == reflexes.end() || another) {
            added.push_back(std::move(reflex));
            continue;
        }
        *same = std::move(reflex);
        reflexes.erase(std::remove_if(std::next(same), reflexes.end(),
                                      [&](const Reflex& other) { return name_of(other) == name; }),
                       reflexes.end());
        replaced.push_back(name);
    }
    std::move(added.begin(), added.end(), std::back_inserter(reflexes));
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

/// The file that one extends, with all that it extends in turn; nothing where there is none. They are known
/// to be there.
std::optional<TomlFile> whole_parent_of(const TomlFile& file) {
    const auto parent = file.root["extends"].value<std::string>();
    if (!parent) return std::nullopt;
    const std::string path =
        (std::filesystem::path(file.name).parent_path() / *parent).lexically_normal().string();
    TomlFile whole(read_toml_text(path), path);
    if (const auto further = whole_parent_of(whole)) {
        take_over_lists(whole.root, further->root, [](const toml::node&, const std::string&) {});
        fill_in(whole.root, further->root);
    }
    return whole;
}

/// Puts into a file's lists what "..." stands for in them.
void take_over_lists_of_parents(TomlFile& file) {
    const auto parent = whole_parent_of(file);
    if (!parent) return;
    take_over_lists(file.root, parent->root, [&](const toml::node& node, const std::string& words) {
        const auto place = node.source().begin;
        throw InputError(fmt::format("{}:{}:{}: {}", file.name, place.line, place.column, words));
    });
}

template <int D>
Rig<D> rig_of(const std::string& text, const std::string& name, const Level<D>& level,
              std::vector<std::string> read_already) {
    TomlFile file(text, name);
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
        take_over_lists_of_parents(file);
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
    KnownNames known{level.layers(), stances, {}, {}};
    std::vector<Probe<D>> own_probes;
    root.each("probe", faults, [&](const TableReader& probe) {
        require_new_name(probe, own_probes, "probe");
        known.probes = names_of(rig.probes);  // those declared before
        append(known.probes, names_of(own_probes));
        own_probes.push_back(read_probe<D>(probe, known));
    });
    for (Probe<D>& probe : own_probes) put(rig.probes, std::move(probe));
    // What names a thing with something wrong is not wrong for that.
    known.probes = names_of(rig.probes);
    append(known.probes, root.names_in("probe"));
    known.signals = names_of(rig.signals);
    std::vector<Signal> own_signals;
    root.each("signal", faults, [&](const TableReader& signal) {
        const std::string own = signal.text("name");
        std::vector<std::string> nameable = known.probes;  // and signals declared before
        std::copy_if(known.signals.begin(), known.signals.end(), std::back_inserter(nameable),
                     [&](const std::string& earlier) { return earlier != own; });
        append(known.signals, {own});
        require_new_name(signal, own_signals, "signal");
        own_signals.push_back(read_signal(signal, known, nameable));
        put(rig.signals, own_signals.back());
    });
    read_reflexes(root, known, faults, rig.reflexes);
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

namespace {

/// Every layer that a table names, and those within it.
void collect_layers(const toml::table& table, std::vector<std::string>& layers) {
    static constexpr std::array<std::string_view, 5> keys = {"meets", "sees", "of", "layers", "layer"};
    for (const auto& [key, node] : table) {
        const bool names = std::find(keys.begin(), keys.end(), key.str()) != keys.end();
        if (const toml::table* const inner = node.as_table()) collect_layers(*inner, layers);
        if (const auto name = node.value<std::string>(); names && name) append(layers, {*name});
        const toml::array* const list = node.as_array();
        for (std::size_t i = 0; list != nullptr && i < list->size(); ++i) {
            if (const toml::table* const inner = list->get(i)->as_table()) collect_layers(*inner, layers);
            const auto name = list->get(i)->value<std::string>();
            if (names && name && *name != "...") append(layers, {*name});
        }
    }
}

}  // namespace

bool is_rig_file(const std::string& path) {
    const std::string ending = std::filesystem::path(path).extension().string();
    if (ending == ".glb" || ending == ".gltf" || ending == ".obj" || ending == ".stl") return false;
    const TomlFile file(read_toml_text(path), path);
    return file.root["format"].value_or(std::string()).starts_with("hollow-probe rig");
}

int dimensions_of_rig(const std::string& path) {
    const TomlFile file(read_toml_text(path), path);
    const TableReader root(file, rig_file_keys(), "hollow-probe rig 1");
    const std::int64_t dimensions = root.integer("dimensions");
    if (dimensions != 2 && dimensions != 3)
        root.fail("dimensions", fmt::format("'dimensions' is {}, expected 2 or 3", dimensions));
    return static_cast<int>(dimensions);
}

template <int D>
Rig<D> load_rig(const std::string& path) {
    std::vector<std::string> layers;
    std::string file_name = path;
    constexpr int deepest = 16;
    for (int depth = 0; depth <= deepest; ++depth) {
        const TomlFile file(read_toml_text(file_name), file_name);
        collect_layers(file.root, layers);
        const auto parent = file.root["extends"].value<std::string>();
        const std::filesystem::path base =
            std::filesystem::path(file_name).parent_path() / parent.value_or("");
        if (!parent || !std::filesystem::is_regular_file(base)) break;  // reading it says what is wrong
        file_name = base.string();
    }
    if (layers.empty()) layers.emplace_back("none");
    if (layers.size() > most_layers)
        throw InputError(
            fmt::format("{}:1:1: names {} layers, expected at most {}", path, layers.size(), most_layers));
    LevelBuilder<D> builder(layers);
    builder.add("floor", layers.front(), RoundedHull<D>::box(-Vec<D>::unit(1), Vec<D>::ones()));
    return load_rig<D>(path, builder.build());
}

template Rig<2> load_rig<2>(const std::string&);
template Rig<3> load_rig<3>(const std::string&);
template Rig<2> load_rig<2>(const std::string&, const Level<2>&);
template Rig<3> load_rig<3>(const std::string&, const Level<3>&);
template Rig<2> rig_from_toml<2>(const std::string&, const std::string&, const Level<2>&);
template Rig<3> rig_from_toml<3>(const std::string&, const std::string&, const Level<3>&);

}  // namespace hollow_probe
