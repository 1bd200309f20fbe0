// Files: what loads, what is refused and how it is said, and the list of keys in the documentation.
#include <sys/stat.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>

#include "hollow_probe/io/atomic_file.hpp"
#include "hollow_probe/io/file_keys.hpp"
#include "hollow_probe/io/level_file.hpp"
#include "hollow_probe/io/mesh_file.hpp"
#include "hollow_probe/io/rig_file.hpp"
#include "scenes.hpp"

using namespace scenes;
namespace fs = std::filesystem;

namespace {

const std::string level_head =
    "format = \"hollow-probe level 1\"\ndimensions = 2\nlayers = [\"m\", \"grating\"]\n";
const std::string floor_solid =
    "[[solid]]\nname = \"floor\"\nlayer = \"m\"\nbox = { center = [0, 0], size = [4, 1] }\n";

Level<2> flat_level() {
    return std::get<Level<2>>(level_from_toml(level_head + floor_solid, "level.toml"));
}

const std::string rig_head =
    "format = \"hollow-probe rig 1\"\n"
    "dimensions = 2\n"
    "[body]\n"
    "meets = [\"m\"]\n"
    "[[body.stance]]\n"
    "name = \"upright\"\n"
    "capsule = { radius = 0.3, height = 1.8 }\n";
const std::string ray =
    "[[probe]]\n"  // line 8
    "name = \"foot\"\n"
    "kind = \"ray\"\n"  // line 10
    "reach = 0.4\n"
    "sees = [\"m\"]\n";
const std::string signal_text = "[[signal]]\nname = \"grounded\"\nclaims = \"ground\"\nany = [\"foot\"]\n";

std::string message_of(const std::function<void()>& load) {
    try {
        load();
    } catch (const InputError& error) {
        return error.what();
    }
    return "nothing was refused";
}

std::string replaced(std::string text, const std::string& what, const std::string& with) {
    const std::size_t at = text.find(what);
    if (at == std::string::npos) throw std::logic_error("test text has no " + what);
    return text.replace(at, what.size(), with);
}

/// A folder that is gone when the test is.
struct Folder {
    fs::path path = fs::temp_directory_path() / ("hollow-probe-io-" + std::to_string(getpid()));
    Folder() { fs::create_directories(path); }
    ~Folder() { fs::remove_all(path); }
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;
    std::string file(const std::string& name, const std::string& content) const {
        std::ofstream(path / name, std::ios::binary) << content;
        return (path / name).string();
    }
};

}  // namespace

TEST_CASE("bad levels are refused with file, line, column, what is wrong and what was expected") {
    struct Case {
        std::string text;
        std::string place;
        std::string says;
        std::string expects;
    };
    const std::string solid = "[[solid]]\nname = \"s\"\nlayer = \"m\"\n";  // from line 4, its shape on line 7
    const std::vector<Case> cases = {
        {level_head + "colour = 1\n" + floor_solid, "l.toml:4:1: ", "unknown key 'colour'",
         "expected one of"},
        {level_head + "[[solid]]\nnmae = \"s\"\n", "l.toml:5:1: ", "unknown key 'nmae'",
         "did you mean 'name'?"},
        {level_head + solid + "box = { centre = [0, 0], size = [1, 1] }\n", "l.toml:7:9: ", "'centre'",
         "did you mean 'center'?"},
        {level_head + solid + "box = 3\n", "l.toml:7:7: ", "'box' is an integer", "expected a table"},
        {level_head + solid + "box = { center = [0, 0], size = \"big\" }\n", "l.toml:7:33: ", "is a string",
         "expected a list of 2 numbers"},
        {level_head + solid + "box = { center = [0, 0], size = [1, 1, 1] }\n", "l.toml:7:33: ", "a list of 3",
         "expected a list of 2 numbers"},
        {level_head + solid + "box = { center = [0, nan], size = [1, 1] }\n", "l.toml:7:22: ", "not finite",
         "expected a finite number"},
        {level_head + solid + "ball = { center = [0, 0], radius = inf }\n", "l.toml:7:36: ", "not finite",
         "expected a finite number"},
        {level_head + solid + "ball = { center = [0, 0], radius = -1 }\n", "l.toml:7:36: ", "'radius' is -1",
         "expected more than 0"},
        {level_head + solid + "box = { center = [0, 0], size = [1, 0] }\n", "l.toml:7:33: ", "size is 0",
         "expected more than 0"},
        {level_head + solid + "hull = { points = [[0, 0], [2, 0], [2, 2], [0, 2], [1, 1]] }\n",
         "l.toml:7:19: ", "not convex: point 5", "convex position"},
        {level_head + solid + "polygon = { points = [[0, 0], [1, 1], [1, 0], [0, 1]] }\n",
         "l.toml:7:22: ", "crosses itself", "expected edges"},
        {level_head + solid + "polyline = { points = [[0, 0]] }\n", "l.toml:7:23: ", "at least two",
         "corners"},
        {level_head + solid + "mesh = { file = \"x.glb\" }\n", "l.toml:7:8: ", "3D shape", "dimensions = 2"},
        {level_head + solid, "l.toml:4:1: ", "no shape is given", "expected one of box"},
        {level_head + solid +
             "ball = { center = [0, 0], radius = 1 }\nbox = { center = [0, 0], size = [1, 1] }\n",
         "l.toml:7:8: ", "both 'box' and 'ball'", "expected only one"},
        {level_head + "[[solid]]\nname = \"s\"\nlayer = \"grateing\"\n",
         "l.toml:6:9: ", "not among the level's layers", "did you mean 'grating'?"},
        {level_head + floor_solid + floor_solid, "l.toml:9:8: ", "'floor' is named twice", ""},
        {level_head, "l.toml:1:1: ", "the level is empty", "expected at least one solid"},
        {level_head + floor_solid + "[[start]]\nname = \"a\"\nat = [0, 0]\nheading = [0, 0]\n",
         "l.toml:11:11: ", "'heading' has no length", "expected a direction"},
        {level_head + floor_solid + "[[start]]\nname = \"a\"\nat = [0, 0]\nheading = [0, 3]\n",
         "l.toml:11:11: ", "heading has no direction across up", "not parallel"},
        {"format = \"hollow-probe level 1\"\ndimensions = 2\nup = [0, 0]\nlayers = [\"m\"]\n" + floor_solid,
         "l.toml:3:6: ", "'up' has no length", "expected a direction"},
        {"format = \"hollow-probe level 2\"\n", "l.toml:1:10: ", "hollow-probe level 2",
         "expected one of hollow-probe level 1"},
        {"format = \"hollow-probe level 1\"\ndimensions = 4\n", "l.toml:2:14: ", "'dimensions' is 4",
         "expected 2 or 3"},
        {"format = \"hollow-probe level 1\"\ndimensions = 2.0\n", "l.toml:2:14: ", "floating-point",
         "expected an integer"},
        {"dimensions = 2\n", "l.toml:1:1: ", "key 'format' is missing", "expected a string"},
        {"format = \n", "l.toml:1:10: ", "not valid TOML", ""},
        {level_head + "[solid]\nname = \"s\"\n", "l.toml:4:1: ", "'solid' is a table",
         "expected tables headed [[solid]]"},
        {replaced(level_head, "\"grating\"", "\"m\"") + floor_solid, "l.toml:3:16: ", "names \"m\" twice",
         ""},
    };
    for (const Case& c : cases) {
        const std::string message = message_of([&] { (void)level_from_toml(c.text, "l.toml"); });
        INFO(c.text);
        CHECK_THAT(message,
                   Catch::StartsWith(c.place) && Catch::Contains(c.says) && Catch::Contains(c.expects));
    }
}

TEST_CASE("bad rigs are refused with file, line, column, what is wrong and what was expected") {
    struct Case {
        std::string text;
        std::string place;
        std::string says;
        std::string expects;
    };
    const std::string whole = rig_head + ray + signal_text;
    const std::vector<Case> cases = {
        {replaced(whole, "reach", "raech"), "r.toml:11:1: ", "unknown key 'raech'", "did you mean 'reach'?"},
        {replaced(whole, "reach = 0.4", "reach = \"far\""), "r.toml:11:9: ", "'reach' is a string",
         "expected a number"},
        {replaced(whole, "reach = 0.4", "reach = -0.4"), "r.toml:11:9: ", "'reach' is -0.4",
         "expected more than 0"},
        {replaced(whole, "reach = 0.4", "reach = 0.4\nalong = [0, 0]"),
         "r.toml:12:9: ", "'along' has no length", "expected a direction"},
        {replaced(whole, "reach = 0.4", "reach = 0.4\nalong = \"left\""), "r.toml:12:9: ", "\"left\"",
         "expected one of down, up, forward, backward"},
        {replaced(whole, "kind = \"ray\"", "kind = \"rat\""), "r.toml:10:8: ", "\"rat\"",
         "expected one of ray, cast"},
        {replaced(whole, "kind = \"ray\"", "kind = \"cast\""), "r.toml:8:1: ", "key 'shape' is missing",
         "expected a table"},
        {replaced(whole, "kind = \"ray\"", "kind = \"ray\"\nshape = { ball = { radius = 1 } }"),
         "r.toml:11:9: ", "a ray has no shape", "expected"},
        {replaced(whole, "sees = [\"m\"]", "sees = [\"gratign\"]"), "r.toml:12:9: ", "no layer 'gratign'",
         "did you mean 'grating'?"},
        {replaced(whole, "meets = [\"m\"]", "meets = [\"m\", \"q\"]"), "r.toml:4:15: ", "no layer 'q'",
         "expected one of m, grating"},
        {replaced(whole, "any = [\"foot\"]", "any = [\"foto\"]"), "r.toml:16:8: ", "no probe 'foto'",
         "did you mean 'foot'?"},
        {replaced(whole, "any = [\"foot\"]", "any = []"), "r.toml:16:7: ", "'any' is empty",
         "expected at least one probe"},
        {replaced(whole, "any = [\"foot\"]\n", ""), "r.toml:14:8: ", "names no probe",
         "expected any, all, none or at_least"},
        {replaced(whole, "any = [\"foot\"]", "at_least = { count = 2, of = [\"foot\"] }"),
         "r.toml:16:22: ", "'count' is 2", "expected 1 to 1"},
        {replaced(whole, "claims = \"ground\"", "claims = \"headroom\""), "r.toml:15:10: ", "headroom",
         "needs 'stance'"},
        {replaced(whole, "claims = \"ground\"", "claims = \"wall\"\nstance = \"upright\""),
         "r.toml:16:10: ", "claims wall", "ledge or headroom"},
        {replaced(whole, "claims = \"ground\"", "claims = \"headroom\"\nstance = \"uprigth\""),
         "r.toml:16:10: ", "no stance 'uprigth'", "did you mean 'upright'?"},
        {whole + "[intent]\ntallest_step = 0.01\n", "r.toml:18:16: ", "'tallest_step' is 0.01",
         "expected the tallest to be more"},
        {whole + "[intent]\nahead_drop = -1\n", "r.toml:18:14: ", "is -1", "expected 0 or more"},
        {whole + "[intent]\nledge_between = [2, 1]\n", "r.toml:18:17: ", "[2, 1]", "the lower first"},
        {replaced(whole, "\"ground\"", "\"grund\""), "r.toml:15:10: ", "\"grund\"", "expected one of ground"},
        {replaced(whole, "dimensions = 2", "dimensions = 3"), "r.toml:2:14: ", "the rig has dimensions = 3",
         "the level has dimensions = 2"},
        {replaced(whole, "height = 1.8", "height = 0.5"), "r.toml:7:36: ", "less than twice its radius", ""},
        {replaced(whole, "sees =", "accept = { angle = [60, 45] }\nsees ="), "r.toml:12:20: ", "[60, 45]",
         "the lower first"},
        {whole + "[intent]\nsteepest_footing = 100\n", "r.toml:18:20: ", "is 100", "expected 0 to 90"},
        {whole + ray, "r.toml:18:8: ", "probe 'foot' is named twice", ""},
        {replaced(whole, "sees =", "stances = [\"prone\"]\nsees ="), "r.toml:12:12: ", "no stance 'prone'",
         "expected one of upright"},
        {replaced(whole, "[[body.stance]]", "[[body.stnace]]"), "r.toml:5:8: ", "unknown key 'stnace'",
         "did you mean 'stance'?"},
        {"format = \"hollow-probe rig 1\"\ndimensions = 2\n[body]\nmeets = [\"m\"]\n",
         "r.toml:3:1: ", "no stance", "expected at least one"},
    };
    const auto level = flat_level();
    REQUIRE_NOTHROW(rig_from_toml<2>(whole, "r.toml", level));
    for (const Case& c : cases) {
        const std::string message = message_of([&] { (void)rig_from_toml<2>(c.text, "r.toml", level); });
        INFO(c.text);
        CHECK_THAT(message,
                   Catch::StartsWith(c.place) && Catch::Contains(c.says) && Catch::Contains(c.expects));
    }
}

namespace {

/// A fault that can be planted in a file: a line of it, what it becomes, and what is said of it.
struct Slip {
    std::string line;
    std::string with;
    std::string said;
};

/// Plants every choice of the slips: each of them is told with its line, in order, and nothing else is.
void plant(const std::string& sound, const std::vector<Slip>& slips,
           const std::function<void(const std::string&)>& load) {
    REQUIRE(message_of([&] { load(sound); }) == "nothing was refused");
    for (std::uint32_t choice = 1; choice < 1U << slips.size(); ++choice) {
        std::string text = sound;
        std::vector<std::pair<std::ptrdiff_t, std::string>> expected;
        for (std::size_t i = 0; i < slips.size(); ++i) {
            if ((choice >> i & 1U) == 0) continue;
            const std::size_t at = sound.find(slips[i].line);
            expected.emplace_back(1 + std::count(sound.begin(), sound.begin() + std::ptrdiff_t(at), '\n'),
                                  slips[i].said);
            text = replaced(text, slips[i].line, slips[i].with);
        }
        std::sort(expected.begin(), expected.end());
        std::istringstream told(message_of([&] { load(text); }));
        std::string line;
        CAPTURE(told.str(), text);
        for (const auto& [number, said] : expected) {
            REQUIRE(std::getline(told, line));
            REQUIRE(line.substr(0, line.find(':', 2)) == "f:" + std::to_string(number));
            REQUIRE(line.find(said) != std::string::npos);
        }
        REQUIRE_FALSE(std::getline(told, line));
    }
}

}  // namespace

TEST_CASE("everything wrong with a file is told at once, and nothing that only follows from it") {
    plant(R"(format = "hollow-probe rig 1"
dimensions = 2
[body]
meets = ["m"]
[[body.stance]]
name = "upright"
capsule = { radius = 0.3, height = 1.8 }
[[body.stance]]
name = "low"
box = { size = [0.6, 0.9] }
[intent]
touch = 0.02
[[probe]]
name = "sole"
kind = "ray"
reach = 0.4
sees = ["m"]
stances = ["low"]
[[probe]]
name = "head"
kind = "ray"
along = "up"
reach = 0.5
sees = ["m"]
[[signal]]
name = "grounded"
claims = "ground"
any = ["sole"]
[[signal]]
name = "bumped"
claims = "ceiling"
any = ["head"]
none = ["grounded"]
[[reflex]]
on = "bumped"
do = "stop_rise"
)",
          {{"meets = [\"m\"]", "meets = [\"n\"]", "no layer 'n'"},
           {"box = { size = [0.6, 0.9] }", "box = { size = [0.6] }", "a list of 1"},
           {"touch = 0.02", "touch = -1", "'touch' is -1"},
           {"reach = 0.4", "reech = 0.4", "unknown key 'reech'"},
           {"reach = 0.5", "reach = \"far\"", "'reach' is a string"},
           {"claims = \"ground\"", "claims = \"grund\"", "\"grund\""},
           {"claims = \"ceiling\"", "claims = 3", "'claims' is an integer"},
           {"do = \"stop_rise\"", "do = \"stop\"", "'do' is \"stop\""}},
          [](const std::string& text) { (void)rig_from_toml<2>(text, "f", flat_level()); });
    plant(R"(format = "hollow-probe level 1"
dimensions = 2
layers = ["m"]
[[solid]]
name = "floor"
layer = "m"
box = { center = [0.0, -0.5], size = [9.0, 1.0] }
[[solid]]
name = "stone"
layer = "m"
ball = { center = [2.0, 0.0], radius = 0.5 }
[[area]]
name = "loft"
box = { center = [0.0, 2.0], size = [1.0, 1.0] }
[[claim]]
area = "loft"
truth = "ground"
is = "never"
[[start]]
name = "gate"
at = [0.0, 0.0]
heading = [1.0, 0.0]
)",
          {{"box = { center = [0.0, -0.5]", "bix = { center = [0.0, -0.5]", "did you mean 'box'"},
           {"ball = { center = [2.0, 0.0], radius = 0.5 }", "ball = { center = [2.0, 0.0], radius = 0 }",
            "'radius' is 0"},
           {"box = { center = [0.0, 2.0]", "box = { center = [0.0]", "a list of 1"},
           {"is = \"never\"", "is = \"newer\"", "\"newer\""},
           {"heading = [1.0, 0.0]", "heading = [0.0, 0.0]", "no length"}},
          [](const std::string& text) { (void)level_from_toml(text, "f"); });
    // A rig without a body says so, and not that there are no stances.
    std::string bodiless = rig_head + ray + "stances = [\"upright\"]\n" + signal_text;
    const std::string body =
        bodiless.substr(bodiless.find("[body]"), bodiless.find("[[probe]]") - bodiless.find("[body]"));
    const std::string said =
        message_of([&] { (void)rig_from_toml<2>(replaced(bodiless, body, ""), "f", flat_level()); });
    CHECK_THAT(said, Catch::Contains("body") && !Catch::Contains("there is no stance"));
}

TEST_CASE("files that are missing, folders, binary or huge are refused") {
    const Folder folder;
    CHECK_THAT(message_of([&] { (void)load_level((folder.path / "none.toml").string()); }),
               Catch::Contains("none.toml:1:1: there is no such file"));
    CHECK_THAT(message_of([&] { (void)load_level(folder.path.string()); }),
               Catch::Contains("is a folder, expected a file"));
    const std::string binary = folder.file("b.toml", std::string("format = 1\n\0\1", 13));
    CHECK_THAT(message_of([&] { (void)load_level(binary); }),
               Catch::Contains("b.toml:2:1: is a binary file, expected TOML text"));
    // Two gigabytes that take no room on the disk.
    const std::string huge = folder.file("h.toml", "");
    fs::resize_file(huge, std::uintmax_t{2} << 30U);
    CHECK_THAT(message_of([&] { (void)load_level(huge); }),
               Catch::Contains("h.toml:1:1: has 2147483648 bytes, expected at most"));
    const std::string latin = folder.file("l.toml", "format = \"\xE9\"\n");
    CHECK_THAT(message_of([&] { (void)load_level(latin); }), Catch::Contains("l.toml:1:10: not valid TOML"));
}

TEST_CASE("a file is written whole or not at all") {
    const Folder folder;
    const std::string path = (folder.path / "out.json").string();
    write_file(path, "first");
    write_file(path, "second");
    CHECK(read_file(path, 100) == "second");
    CHECK_THROWS_WITH(write_file((folder.path / "nowhere" / "out.json").string(), "x"),
                      Catch::Contains("cannot be written"));
    CHECK_THROWS_WITH(write_file(folder.path.string(), "x"), Catch::Contains("it is a folder"));
    std::size_t files = 0;
    for ([[maybe_unused]] const auto& entry : fs::directory_iterator(folder.path)) ++files;
    CHECK(files == 1);
    CHECK_THROWS_WITH(read_file(path, 3), Catch::Contains("has 6 bytes, expected at most 3"));
}

TEST_CASE("every shape of a level file loads where it was put") {
    const auto level = std::get<Level<2>>(level_from_toml(level_head + R"(
[[solid]]
name = "box"
layer = "m"
box = { center = [1, 2], size = [2, 4], turn = { degrees = 90.0 } }
[[solid]]
name = "ball"
layer = "m"
ball = { center = [10, 0], radius = 0.5 }
[[solid]]
name = "capsule"
layer = "m"
capsule = { from = [20, 0], to = [22, 0], radius = 0.25 }
[[solid]]
name = "hull"
layer = "m"
hull = { points = [[30, 0], [31, 0], [30.5, 1]], radius = 0.1 }
[[solid]]
name = "polygon"
layer = "m"
polygon = { points = [[40, 0], [42, 0], [42, 1], [41, 1], [41, 2], [40, 2]] }
[[solid]]
name = "polyline"
layer = "grating"
polyline = { points = [[50, 0], [51, 1], [52, 0]] }
[[start]]
name = "here"
at = [1, 4]
heading = [-2, 1]
)",
                                                          "shapes.toml"));
    REQUIRE(level.solids().size() == 6);
    const auto bounds = [&](std::size_t solid) {
        Bounds<2> box;
        const auto& s = level.solids()[solid];
        for (std::uint32_t i = 0; i < s.piece_count; ++i) box.grow(bounds_of(level.piece(s.first_piece + i)));
        return box;
    };
    CHECK(bounds(0).low.is_close(Vec<2>(-1, 1)));
    CHECK(bounds(0).high.is_close(Vec<2>(3, 3)));
    CHECK(bounds(1).low.is_close(Vec<2>(9.5, -0.5)));
    CHECK(bounds(2).high.is_close(Vec<2>(22.25, 0.25)));
    CHECK(bounds(3).low.is_close(Vec<2>(29.9, -0.1)));
    CHECK(bounds(4).high.is_close(Vec<2>(42, 2)));
    CHECK(level.solids()[5].piece_count == 2);
    CHECK(level.layers()[level.solids()[5].layer] == "grating");
    CHECK(level.find_start("here")->heading.is_close(Vec<2>(-1, 0)));
}

TEST_CASE("a mesh is read from glTF with its node's transform and everything above it") {
    const Folder folder;
    // One triangle; "outer" moves it by 10 along x, "inner" doubles it and turns it a quarter around z.
    const std::string gltf = R"({"asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}],
"nodes": [{"name": "outer", "translation": [10, 0, 0], "children": [1]},
          {"name": "inner", "scale": [2, 2, 2], "rotation": [0, 0, 0.70710678118654752, 0.70710678118654752], "mesh": 0}],
"meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
"accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3", "min": [0, 0, 0], "max": [1, 1, 0]},
              {"bufferView": 1, "componentType": 5121, "count": 3, "type": "SCALAR"}],
"bufferViews": [{"buffer": 0, "byteOffset": 0, "byteLength": 36}, {"buffer": 0, "byteOffset": 36, "byteLength": 3}],
"buffers": [{"uri": "data:application/octet-stream;base64,AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAgD8AAAAAAAEC", "byteLength": 39}]})";
    const std::string path = folder.file("t.gltf", gltf);
    for (const char* node : {"", "outer", "inner"}) {
        const TriangleMesh mesh = load_mesh(path, node);
        REQUIRE(mesh.triangles.size() == 1);
        CHECK(mesh.vertices[0].is_close(Vec<3>(10, 0, 0)));
        CHECK(mesh.vertices[1].is_close(Vec<3>(10, 2, 0), 1e-7));
        CHECK(mesh.vertices[2].is_close(Vec<3>(8, 0, 0), 1e-7));
    }
    // Stretched first, then turned a third around all axes, then moved; the same as a matrix.
    for (const char* stated : {R"("scale": [2, 3, 4], "rotation": [1, 1, 1, 1], "translation": [1, 2, 3])",
                               R"("matrix": [0, 2, 0, 0, 0, 0, 3, 0, 4, 0, 0, 0, 1, 2, 3, 1])"}) {
        const TriangleMesh mesh = load_mesh(
            folder.file(
                "n.gltf",
                replaced(
                    gltf,
                    R"("scale": [2, 2, 2], "rotation": [0, 0, 0.70710678118654752, 0.70710678118654752])",
                    stated)),
            "");
        CHECK(mesh.vertices[0].is_close(Vec<3>(11, 2, 3)));
        CHECK(mesh.vertices[1].is_close(Vec<3>(11, 4, 3)));
        CHECK(mesh.vertices[2].is_close(Vec<3>(11, 2, 6)));
    }
    CHECK_THROWS_WITH(load_mesh(path, "nowhere"),
                      Catch::Contains("no node or group 'nowhere' with triangles, expected one of 'inner'"));
    CHECK_THROWS_WITH(load_mesh(folder.file("x.glb", "glTF and then nonsense"), ""),
                      Catch::Contains("not a glTF 2.0 file"));
    CHECK_THROWS_WITH(load_mesh(folder.file("i.gltf", replaced(gltf, "AAEC\"", "AAEF\"")), ""),
                      Catch::Contains("past its last vertex"));
    CHECK_THROWS_WITH(load_mesh(folder.file("c.gltf", replaced(gltf, "\"count\": 3, \"type\": \"VEC3\"",
                                                               "\"count\": 300, \"type\": \"VEC3\"")),
                                ""),
                      Catch::Contains("past its data"));
    const std::string level = folder.file("m.level.toml",
                                          "format = \"hollow-probe level 1\"\ndimensions = 3\nlayers = "
                                          "[\"m\"]\n[[solid]]\nname = \"t\"\nlayer = \"m\"\n"
                                          "mesh = { file = \"t.gltf\", node = \"inner\", at = [0, 0, 5] }\n");
    CHECK(std::get<Level<3>>(load_level(level)).bounds().high.is_close(Vec<3>(10, 2, 5), 1e-7));
    const std::string wrong = folder.file("w.level.toml",
                                          "format = \"hollow-probe level 1\"\ndimensions = 3\nlayers = "
                                          "[\"m\"]\n[[solid]]\nname = \"t\"\nlayer = \"m\"\n"
                                          "mesh = { file = \"gone.glb\" }\n");
    CHECK_THAT(message_of([&] { (void)load_level(wrong); }),
               Catch::Contains("w.level.toml:7:17: ") && Catch::Contains("no such file"));
}

TEST_CASE("the demo's turbine is a closed surface") {
    const TriangleMesh mesh = load_mesh(std::string(PROJECT_FOLDER) + "/data/demo/turbine.glb", "Turbine");
    CHECK(mesh.triangles.size() > 300);
    std::map<std::pair<std::uint32_t, std::uint32_t>, int> edges;
    for (const auto& t : mesh.triangles) {
        for (std::size_t i = 0; i < 3; ++i) ++edges[{t[i], t[(i + 1) % 3]}];
    }
    for (const auto& [edge, count] : edges) {
        REQUIRE(count == 1);
        REQUIRE(edges.count({edge.second, edge.first}) == 1);
    }
}

namespace {

struct Documented {
    std::string path, type, unit, standard, meaning;
    bool operator<(const Documented& other) const { return path < other.path; }
    bool operator==(const Documented&) const = default;
};

/// The rows of the key table under a heading of docs/formats.md.
std::set<Documented> documented_keys(const std::string& heading) {
    std::ifstream in(std::string(PROJECT_FOLDER) + "/docs/formats.md");
    REQUIRE(in);
    std::set<Documented> rows;
    bool inside = false;
    for (std::string line; std::getline(in, line);) {
        if (line.starts_with("## ")) inside = line == "## " + heading;
        if (!inside || !line.starts_with("| `")) continue;
        std::vector<std::string> cells;
        std::stringstream columns(line.substr(1));
        for (std::string cell; std::getline(columns, cell, '|');) {
            const auto first = cell.find_first_not_of(' ');
            const auto last = cell.find_last_not_of(' ');
            cells.push_back(first == std::string::npos ? "" : cell.substr(first, last - first + 1));
        }
        REQUIRE(cells.size() >= 5);
        rows.insert({cells[0].substr(1, cells[0].size() - 2), cells[1], cells[2], cells[3], cells[4]});
    }
    return rows;
}

std::set<Documented> loader_keys(std::span<const FileKey> keys) {
    std::set<Documented> rows;
    for (const FileKey& key : keys) {
        rows.insert({std::string(key.path), std::string(key.type), std::string(key.unit),
                     std::string(key.standard), std::string(key.meaning)});
    }
    return rows;
}

/// A file that puts a key of any name where `path` says, nothing else.
std::string file_with_only(const std::string& path, const std::string& value) {
    const std::size_t last = path.rfind('.');
    if (last == std::string::npos) return path + " = " + value + "\n";
    const std::string above = path.substr(0, last);
    std::string text;
    std::string so_far;
    std::stringstream parts(above);
    for (std::string part; std::getline(parts, part, '.');) {
        const bool listed = part.ends_with("[]");
        so_far += (so_far.empty() ? "" : ".") + part.substr(0, part.size() - (listed ? 2 : 0));
        text += listed ? "[[" + so_far + "]]\n" : "[" + so_far + "]\n";
    }
    return text + path.substr(last + 1) + " = " + value + "\n";
}

}  // namespace

TEST_CASE("docs/formats.md lists exactly the keys the loaders accept") {
    CHECK(documented_keys("Level files") == loader_keys(level_file_keys()));
    CHECK(documented_keys("Rig files") == loader_keys(rig_file_keys()));
    CHECK(documented_keys("Drill files") == loader_keys(drill_file_keys()));
    CHECK(documented_keys("Suite files") == loader_keys(suite_file_keys()));
    CHECK(documented_keys("Level files").size() > 20);
}

TEST_CASE("every listed key is read by its loader: a wrong type there is noticed, at that key") {
    // Tables in a list cannot be a key's right type, so each loader must object to the value and not to the
    // name.
    const auto noticed = [](const std::string& text, auto load, const std::string& key) {
        const std::string message = message_of([&] { load(text); });
        INFO(text << message);
        CHECK_THAT(message, !Catch::Contains("unknown key"));
        CHECK_THAT(message, !Catch::Contains("nothing was refused"));
        (void)key;
    };
    for (const FileKey& key : level_file_keys()) {
        noticed(
            file_with_only(std::string(key.path), "[{}]"),
            [](const std::string& text) { (void)level_from_toml(text, "l"); }, std::string(key.path));
        const std::string misspelt = std::string(key.path) + "_x";
        const std::string message = message_of([&] {
            (void)level_from_toml(level_head.substr(0, level_head.size()) + file_with_only(misspelt, "1"),
                                  "l");
        });
        INFO(misspelt);
        CHECK_THAT(message, Catch::Contains("unknown key") || Catch::Contains("is missing") ||
                                Catch::Contains("no shape"));
    }
    const auto level = flat_level();
    for (const FileKey& key : rig_file_keys()) {
        noticed(
            file_with_only(std::string(key.path), "[{}]"),
            [&](const std::string& text) { (void)rig_from_toml<2>(text, "r", level); },
            std::string(key.path));
    }
}

TEST_CASE("every rig setting reaches the rig") {
    const auto level = flat_level();
    const Rig<2> rig = rig_from_toml<2>(R"(format = "hollow-probe rig 1"
dimensions = 2
[body]
meets = ["m", "grating"]
[[body.stance]]
name = "upright"
capsule = { radius = 0.3, height = 1.8 }
[[body.stance]]
name = "crawling"
box = { size = [1.6, 0.5] }
[[body.stance]]
name = "rolled"
ball = { radius = 0.4 }
[[body.stance]]
name = "wedge"
hull = { points = [[-1, 0], [1, 0], [0, 1]] }
[intent]
touch = 0.03
steepest_footing = 40
ceiling_within = 50
lowest_step = 0.1
tallest_step = 0.5
ahead_step = 0.04
tread = 0.25
ahead_wall = 0.06
ahead_drop = 0.7
deepest_drop = 0.9
ahead_ledge = 0.8
ledge_between = [0.4, 2]
[[probe]]
name = "a"
kind = "cast"
shape = { capsule = { radius = 0.1, height = 0.5 } }
from = [0.1, 0.2]
along = "backward"
reach = 0.7
sees = ["grating"]
accept = { angle = [5, 50] }
take = "all"
if_inside = "ignore"
stances = ["crawling"]
[[signal]]
name = "g"
claims = "ground"
none = ["a"]
[[signal]]
name = "up"
claims = "ledge"
stance = "crawling"
at_least = { count = 1, of = ["a"] }
)",
                                        "r.toml", level);
    CHECK(rig.body.meets.size() == 2);
    REQUIRE(rig.body.stances.size() == 4);
    CHECK(rig.body.stances[0].shape.bounds().high.is_close(Vec<2>(0.3, 1.8)));
    CHECK(rig.body.stances[1].shape.bounds().low.is_close(Vec<2>(-0.8, 0.0)));
    CHECK(rig.body.stances[2].shape.bounds().high.is_close(Vec<2>(0.4, 0.8)));
    CHECK(rig.intent.touch == 0.03);
    CHECK(rig.intent.steepest_footing_degrees == 40.0);
    CHECK(rig.intent.ceiling_within_degrees == 50.0);
    CHECK(rig.intent.lowest_step == 0.1);
    CHECK(rig.intent.tallest_step == 0.5);
    CHECK(rig.intent.ahead_step == 0.04);
    CHECK(rig.intent.tread == 0.25);
    CHECK(rig.intent.ahead_wall == 0.06);
    CHECK(rig.intent.ahead_drop == 0.7);
    CHECK(rig.intent.deepest_drop == 0.9);
    CHECK(rig.intent.ahead_ledge == 0.8);
    CHECK(rig.intent.ledge_between == std::array{0.4, 2.0});
    CHECK(rig.signals.at(1).claims == Claim::ledge);
    CHECK(rig.signals.at(1).stance == "crawling");
    CHECK(rig.signals.at(1).members.at_least.count == 1);
    CHECK(rig.signals.at(1).members.at_least.of == std::vector<Member>{"a"});
    const Probe<2>& probe = rig.probes.at(0);
    CHECK(probe.line().shape->bounds().high.is_close(Vec<2>(0.1, 0.25)));
    CHECK(probe.line().from == Vec<2>(0.1, 0.2));
    CHECK(probe.line().along == Vec<2>(-1, 0));
    CHECK(probe.line().reach == 0.7);
    CHECK(probe.sees == std::vector<std::string>{"grating"});
    CHECK(probe.line().accept_least_degrees == 5.0);
    CHECK(probe.line().accept_most_degrees == 50.0);
    CHECK(probe.line().take == Take::all);
    CHECK(probe.line().if_inside == IfInside::ignore);
    CHECK(probe.stances == std::vector<std::string>{"crawling"});
    CHECK(rig.signals.at(0).members.none == std::vector<Member>{"a"});
}
