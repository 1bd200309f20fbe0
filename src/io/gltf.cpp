#include "hollow_probe/io/gltf.hpp"

#define TINYGLTF_NO_STB_IMAGE
#define TINYGLTF_NO_STB_IMAGE_WRITE
#include <tiny_gltf.h>

#include <Eigen/Geometry>
#include <cstring>
#include <filesystem>

#include "hollow_probe/io/atomic_file.hpp"

namespace hollow_probe {
namespace {

using Transform = Eigen::Affine3d;

constexpr std::size_t most_bytes = std::size_t{1} << 30U;
constexpr int deepest_nesting = 256;

bool skip_image(tinygltf::Image*, int, std::string*, std::string*, int, int, const unsigned char*, int,
                void*) {
    return true;  // pictures say nothing about where the surface is
}

Transform transform_of(const tinygltf::Node& node) {
    Transform transform = Transform::Identity();
    if (node.matrix.size() == 16) {
        transform.matrix() = Eigen::Map<const Eigen::Matrix4d>(node.matrix.data());
        return transform;
    }
    if (node.translation.size() == 3) transform.translate(Eigen::Map<const Vec<3>>(node.translation.data()));
    if (node.rotation.size() == 4) {
        const auto& r = node.rotation;
        transform.rotate(Eigen::Quaterniond(r[3], r[0], r[1], r[2]).normalized());
    }
    if (node.scale.size() == 3) transform.scale(Eigen::Map<const Vec<3>>(node.scale.data()));
    return transform;
}

class MeshReader {
  public:
    MeshReader(const tinygltf::Model& model, std::string path) : model_(model), path_(std::move(path)) {}

    TriangleMesh read(const std::string& node) {
        if (model_.nodes.empty()) fail("has no nodes");
        if (!node.empty()) {
            const int found = find(node);
            visit(found, above(found), 0);
        } else {
            for (const int root : roots()) visit(root, Transform::Identity(), 0);
        }
        if (mesh_.triangles.empty())
            fail(node.empty() ? "has no triangles" : "has no triangles below node '" + node + "'");
        return std::move(mesh_);
    }

  private:
    [[noreturn]] void fail(const std::string& why) const {
        throw InvalidInput("mesh file '" + path_ + "' " + why);
    }

    std::vector<int> roots() const {
        if (!model_.scenes.empty()) {
            const int scene = model_.defaultScene >= 0 ? model_.defaultScene : 0;
            if (static_cast<std::size_t>(scene) >= model_.scenes.size())
                fail("names a scene it does not have");
            return model_.scenes[static_cast<std::size_t>(scene)].nodes;
        }
        std::vector<bool> is_child(model_.nodes.size(), false);
        for (const auto& node : model_.nodes) {
            for (const int child : node.children) {
                if (valid(child, model_.nodes.size())) is_child[static_cast<std::size_t>(child)] = true;
            }
        }
        std::vector<int> result;
        for (std::size_t i = 0; i < is_child.size(); ++i) {
            if (!is_child[i]) result.push_back(static_cast<int>(i));
        }
        return result;
    }

    static bool valid(int index, std::size_t count) {
        return index >= 0 && static_cast<std::size_t>(index) < count;
    }

    int find(const std::string& name) const {
        for (std::size_t i = 0; i < model_.nodes.size(); ++i) {
            if (model_.nodes[i].name == name) return static_cast<int>(i);
        }
        std::string names;
        for (const auto& node : model_.nodes) {
            if (names.size() > 200) {
                names += ", …";
                break;
            }
            names += (names.empty() ? "'" : ", '") + node.name + "'";
        }
        fail("has no node '" + name + "', expected one of " + names);
    }

    /// The transform of everything above a node.
    Transform above(int index) const {
        Transform result = Transform::Identity();
        for (int level = 0; level < deepest_nesting; ++level) {
            int parent = -1;
            for (std::size_t i = 0; i < model_.nodes.size() && parent < 0; ++i) {
                const auto& children = model_.nodes[i].children;
                if (std::find(children.begin(), children.end(), index) != children.end())
                    parent = static_cast<int>(i);
            }
            if (parent < 0) return result;
            result = transform_of(model_.nodes[static_cast<std::size_t>(parent)]) * result;
            index = parent;
        }
        fail("nests its nodes deeper than 256");
    }

    void visit(int index, const Transform& parent, int depth) {
        if (!valid(index, model_.nodes.size())) fail("names a node it does not have");
        if (depth > deepest_nesting) fail("nests its nodes deeper than 256");
        const auto& node = model_.nodes[static_cast<std::size_t>(index)];
        const Transform transform = parent * transform_of(node);
        if (node.mesh >= 0) {
            if (!valid(node.mesh, model_.meshes.size())) fail("names a mesh it does not have");
            for (const auto& primitive : model_.meshes[static_cast<std::size_t>(node.mesh)].primitives) {
                add(primitive, transform);
            }
        }
        for (const int child : node.children) visit(child, transform, depth + 1);
    }

    void add(const tinygltf::Primitive& primitive, const Transform& transform) {
        const int mode = primitive.mode < 0 ? TINYGLTF_MODE_TRIANGLES : primitive.mode;
        if (mode != TINYGLTF_MODE_TRIANGLES && mode != TINYGLTF_MODE_TRIANGLE_STRIP &&
            mode != TINYGLTF_MODE_TRIANGLE_FAN) {
            return;
        }
        const auto position = primitive.attributes.find("POSITION");
        if (position == primitive.attributes.end()) return;
        const auto base = static_cast<std::uint32_t>(mesh_.vertices.size());
        const tinygltf::Accessor& positions = accessor(position->second);
        if (positions.type != TINYGLTF_TYPE_VEC3 ||
            positions.componentType != TINYGLTF_COMPONENT_TYPE_FLOAT) {
            fail("has positions that are not three floats each");
        }
        for (std::size_t i = 0; i < positions.count; ++i) {
            std::array<float, 3> xyz{};
            std::memcpy(xyz.data(), element(positions, i, sizeof xyz), sizeof xyz);
            const Vec<3> vertex = transform * Vec<3>(xyz[0], xyz[1], xyz[2]);
            if (!vertex.allFinite()) fail("has a vertex that is not finite");
            mesh_.vertices.push_back(vertex);
        }
        std::vector<std::uint32_t> order;
        if (primitive.indices >= 0) {
            order = indices(accessor(primitive.indices), positions.count);
        } else {
            for (std::uint32_t i = 0; i < positions.count; ++i) order.push_back(i);
        }
        const auto triangle = [&](std::size_t a, std::size_t b, std::size_t c) {
            mesh_.triangles.push_back({base + order[a], base + order[b], base + order[c]});
        };
        if (mode == TINYGLTF_MODE_TRIANGLES) {
            if (order.size() % 3 != 0) fail("has a triangle with a corner missing");
            for (std::size_t i = 0; i + 2 < order.size(); i += 3) triangle(i, i + 1, i + 2);
        } else {
            for (std::size_t i = 2; i < order.size(); ++i) {
                if (mode == TINYGLTF_MODE_TRIANGLE_FAN) {
                    triangle(0, i - 1, i);
                } else {
                    triangle(i - 2 + i % 2, i - 1 - i % 2, i);
                }
            }
        }
    }

    const tinygltf::Accessor& accessor(int index) const {
        if (!valid(index, model_.accessors.size())) fail("names an accessor it does not have");
        const auto& result = model_.accessors[static_cast<std::size_t>(index)];
        if (result.sparse.isSparse) fail("uses sparse accessors, which are not supported");
        return result;
    }

    const unsigned char* element(const tinygltf::Accessor& accessor, std::size_t index,
                                 std::size_t size) const {
        if (!valid(accessor.bufferView, model_.bufferViews.size())) fail("has an accessor without data");
        const auto& view = model_.bufferViews[static_cast<std::size_t>(accessor.bufferView)];
        if (!valid(view.buffer, model_.buffers.size())) fail("names a buffer it does not have");
        const auto& bytes = model_.buffers[static_cast<std::size_t>(view.buffer)].data;
        const std::size_t stride = view.byteStride == 0 ? size : view.byteStride;
        const std::size_t offset = view.byteOffset + accessor.byteOffset + index * stride;
        if (offset > bytes.size() || bytes.size() - offset < size)
            fail("has an accessor that reaches past its data");
        return bytes.data() + offset;
    }

    std::vector<std::uint32_t> indices(const tinygltf::Accessor& accessor, std::size_t vertex_count) const {
        std::vector<std::uint32_t> result;
        for (std::size_t i = 0; i < accessor.count; ++i) {
            std::uint32_t index = 0;
            if (accessor.componentType == TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE) {
                index = *element(accessor, i, 1);
            } else if (accessor.componentType == TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT) {
                std::uint16_t narrow = 0;
                std::memcpy(&narrow, element(accessor, i, 2), 2);
                index = narrow;
            } else if (accessor.componentType == TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT) {
                std::memcpy(&index, element(accessor, i, 4), 4);
            } else {
                fail("has indices that are not unsigned integers");
            }
            if (index >= vertex_count) fail("has an index past its last vertex");
            result.push_back(index);
        }
        return result;
    }

    const tinygltf::Model& model_;
    std::string path_;
    TriangleMesh mesh_;
};

}  // namespace

TriangleMesh load_gltf(const std::string& path, const std::string& node) {
    std::string content;
    try {
        content = read_file(path, most_bytes);
    } catch (const InputError& error) {
        throw InvalidInput("mesh file " + std::string(error.what()));
    }
    tinygltf::TinyGLTF loader;
    loader.SetImageLoader(skip_image, nullptr);
    tinygltf::Model model;
    std::string errors;
    std::string warnings;
    const std::string folder = std::filesystem::path(path).parent_path().string();
    const bool binary = content.starts_with("glTF");
    const auto length = static_cast<unsigned int>(content.size());
    bool loaded = false;
    try {
        loaded = binary
                     ? loader.LoadBinaryFromMemory(&model, &errors, &warnings,
                                                   reinterpret_cast<const unsigned char*>(content.data()),
                                                   length, folder)
                     : loader.LoadASCIIFromString(&model, &errors, &warnings, content.data(), length, folder);
    } catch (const std::exception& error) {
        errors = error.what();
    }
    if (!loaded) {
        const std::size_t end = errors.find('\n');
        throw InvalidInput("mesh file '" + path + "' is not a glTF 2.0 file: " + errors.substr(0, end));
    }
    return MeshReader(model, path).read(node);
}

}  // namespace hollow_probe
