#include "hollow_probe/io/level_file.hpp"

#include <algorithm>
#include <filesystem>

#include "hollow_probe/io/mesh_file.hpp"
#include "io/level_cells.hpp"
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
        turned = turn_by(angle);
    } else {
        const Vec<3> axis = turn.vector<3>("axis");
        if (axis.norm() == 0.0) turn.fail("axis", "'axis' has no length, expected a direction");
        turned = turn_about(axis.normalized(), angle);
    }
    return box.placed(turned, center - turned * center);
}

/// Whether a name fits a pattern in which `*` stands for any characters.
bool matches(std::string_view pattern, std::string_view name) {
    std::size_t p = 0;
    std::size_t n = 0;
    std::size_t star = std::string_view::npos;
    std::size_t after = 0;  // where the last star's match ends so far
    while (n < name.size()) {
        if (p < pattern.size() && pattern[p] == '*') {
            star = p++;
            after = n;
        } else if (p < pattern.size() && pattern[p] == name[n]) {
            ++p;
            ++n;
        } else if (star != std::string_view::npos) {
            p = star + 1;
            n = ++after;
        } else {
            return false;
        }
    }
    while (p < pattern.size() && pattern[p] == '*') ++p;
    return p == pattern.size();
}

/// A mesh file by itself: all on one layer.
Level<3> level_of_mesh_file(const std::string& path) {
    try {
        const auto parts = load_mesh_parts(path);
        std::vector<std::string> layers = {"solid"};
        for (const MeshPart& part : parts) {
            if (!part.layer.empty() && std::find(layers.begin(), layers.end(), part.layer) == layers.end()) {
                layers.push_back(part.layer);
            }
        }
        LevelBuilder<3> builder(layers);
        for (const MeshPart& part : parts) {
            builder.add_mesh(part.name, part.layer.empty() ? "solid" : part.layer, part.mesh.vertices,
                             part.mesh.triangles);
            for (const std::string& warning : part.mesh.warnings) builder.warn(warning);
        }
        return builder.build();
    } catch (const InvalidInput& error) {
        throw InputError(path + ":1:1: " + error.what());
    }
}

template <int D>
class LevelReader {
  public:
    explicit LevelReader(const TomlFile& file)
        : file_(file), root_(file, level_file_keys(), "hollow-probe level 1") {}

    Level<D> read() {
        const auto layers = root_.texts("layers");
        const Vec<D> up = root_.has("up") ? root_.vector<D>("up") : Vec<D>::unit(1);
        if (up.norm() == 0.0) root_.fail("up", "'up' has no length, expected a direction");
        LevelBuilder<D> builder = root_.placed("layers", [&] { return LevelBuilder<D>(layers, up); });
        Faults faults;
        root_.each("solid", faults, [&](const TableReader& solid) {
            read_solid(solid, layers, builder);
            read_manners(solid, builder);
        });
        root_.each("import", faults,
                   [&](const TableReader& import) { read_import(import, layers, builder); });
        Faults of_areas;
        root_.each("area", of_areas, [&](const TableReader& area) { read_area(area, layers, builder); });
        faults.in([&] { of_areas.tell(); });
        // A claim about an area that has something wrong is not wrong for that.
        const std::vector<std::string> named =
            of_areas.none() ? std::vector<std::string>() : root_.names_in("area");
        root_.each("claim", faults, [&](const TableReader& claim) { read_claim(claim, named, builder); });
        root_.each("start", faults, [&](const TableReader& start) { read_start(start, up, builder); });
        faults.tell();
        return root_.placed("solid", [&] { return builder.build(); });
    }

  private:
    /// How the last solid behaves: from where, to whom and when it is solid, and where it goes.
    static void read_manners(const TableReader& solid, LevelBuilder<D>& builder) {
        if (solid.has("one_way"))
            solid.placed("one_way", [&] { builder.one_way(solid.vector<D>("one_way")); });
        if (solid.has("role")) {
            static constexpr std::array<std::string_view, 3> roles = {"both", "sensed", "reference"};
            const auto role = static_cast<Role>(solid.choice("role", roles));
            solid.placed("role", [&] { builder.role(role); });
        }
        if (solid.has("sensed_when")) read_sensed_when(solid, builder);
        if (solid.has("path")) read_path(solid, builder);
    }

    static void read_start(const TableReader& start, const Vec<D>& up, LevelBuilder<D>& builder) {
        const std::string name = start.text("name");
        const Vec<D> at = start.vector<D>("at");
        const Vec<D> heading = start.vector<D>("heading");
        if (heading.norm() == 0.0) start.fail("heading", "'heading' has no length, expected a direction");
        start.placed("heading", [&] { return level_heading<D>(heading, up.normalized()); });
        start.placed("name", [&] { builder.start(name, at, heading); });
    }

    static void read_sensed_when(const TableReader& solid, LevelBuilder<D>& builder) {
        const TableReader table = solid.table("sensed_when");
        SensedWhen when;
        if (table.has("stances")) when.stances = table.texts("stances");
        when.slowest = table.number("slowest", 0.0);
        if (when.slowest < 0.0) table.fail("slowest", "'slowest' is negative, expected 0 or more");
        when.fastest = table.number("fastest", infinity);
        if (when.fastest < when.slowest)
            table.fail("fastest", "'fastest' is less than 'slowest', expected at least as much");
        solid.placed("sensed_when", [&] { builder.sensed_when(when); });
    }

    static void read_path(const TableReader& solid, LevelBuilder<D>& builder) {
        const TableReader table = solid.table("path");
        Path<D> path;
        path.stops = table.vectors<D>("stops");
        path.pace = table.positive("pace");
        path.wait = table.number("wait", 0.0);
        table.placed(path.stops.empty() ? "stops" : "wait", [&] { builder.path(path); });
    }

    static void read_area(const TableReader& table, const std::vector<std::string>& layers,
                          LevelBuilder<D>& builder) {
        const TableReader box = table.table("box");
        const Vec<D> center = box.vector<D>("center");
        const Vec<D> size = box.vector<D>("size");
        if (!all_below(Vec<D>::zero(), size)) box.fail("size", "'size' needs numbers of more than 0");
        const std::string layer = table.text("layer", "");
        if (table.has("layer")) check_layer(table, layer, layers);
        table.placed("name", [&] {
            builder.area(table.text("name"), {center - 0.5 * size, center + 0.5 * size}, layer);
        });
    }

    static void read_claim(const TableReader& table, const std::vector<std::string>& taken_for_areas,
                           LevelBuilder<D>& builder) {
        static constexpr std::array<std::string_view, 2> words = {"never", "always"};
        std::array<std::string_view, all_claims.size()> claims;
        std::transform(all_claims.begin(), all_claims.end(), claims.begin(),
                       [](Claim claim) { return name_of(claim); });
        const AreaClaim claim{table.text("area"), all_claims[table.choice("truth", claims)],
                              table.choice("is", words) == 1};
        const bool is_taken =
            std::find(taken_for_areas.begin(), taken_for_areas.end(), claim.area) != taken_for_areas.end();
        if (!is_taken) table.placed("area", [&] { builder.claim(claim); });
    }

    void read_solid(const TableReader& table, const std::vector<std::string>& layers,
                    LevelBuilder<D>& builder) {
        static constexpr std::array<std::string_view, 10> shapes = {
            "box", "ball", "capsule", "hull", "polygon", "polyline", "mesh", "tiles", "image", "heights"};
        static constexpr std::array<std::string_view, 10> examples = {
            D == 2 ? "{ center = [0.0, -0.5], size = [10.0, 1.0] }"
                   : "{ center = [0.0, -0.5, 0.0], size = [10.0, 1.0, 10.0] }",
            D == 2 ? "{ center = [0.0, 1.0], radius = 0.5 }" : "{ center = [0.0, 1.0, 0.0], radius = 0.5 }",
            D == 2 ? "{ from = [0.0, 3.0], to = [4.0, 3.0], radius = 0.2 }"
                   : "{ from = [0.0, 3.0, 0.0], to = [4.0, 3.0, 0.0], radius = 0.2 }",
            D == 2 ? "{ points = [[0.0, 0.0], [2.0, 0.0], [2.0, 1.0]] }"
                   : "{ points = [[0.0, 0.0, 0.0], [2.0, 0.0, 0.0], [0.0, 2.0, 0.0], [0.0, 0.0, 2.0]] }",
            "{ points = [[4.0, 0.0], [8.0, 0.0], [8.0, 2.0]] }",
            "{ points = [[0.0, 0.0], [4.0, 0.5], [8.0, 0.0]] }",
            "{ file = \"yard.glb\" }",
            "{ cell = 0.2, rows = [\"####\", \"#..#\"] }",
            "{ file = \"bed.png\", pixel = 0.1 }",
            "{ file = \"flat.png\", spacing = 0.5, low = 0.0, high = 2.0 }"};
        const std::string name = table.text("name");
        const std::string layer = table.text("layer");
        check_layer(table, layer, layers);
        const std::string kind = table.one_of(shapes);
        const TableReader shape =
            table.table(kind, examples[static_cast<std::size_t>(
                                  std::find(shapes.begin(), shapes.end(), kind) - shapes.begin())]);
        const bool flat = kind == "polygon" || kind == "polyline" || kind == "tiles" || kind == "image";
        if (D != 2 && flat) {
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
        if (kind == "heights") {
            const HeightGrid grid = read_heights(shape, folder(), D);
            const Vec<D> at = shape.has("at") ? shape.vector<D>("at") : Vec<D>::zero();
            shape.placed("file", [&] { add_heights<D>(builder, name, layer, grid, at); });
            return;
        }
        if constexpr (D == 2) {
            if (kind == "tiles" || kind == "image") {
                const CellSolid cells = kind == "tiles" ? read_tiles(shape, folder(), layer, layers)
                                                        : read_image(shape, folder(), layer, layers);
                table.placed(kind, [&] { add_cells(builder, name, cells.grid, cells.kinds); });
                return;
            }
            const auto points = shape.vectors<2>("points");
            shape.placed("points", [&] {
                kind == "polygon" ? builder.add_polygon(name, layer, points)
                                  : builder.add_polyline(name, layer, points);
            });
        } else {
            const std::string node = shape.text("node", "");
            TriangleMesh mesh = shape.placed("file", [&] {
                return load_mesh((folder() / shape.text("file")).string(), node,
                                 {shape.flag("allow_outside", false)});
            });
            place(shape, mesh);
            for (const std::string& warning : mesh.warnings) builder.warn(warning);
            shape.placed("file", [&] { builder.add_mesh(name, layer, mesh.vertices, mesh.triangles); });
        }
    }

    /// What a rule of an import says, and of whom.
    struct Rule {
        std::string nodes;
        std::string layer;
        bool skip = false;
    };

    void read_import(const TableReader& table, const std::vector<std::string>& layers,
                     LevelBuilder<D>& builder) {
        const std::string layer = table.text("layer");
        check_layer(table, layer, layers);
        std::vector<Rule> rules;
        for (const TableReader& rule : table.tables("rule")) {
            rules.push_back({rule.text("nodes"), rule.text("layer", ""), rule.flag("skip", false)});
            if (rules.back().skip == rule.has("layer"))
                rule.fail("nodes", "expected either 'layer' or 'skip = true'");
            if (rule.has("layer")) check_layer(rule, rules.back().layer, layers);
        }
        if constexpr (D == 2) {
            table.fail("file", "'import' is for 3D levels but the level has dimensions = 2");
        } else {
            auto parts = table.placed("file", [&] {
                return load_mesh_parts((folder() / table.text("file")).string(),
                                       {table.flag("allow_outside", false)});
            });
            std::size_t added = 0;
            for (MeshPart& part : parts) {
                const auto rule = std::find_if(rules.begin(), rules.end(), [&](const Rule& r) {
                    return matches(r.nodes, part.name) ||
                           std::any_of(part.nodes.begin(), part.nodes.end(),
                                       [&](const std::string& node) { return matches(r.nodes, node); });
                });
                if (rule != rules.end() && rule->skip) continue;
                const std::string& own = rule != rules.end()  ? rule->layer
                                         : part.layer.empty() ? layer
                                                              : part.layer;
                place(table, part.mesh);
                for (const std::string& warning : part.mesh.warnings) builder.warn(warning);
                table.placed("file", [&] {
                    builder.add_mesh(part.name, own, part.mesh.vertices, part.mesh.triangles);
                });
                ++added;
            }
            if (added == 0) table.fail("file", "the rules skip every part of the file: nothing is left");
        }
    }

    /// Scales and moves a mesh as its table says.
    static void place(const TableReader& table, TriangleMesh& mesh) {
        const double scale = table.has("scale") ? table.positive("scale") : 1.0;
        const Vec<3> at = table.has("at") ? table.vector<3>("at") : Vec<3>::zero();
        for (Vec<3>& vertex : mesh.vertices) vertex = scale * vertex + at;
    }

    std::filesystem::path folder() const { return std::filesystem::path(file_.name).parent_path(); }

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
    if (is_mesh_file(path)) return level_of_mesh_file(path);
    return level_from_toml(read_toml_text(path), path);
}

}  // namespace hollow_probe
