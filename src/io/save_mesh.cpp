#include "hollow_probe/io/save_mesh.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "hollow_probe/io/mesh_file.hpp"
#include "io/gltf_writer.hpp"
#include "io/hull_surface.hpp"

namespace hollow_probe {
namespace {

void append(TriangleMesh& to, const TriangleMesh& from) {
    const auto base = static_cast<std::uint32_t>(to.vertices.size());
    to.vertices.insert(to.vertices.end(), from.vertices.begin(), from.vertices.end());
    for (const auto& [a, b, c] : from.triangles) to.triangles.push_back({base + a, base + b, base + c});
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
            append(part.mesh, hull_surface<D>(level.piece(piece), level.pieces().is_facet(piece),
                                              options.facets_around));
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

std::string as_gltf(std::vector<NamedMesh> parts, bool binary) {
    std::vector<GltfPart> result;
    for (NamedMesh& part : parts) {
        GltfPart one{part.name, part.layer, std::move(part.mesh.vertices)};
        for (const auto& triangle : part.mesh.triangles)
            one.indices.insert(one.indices.end(), triangle.begin(), triangle.end());
        result.push_back(std::move(one));
    }
    return gltf_file(result, binary);
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
