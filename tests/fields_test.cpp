// The table of fields: limits hold alike in files, in the library and in schemas; what a field gives it
// takes; and any difference between two rigs, written into a file field by field, makes the one rig of the
// other.
#include <catch2/catch.hpp>
#include <random>
#include <sstream>

#include "hollow_probe/io/input_error.hpp"
#include "hollow_probe/io/level_file.hpp"
#include "hollow_probe/io/rig_edit.hpp"
#include "hollow_probe/io/rig_file.hpp"
#include "hollow_probe/rig/fields.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

template <int D>
Level<D> two_layers() {
    LevelBuilder<D> builder({"m", "grating"});
    builder.add("floor", "m", RoundedHull<D>::ball(Vec<D>::zero(), 1.0));
    return builder.build();
}

/// A rig with a probe of a kind named "probe", with the keys it needs and `more`; a signal, a gate, a reflex.
std::string rig_text(int dimensions, const std::string& kind, const std::string& more,
                     const std::string& signal = "", const std::string& intent = "",
                     const std::string& reflex = "do = \"zero_fall\"\n") {
    std::string needs;
    if (kind == "cast" || kind == "zone") needs += "shape = { ball = { radius = 0.25 } }\n";
    if (kind != "zone" && kind != "contact" && more.find("reach") == std::string::npos)
        needs += "reach = 0.5\n";
    if (kind == "contact" && more.find("side") == std::string::npos) needs += "side = \"below\"\n";
    return "format = \"hollow-probe rig 1\"\ndimensions = " + std::to_string(dimensions) +
           "\n[body]\nmeets = [\"m\"]\n[[body.stance]]\nname = \"upright\"\ncapsule = { radius = 0.3, height "
           "= 1.8 "
           "}\n[[body.stance]]\nname = \"crawling\"\nball = { radius = 0.25 }\n[intent]\n" +
           intent + "[[probe]]\nname = \"probe\"\nkind = \"" + kind + "\"\nsees = [\"m\"]\n" + needs + more +
           "[[signal]]\nname = \"grounded\"\nclaims = \"ground\"\nany = [\"probe\"]\n" + signal +
           "[[reflex]]\non = \"grounded\"\n" + reflex;
}

template <int D>
std::string said_of(const std::string& text) {
    try {
        (void)rig_from_toml<D>(text, "r.toml", two_layers<D>());
        return {};
    } catch (const InputError& error) {
        return error.what();
    }
}

struct Limit {
    const char* kind;
    const char* key;
    std::vector<const char*> allowed;
    std::vector<const char*> refused;
};

}  // namespace

TEST_CASE("every limit holds at equality, in files: what is just beyond is refused at its place") {
    const std::vector<Limit> of_probes = {
        {"ray", "reach = ", {"1e-9", "1e9"}, {"0", "-0.5", "inf", "nan"}},
        {"shift", "reach = ", {"0", "2"}, {"-1e-9"}},
        {"cast", "reach = { grounded = 0.5, airborne = ", {"0.1 }"}, {"0 }", "-1 }"}},
        {"cast", "reach = { per_speed = 0.01, base = ", {"0 }", "1 }"}, {"-0.1 }"}},
        {"cast", "reach = { base = 0.1, per_speed = ", {"1e-6 }"}, {"0 }", "-1 }"}},
        {"ray",
         "accept = { angle = ",
         {"[0, 180] }", "[45, 45] }"},
         {"[-0.1, 90] }", "[0, 180.1] }", "[50, 40] }"}},
        {"cast",
         "accept = { incidence = ",
         {"[0, 180] }", "[10, 84.5] }"},
         {"[-0.1, 90] }", "[0, 180.1] }", "[50, 40] }"}},
        {"ray",
         "spread = { row = { width = 1, count = ",
         {"2 } }", "64 } }"},
         {"1 } }", "65 } }", "2.5 } }"}},
        {"ray", "spread = { row = { count = 2, width = ", {"1e-6 } }"}, {"0 } }", "-1 } }"}},
        {"ray", "spread = { fan = { count = 2, degrees = ", {"360 } }", "1 } }"}, {"0 } }", "360.1 } }"}},
        {"ray", "spread = { row = { count = 3, width = 1 }, least = ", {"1 }", "3 }"}, {"0 }", "4 }"}},
        {"shift", "inset = ", {"0", "0.2"}, {"-0.01", "0.25"}},  // of the smaller stance nothing is left
        {"contact", "within = ", {"1e-6", "90"}, {"0", "90.1"}},
        {"zone", "used_by = ", {}, {"\"jump\""}},
        {"ray", "stances = ", {"[\"upright\"]"}, {"[]", "[\"uprigt\"]"}},
        {"ray", "sees = [\"grating\"] #", {}, {""}},  // twice
        {"zone", "keeps = ", {"\"last_event\""}, {"\"first_event\""}},
        {"ray", "faces = ", {"\"front\""}, {"\"back\""}},
        {"contact", "reads = ", {}, {"\"after_move\""}},
    };
    const auto hold = [](const Limit& limit, auto text_with) {
        for (const char* value : limit.allowed) {
            INFO(limit.kind << " " << limit.key << value);
            CHECK(said_of<2>(text_with(std::string(limit.key) + value + "\n")).empty());
        }
        for (const char* value : limit.refused) {
            INFO(limit.kind << " " << limit.key << value);
            CHECK_THAT(said_of<2>(text_with(std::string(limit.key) + value + "\n")),
                       Catch::StartsWith("r.toml:"));
        }
    };
    for (const Limit& limit : of_probes)
        hold(limit, [&](const std::string& key) { return rig_text(2, limit.kind, key); });
    const std::vector<Limit> of_signals = {
        {"", "settle = ", {"0", "3"}, {"-0.001"}},
        {"", "grace = ", {"0"}, {"-0.001"}},
        {"", "mute_after = { event = \"jump\", seconds = ", {"0 }"}, {"-1 }", "\"1\" }"}},
        {"", "all = [{ probe = \"probe\", angle = ", {"[0, 180] }]"}, {"[0, 181] }]", "[3, 2] }]"}},
        {"", "all = [{ probe = \"probe\", distance = ", {"[0, 9] }]"}, {"[-1, 2] }]", "[3, 2] }]"}},
        {"", "of = ", {"[\"grating\"]"}, {"[]"}},
    };
    for (const Limit& limit : of_signals)
        hold(limit, [&](const std::string& key) { return rig_text(2, "ray", "", key); });
    const std::vector<Limit> of_intent = {
        {"", "touch = ", {"1e-6"}, {"0", "-1"}},
        {"", "steepest_footing = ", {"0", "90"}, {"-1", "90.1"}},
        {"", "ceiling_within = ", {"0", "90"}, {"-1", "91"}},
        {"", "lowest_step = ", {"0"}, {"-0.1", "0.35"}},
        {"", "tread = ", {"0.1"}, {"0"}},
        {"", "ledge_between = ", {"[-1, 2]", "[2, 2]"}, {"[2, 1]"}},
        {"", "ahead_move = ", {"0.5", "{ seconds = 0.5 }"}, {"0", "{ seconds = 0 }", "\"1\""}},
        {"", "forgive = { late = ", {"0 }"}, {"-1 }"}},
        {"", "forgive = { hold = ", {"0 }", "0.1 }"}, {"-1 }", "0.02 }"}},
    };
    for (const Limit& limit : of_intent)
        hold(limit, [&](const std::string& key) { return rig_text(2, "ray", "", "", key); });
    const std::vector<Limit> of_reflexes = {
        {"", "do = \"stop_rise\"\nkickback = ", {"0", "2"}, {"-1"}},
        {"", "do = \"lift_over\"\nby = ", {"0.3"}, {"0", "-1"}},
        {"", "do = \"permit_jump\"\nby = ", {}, {"0.3"}},
        {"", "do = \"refuse_stance\"\nstance = ", {"\"crawling\""}, {"\"lying\""}},
    };
    for (const Limit& limit : of_reflexes)
        hold(limit, [&](const std::string& key) { return rig_text(2, "ray", "", "", "", key); });
}

TEST_CASE("the library refuses the numbers that files may not have, and only those") {
    const auto level = two_layers<3>();
    for (const char* kind : {"ray", "cast", "zone", "shift", "contact"}) {
        const Rig<3> sound = rig_from_toml<3>(rig_text(3, kind, ""), "r", level);
        check(sound);
        const auto number = static_cast<std::size_t>(sound.probes[0].kind());
        for (const Field<Probe<3>>& field : probe_fields<3>()) {
            const bool is_single =
                field.type == FieldType::number || field.type == FieldType::number_or_table;
            if (!field.is_for(number) || field.set == nullptr || !is_single) continue;
            if (field.key == "inset") continue;  // is held against the stances, too
            for (const double value : {-1.0, -1e-12, 0.0, 1e-12, 0.7, 90.0, 90.1, 180.0, 361.0}) {
                Rig<3> rig = sound;
                if (field.key.starts_with("shape.")) {
                    // A shape that cannot be is never made.
                    const bool is_ball =
                        field.key == "shape.ball.radius" && shape_of(sound.probes[0]) != nullptr;
                    INFO(kind << " " << field.key << " = " << value);
                    if (is_ball && field.limits.hold(value)) {
                        CHECK_NOTHROW(field.set(rig.probes[0], value));
                        CHECK(shape_of(rig.probes[0])->radius() == value);
                    } else {
                        CHECK_THROWS_AS(field.set(rig.probes[0], value), InvalidInput);
                    }
                    continue;
                }
                field.set(rig.probes[0], value);
                if (std::holds_alternative<std::monostate>(field.get(rig.probes[0])))
                    continue;                                                        // in another form
                if (rig.probes[0].is_line()) rig.probes[0].line().spread.count = 3;  // where that was set
                INFO(kind << " " << field.key << " = " << value << ", " << field.limits.text());
                if (field.limits.hold(value)) {
                    CHECK_NOTHROW(check(rig));
                } else {
                    CHECK_THROWS_AS(check(rig), InvalidInput);
                }
            }
        }
    }
}

namespace {

/// A value within a field's limits.
template <class Owner>
FieldValue any_value(const Field<Owner>& field, int dimensions, std::mt19937& random) {
    const auto whole = [&](int low, int high) { return low + static_cast<int>(random() % (high - low + 1)); };
    const double least = std::isfinite(field.limits.least) ? field.limits.least : -2.0;
    const double most = std::isfinite(field.limits.most) ? field.limits.most : least + 2.0;
    const auto number = [&] { return least + (most - least) * whole(1, 19) / 20.0; };
    switch (field.type) {
        case FieldType::number:
        case FieldType::number_or_table:
            return number();
        case FieldType::integer:
            return std::int64_t{whole(static_cast<int>(std::max(least, 2.0)), 4)};
        case FieldType::flag:
            return whole(0, 1) == 1;
        case FieldType::word:
            return std::int64_t{whole(0, static_cast<int>(field.words.size()) - 1)};
        case FieldType::names:
            return std::vector<std::string>{field.names == NamesOf::layers ? "grating" : "crawling"};
        case FieldType::pair: {
            const double a = field.unit == Unit::count ? whole(1, 4) : number();
            const double b = field.unit == Unit::count ? whole(1, 4) : number();
            return std::vector<double>{std::min(a, b), std::max(a, b)};
        }
        case FieldType::vector: {
            std::vector<double> vector;
            for (int i = 0; i < dimensions; ++i) vector.push_back(number());
            return vector;
        }
        case FieldType::direction:
            return std::string(std::array{"up", "down", "forward", "drive"}[random() % 4]);
        case FieldType::text:
            return std::string("spring");
        default:
            return {};
    }
}

/// Everything the fields say of an owner, a line a field.
template <class Owner>
std::string all_of(std::span<const Field<Owner>> fields, const Owner& owner) {
    std::ostringstream text;
    for (const Field<Owner>& field : fields) {
        if (field.get != nullptr)
            text << field.key << " = " << text_of(field.get(owner), field.words) << "\n";
    }
    return text.str();
}

/// Changes some fields at random, through the table.
template <class Owner>
void change_some(std::span<const Field<Owner>> fields, std::size_t kind, int dimensions, std::mt19937& random,
                 Owner& owner) {
    for (const Field<Owner>& field : fields) {
        const bool keeps_its_kind = field.key != "kind" && field.key != "name" && field.key != "claims";
        if (!field.is_for(kind) || field.set == nullptr || !keeps_its_kind || random() % 3 != 0) continue;
        const FieldValue value = any_value(field, dimensions, random);
        if (std::holds_alternative<std::monostate>(value)) continue;
        try {
            field.set(owner, value);
        } catch (const InvalidInput&) {
            // used_by without a latch
        }
    }
}

template <int D>
void hold_differences(unsigned seed) {
    std::mt19937 random(seed);
    const auto level = two_layers<D>();
    const std::array kinds = {"ray", "cast", "zone", "shift", "contact"};
    const std::string text = rig_text(D, kinds[seed % kinds.size()],
                                      random() % 2 == 0 ? "" : "stances = [\"upright\"]  # standing\n");
    const Rig<D> before = rig_from_toml<D>(text, "r", level);
    Rig<D> after = before;
    const auto kind = static_cast<std::size_t>(before.probes[0].kind());
    change_some(probe_fields<D>(), kind, D, random, after.probes[0]);
    change_some(signal_fields(), static_cast<std::size_t>(Claim::ground), D, random, after.signals[0]);
    if (after.signals[0].gives != Value::none) after.signals[0].gives_from = "probe";
    if (after.signals[0].mute_after.event.empty()) after.signals[0].mute_after = {};
    try {
        check(after);
    } catch (const InvalidInput&) {
        return;  // no rig: fields that do not go together
    }
    const auto changes = differences<D>(before, after);
    const std::string written = changes.empty() ? text : with_changes(text, "r", changes);
    INFO(seed << "\n" << written);
    Rig<D> read;
    REQUIRE_NOTHROW(read = rig_from_toml<D>(written, "r", level));
    CHECK(all_of(probe_fields<D>(), read.probes[0]) == all_of(probe_fields<D>(), after.probes[0]));
    CHECK(all_of(signal_fields(), read.signals[0]) == all_of(signal_fields(), after.signals[0]));
    CHECK(differences<D>(read, after).empty());
}

}  // namespace

TEST_CASE("differences written into a file field by field make the one rig of the other") {
    for (unsigned seed = 0; seed < 1500; ++seed) {
        hold_differences<2>(seed);
        hold_differences<3>(seed);
    }
}

TEST_CASE("a shape written in one form is changed in another") {
    const auto level = two_layers<2>();
    // Four corners that are a box: its width is a box's.
    std::string text = rig_text(2, "cast", "");
    const std::string ball = "{ ball = { radius = 0.25 } }";
    text.replace(text.find(ball), ball.size(),
                 "{ hull = { points = [[-1, -1], [1, -1], [1, 1], [-1, 1]] } }");
    const Rig<2> before = rig_from_toml<2>(text, "r", level);
    Rig<2> after = before;
    after.probes[0].line().shape = RoundedHull<2>::box({0, 0}, {1.5, 2});
    const Rig<2> read = rig_from_toml<2>(with_changes(text, "r", differences<2>(before, after)), "r", level);
    CHECK(read.probes[0].line().shape->bounds().size() == Vec<2>(1.5, 2.0));
}
