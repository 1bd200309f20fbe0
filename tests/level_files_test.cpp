// Levels at scale and from the files of other programs: meshes, tiles, masks, heights, imports; what is odd
// about them; and the way back out.
#include <png.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <set>

#include "hollow_probe/io/level_file.hpp"
#include "hollow_probe/io/mesh_file.hpp"
#include "hollow_probe/io/save_mesh.hpp"
#include "hollow_probe/level/cells.hpp"
#include "hollow_probe/level/heights.hpp"
#include "hollow_probe/level/inspect.hpp"
#include "hollow_probe/level/level_query.hpp"
#include "scenes.hpp"

using namespace scenes;
namespace fs = std::filesystem;

namespace {

class Folder {
  public:
    Folder() : path_(fs::temp_directory_path() / ("hollow-probe-files-" + std::to_string(getpid()))) {
        fs::create_directories(path_);
    }
    ~Folder() { fs::remove_all(path_); }
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;
    std::string file(const std::string& name, const std::string& content) const {
        fs::create_directories((path_ / name).parent_path());
        std::ofstream(path_ / name, std::ios::binary) << content;
        return (path_ / name).string();
    }

  private:
    fs::path path_;
};

std::string message_of(const std::function<void()>& load) {
    try {
        load();
    } catch (const std::exception& error) {
        return error.what();
    }
    return "nothing was refused";
}

template <class T>
std::string bytes_of(const std::vector<T>& values) {
    std::string bytes(values.size() * sizeof(T), '\0');
    std::memcpy(bytes.data(), values.data(), bytes.size());
    return bytes;
}

std::string base64(const std::string& bytes) {
    static const std::string letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        std::uint32_t group = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            group = group << 8U | (i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0U);
        }
        for (std::size_t k = 0; k < 4; ++k)
            out += i + k > bytes.size() ? '=' : letters[group >> (18U - 6U * k) & 63U];
    }
    return out;
}

/// A glTF with the given buffer and JSON parts.
std::string gltf(const std::string& data, const std::string& views, const std::string& accessors,
                 const std::string& primitive, const std::string& nodes = R"([{"name": "n", "mesh": 0}])",
                 const std::string& more = "") {
    return R"({"asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": )" + nodes +
           R"(, "meshes": [{"name": "m", "primitives": [)" + primitive + R"(]}], "accessors": [)" +
           accessors + R"(], "bufferViews": [)" + views + R"(], "buffers": [{"byteLength": )" +
           std::to_string(data.size()) + R"(, "uri": "data:application/octet-stream;base64,)" + base64(data) +
           R"("}])" + more + "}";
}

std::string png_of(int columns, int rows, int depth, int color, const std::string& data) {
    std::string out;
    png_structp png = png_create_write_struct(PNG_LIBPNG_VER_STRING, nullptr, nullptr, nullptr);
    png_infop info = png_create_info_struct(png);
    png_set_write_fn(
        png, &out,
        [](png_structp p, png_bytep bytes, png_size_t count) {
            static_cast<std::string*>(png_get_io_ptr(p))->append(reinterpret_cast<char*>(bytes), count);
        },
        nullptr);
    png_set_IHDR(png, info, static_cast<png_uint_32>(columns), static_cast<png_uint_32>(rows), depth, color,
                 PNG_INTERLACE_NONE, PNG_COMPRESSION_TYPE_DEFAULT, PNG_FILTER_TYPE_DEFAULT);
    png_write_info(png, info);
    const std::size_t row_bytes = data.size() / static_cast<std::size_t>(rows);
    for (int row = 0; row < rows; ++row) {
        png_write_row(
            png, reinterpret_cast<png_const_bytep>(data.data()) + row_bytes * static_cast<std::size_t>(row));
    }
    png_write_end(png, nullptr);
    png_destroy_write_struct(&png, &info);
    return out;
}

double area_of(const std::array<Vec<3>, 3>& t) {
    const Vec<3> u = t[1] - t[0];
    const Vec<3> v = t[2] - t[0];
    return 0.5 *
           Vec<3>(u.y() * v.z() - u.z() * v.y(), u.z() * v.x() - u.x() * v.z(), u.x() * v.y() - u.y() * v.x())
               .norm();
}

double area_of(const TriangleMesh& mesh) {
    double sum = 0.0;
    for (const auto& [a, b, c] : mesh.triangles)
        sum += area_of({mesh.vertices[a], mesh.vertices[b], mesh.vertices[c]});
    return sum;
}

const std::string head2 =
    "format = \"hollow-probe level 1\"\ndimensions = 2\nlayers = [\"m\", \"grating\"]\n";
const std::string head3 =
    "format = \"hollow-probe level 1\"\ndimensions = 3\nlayers = [\"m\", \"grating\"]\n";

template <int D>
bool is_solid_at(const Level<D>& level, const Vec<D>& at, LayerSet layers = all_layers) {
    const auto dot = RoundedHull<D>::ball(Vec<D>::zero(), 1.0).with_radius(0.0);
    return overlaps<D>(level, {dot.view(), at, layers}, 1e-9);
}

const std::vector<float> square = {0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0};
const std::string float_positions =
    R"({"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3", "min": [0,0,0], "max": [1,1,0]})";

}  // namespace

TEST_CASE("glTF: indices of every width, none, strips and fans give the same square") {
    const std::string positions = bytes_of(square);
    const auto load = [&](const std::string& indices, int type, const std::string& mode, std::size_t count) {
        const std::string data = positions + indices;
        const std::string views =
            R"({"buffer": 0, "byteLength": 48}, {"buffer": 0, "byteOffset": 48, "byteLength": )" +
            std::to_string(std::max<std::size_t>(indices.size(), 1)) + "}";
        const std::string accessors = float_positions +
                                      R"(, {"bufferView": 1, "type": "SCALAR", "componentType": )" +
                                      std::to_string(type) + R"(, "count": )" + std::to_string(count) + "}";
        const std::string primitive = std::string(R"({"attributes": {"POSITION": 0})") +
                                      (count > 0 ? R"(, "indices": 1)" : "") + R"(, "mode": )" + mode + "}";
        return parts_from_gltf(gltf(data, views, accessors, primitive), "t.gltf").at(0).mesh;
    };
    CHECK(area_of(load(bytes_of<std::uint8_t>({0, 1, 2, 0, 2, 3}), 5121, "4", 6)) == Approx(1.0));
    CHECK(area_of(load(bytes_of<std::uint16_t>({0, 1, 2, 0, 2, 3}), 5123, "4", 6)) == Approx(1.0));
    CHECK(area_of(load(bytes_of<std::uint32_t>({0, 1, 2, 0, 2, 3}), 5125, "4", 6)) == Approx(1.0));
    CHECK(area_of(load(bytes_of<std::uint8_t>({0, 1, 3, 2}), 5121, "5", 4)) == Approx(1.0));
    CHECK(area_of(load(bytes_of<std::uint8_t>({0, 1, 2, 3}), 5121, "6", 4)) == Approx(1.0));
    CHECK(area_of(load(std::string("x"), 5121, "6", 0)) == Approx(1.0));
}

TEST_CASE("glTF: interleaved, sparse and quantized positions, mirroring nodes, layers in extras") {
    // Positions with a stride of 20 bytes.
    std::vector<float> mixed;
    for (std::size_t i = 0; i < 4; ++i)
        mixed.insert(mixed.end(), {square[3 * i], square[3 * i + 1], square[3 * i + 2], 7.0F, 7.0F});
    const std::string fan = R"({"attributes": {"POSITION": 0}, "mode": 6})";
    CHECK(
        area_of(parts_from_gltf(gltf(bytes_of(mixed), R"({"buffer": 0, "byteLength": 80, "byteStride": 20})",
                                     float_positions, fan),
                                "t.gltf")[0]
                    .mesh) == Approx(1.0));
    // Corner 2 replaced by (3, 3, 0), which makes a kite of area 3.
    const std::string data = bytes_of(square) + bytes_of<std::uint16_t>({2, 0}) + bytes_of<float>({3, 3, 0});
    const std::string sparse_views =
        R"({"buffer": 0, "byteLength": 48}, {"buffer": 0, "byteOffset": 48, "byteLength": 4}, {"buffer": 0, "byteOffset": 52, "byteLength": 12})";
    const std::string sparse =
        R"({"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3", "sparse": {"count": 1,
        "indices": {"bufferView": 1, "componentType": 5123}, "values": {"bufferView": 2}}})";
    CHECK(area_of(parts_from_gltf(gltf(data, sparse_views, sparse, fan), "t.gltf")[0].mesh) == Approx(3.0));
    // Normalized shorts: 32767 is 1; a node scales by 2 and mirrors x.
    const std::vector<std::int16_t> shorts = {0, 0, 0, 0, 32767, 0, 0, 0, 32767, 32767, 0, 0, 0, 32767, 0, 0};
    const std::string packed =
        R"({"bufferView": 0, "componentType": 5122, "normalized": true, "count": 4, "type": "VEC3"})";
    const std::string nodes =
        R"([{"name": "up", "scale": [-2, 2, 2], "children": [1]}, {"name": "leaf", "mesh": 0, "extras": {"layer": "grating"}}])";
    const auto part = parts_from_gltf(
        gltf(
            bytes_of(shorts), R"({"buffer": 0, "byteLength": 32, "byteStride": 8})", packed, fan, nodes,
            R"(, "extensionsRequired": ["KHR_mesh_quantization"], "extensionsUsed": ["KHR_mesh_quantization"])"),
        "t.gltf")[0];
    CHECK(area_of(part.mesh) == Approx(4.0));
    CHECK(part.layer == "grating");
    CHECK(part.name == "leaf");
    CHECK(part.nodes == std::vector<std::string>{"up", "leaf"});
    // Mirrored, but still facing +z.
    const auto& [a, b, c] = part.mesh.triangles[0];
    const Vec<3> u = part.mesh.vertices[b] - part.mesh.vertices[a];
    const Vec<3> v = part.mesh.vertices[c] - part.mesh.vertices[a];
    CHECK(u.x() * v.y() - u.y() * v.x() > 0.0);
    CHECK_THAT(message_of([&] {
                   parts_from_gltf(
                       gltf(bytes_of(square), R"({"buffer": 0, "byteLength": 48})", float_positions, fan,
                            R"([{"mesh": 0}])", R"(, "extensionsRequired": ["KHR_draco_mesh_compression"])"),
                       "t.gltf");
               }),
               Catch::Contains("KHR_draco_mesh_compression"));
}

TEST_CASE("glTF: a small file does not fill the memory, and parts of one name are told apart") {
    const std::string fan = R"({"attributes": {"POSITION": 0}, "mode": 6})";
    const std::string view = R"({"buffer": 0, "byteLength": 48})";
    // Each node has the next one twice: 2^depth parts of one square.
    const auto doubled = [](int depth) {
        std::string nodes = "[";
        for (int i = 1; i <= depth; ++i)
            nodes += R"({"children": [)" + std::to_string(i) + ", " + std::to_string(i) + "]}, ";
        return nodes + R"({"name": "leaf", "mesh": 0}])";
    };
    const auto parts =
        parts_from_gltf(gltf(bytes_of(square), view, float_positions, fan, doubled(13)), "t.gltf");
    std::set<std::string> names;
    for (const MeshPart& part : parts) names.insert(part.name);
    CHECK(parts.size() == 8192);
    CHECK(names.size() == 8192);
    CHECK(names.count("leaf (8192)") == 1);
    CHECK_THAT(message_of([&] {
                   parts_from_gltf(gltf(bytes_of(square), view, float_positions, fan, doubled(19)), "t.gltf");
               }),
               Catch::Contains("shared ones counted each time") || Catch::Contains("vertices of its data"));
    // Zeros but for one vertex.
    const std::string data = bytes_of<std::uint16_t>({2, 0}) + bytes_of<float>({3, 3, 0});
    const std::string views =
        R"({"buffer": 0, "byteLength": 4}, {"buffer": 0, "byteOffset": 4, "byteLength": 12})";
    const std::string sparse = R"({"componentType": 5126, "count": 99999999, "type": "VEC3", "sparse":
        {"count": 1, "indices": {"bufferView": 0, "componentType": 5123}, "values": {"bufferView": 1}}})";
    CHECK_THAT(message_of([&] { parts_from_gltf(gltf(data, views, sparse, fan), "t.gltf"); }),
               Catch::Contains("of its data"));
}

TEST_CASE("glTF: every instance of a mesh is loaded, where it is put") {
    // Three instances of a square of area 1: moved, turned, and scaled by 2, 3, 1.
    const std::vector<float> moves = {5, 0, 0, 0, 0, 0, 0, 0, 9};
    const float half = std::sqrt(0.5F);
    const std::vector<float> turns = {0, 0, 0, 1, 0, half, 0, half, 0, 0, 0, 1};
    const std::vector<float> scales = {1, 1, 1, 1, 1, 1, 2, 3, 1};
    const std::string data = bytes_of(square) + bytes_of(moves) + bytes_of(turns) + bytes_of(scales);
    const std::string views =
        R"({"buffer": 0, "byteLength": 48}, {"buffer": 0, "byteOffset": 48, "byteLength": 36},)"
        R"({"buffer": 0, "byteOffset": 84, "byteLength": 48}, {"buffer": 0, "byteOffset": 132, "byteLength": 36})";
    const std::string accessors = float_positions +
                                  R"(, {"bufferView": 1, "componentType": 5126, "count": 3, "type": "VEC3"},)"
                                  R"({"bufferView": 2, "componentType": 5126, "count": 3, "type": "VEC4"},)"
                                  R"({"bufferView": 3, "componentType": 5126, "count": 3, "type": "VEC3"})";
    const std::string fan = R"({"attributes": {"POSITION": 0}, "mode": 6})";
    const auto nodes = [](const std::string& attributes) {
        return R"([{"name": "n", "mesh": 0, "translation": [0, 100, 0], "extensions": {"EXT_mesh_gpu_instancing": )"
               R"({"attributes": {)" +
               attributes + R"(}}}}])";
    };
    const std::string used =
        R"(, "extensionsUsed": ["EXT_mesh_gpu_instancing"], "extensionsRequired": ["EXT_mesh_gpu_instancing"])";
    const auto load = [&](const std::string& attributes) {
        return parts_from_gltf(gltf(data, views, accessors, fan, nodes(attributes), used), "t.gltf")
            .at(0)
            .mesh;
    };
    const TriangleMesh all = load(R"("TRANSLATION": 1, "ROTATION": 2, "SCALE": 3)");
    CHECK(all.triangles.size() == 6);
    CHECK(area_of(all) == Approx(1.0 + 1.0 + 6.0));
    CHECK(all.warnings.empty());
    CHECK((all.vertices.at(0) - Vec<3>(5, 100, 0)).norm() < 1e-6);
    CHECK((all.vertices.at(5) - Vec<3>(0, 100, -1)).norm() < 1e-6);  // x turned by 90° around y
    CHECK((all.vertices.at(10) - Vec<3>(2, 103, 9)).norm() < 1e-6);
    CHECK(area_of(load(R"("TRANSLATION": 1)")) == Approx(3.0));
    for (const char* wrong : {R"("TRANSLATION": 2)", R"("ROTATION": 1)", R"("SCALE": 0)",
                              R"("TRANSLATION": 77)", R"("TRANSLATION": "x")", ""}) {
        CAPTURE(wrong);
        if (std::string(wrong) == R"("SCALE": 0)") {
            CHECK(load(wrong).triangles.size() == 8);  // the square's own corners will do
            continue;
        }
        CHECK_THROWS_AS(load(wrong), InvalidInput);
    }
    CHECK_THROWS_WITH(load(R"("TRANSLATION": 1, "SCALE": 0)"), Catch::Contains("different counts"));
}

TEST_CASE("glTF: what is not understood is told; pictures are never looked up") {
    const std::string fan = R"({"attributes": {"POSITION": 0}, "mode": 6, "material": 0})";
    const std::string nodes = R"([{"name": "n", "mesh": 0}])";
    const auto load = [&](const std::string& more) {
        return parts_from_gltf(
            gltf(bytes_of(square), R"({"buffer": 0, "byteLength": 48})", float_positions, fan, nodes, more),
            "t.gltf");
    };
    const std::string pictures =
        R"(, "images": [{"uri": "gone.png"}, {"uri": "../../elsewhere.jpg"}], "textures": [{"source": 0}],)"
        R"("materials": [{"pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}])";
    CHECK(area_of(load(pictures).at(0).mesh) == Approx(1.0));
    CHECK(load(R"(, "extensionsUsed": ["KHR_materials_unlit", "KHR_lights_punctual"])")
              .at(0)
              .mesh.warnings.empty());
    const auto warned = load(R"(, "extensionsUsed": ["ACME_hidden_walls"])").at(0).mesh.warnings;
    REQUIRE(warned.size() == 1);
    CHECK_THAT(warned[0], Catch::Contains("ACME_hidden_walls") && Catch::Contains("may be missing"));
    CHECK_THROWS_WITH(load(R"(, "extensionsRequired": ["ACME_hidden_walls"])"),
                      Catch::Contains("ACME_hidden_walls"));
}

TEST_CASE("OBJ: a mark of byte order is not part of the first line") {
    const auto parts = parts_from_obj("\xEF\xBB\xBFv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", "t.obj");
    REQUIRE(parts.size() == 1);
    CHECK(parts[0].mesh.vertices.size() == 3);
    CHECK(area_of(parts[0].mesh) == Approx(0.5));
}

TEST_CASE("a glTF reads nothing outside its folder unless allowed") {
    const Folder folder;
    folder.file("secret.bin", bytes_of(square));
    std::string text = gltf(bytes_of(square), R"({"buffer": 0, "byteLength": 48})", float_positions,
                            R"({"attributes": {"POSITION": 0}, "mode": 6})");
    const auto with_uri = [&](const std::string& uri) {
        const std::size_t first = text.find("data:");
        return text.substr(0, first) + uri + text.substr(text.find('"', first));
    };
    folder.file("in/beside.bin", bytes_of(square));
    CHECK(load_mesh_parts(folder.file("in/a.gltf", with_uri("beside.bin"))).size() == 1);
    const std::string outside = folder.file("in/b.gltf", with_uri("../secret.bin"));
    CHECK_THAT(message_of([&] { load_mesh_parts(outside); }), Catch::Contains("outside its folder"));
    CHECK(load_mesh_parts(outside, {true}).size() == 1);
    // Through a link, too.
    fs::create_symlink(fs::path(outside).parent_path().parent_path() / "secret.bin",
                       fs::path(outside).parent_path() / "link.bin");
    CHECK_THAT(message_of([&] { load_mesh_parts(folder.file("in/c.gltf", with_uri("link.bin"))); }),
               Catch::Contains("outside its folder"));
}

TEST_CASE("OBJ: groups, negative indices, slashes, concave faces; and where it is wrong") {
    const auto parts = parts_from_obj(
        "# a comment\nv 0 0 0\nv 4 0 0\nv 4 4 0\nv 2 1 0\nv 0 4 0\r\ng first\nf 1/1/1 2/2/2 3//3 4 5\n"
        "o second thing\nv 0 0 9\nv 1 0 9\nv 0 +1e0 9\nf -3 -2 -1\nl 1 2\n",
        "t.obj");
    REQUIRE(parts.size() == 2);
    CHECK(parts[0].name == "first");
    CHECK(area_of(parts[0].mesh) == Approx(10.0));  // the dent is left out: shoelace gives 10
    CHECK(parts[0].mesh.triangles.size() == 3);
    CHECK(parts[1].name == "second thing");
    CHECK(parts[1].mesh.vertices.size() == 3);
    CHECK(area_of(parts[1].mesh) == Approx(0.5));
    CHECK_THAT(message_of([] { parts_from_obj("v 0 0 0\nv 1 x 0\n", "t.obj"); }),
               Catch::Contains("line 2, column 5") && Catch::Contains("'x'"));
    CHECK_THAT(message_of([] { parts_from_obj("v 0 0 0\nf 1 2 3\n", "t.obj"); }),
               Catch::Contains("line 2, column 5") && Catch::Contains("vertex 2"));
    CHECK_THAT(message_of([] { parts_from_obj("v 0 0 0\nf 1 0 1\n", "t.obj"); }),
               Catch::Contains("line 2, column 5"));
    CHECK_THAT(message_of([] { parts_from_obj("v 0 0 0\n", "t.obj"); }), Catch::Contains("no triangles"));
    CHECK_THAT(message_of([] { parts_from_obj("v 0 0 nan\n", "t.obj"); }), Catch::Contains("finite"));
}

TEST_CASE("STL: text and binary, welded; and where it is wrong") {
    const std::string facet =
        "facet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\n";
    const std::string other =
        "facet normal 0 0 1\nouter loop\nvertex 1 0 0\nvertex 1 1 0\nvertex 0 1 0\nendloop\nendfacet\n";
    const auto text = parts_from_stl("solid s\n" + facet + other + "endsolid s\n", "part.stl");
    REQUIRE(text.size() == 1);
    CHECK(text[0].name == "part");
    CHECK(text[0].mesh.vertices.size() == 4);
    CHECK(area_of(text[0].mesh) == Approx(1.0));
    std::string binary = "solid, but binary" + std::string(80 - 17, ' ') + bytes_of<std::uint32_t>({1});
    binary += bytes_of<float>({0, 0, 1, 0, 0, 0, 2, 0, 0, 0, 1, 0}) + std::string(2, '\0');
    CHECK(area_of(parts_from_stl(binary, "part.stl")[0].mesh) == Approx(1.0));
    binary[0] = 'x';  // surely not text
    CHECK_THAT(message_of([&] { parts_from_stl(binary.substr(0, 100), "part.stl"); }),
               Catch::Contains("cut short"));
    CHECK_THAT(message_of([] {
                   parts_from_stl("solid s\nfacet normal 0 0 1\nouter loop\nvertex 0 0 q\n", "part.stl");
               }),
               Catch::Contains("line 4, column 12") && Catch::Contains("'q'"));
    CHECK_THAT(message_of([] { parts_from_stl("solid s\n", "part.stl"); }),
               Catch::Contains("the end of the file"));
}

TEST_CASE("an import makes solids of nodes, by rule, by extras, by what is left") {
    const Folder folder;
    folder.file("yard.obj",
                "v 0 0 0\nv 1 0 0\nv 0 1 0\no wall north\nf 1 2 3\no grate 1\nf 1 2 3\no hidden\nf 1 2 3\n");
    const auto load = [&](const std::string& rules) {
        return std::get<Level<3>>(load_level(folder.file(
            "l.level.toml",
            head3 + "[[import]]\nfile = \"yard.obj\"\nlayer = \"m\"\nscale = 2.0\nat = [5, 0, 0]\n" +
                rules)));
    };
    const Level<3> level =
        load("rule = [{ nodes = \"*rate*\", layer = \"grating\" }, { nodes = \"hidden\", skip = true }]\n");
    REQUIRE(level.solids().size() == 2);
    CHECK(level.solids()[0].name == "wall north");
    CHECK(level.layers()[level.solids()[0].layer] == "m");
    CHECK(level.layers()[level.solids()[1].layer] == "grating");
    CHECK(level.bounds().high.is_close(Vec<3>(7, 2, 0)));
    CHECK_THAT(message_of([&] { load("rule = [{ nodes = \"*\", skip = true }]\n"); }),
               Catch::Contains("nothing is left") && Catch::Contains(":5:"));
    CHECK_THAT(message_of([&] { load("rule = [{ nodes = \"x\" }]\n"); }),
               Catch::Contains("either 'layer' or"));
    CHECK_THAT(message_of([&] { load("rule = [{ nodes = \"x\", layer = \"gratin\" }]\n"); }),
               Catch::Contains("did you mean 'grating'"));
}

TEST_CASE("a tile map is solid exactly where its cells are, whatever is merged") {
    Random random(3);
    const std::string kinds = "..##/\\_";
    for (int scene = 0; scene < 20; ++scene) {
        std::vector<std::string> rows;
        const int columns = 1 + random.below(12);
        for (int r = 1 + random.below(9); r > 0; --r) {
            std::string row;
            for (int c = 0; c < columns; ++c)
                row += kinds[static_cast<std::size_t>(random.below(static_cast<int>(kinds.size())))];
            rows.push_back(row);
        }
        rows.back()[0] = '#';
        const bool image_like = scene % 2 == 1;
        std::string text =
            head2 + (image_like ? "up = [0, -1]\n" : "") +
            "[[solid]]\nname = \"t\"\nlayer = \"m\"\n[solid.tiles]\ncell = 0.5\nat = [3, -2]\nrows = [";
        for (const std::string& row : rows) text += "'" + row + "', ";
        const Level<2> level = std::get<Level<2>>(level_from_toml(text + "]\n", "l"));
        for (int i = 0; i < 300; ++i) {
            const int r = random.below(static_cast<int>(rows.size()));
            const int c = random.below(columns);
            // In the cell, from its lower left corner as one sees it.
            const Vec<2> in(random.between(0.01, 0.99), random.between(0.01, 0.99));
            const char kind = rows[static_cast<std::size_t>(r)][static_cast<std::size_t>(c)];
            if (std::abs(in.x() - in.y()) < 0.01 || std::abs(in.x() + in.y() - 1.0) < 0.01 ||
                std::abs(in.y() - 0.5) < 0.01)
                continue;
            const bool solid = kind == '#' || (kind == '/' && in.y() < in.x()) ||
                               (kind == '\\' && in.y() < 1.0 - in.x()) || (kind == '_' && in.y() < 0.5);
            const double from_top = r + 1.0 - in.y();
            const double y = image_like ? -2.0 + 0.5 * from_top
                                        : -2.0 + 0.5 * (static_cast<double>(rows.size()) - from_top);
            INFO("cell " << kind << " at " << in << " row " << r << " column " << c);
            REQUIRE(is_solid_at<2>(level, {3.0 + 0.5 * (c + in.x()), y}) == solid);
        }
    }
}

TEST_CASE("tiles: a legend with layers and one-way cells, files, and what is refused") {
    const Folder folder;
    folder.file("map.txt", "==..\n####\n");
    const auto load = [&](const std::string& tiles) {
        return std::get<Level<2>>(load_level(folder.file(
            "l.level.toml", head2 + "[[solid]]\nname = \"t\"\nlayer = \"m\"\ntiles = " + tiles + "\n")));
    };
    const Level<2> level = load(
        "{ file = \"map.txt\", legend = [{ cell = \"=\", is = \"one_way\", layer = \"grating\" }, { cell = "
        "\"#\", is = \"full\" }] }");
    REQUIRE(level.solids().size() == 2);
    CHECK(level.solids()[0].name == "t (grating, one-way)");
    CHECK(level.solids()[0].one_way->is_close(Vec<2>(0, 1)));
    CHECK(level.solids()[0].piece_count == 1);  // two cells, one segment
    CHECK(level.solids()[1].piece_count == 1);  // four cells, one box
    CHECK(level.bounds().high.is_close(Vec<2>(4, 2)));
    CHECK_THAT(message_of([&] { load("{ rows = [\"##\", \"#?\"] }"); }),
               Catch::Contains("row 2, column 2") && Catch::Contains(":7:"));
    CHECK_THAT(message_of([&] { load("{ rows = [\"..\"] }"); }), Catch::Contains("no solid cell"));
    CHECK_THAT(message_of([&] { load("{ rows = [\"#\"], file = \"map.txt\" }"); }),
               Catch::Contains("either 'rows' or 'file'"));
    CHECK_THAT(message_of([&] { load("{ rows = [\"#\"], cell = 0.0 }"); }), Catch::Contains("cell"));
    CHECK_THAT(message_of([&] { load("{ file = \"gone.txt\" }"); }), Catch::Contains("no such file"));
}

TEST_CASE("a million cells become few pieces, and stay exact") {
    CellGrid grid;
    grid.columns = 1000;
    grid.rows = 1000;
    grid.cells.assign(1'000'000, 1);
    grid.cells[500 * 1000 + 500] = 0;
    LevelBuilder<2> builder({"m"});
    add_cells(builder, "field", grid, {{}, {CellShape::full, "m"}});
    const Level<2> level = builder.build();
    CHECK(level.piece_count() <= 4);
    CHECK_FALSE(is_solid_at<2>(level, {500.5, 499.5}));
    CHECK(is_solid_at<2>(level, {501.5, 499.5}));
    CHECK(is_solid_at<2>(level, {500.5, 500.5}));
}

TEST_CASE("a mask is solid in its coloured pixels; unknown colours are refused with their place") {
    const Folder folder;
    // Two rows of three: black, white, red; transparent, black, black.
    folder.file("mask.png", png_of(3, 2, 8, PNG_COLOR_TYPE_RGBA,
                                   std::string("\0\0\0\xFF\xFF\xFF\xFF\xFF\xFF\0\0\xFF"
                                               "\1\2\3\0\0\0\0\xFF\0\0\0\xFF",
                                               24)));
    const auto load = [&](const std::string& image) {
        return std::get<Level<2>>(load_level(folder.file(
            "l.level.toml",
            head2 + "up = [0, -1]\n[[solid]]\nname = \"t\"\nlayer = \"m\"\nimage = " + image + "\n")));
    };
    CHECK_THAT(message_of([&] { load("{ file = \"mask.png\" }"); }),
               Catch::Contains("#ff0000ff") && Catch::Contains("column 3, row 1"));
    const Level<2> level = load(
        "{ file = \"mask.png\", pixel = 0.25, legend = [{ color = \"#000000\" }, { color = \"#ff0000\", "
        "layer = \"grating\" }] }");
    CHECK(level.solids().size() == 2);
    CHECK(is_solid_at<2>(level, {0.1, 0.1}));
    CHECK_FALSE(is_solid_at<2>(level, {0.3, 0.1}));
    CHECK(is_solid_at<2>(level, {0.6, 0.1}, LayerSet{2}));
    CHECK_FALSE(is_solid_at<2>(level, {0.6, 0.1}, LayerSet{1}));
    CHECK_FALSE(is_solid_at<2>(level, {0.1, 0.3}));
    CHECK(is_solid_at<2>(level, {0.6, 0.3}, LayerSet{1}));
    CHECK(level.bounds().high.is_close(Vec<2>(0.75, 0.5)));
    CHECK_THAT(message_of([&] { load("{ file = \"mask.png\", legend = [{ color = \"black\" }] }"); }),
               Catch::Contains("#rrggbb"));
    folder.file("short.png", png_of(3, 2, 8, PNG_COLOR_TYPE_GRAY, std::string(6, '\0')).substr(0, 50));
    CHECK_THAT(message_of([&] { load("{ file = \"short.png\" }"); }),
               Catch::Contains("short.png") && Catch::Contains("cannot be read"));
}

TEST_CASE("heights come from 16-bit pixels, in both dimensions") {
    const Folder folder;
    // 0, 32768 / 65535, 16384: high byte first.
    folder.file("h.png",
                png_of(2, 2, 16, PNG_COLOR_TYPE_GRAY, std::string("\x00\x00\x80\x00\xFF\xFF\x40\x00", 8)));
    const std::string solid =
        "[[solid]]\nname = \"g\"\nlayer = \"m\"\nheights = { file = \"h.png\", spacing = 2.0, low = 1.0, "
        "high = 11.0";
    const auto level =
        std::get<Level<3>>(load_level(folder.file("a.level.toml", head3 + solid + ", at = [10, 0, 0] }\n")));
    CHECK(level.piece_count() == 2);
    CHECK(level.bounds().low.is_close(Vec<3>(10, 1, 0)));
    CHECK(level.bounds().high.is_close(Vec<3>(12, 11, 2)));
    const auto profile =
        std::get<Level<2>>(load_level(folder.file("b.level.toml", head2 + solid + ", row = 1 }\n")));
    CHECK(profile.piece_count() == 1);
    CHECK(profile.bounds().high.y() == Approx(11.0));
    CHECK(profile.bounds().low.y() == Approx(1.0 + 10.0 * 0x4000 / 65535.0));
    CHECK_THAT(message_of([&] { load_level(folder.file("c.level.toml", head2 + solid + ", row = 2 }\n")); }),
               Catch::Contains("expected 0 to 1"));
    folder.file("h.png", png_of(1, 1, 8, PNG_COLOR_TYPE_RGB, std::string(3, '\0')));
    CHECK_THAT(message_of([&] { load_level(folder.file("d.level.toml", head3 + solid + " }\n")); }),
               Catch::Contains("greyscale"));
}

TEST_CASE("every planted oddity of a mesh is counted, and none in a sound one") {
    // A closed tetrahedron.
    const std::vector<Vec<3>> corners = {{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
    using Triangles = std::vector<std::array<std::uint32_t, 3>>;
    const Triangles sound = {{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {0, 3, 2}};
    const auto report = [&](std::vector<Vec<3>> vertices, const Triangles& triangles, double gap = 0.0) {
        LevelBuilder<3> builder({"m"});
        builder.add_mesh("t", "m", vertices, triangles);
        InspectOptions options;
        options.gap_width = gap;
        return inspect<3>(builder.build(), options);
    };
    const auto clean = report(corners, sound);
    CHECK(clean.solids[0].closed());
    CHECK(clean.solids[0].islands == 1);
    for (std::size_t i = 0; i < oddity_count; ++i) CHECK(clean.count(static_cast<Oddity>(i)) == 0);
    const Triangles open(sound.begin(), sound.end() - 1);
    CHECK(report(corners, open).count(Oddity::open_edge) == 3);
    CHECK_FALSE(report(corners, open).solids[0].closed());
    Triangles flipped = sound;
    std::swap(flipped[2][0], flipped[2][1]);
    CHECK(report(corners, flipped).count(Oddity::flipped_normal) == 3);
    Triangles doubled = sound;
    doubled.push_back({1, 3, 0});
    CHECK(report(corners, doubled).count(Oddity::duplicate_face) == 1);
    CHECK(report(corners, doubled).count(Oddity::nonmanifold_edge) == 3);
    // The same corners from the other side: a sheet with two sides. All turned: inside out.
    Triangles sheet = {sound[0], {sound[0][1], sound[0][0], sound[0][2]}};
    CHECK(report(corners, sheet).count(Oddity::both_sided) == 1);
    CHECK(report(corners, sheet).count(Oddity::duplicate_face) == 0);
    CHECK(report(corners, sheet).count(Oddity::inside_out) == 0);
    Triangles turned = sound;
    for (auto& triangle : turned) std::swap(triangle[0], triangle[1]);
    CHECK(report(corners, turned).count(Oddity::inside_out) == 1);
    CHECK(report(corners, turned).count(Oddity::flipped_normal) == 0);
    Triangles flat = sound;
    flat.push_back({0, 1, 1});
    CHECK(report(corners, flat).count(Oddity::zero_area) == 1);
    // Two squares a hair apart.
    std::vector<Vec<3>> pair;
    for (const double x : {0.0, 1.001}) {
        for (const auto& [dx, dz] : {std::pair{0.0, 0.0}, {1.0, 0.0}, {1.0, 1.0}, {0.0, 1.0}})
            pair.emplace_back(x + dx, 0.0, dz);
    }
    const Triangles squares = {{0, 1, 2}, {0, 2, 3}, {4, 5, 6}, {4, 6, 7}};
    const auto gaps = report(pair, squares, 0.01);
    CHECK(gaps.solids[0].islands == 2);
    CHECK(gaps.count(Oddity::narrow_gap) == 2);  // seen from either side
    CHECK(gaps.places.back().width == Approx(0.001));
    CHECK(report(pair, squares, 0.0005).count(Oddity::narrow_gap) == 0);
    // Slabs a hair apart; flush ones are no gap.
    LevelBuilder<2> builder({"m"});
    builder.add("a", "m", RoundedHull<2>::box({0.5, 0.0}, {1, 1}))
        .add("b", "m", RoundedHull<2>::box({1.504, 0.0}, {1, 1}));
    builder.add("c", "m", RoundedHull<2>::box({2.504, 0.0}, {1, 1}));
    builder.add_polyline("line", "m", {{0, 3}, {1, 3}, {2, 4}});
    InspectOptions options;
    options.gap_width = 0.01;
    const auto flat_report = inspect<2>(builder.build(), options);
    CHECK(flat_report.count(Oddity::narrow_gap) == 1);
    CHECK(flat_report.count(Oddity::open_edge) == 2);  // the ends of the line
    options.gap_width = -1.0;
    CHECK_THROWS_AS(inspect<2>(builder.add("d", "m", RoundedHull<2>::box({9, 9}, {1, 1})).build(), options),
                    InvalidInput);
}

TEST_CASE("what is saved loads again as the same solids on the same layers") {
    LevelBuilder<3> builder({"m", "grating"});
    builder.add("box", "m", RoundedHull<3>::box({1, 2, 3}, {2, 2, 2}));
    builder.add("ball", "grating", RoundedHull<3>::ball({-3, 0, 0}, 1.0));
    builder.add("pipe", "m", RoundedHull<3>::capsule({0, 0, -4}, {0, 3, -4}, 0.5));
    builder.add_mesh("sheet", "grating", {{0, 0, 0}, {0.1, 0, 0}, {0, 0.3, 0}}, {{0, 1, 2}});
    const Level<3> level = builder.build();
    const Folder folder;
    for (const char* name : {"l.glb", "l.gltf", "l.obj"}) {
        INFO(name);
        const Level<3> again = std::get<Level<3>>(load_level(folder.file(name, saved_mesh<3>(level, name))));
        REQUIRE(again.solids().size() == 4);
        for (std::size_t i = 0; i < 4; ++i) {
            CHECK(again.solids()[i].name == level.solids()[i].name);
            if (name != std::string("l.obj")) {
                CHECK(again.layers()[again.solids()[i].layer] == level.layers()[level.solids()[i].layer]);
            }
        }
        CHECK((again.bounds().low - level.bounds().low).norm() < 0.02);
        CHECK((again.bounds().high - level.bounds().high).norm() < 0.02);
        const LevelReport<3> report = inspect<3>(again);
        for (std::size_t i = 0; i < 2; ++i) {
            CHECK(report.solids[i].odd[static_cast<std::size_t>(Oddity::flipped_normal)] == 0);
        }
        // Every saved corner of a round shape lies on it.
        const auto ball = RoundedHull<3>::ball({-3, 0, 0}, 1.0);
        const Solid<3>& solid = again.solids()[1];
        for (std::uint32_t k = 0; k < solid.piece_count; ++k) {
            for (int c = 0; c < 3; ++c) {
                const Vec<3>& corner = again.pieces().corners(solid.first_piece + k)[c];
                REQUIRE((corner - Vec<3>(-3, 0, 0)).norm() == Approx(1.0).margin(1e-6));
            }
        }
        if (name == std::string("l.obj"))
            CHECK(again.pieces().corners(again.piece_count() - 1)[1].x() == 0.1);
    }
    CHECK(std::get<Level<3>>(load_level(folder.file("one.glb", saved_mesh<3>(level, "one.glb", {{"pipe"}}))))
              .solids()
              .size() == 1);
    CHECK_THROWS_AS(saved_mesh<3>(level, "l.stl"), InvalidInput);
    CHECK_THROWS_AS(saved_mesh<3>(level, "l.glb", {{"nobody"}}), InvalidInput);
    LevelBuilder<2> flat({"m"});
    flat.add("slab", "m", RoundedHull<2>::box({0, 0}, {2, 1}));
    const Level<3> sheet =
        std::get<Level<3>>(load_level(folder.file("f.obj", saved_mesh<2>(flat.build(), "f.obj"))));
    CHECK(sheet.bounds().size().is_close(Vec<3>(2, 1, 0)));
}
