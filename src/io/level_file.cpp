#include "hollow_probe/io/level_file.hpp"

#include <Eigen/Geometry>
#include <filesystem>

#include "hollow_probe/io/gltf.hpp"
#include "io/toml_reader.hpp"

namespace hollow_probe {
namespace {

template <int D>
RoundedHull<D> read_box(const TableReader& table) {
    const Vec<D> center = table.vector<D>("center");
    const Vec<D> size = table.vector<D>("size");
    auto box = table.placed("size", [&] { return RoundedHull<D>::box(center, size); });
    if (!table.has("turn")) return box;
    const TableReader turn = table.table("turn");
    const double angle = radians(turn.number("degrees"));
    Mat<D> turned;
    if constexpr (D == 2) {
        if (turn.has("axis")) turn.fail("axis", "'axis' is for 3D levels, expected only 'degrees'");
        turned = Eigen::Rotation2Dd(angle).toRotationMatrix();
    } else {
        const Vec<3> axis = turn.vector<3>("axis");
        if (axis.norm() == 0.0) turn.fail("axis", "'axis' has no length, expected a direction");
        turned = Eigen::AngleAxisd(angle, axis.normalized()).toRotationMatrix();
    }
    return box.placed(turned, center - turned * center);
}

template <int D>
class LevelReader {
  public:
    explicit LevelReader(const TomlFile& file)
        : file_(file), root_(file, level_file_keys(), "hollow-probe level 1") {}

    Level<D> read() {
        const auto layers = root_.texts("layers");
        const Vec<D> up = root_.has("up") ? root_.vector<D>("up") : Vec<D>::Unit(1);
        if (up.norm() == 0.0) root_.fail("up", "'up' has no length, expected a direction");
        LevelBuilder<D> builder = root_.placed("layers", [&] { return LevelBuilder<D>(layers, up); });
        for (const TableReader& solid : root_.tables("solid")) read_solid(solid, layers, builder);
        for (const TableReader& start : root_.tables("start")) {
            const std::string name = start.text("name");
            const Vec<D> at = start.vector<D>("at");
            const Vec<D> heading = start.vector<D>("heading");
            if (heading.norm() == 0.0) start.fail("heading", "'heading' has no length, expected a direction");
            start.placed("heading", [&] { return level_heading<D>(heading, up.normalized()); });
            start.placed("name", [&] { builder.start(name, at, heading); });
        }
        return root_.placed("solid", [&] { return builder.build(); });
    }

  private:
    void read_solid(const TableReader& table, const std::vector<std::string>& layers,
                    LevelBuilder<D>& builder) {
        static constexpr std::array<std::string_view, 7> shapes = {"box",     "ball",     "capsule", "hull",
                                                                   "polygon", "polyline", "mesh"};
        const std::string name = table.text("name");
        const std::string layer = table.text("layer");
        if (std::find(layers.begin(), layers.end(), layer) == layers.end()) {
            table.fail("layer",
                       "layer '" + layer + "' is not among the level's layers" + suggestion(layer, layers));
        }
        const std::string kind = table.one_of(shapes);
        const TableReader shape = table.table(kind);
        if (D != 2 && (kind == "polygon" || kind == "polyline")) {
            table.fail(kind, "'" + kind + "' is a 2D shape but the level has dimensions = 3");
        }
        if (D != 3 && kind == "mesh")
            table.fail(kind, "'mesh' is a 3D shape but the level has dimensions = 2");
        // What the shape itself is at fault for is reported there, before the solid's name is.
        std::optional<RoundedHull<D>> hull;
        if (kind == "box") {
            hull = read_box<D>(shape);
        } else if (kind == "ball") {
            hull = RoundedHull<D>::ball(shape.vector<D>("center"), shape.positive("radius"));
        } else if (kind == "capsule") {
            hull = RoundedHull<D>::capsule(shape.vector<D>("from"), shape.vector<D>("to"),
                                           shape.positive("radius"));
        } else if (kind == "hull") {
            const double radius = shape.number("radius", 0.0);
            if (radius < 0.0) shape.fail("radius", "'radius' is negative, expected at least 0");
            hull = shape.placed("points",
                                [&] { return RoundedHull<D>::hull(shape.vectors<D>("points"), radius); });
        }
        if (hull) {
            table.placed("name", [&] { builder.add(name, layer, *hull); });
            return;
        }
        if constexpr (D == 2) {
            const auto points = shape.vectors<2>("points");
            shape.placed("points", [&] {
                kind == "polygon" ? builder.add_polygon(name, layer, points)
                                  : builder.add_polyline(name, layer, points);
            });
        } else {
            const std::string mesh_file = shape.text("file");
            const std::string node = shape.text("node", "");
            const Vec<3> at = shape.has("at") ? shape.vector<3>("at") : Vec<3>::Zero();
            const auto path = std::filesystem::path(file_.name).parent_path() / mesh_file;
            TriangleMesh mesh = shape.placed("file", [&] { return load_gltf(path.string(), node); });
            for (Vec<3>& vertex : mesh.vertices) vertex += at;
            shape.placed("file", [&] { builder.add_mesh(name, layer, mesh.vertices, mesh.triangles); });
        }
    }

    const TomlFile& file_;
    TableReader root_;
};

}  // namespace

AnyLevel level_from_toml(const std::string& text, const std::string& name) {
    const TomlFile file(text, name);
    const TableReader root(file, level_file_keys(), "hollow-probe level 1");
    const std::int64_t dimensions = root.integer("dimensions");
    if (dimensions == 2) return LevelReader<2>(file).read();
    if (dimensions == 3) return LevelReader<3>(file).read();
    root.fail("dimensions", fmt::format("'dimensions' is {}, expected 2 or 3", dimensions));
}

AnyLevel load_level(const std::string& path) {
    return level_from_toml(read_toml_text(path), path);
}

}  // namespace hollow_probe
