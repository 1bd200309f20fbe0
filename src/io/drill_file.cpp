#include "hollow_probe/io/drill_file.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>

#include "hollow_probe/motion/figures.hpp"
#include "hollow_probe/motion/play.hpp"
#include "io/toml_reader.hpp"

namespace hollow_probe {
namespace {

namespace fs = std::filesystem;

constexpr std::string_view drill_format = "hollow-probe drill 1";

/// A file named in another, from where the program runs.
std::string beside(const std::string& file, const std::string& named) {
    return (fs::path(file).parent_path() / named).lexically_normal().string();
}

template <class Enum, std::size_t N>
void read_word(const TableReader& table, std::string_view key, const std::array<std::string_view, N>& words,
               Enum& value) {
    if (table.has(key)) value = static_cast<Enum>(table.choice(key, words));
}

void read_amount(const TableReader& table, std::string_view key, double& value) {
    value = table.number(key, value);
    if (value < 0.0) table.fail(key, fmt::format("'{}' is {}, expected 0 or more", key, value));
}

/// A number, or one on the ground and one in the air.
void read_by_footing(const TableReader& table, std::string_view key, ByFooting& value) {
    if (!table.is_table(key)) {
        if (table.has(key)) {
            double both = 0.0;
            read_amount(table, key, both);
            value = both;
        }
        return;
    }
    const TableReader both = table.table(key);
    read_amount(both, "grounded", value.grounded);
    read_amount(both, "airborne", value.airborne);
}

void read_if_given(const TableReader& table, std::string_view key, std::optional<double>& value) {
    if (!table.has(key)) return;
    double amount = 0.0;
    read_amount(table, key, amount);
    value = amount;
}

Motion read_motion(const TableReader& table, const std::vector<std::string>& layers) {
    static constexpr std::array<std::string_view, 4> models = {"free", "slide", "push_out", "loose"};
    static constexpr std::array<std::string_view, 2> stopped = {"lost", "kept"};
    static constexpr std::array<std::string_view, 2> approaches = {"cancel", "creep"};
    Motion motion;
    read_word(table, "model", models, motion.model);
    read_word(table, "stopped", stopped, motion.stopped);
    read_word(table, "approach", approaches, motion.approach);
    read_amount(table, "gravity", motion.gravity);
    read_amount(table, "jump_speed", motion.jump_speed);
    static constexpr std::array<std::string_view, 3> coasting = {"never", "airborne", "always"};
    read_word(table, "coasts", coasting, motion.coasts);
    read_by_footing(table, "top_speed", motion.top_speed);
    read_by_footing(table, "acceleration", motion.acceleration);
    read_by_footing(table, "drag", motion.drag);
    read_amount(table, "friction", motion.friction);
    read_amount(table, "force", motion.force);
    read_amount(table, "bounce", motion.bounce);
    motion.turns = table.flag("turns", motion.turns);
    if (table.has("grain")) motion.grain = table.positive("grain");
    if (table.has("mass")) motion.mass = table.positive("mass");
    Faults faults;
    table.each("on", faults, [&](const TableReader& on) {
        OnLayer given;
        given.layer = on.text("layer");
        if (std::find(layers.begin(), layers.end(), given.layer) == layers.end())
            on.fail("layer", fmt::format("the level has no layer '{}'{}", given.layer,
                                         suggestion(given.layer, layers)));
        read_if_given(on, "top_speed", given.top_speed);
        read_if_given(on, "acceleration", given.acceleration);
        read_if_given(on, "friction", given.friction);
        read_if_given(on, "drag", given.drag);
        motion.on.push_back(given);
    });
    faults.tell();
    return motion;
}

template <class Things>
std::vector<std::string> names_of(const Things& things) {
    std::vector<std::string> names;
    for (const auto& thing : things) names.push_back(thing.name);
    return names;
}

/// A name that is one of those known, or none.
std::string known_name(const TableReader& table, std::string_view key, const std::vector<std::string>& known,
                       const std::string& what) {
    std::string name = table.text(key, "");
    if (name.empty() || std::find(known.begin(), known.end(), name) != known.end()) return name;
    std::string list;
    for (const std::string& other : known) list += (list.empty() ? "'" : ", '") + other + "'";
    const std::string hint = suggestion(name, known);
    table.fail(key, fmt::format("{} '{}'{}", what, name, hint.empty() ? ", expected one of " + list : hint));
}

template <int D>
Cue<D> read_cue(const TableReader& table, const Rig<D>& rig) {
    Cue<D> cue;
    cue.at = table.number("at");
    if (cue.at < 0.0) table.fail("at", fmt::format("'at' is {}, expected 0 seconds or more", cue.at));
    if (table.has("drive")) cue.drive = table.vector<D>("drive");
    if (table.has("heading")) cue.heading = table.vector<D>("heading");
    cue.press = known_name(table, "press", keys_of<D>(rig), "the rig knows no key");
    cue.stance = known_name(table, "stance", names_of(rig.body.stances), "the body has no stance");
    if (!cue.drive && !cue.heading && cue.press.empty() && cue.stance.empty())
        table.fail("at", "the cue does nothing, expected drive, heading, press or stance");
    return cue;
}

template <int D>
void read_expectations(const TableReader& table, const Level<D>& level, const Rig<D>& rig,
                       std::vector<Expectation>& all) {
    const std::size_t before = all.size();
    const std::string signal = known_name(table, "signal", names_of(rig.signals), "the rig has no signal");
    for (const auto& [key, kind] :
         {std::pair{"most", Expectation::Kind::most}, {"least", Expectation::Kind::least}}) {
        if (!table.has(key)) continue;
        for (const auto& [name, limit] : table.named_numbers(key)) {
            const auto known = figure_names();
            if (std::find(known.begin(), known.end(), name) == known.end()) {
                std::string list;
                for (const char* other : known) list += std::string(list.empty() ? "" : ", ") + other;
                const std::string hint = suggestion(name, {known.begin(), known.end()});
                table.fail_in(key, name,
                              fmt::format("there is no figure '{}'{}", name,
                                          hint.empty() ? ", expected one of " + list : hint));
            }
            all.push_back({kind, name, is_of_signals(name) ? signal : "", limit, ""});
        }
    }
    for (const auto& [key, kind] : {std::pair{"reaches", Expectation::Kind::reaches},
                                    {"never_reaches", Expectation::Kind::never_reaches}}) {
        if (!table.has(key)) continue;
        Expectation expectation;
        expectation.kind = kind;
        expectation.area = table.text(key);
        std::vector<std::string> areas;
        for (const Area<D>& area : level.areas()) areas.push_back(area.name);
        if (level.find_area(expectation.area) == nullptr) {
            table.fail(key, fmt::format("the level has no area '{}'{}", expectation.area,
                                        suggestion(expectation.area, areas)));
        }
        all.push_back(expectation);
    }
    if (all.size() == before)
        table.fail("signal", "nothing is expected, expected most, least, reaches or never_reaches");
}

template <int D>
void read_start(const TableReader& root, const Level<D>& level, Drill<D>& drill) {
    if (root.has("start") == root.has("at"))
        root.fail("start", "expected either 'start', the name of a start point, or 'at'");
    if (root.has("at")) drill.at = root.vector<D>("at");
    if (root.has("start")) {
        const std::string name = root.text("start");
        const StartPoint<D>* const start = level.find_start(name);
        std::vector<std::string> known;
        for (const StartPoint<D>& other : level.starts()) known.push_back(other.name);
        if (start == nullptr)
            root.fail("start", fmt::format("the level has no start '{}'{}", name, suggestion(name, known)));
        drill.at = start->at;
        drill.heading = start->heading;
    }
    if (root.has("heading"))
        drill.heading =
            root.placed("heading", [&] { return level_heading<D>(root.vector<D>("heading"), level.up()); });
}

}  // namespace

DrillFiles files_of_drill(const std::string& path) {
    const TomlFile file(read_toml_text(path), path);
    const TableReader root(file, drill_file_keys(), drill_format);
    DrillFiles files{beside(path, root.text("level")), beside(path, root.text("rig"))};
    for (const auto& [key, named] : {std::pair{"level", files.level}, {"rig", files.rig}}) {
        if (!fs::is_regular_file(named)) root.fail(key, "there is no file '" + named + "'");
    }
    return files;
}

template <int D>
Drill<D> drill_from_toml(const std::string& text, const std::string& name, const Level<D>& level,
                         const Rig<D>& rig) {
    static constexpr std::array<std::string_view, 2> sampling = {"on_tick", "on_frame"};
    const TomlFile file(text, name);
    const TableReader root(file, drill_file_keys(), drill_format);
    Drill<D> drill;
    drill.name = fs::path(name).filename().string();
    for (const char* ending : {".toml", ".drill"}) {
        if (drill.name.ends_with(ending))
            drill.name.resize(drill.name.size() - std::string_view(ending).size());
    }
    Faults faults;
    faults.in([&] { read_start<D>(root, level, drill); });
    faults.in([&] {
        drill.stance = known_name(root, "stance", names_of(rig.body.stances), "the body has no stance");
    });
    faults.in([&] {
        if (root.has("tick_rate")) drill.tick_rate = root.positive("tick_rate");
    });
    faults.in([&] {
        if (root.has("frame_rate")) drill.frame_rate = root.positive("frame_rate");
    });
    faults.in([&] { read_amount(root, "frame_jitter", drill.frame_jitter); });
    faults.in([&] {
        double seed = 0.0;
        read_amount(root, "frame_seed", seed);
        if (seed != std::floor(seed) || seed > 1e15)
            root.fail("frame_seed", "expected a whole number of 0 or more");
        drill.frame_seed = static_cast<std::uint64_t>(seed);
    });
    faults.in([&] {
        if (root.has("frame_lengths")) drill.frame_lengths = root.numbers("frame_lengths");
    });
    faults.in([&] { read_word(root, "sampled", sampling, drill.sampled); });
    faults.in([&] { drill.seconds = root.positive("seconds"); });
    if (root.has("motion"))
        faults.in([&] { drill.motion = read_motion(root.table("motion"), level.layers()); });
    root.each("cue", faults, [&](const TableReader& cue) { drill.cues.push_back(read_cue<D>(cue, rig)); });
    root.each("loose", faults, [&](const TableReader& loose) {
        LooseSolid solid;
        solid.solid = loose.text("solid");
        solid.mass = loose.positive("mass");
        read_amount(loose, "friction", solid.friction);
        drill.loose.push_back(solid);
    });
    root.each("expect", faults, [&](const TableReader& expect) {
        read_expectations<D>(expect, level, rig, drill.expectations);
    });
    faults.tell();
    root.placed("motion", [&] { check(drill); });
    return drill;
}

template <int D>
Drill<D> load_drill(const std::string& path, const Level<D>& level, const Rig<D>& rig) {
    return drill_from_toml<D>(read_toml_text(path), path, level, rig);
}

template Drill<2> load_drill<2>(const std::string&, const Level<2>&, const Rig<2>&);
template Drill<3> load_drill<3>(const std::string&, const Level<3>&, const Rig<3>&);
template Drill<2> drill_from_toml<2>(const std::string&, const std::string&, const Level<2>&, const Rig<2>&);
template Drill<3> drill_from_toml<3>(const std::string&, const std::string&, const Level<3>&, const Rig<3>&);

}  // namespace hollow_probe
