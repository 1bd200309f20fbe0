#include "hollow_probe/io/mesh_file.hpp"

#include <algorithm>
#include <filesystem>

#include "hollow_probe/io/atomic_file.hpp"
#include "io/mesh_parts.hpp"

namespace hollow_probe {
namespace {

std::string extension_of(const std::string& path) {
    std::string extension = std::filesystem::path(path).extension().string();
    std::transform(extension.begin(), extension.end(), extension.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return extension;
}

}  // namespace

void fail_mesh(const std::string& path, const std::string& why) {
    throw InvalidInput("mesh file '" + path + "' " + why);
}

void fail_mesh(const std::string& path, std::size_t line, std::size_t column, const std::string& why) {
    throw InvalidInput("mesh file '" + path + "', line " + std::to_string(line) + ", column " +
                       std::to_string(column) + ": " + why);
}

void PartList::add(MeshPart part) {
    if (part.mesh.triangles.empty()) return;
    triangles_ += part.mesh.triangles.size();
    if (triangles_ > most_mesh_triangles) {
        fail_mesh(path_, "has more than " + std::to_string(most_mesh_triangles) + " triangles");
    }
    if (part.name.empty()) part.name = stem();
    if (!names_.insert(part.name).second) {
        const std::string name = part.name;
        std::size_t& number = next_.try_emplace(name, 2).first->second;
        do {
            part.name = name + " (" + std::to_string(number++) + ")";
        } while (!names_.insert(part.name).second);
    }
    parts_.push_back(std::move(part));
}

std::vector<MeshPart> PartList::finish(const char* what) {
    if (parts_.empty()) fail_mesh(path_, std::string("has no triangles: expected ") + what);
    return std::move(parts_);
}

std::string PartList::stem() const {
    return std::filesystem::path(path_).stem().string();
}

bool is_mesh_file(const std::string& path) {
    const std::string extension = extension_of(path);
    return extension == ".gltf" || extension == ".glb" || extension == ".obj" || extension == ".stl";
}

std::vector<MeshPart> load_mesh_parts(const std::string& path, const MeshFileOptions& options) {
    if (!is_mesh_file(path)) fail_mesh(path, "is of no known kind: expected .gltf, .glb, .obj or .stl");
    std::string content;
    try {
        content = read_file(path, most_mesh_bytes);
    } catch (const InputError& error) {
        throw InvalidInput("mesh file " + std::string(error.what()));
    }
    const std::string extension = extension_of(path);
    if (extension == ".obj") return parts_from_obj(content, path);
    if (extension == ".stl") return parts_from_stl(content, path);
    return parts_from_gltf(content, path, options);
}

TriangleMesh load_mesh(const std::string& path, const std::string& name, const MeshFileOptions& options) {
    const auto parts = load_mesh_parts(path, options);
    TriangleMesh mesh;
    for (const MeshPart& part : parts) {
        const bool wanted = name.empty() || part.name == name ||
                            std::find(part.nodes.begin(), part.nodes.end(), name) != part.nodes.end();
        if (!wanted) continue;
        mesh.warnings = part.mesh.warnings;
        const auto base = static_cast<std::uint32_t>(mesh.vertices.size());
        mesh.vertices.insert(mesh.vertices.end(), part.mesh.vertices.begin(), part.mesh.vertices.end());
        for (const auto& [a, b, c] : part.mesh.triangles) {
            mesh.triangles.push_back({base + a, base + b, base + c});
        }
    }
    if (!mesh.triangles.empty()) return mesh;
    std::string names;
    for (const MeshPart& part : parts) {
        if (names.size() > 200) {
            names += ", …";
            break;
        }
        names += (names.empty() ? "'" : ", '") + part.name + "'";
    }
    fail_mesh(path, "has no node or group '" + name + "' with triangles, expected one of " + names);
}

}  // namespace hollow_probe
