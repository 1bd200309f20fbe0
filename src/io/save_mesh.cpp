#include "hollow_probe/io/save_mesh.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cstring>
#include <nlohmann/json.hpp>

#include "hollow_probe/io/mesh_file.hpp"

namespace hollow_probe {
namespace {

/// Directions over the unit sphere as a closed mesh: rings from pole to pole, the poles along `axis`.
TriangleMesh sphere(int around, const Vec<3>& axis) {
    TriangleMesh mesh;
    const int rings = std::max(2, around / 2);
    const Vec<3> right = axis.unitOrthogonal();
    const Vec<3> ahead = axis.cross(right);
    const auto ring_vertex = [&](int ring, int sector) {
        return static_cast<std::uint32_t>(1 + (ring - 1) * around + sector % around);
    };
    mesh.vertices.push_back(axis);
    for (int ring = 1; ring < rings; ++ring) {
        const double down = std::numbers::pi * ring / rings;
        for (int sector = 0; sector < around; ++sector) {
            const double turn = 2.0 * std::numbers::pi * sector / around;
            mesh.vertices.emplace_back(std::cos(down) * axis +
                                       std::sin(down) * (std::cos(turn) * right + std::sin(turn) * ahead));
        }
    }
    mesh.vertices.emplace_back(-axis);
    const auto last = static_cast<std::uint32_t>(mesh.vertices.size() - 1);
    for (int sector = 0; sector < around; ++sector) {
        mesh.triangles.push_back({0, ring_vertex(1, sector), ring_vertex(1, sector + 1)});
        for (int ring = 1; ring + 1 < rings; ++ring) {
            const auto a = ring_vertex(ring, sector);
            const auto b = ring_vertex(ring, sector + 1);
            const auto c = ring_vertex(ring + 1, sector);
            const auto d = ring_vertex(ring + 1, sector + 1);
            mesh.triangles.push_back({a, c, b});
            mesh.triangles.push_back({b, c, d});
        }
        mesh.triangles.push_back({last, ring_vertex(rings - 1, sector + 1), ring_vertex(rings - 1, sector)});
    }
    return mesh;
}

void append(TriangleMesh& to, const TriangleMesh& from) {
    const auto base = static_cast<std::uint32_t>(to.vertices.size());
    to.vertices.insert(to.vertices.end(), from.vertices.begin(), from.vertices.end());
    for (const auto& [a, b, c] : from.triangles) to.triangles.push_back({base + a, base + b, base + c});
}

/// A convex fan around loops of corners.
TriangleMesh fans(const std::vector<Vec<3>>& points, const std::vector<std::vector<std::uint16_t>>& loops) {
    TriangleMesh mesh;
    mesh.vertices = points;
    for (const auto& loop : loops) {
        for (std::size_t i = 2; i < loop.size(); ++i) {
            mesh.triangles.push_back({loop[0], loop[i - 1], loop[i]});
        }
    }
    return mesh;
}

/// The surface of a rounded hull: every direction of a sphere put on the corner that is farthest along it.
/// Triangles between directions with the same corner are parts of balls, the others span edges and facets.
TriangleMesh rounded(const HullView<3>& hull, int around) {
    Vec<3> axis = Vec<3>::Unit(1);
    if (hull.points.size() == 2) axis = (hull.points[1] - hull.points[0]).normalized();
    TriangleMesh mesh = sphere(around, axis);
    for (Vec<3>& n : mesh.vertices) {
        const Vec<3>* farthest = hull.points.data();
        for (const Vec<3>& p : hull.points) {
            // Directions across an edge lie on its middle's far side of nothing: the first corner takes them.
            if (n.dot(p) > n.dot(*farthest) + 1e-12 * std::abs(n.dot(p))) farthest = &p;
        }
        n = *farthest + hull.radius * n;
    }
    return mesh;
}

TriangleMesh surface(const HullView<3>& hull, bool is_facet, int around) {
    if (hull.radius > 0.0) return rounded(hull, around);
    std::vector<Vec<3>> points(hull.points.begin(), hull.points.end());
    if (is_facet) return {std::move(points), {{0, 1, 2}}};
    return fans(points, hull.topology->facets);
}

TriangleMesh surface(const HullView<2>& hull, bool is_facet, int around) {
    TriangleMesh mesh;
    std::vector<Vec<2>> outline(hull.points.begin(), hull.points.end());
    if (hull.radius > 0.0) {
        outline.clear();
        for (int i = 0; i < around; ++i) {
            const double angle = 2.0 * std::numbers::pi * i / around;
            const Vec<2> n(std::cos(angle), std::sin(angle));
            const auto farthest =
                std::max_element(hull.points.begin(), hull.points.end(),
                                 [&](const Vec<2>& a, const Vec<2>& b) { return n.dot(a) < n.dot(b); });
            outline.emplace_back(*farthest + hull.radius * n);
        }
    }
    if (is_facet) {
        // A hair of thickness, which programs that drop flat triangles can show.
        const Vec<2> along = outline[1] - outline[0];
        outline.emplace_back(outline[1] + 1e-3 * Vec<2>(along.y(), -along.x()));
    }
    for (const Vec<2>& p : outline) mesh.vertices.emplace_back(p.x(), p.y(), 0.0);
    for (std::uint32_t i = 2; i < outline.size(); ++i) mesh.triangles.push_back({0, i - 1, i});
    return mesh;
}

struct NamedMesh {
    std::string name;
    std::string layer;
    TriangleMesh mesh;
};

template <int D>
std::vector<NamedMesh> chosen(const Level<D>& level, const SaveOptions& options) {
    std::vector<NamedMesh> result;
    for (const std::string& name : options.solids) {
        const bool known = std::any_of(level.solids().begin(), level.solids().end(),
                                       [&](const Solid<D>& solid) { return solid.name == name; });
        if (!known) throw InvalidInput("the level has no solid '" + name + "'");
    }
    for (const Solid<D>& solid : level.solids()) {
        if (!options.solids.empty() &&
            std::find(options.solids.begin(), options.solids.end(), solid.name) == options.solids.end()) {
            continue;
        }
        NamedMesh part{solid.name, level.layers()[solid.layer], {}};
        for (std::uint32_t i = 0; i < solid.piece_count; ++i) {
            const std::uint32_t piece = solid.first_piece + i;
            append(part.mesh,
                   surface(level.piece(piece), level.pieces().is_facet(piece), options.facets_around));
        }
        result.push_back(std::move(part));
    }
    return result;
}

std::string as_obj(const std::vector<NamedMesh>& parts) {
    fmt::memory_buffer out;
    fmt::format_to(std::back_inserter(out), "# A level written by Hollow Probe\n");
    std::size_t base = 1;
    for (const NamedMesh& part : parts) {
        fmt::format_to(std::back_inserter(out), "# layer {}\no {}\n", part.layer, part.name);
        for (const Vec<3>& v : part.mesh.vertices) {
            fmt::format_to(std::back_inserter(out), "v {} {} {}\n", v.x(), v.y(), v.z());
        }
        for (const auto& [a, b, c] : part.mesh.triangles) {
            fmt::format_to(std::back_inserter(out), "f {} {} {}\n", base + a, base + b, base + c);
        }
        base += part.mesh.vertices.size();
    }
    return fmt::to_string(out);
}

std::string base64(const std::string& bytes) {
    static constexpr std::string_view letters =
        "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        std::uint32_t group = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            group = group << 8U | (i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0U);
        }
        for (std::size_t k = 0; k < 4; ++k) {
            out += i + k > bytes.size() ? '=' : letters[group >> (18U - 6U * k) & 63U];
        }
    }
    return out;
}

void add_word(std::string& to, std::uint32_t word) {
    for (unsigned byte = 0; byte < 4; ++byte) to += static_cast<char>(word >> 8U * byte & 0xFFU);
}

std::string as_gltf(const std::vector<NamedMesh>& parts, bool binary) {
    using nlohmann::json;
    constexpr int floats = 5126;
    constexpr int words = 5125;
    std::string bytes;
    json nodes = json::array();
    json meshes = json::array();
    json accessors = json::array();
    json views = json::array();
    json roots = json::array();
    const auto view = [&](std::size_t first, int target) {
        views.push_back(
            {{"buffer", 0}, {"byteOffset", first}, {"byteLength", bytes.size() - first}, {"target", target}});
        return views.size() - 1;
    };
    for (const NamedMesh& part : parts) {
        std::size_t first = bytes.size();
        std::array<float, 3> low{};
        std::array<float, 3> high{};
        for (std::size_t i = 0; i < part.mesh.vertices.size(); ++i) {
            for (std::size_t axis = 0; axis < 3; ++axis) {
                const auto x = static_cast<float>(part.mesh.vertices[i][static_cast<Eigen::Index>(axis)]);
                low[axis] = i == 0 ? x : std::min(low[axis], x);
                high[axis] = i == 0 ? x : std::max(high[axis], x);
                std::uint32_t word = 0;
                std::memcpy(&word, &x, 4);
                add_word(bytes, word);
            }
        }
        accessors.push_back({{"bufferView", view(first, 34962)},
                             {"componentType", floats},
                             {"count", part.mesh.vertices.size()},
                             {"type", "VEC3"},
                             {"min", low},
                             {"max", high}});
        first = bytes.size();
        for (const auto& triangle : part.mesh.triangles) {
            for (const std::uint32_t corner : triangle) add_word(bytes, corner);
        }
        accessors.push_back({{"bufferView", view(first, 34963)},
                             {"componentType", words},
                             {"count", 3 * part.mesh.triangles.size()},
                             {"type", "SCALAR"}});
        meshes.push_back(
            {{"name", part.name},
             {"primitives",
              {{{"attributes", {{"POSITION", accessors.size() - 2}}}, {"indices", accessors.size() - 1}}}}});
        roots.push_back(nodes.size());
        nodes.push_back(
            {{"name", part.name}, {"mesh", meshes.size() - 1}, {"extras", {{"layer", part.layer}}}});
    }
    json buffer = {{"byteLength", bytes.size()}};
    if (!binary) buffer["uri"] = "data:application/octet-stream;base64," + base64(bytes);
    const json model = {{"asset", {{"version", "2.0"}, {"generator", "Hollow Probe"}}},
                        {"scene", 0},
                        {"scenes", {{{"nodes", roots}}}},
                        {"nodes", nodes},
                        {"meshes", meshes},
                        {"accessors", accessors},
                        {"bufferViews", views},
                        {"buffers", {buffer}}};
    std::string text = model.dump(binary ? -1 : 1);
    if (!binary) return text + "\n";
    text.append((4 - text.size() % 4) % 4, ' ');
    bytes.append((4 - bytes.size() % 4) % 4, '\0');
    std::string out = "glTF";
    add_word(out, 2);
    add_word(out, static_cast<std::uint32_t>(12 + 8 + text.size() + 8 + bytes.size()));
    add_word(out, static_cast<std::uint32_t>(text.size()));
    out += "JSON" + text;
    add_word(out, static_cast<std::uint32_t>(bytes.size()));
    out += std::string("BIN\0", 4) + bytes;
    return out;
}

}  // namespace

template <int D>
std::string saved_mesh(const Level<D>& level, const std::string& file_name, const SaveOptions& options) {
    if (options.facets_around < 3) throw InvalidInput("round shapes need at least 3 facets around");
    if (file_name.ends_with(".obj")) return as_obj(chosen(level, options));
    if (file_name.ends_with(".glb")) return as_gltf(chosen(level, options), true);
    if (file_name.ends_with(".gltf")) return as_gltf(chosen(level, options), false);
    throw InvalidInput("'" + file_name + "' must end in .glb, .gltf or .obj");
}

template std::string saved_mesh<2>(const Level<2>&, const std::string&, const SaveOptions&);
template std::string saved_mesh<3>(const Level<3>&, const std::string&, const SaveOptions&);

}  // namespace hollow_probe
