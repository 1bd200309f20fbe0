// Triangle meshes from files of other programs.
#pragma once

#include <array>
#include <string>
#include <string_view>
#include <vector>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

struct TriangleMesh {
    std::vector<Vec<3>> vertices;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    std::vector<std::string> warnings = {};  // of the file: what was not understood and may be missing
};

/// One named part of a mesh file: a node of a glTF file, a group of an OBJ file, a whole STL file.
struct MeshPart {
    std::string name;   // made unique within the file
    std::string layer;  // glTF: what `extras.layer` of the node, else of its mesh says; else empty
    TriangleMesh mesh;  // never empty
    /// glTF: the node's own name and those of the nodes above it.
    std::vector<std::string> nodes;
};

struct MeshFileOptions {
    /// glTF buffers may lie outside the folder of the file. Off: a level sent by somebody else reads nothing
    /// but its own folder.
    bool allow_outside = false;
};

/// What is read at most.
inline constexpr std::size_t most_mesh_bytes = std::size_t{1} << 30U;
inline constexpr std::size_t most_mesh_triangles = 100'000'000;

/// Whether the name ends as a mesh file's: .gltf, .glb, .obj or .stl, in any case.
bool is_mesh_file(const std::string& path);

/// All parts of a .gltf, .glb, .obj or .stl file. Parts without triangles are left out. Throws InvalidInput,
/// naming the file and where in it, for files that cannot be read, are not what their name says, are larger
/// than the limits above or hold no triangle at all.
std::vector<MeshPart> load_mesh_parts(const std::string& path, const MeshFileOptions& options = {});

/// The same from memory; `path` stands for the file in messages, and its folder is where a glTF's buffers
/// are.
///
/// glTF 2.0: node transforms applied (mirroring ones turn the triangles around); triangles, strips and fans,
/// plain or indexed with any index type; interleaved, sparse and quantized positions (KHR_mesh_quantization);
/// instances (EXT_mesh_gpu_instancing), all in the part of their node. Other primitives are passed over.
/// Pictures are never looked up. Extensions that may change geometry and are not understood are refused if
/// the file requires them, else a warning of every part.
std::vector<MeshPart> parts_from_gltf(std::string_view content, const std::string& path,
                                      const MeshFileOptions& options = {});
/// Wavefront OBJ: `o` and `g` start parts; faces of any number of corners, concave ones cut along ears;
/// negative indices. Lines, points and free-form surfaces are passed over.
std::vector<MeshPart> parts_from_obj(std::string_view content, const std::string& path);
/// STL, text or binary. Corners at the same place become one vertex.
std::vector<MeshPart> parts_from_stl(std::string_view content, const std::string& path);

/// The parts as one mesh; if `name` is not empty only those of that name, or below a glTF node of that name.
/// Throws InvalidInput, listing the names there are, if there is none.
TriangleMesh load_mesh(const std::string& path, const std::string& name, const MeshFileOptions& options = {});

}  // namespace hollow_probe
