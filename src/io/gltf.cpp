#define TINYGLTF_NO_STB_IMAGE
#define TINYGLTF_NO_STB_IMAGE_WRITE
#include <fmt/format.h>
#include <tiny_gltf.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cstring>
#include <filesystem>

#include "hollow_probe/io/atomic_file.hpp"
#include "io/mesh_parts.hpp"

namespace hollow_probe {
namespace {

namespace fs = std::filesystem;

/// What a node does to points: turns, stretches or shears them, and moves them then.
struct Transform {
    Mat<3> linear = Mat<3>::identity();
    Vec<3> move = Vec<3>::zero();

    Vec<3> operator*(const Vec<3>& point) const { return linear * point + move; }
    /// First the other one, then this one.
    Transform operator*(const Transform& other) const { return {linear * other.linear, *this * other.move}; }
    /// Adds what happens before all that is there already.
    void translate(const Vec<3>& by) { move = *this * by; }
    void rotate(const Mat<3>& turn) { linear = linear * turn; }
    void scale(const Vec<3>& by) {
        for (int axis = 0; axis < 3; ++axis) linear.column(axis) *= by[axis];
    }
};

/// The turn that a quaternion means, of any length (K. Shoemake, "Animating Rotation with Quaternion Curves",
/// 1985); x, y and z come first. That of length 0 turns nothing.
Mat<3> turn_of(const double* quaternion) {
    const Vec<3> v(quaternion[0], quaternion[1], quaternion[2]);
    const double w = quaternion[3];
    const double length = std::sqrt(v.squared_norm() + w * w);
    Mat<3> turn = Mat<3>::identity();
    if (!(length > 0.0)) return turn;
    const Vec<3> axis = v / length;
    for (int k = 0; k < 3; ++k) {
        const Vec<3> across = 2.0 * axis.cross(Vec<3>::unit(k));
        turn.column(k) += w / length * across + axis.cross(across);
    }
    return turn;
}

constexpr const char* instancing = "EXT_mesh_gpu_instancing";
constexpr int deepest_nesting = 256;
constexpr std::size_t most_nodes = 1'000'000;  // visits, too: nodes may be shared
constexpr std::size_t most_vertices = 300'000'000;
/// … and no more than this, and so many for each byte of data: nodes that share a mesh, and sparse accessors,
/// make many of few, and a small file must not fill the memory.
constexpr std::size_t vertices_of_any_file = 1'000'000;
constexpr std::size_t vertices_a_byte = 1'000;

bool skip_image(tinygltf::Image*, int, std::string*, std::string*, int, int, const unsigned char*, int,
                void*) {
    return true;  // pictures say nothing about where the surface is
}

/// Which files a glTF may bring along.
struct Surroundings {
    fs::path folder;
    bool allow_outside = false;
    std::string refused;

    /// Links are followed, so that none leads out.
    bool allows(const std::string& file) {
        std::error_code error;
        const fs::path inside = fs::weakly_canonical(folder.empty() ? fs::path(".") : folder, error);
        const fs::path wanted = fs::weakly_canonical(file, error);
        const auto [end, ignored] = std::mismatch(inside.begin(), inside.end(), wanted.begin(), wanted.end());
        if (allow_outside || (!error && end == inside.end())) return true;
        refused = file;
        return false;
    }
};

/// The file without its pictures, which say nothing about where surfaces are and may be elsewhere or gone;
/// empty if it has none, or is not what it should be: the reader tells why.
std::string without_pictures(std::string_view content) {
    constexpr std::size_t header =
        20;  // of a binary file: magic, version, length, length and type of the text
    const bool binary = content.starts_with("glTF");
    std::string_view text = content;
    std::string_view rest;
    if (binary) {
        std::uint32_t length = 0;
        if (content.size() < header) return {};
        std::memcpy(&length, content.data() + 12, sizeof length);
        if (length > content.size() - header) return {};
        text = content.substr(header, length);
        rest = content.substr(header + length);
    }
    if (text.find("\"images\"") == std::string_view::npos) return {};
    auto json = nlohmann::json::parse(text, nullptr, false);
    if (json.is_discarded() || !json.is_object()) return {};
    for (const char* key : {"images", "textures", "samplers", "materials"}) json.erase(key);
    std::string bare = json.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
    if (!binary) return bare;
    bare.append((4 - bare.size() % 4) % 4, ' ');
    std::string whole(content.substr(0, header));
    const auto put = [&](std::size_t at, std::size_t number) {
        const auto value = static_cast<std::uint32_t>(number);
        std::memcpy(whole.data() + at, &value, sizeof value);
    };
    put(8, header + bare.size() + rest.size());
    put(12, bare.size());
    whole += bare;
    whole += rest;
    return whole;
}

bool file_exists(const std::string& file, void* context) {
    std::error_code error;
    return static_cast<Surroundings*>(context)->allows(file) && fs::is_regular_file(file, error);
}

std::string same_path(const std::string& path, void*) {
    return path;
}

bool read_whole_file(std::vector<unsigned char>* out, std::string* error, const std::string& file,
                     void* context) {
    if (!static_cast<Surroundings*>(context)->allows(file)) return false;
    try {
        const std::string content = read_file(file, most_mesh_bytes);
        out->assign(content.begin(), content.end());
        return true;
    } catch (const InputError& why) {
        if (error != nullptr) *error = why.what();
        return false;
    }
}

Transform transform_of(const tinygltf::Node& node) {
    const auto vec_at = [](const double* numbers) { return Vec<3>(numbers[0], numbers[1], numbers[2]); };
    Transform transform;
    if (node.matrix.size() == 16) {  // by columns
        for (std::size_t axis = 0; axis < 3; ++axis)
            transform.linear.column(static_cast<int>(axis)) = vec_at(&node.matrix[4 * axis]);
        transform.move = vec_at(&node.matrix[12]);
        return transform;
    }
    if (node.translation.size() == 3) transform.translate(vec_at(node.translation.data()));
    if (node.rotation.size() == 4) transform.rotate(turn_of(node.rotation.data()));
    if (node.scale.size() == 3) transform.scale(vec_at(node.scale.data()));
    return transform;
}

std::string layer_in(const tinygltf::Value& extras) {
    if (!extras.IsObject() || !extras.Has("layer") || !extras.Get("layer").IsString()) return "";
    return extras.Get("layer").Get<std::string>();
}

std::size_t component_bytes(int type) {
    switch (type) {
        case TINYGLTF_COMPONENT_TYPE_BYTE:
        case TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE:
            return 1;
        case TINYGLTF_COMPONENT_TYPE_SHORT:
        case TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT:
            return 2;
        case TINYGLTF_COMPONENT_TYPE_FLOAT:
        case TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT:
            return 4;
        default:
            return 0;
    }
}

template <class T>
double component(const unsigned char* bytes, bool normalized) {
    T value{};
    std::memcpy(&value, bytes, sizeof value);
    if constexpr (std::is_floating_point_v<T>) return value;
    if (!normalized) return static_cast<double>(value);
    return std::max(static_cast<double>(value) / static_cast<double>(std::numeric_limits<T>::max()), -1.0);
}

double component(int type, const unsigned char* bytes, bool normalized) {
    switch (type) {
        case TINYGLTF_COMPONENT_TYPE_BYTE:
            return component<std::int8_t>(bytes, normalized);
        case TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE:
            return component<std::uint8_t>(bytes, normalized);
        case TINYGLTF_COMPONENT_TYPE_SHORT:
            return component<std::int16_t>(bytes, normalized);
        case TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT:
            return component<std::uint16_t>(bytes, normalized);
        case TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT:
            return component<std::uint32_t>(bytes, normalized);
        default:
            return component<float>(bytes, normalized);
    }
}

class SceneReader {
  public:
    SceneReader(const tinygltf::Model& model, const std::string& path)
        : model_(model), path_(path), parts_(path) {
        std::size_t bytes = 0;
        for (const tinygltf::Buffer& buffer : model.buffers) bytes += buffer.data.size();
        most_vertices_ = std::min(most_vertices, vertices_of_any_file + vertices_a_byte * bytes);
    }

    std::vector<MeshPart> read() {
        for (const std::string& extension : model_.extensionsRequired) {
            if (!is_harmless(extension))
                fail(fmt::format("needs the extension '{}', which is not supported", extension));
        }
        std::vector<std::string> warnings;
        for (const std::string& extension : model_.extensionsUsed) {
            if (!is_harmless(extension))
                warnings.push_back(fmt::format(
                    "'{}' uses the extension '{}', which is not understood: geometry may be missing", path_,
                    extension));
        }
        if (model_.nodes.empty()) fail("has no nodes");
        for (const int root : roots()) visit(root, Transform{}, 0);
        auto parts = parts_.finish("a glTF file with at least one triangle in its scene");
        for (MeshPart& part : parts) part.mesh.warnings = warnings;
        return parts;
    }

  private:
    [[noreturn]] void fail(const std::string& why) const { fail_mesh(path_, why); }

    static bool valid(int index, std::size_t count) {
        return index >= 0 && static_cast<std::size_t>(index) < count;
    }

    std::vector<int> roots() const {
        if (!model_.scenes.empty()) {
            const int scene = model_.defaultScene >= 0 ? model_.defaultScene : 0;
            if (!valid(scene, model_.scenes.size())) fail("names a scene it does not have");
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

    void visit(int index, const Transform& parent, int depth) {
        if (!valid(index, model_.nodes.size())) fail("names a node it does not have");
        if (depth > deepest_nesting) fail(fmt::format("nests its nodes deeper than {}", deepest_nesting));
        if (++visits_ > most_nodes) fail(fmt::format("has more than {} nodes in its scene", most_nodes));
        const auto& node = model_.nodes[static_cast<std::size_t>(index)];
        const Transform transform = parent * transform_of(node);
        above_.push_back(node.name);
        if (node.mesh >= 0) add_mesh(node, transform);
        for (const int child : node.children) visit(child, transform, depth + 1);
        above_.pop_back();
    }

    void add_mesh(const tinygltf::Node& node, const Transform& transform) {
        if (!valid(node.mesh, model_.meshes.size())) fail("names a mesh it does not have");
        const tinygltf::Mesh& mesh = model_.meshes[static_cast<std::size_t>(node.mesh)];
        MeshPart part;
        part.name = node.name.empty() ? mesh.name : node.name;
        part.layer = layer_in(node.extras);
        if (part.layer.empty()) part.layer = layer_in(mesh.extras);
        nodes_above_ += above_.size();
        if (nodes_above_ > most_vertices_)
            fail(fmt::format("nests its meshes in more than {} nodes, shared ones counted each time",
                             most_vertices_));
        part.nodes = above_;
        for (const Transform& copy : copies_of(node)) {
            const Transform placed = transform * copy;
            const std::size_t first = part.mesh.triangles.size();
            for (const auto& primitive : mesh.primitives) add(primitive, placed, part.mesh);
            if (part.mesh.triangles.size() > most_mesh_triangles)
                fail(fmt::format("has more than {} triangles", most_mesh_triangles));
            // A mirroring transform turns surfaces inside out: turn them back.
            if (placed.linear.determinant() >= 0.0) continue;
            for (std::size_t i = first; i < part.mesh.triangles.size(); ++i)
                std::swap(part.mesh.triangles[i][1], part.mesh.triangles[i][2]);
        }
        parts_.add(std::move(part));
    }

    /// Whether an extension is understood, or says nothing about where the surface is.
    static bool is_harmless(const std::string& extension) {
        static constexpr std::array<std::string_view, 9> beginnings = {
            "KHR_materials_", "KHR_texture_", "EXT_texture_", "MSFT_texture_", "KHR_lights_",
            "EXT_lights_",    "KHR_xmp",      "KHR_audio",    "KHR_animation_"};
        if (extension == "KHR_mesh_quantization" || extension == instancing) return true;
        return std::any_of(beginnings.begin(), beginnings.end(),
                           [&](std::string_view beginning) { return extension.starts_with(beginning); });
    }

    /// Where a node's mesh is put, within the node: once, or once for each instance.
    std::vector<Transform> copies_of(const tinygltf::Node& node) const {
        const auto found = node.extensions.find(instancing);
        if (found == node.extensions.end()) return {Transform{}};
        const tinygltf::Value& extension = found->second;
        if (!extension.IsObject() || !extension.Has("attributes") || !extension.Get("attributes").IsObject())
            fail("has instances without attributes");
        const tinygltf::Value& attributes = extension.Get("attributes");
        std::vector<Transform> copies;
        const auto read = [&](const char* name, int type, std::size_t components, auto apply) {
            if (!attributes.Has(name)) return;
            const tinygltf::Value& value = attributes.Get(name);
            if (!value.IsInt()) fail(fmt::format("has instances whose {} is no accessor", name));
            const tinygltf::Accessor& values = accessor(value.GetNumberAsInt());
            const std::size_t size = component_bytes(values.componentType);
            if (values.type != type || size == 0)
                fail(fmt::format("has instances whose {} is of a wrong type", name));
            const std::size_t count = checked_count(values, components * size);
            if (count > most_nodes) fail(fmt::format("has more than {} instances of one node", most_nodes));
            if (copies.empty()) copies.assign(count, Transform{});
            if (copies.size() != count) fail("has instances with attributes of different counts");
            for (std::size_t i = 0; i < count; ++i) {
                const unsigned char* bytes = element(values, i, components * size);
                std::array<double, 4> numbers{};
                for (std::size_t k = 0; k < components; ++k)
                    numbers[k] = component(values.componentType, bytes + k * size, values.normalized);
                apply(copies[i], numbers);
            }
        };
        using Numbers = std::array<double, 4>;
        read("TRANSLATION", TINYGLTF_TYPE_VEC3, 3,
             [](Transform& copy, const Numbers& t) { copy.translate(Vec<3>(t[0], t[1], t[2])); });
        read("ROTATION", TINYGLTF_TYPE_VEC4, 4,
             [](Transform& copy, const Numbers& q) { copy.rotate(turn_of(q.data())); });
        read("SCALE", TINYGLTF_TYPE_VEC3, 3,
             [](Transform& copy, const Numbers& s) { copy.scale(Vec<3>(s[0], s[1], s[2])); });
        if (copies.empty()) fail("has instances without attributes");
        return copies;
    }

    void add(const tinygltf::Primitive& primitive, const Transform& transform, TriangleMesh& mesh) {
        const int mode = primitive.mode < 0 ? TINYGLTF_MODE_TRIANGLES : primitive.mode;
        if (mode != TINYGLTF_MODE_TRIANGLES && mode != TINYGLTF_MODE_TRIANGLE_STRIP &&
            mode != TINYGLTF_MODE_TRIANGLE_FAN) {
            return;
        }
        const auto position = primitive.attributes.find("POSITION");
        if (position == primitive.attributes.end()) return;
        const auto base = static_cast<std::uint32_t>(mesh.vertices.size());
        const std::size_t count = add_positions(accessor(position->second), transform, mesh);
        std::vector<std::uint32_t> order;
        if (primitive.indices >= 0) {
            order = indices(accessor(primitive.indices), count);
        } else {
            for (std::uint32_t i = 0; i < count; ++i) order.push_back(i);
        }
        const auto triangle = [&](std::size_t a, std::size_t b, std::size_t c) {
            mesh.triangles.push_back({base + order[a], base + order[b], base + order[c]});
        };
        if (mode == TINYGLTF_MODE_TRIANGLES) {
            if (order.size() % 3 != 0) fail("has a triangle with a corner missing");
            for (std::size_t i = 0; i + 2 < order.size(); i += 3) triangle(i, i + 1, i + 2);
            return;
        }
        for (std::size_t i = 2; i < order.size(); ++i) {
            if (mode == TINYGLTF_MODE_TRIANGLE_FAN) {
                triangle(0, i - 1, i);
            } else {
                triangle(i - 2 + i % 2, i - 1 - i % 2, i);
            }
        }
    }

    std::size_t add_positions(const tinygltf::Accessor& positions, const Transform& transform,
                              TriangleMesh& mesh) {
        const int type = positions.componentType;
        const std::size_t size = component_bytes(type);
        if (positions.type != TINYGLTF_TYPE_VEC3 || size == 0 ||
            type == TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT) {
            fail("has positions that are not three floats, shorts or bytes each");
        }
        vertices_ += positions.count;
        if (vertices_ > most_vertices_)
            fail(fmt::format("makes more than {} vertices of its data", most_vertices_));
        std::vector<Vec<3>> at(checked_count(positions, 3 * size), Vec<3>::zero());
        const auto read = [&](const unsigned char* bytes) {
            Vec<3> p;
            for (int axis = 0; axis < 3; ++axis) {
                p[axis] =
                    component(type, bytes + static_cast<std::size_t>(axis) * size, positions.normalized);
            }
            return p;
        };
        if (positions.bufferView >= 0) {
            for (std::size_t i = 0; i < at.size(); ++i) at[i] = read(element(positions, i, 3 * size));
        }
        for_each_sparse(positions, 3 * size,
                        [&](std::size_t i, const unsigned char* bytes) { at[i] = read(bytes); });
        for (const Vec<3>& p : at) {
            const Vec<3> vertex = transform * p;
            if (!vertex.is_finite()) fail("has a vertex that is not finite");
            mesh.vertices.push_back(vertex);
        }
        return at.size();
    }

    std::vector<std::uint32_t> indices(const tinygltf::Accessor& accessor, std::size_t vertex_count) const {
        const std::size_t size = index_bytes(accessor.componentType);
        std::vector<std::uint32_t> result(checked_count(accessor, size), 0);
        if (accessor.bufferView >= 0) {
            for (std::size_t i = 0; i < result.size(); ++i) {
                result[i] = index_at(element(accessor, i, size), size);
            }
        }
        for_each_sparse(accessor, size, [&](std::size_t i, const unsigned char* bytes) {
            result[i] = index_at(bytes, size);
        });
        for (const std::uint32_t index : result) {
            if (index >= vertex_count) fail("has an index past its last vertex");
        }
        return result;
    }

    std::size_t index_bytes(int type) const {
        if (type != TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE && type != TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT &&
            type != TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT) {
            fail("has indices that are not unsigned integers");
        }
        return component_bytes(type);
    }

    static std::uint32_t index_at(const unsigned char* bytes, std::size_t size) {
        std::uint32_t index = 0;
        for (std::size_t i = 0; i < size; ++i) index |= std::uint32_t{bytes[i]} << 8U * i;
        return index;
    }

    const tinygltf::Accessor& accessor(int index) const {
        if (!valid(index, model_.accessors.size())) fail("names an accessor it does not have");
        return model_.accessors[static_cast<std::size_t>(index)];
    }

    /// The accessor's count, once it is sure that its data is there: a number alone must not fill the memory.
    std::size_t checked_count(const tinygltf::Accessor& accessor, std::size_t size) const {
        if (accessor.count == 0) return 0;
        if (accessor.bufferView >= 0) {
            (void)element(accessor, accessor.count - 1, size);
        } else if (!accessor.sparse.isSparse) {
            fail("has an accessor without data");
        } else if (accessor.count > 3 * most_vertices_) {
            fail(fmt::format("makes more than {} elements of its data", 3 * most_vertices_));
        }
        return accessor.count;
    }

    /// Calls visit(index, bytes) for every element that a sparse accessor puts in another's place.
    template <class Visit>
    void for_each_sparse(const tinygltf::Accessor& accessor, std::size_t size, Visit visit) const {
        if (!accessor.sparse.isSparse) return;
        const auto& sparse = accessor.sparse;
        const std::size_t index_size = index_bytes(sparse.indices.componentType);
        if (sparse.count < 0) fail("has a sparse accessor with a negative count");
        for (std::size_t i = 0; i < static_cast<std::size_t>(sparse.count); ++i) {
            const auto place = static_cast<std::size_t>(sparse.indices.byteOffset);
            const auto values = static_cast<std::size_t>(sparse.values.byteOffset);
            const std::uint32_t index =
                index_at(bytes_at(sparse.indices.bufferView, place + i * index_size, index_size), index_size);
            if (index >= accessor.count) fail("has a sparse index past the accessor's end");
            visit(index, bytes_at(sparse.values.bufferView, values + i * size, size));
        }
    }

    const unsigned char* element(const tinygltf::Accessor& accessor, std::size_t index,
                                 std::size_t size) const {
        if (!valid(accessor.bufferView, model_.bufferViews.size())) fail("has an accessor without data");
        const auto& view = model_.bufferViews[static_cast<std::size_t>(accessor.bufferView)];
        const std::size_t stride = view.byteStride == 0 ? size : view.byteStride;
        if (index > most_mesh_bytes) fail("has an accessor that reaches past its data");
        return bytes_at(accessor.bufferView, accessor.byteOffset + index * stride, size);
    }

    const unsigned char* bytes_at(int buffer_view, std::size_t offset, std::size_t size) const {
        if (!valid(buffer_view, model_.bufferViews.size())) fail("names a buffer view it does not have");
        const auto& view = model_.bufferViews[static_cast<std::size_t>(buffer_view)];
        if (!valid(view.buffer, model_.buffers.size())) fail("names a buffer it does not have");
        const auto& bytes = model_.buffers[static_cast<std::size_t>(view.buffer)].data;
        const bool inside = offset <= view.byteLength && view.byteLength - offset >= size &&
                            view.byteOffset <= bytes.size() &&
                            bytes.size() - view.byteOffset >= view.byteLength;
        if (!inside) fail("has an accessor that reaches past its data");
        return bytes.data() + view.byteOffset + offset;
    }

    const tinygltf::Model& model_;
    const std::string& path_;
    std::size_t most_vertices_ = 0;
    std::size_t nodes_above_ = 0;  // of all meshes together
    PartList parts_;
    std::vector<std::string> above_;
    std::size_t visits_ = 0;
    std::size_t vertices_ = 0;
};

}  // namespace

std::vector<MeshPart> parts_from_gltf(std::string_view content, const std::string& path,
                                      const MeshFileOptions& options) {
    Surroundings surroundings{fs::path(path).parent_path(), options.allow_outside, ""};
    tinygltf::TinyGLTF loader;
    loader.SetImageLoader(skip_image, nullptr);
    loader.SetFsCallbacks({file_exists, same_path, read_whole_file, nullptr, &surroundings});
    const std::string bare = without_pictures(content);
    if (!bare.empty()) content = bare;
    tinygltf::Model model;
    std::string errors;
    std::string warnings;
    const std::string folder = surroundings.folder.string();
    const auto length = static_cast<unsigned int>(content.size());
    bool loaded = false;
    try {
        loaded = content.starts_with("glTF")
                     ? loader.LoadBinaryFromMemory(&model, &errors, &warnings,
                                                   reinterpret_cast<const unsigned char*>(content.data()),
                                                   length, folder)
                     : loader.LoadASCIIFromString(&model, &errors, &warnings, content.data(), length, folder);
    } catch (const std::exception& error) {
        errors = error.what();
    }
    if (!surroundings.refused.empty()) {
        fail_mesh(path,
                  fmt::format("wants '{}', which is outside its folder: expected all data inside it, or the "
                              "option to allow that",
                              surroundings.refused));
    }
    if (!loaded) {
        fail_mesh(path, "is not a glTF 2.0 file: " + errors.substr(0, errors.find('\n')));
    }
    return SceneReader(model, path).read();
}

}  // namespace hollow_probe
