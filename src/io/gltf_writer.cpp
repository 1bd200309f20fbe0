#include "io/gltf_writer.hpp"

#include <algorithm>
#include <bit>
#include <nlohmann/json.hpp>

#include "io/base64.hpp"

namespace hollow_probe {
namespace {

using nlohmann::json;

void add_word(std::string& to, std::uint32_t word) {
    for (unsigned byte = 0; byte < 4; ++byte) to += static_cast<char>(word >> 8U * byte & 0xFFU);
}

/// What the parts make of a file's lists.
struct GltfModel {
    std::string bytes = {};
    json nodes = json::array();
    json meshes = json::array();
    json materials = json::array();
    json accessors = json::array();
    json views = json::array();
    json roots = json::array();

    std::size_t view(std::size_t first, int target) {
        views.push_back(
            {{"buffer", 0}, {"byteOffset", first}, {"byteLength", bytes.size() - first}, {"target", target}});
        return views.size() - 1;
    }

    void add(const GltfPart& part) {
        constexpr int floats = 5126;
        constexpr int words = 5125;
        std::size_t first = bytes.size();
        std::array<float, 3> low{};
        std::array<float, 3> high{};
        for (std::size_t i = 0; i < part.vertices.size(); ++i) {
            for (std::size_t axis = 0; axis < 3; ++axis) {
                const auto x = static_cast<float>(part.vertices[i][static_cast<std::ptrdiff_t>(axis)]);
                low[axis] = i == 0 ? x : std::min(low[axis], x);
                high[axis] = i == 0 ? x : std::max(high[axis], x);
                add_word(bytes, std::bit_cast<std::uint32_t>(x));
            }
        }
        accessors.push_back({{"bufferView", view(first, 34962)},
                             {"componentType", floats},
                             {"count", part.vertices.size()},
                             {"type", "VEC3"},
                             {"min", low},
                             {"max", high}});
        first = bytes.size();
        for (const std::uint32_t index : part.indices) add_word(bytes, index);
        accessors.push_back({{"bufferView", view(first, 34963)},
                             {"componentType", words},
                             {"count", part.indices.size()},
                             {"type", "SCALAR"}});
        json primitive = {{"attributes", {{"POSITION", accessors.size() - 2}}},
                          {"indices", accessors.size() - 1}};
        if (part.lines) primitive["mode"] = 1;
        if (part.color) {
            primitive["material"] = materials.size();
            materials.push_back(
                {{"pbrMetallicRoughness", {{"baseColorFactor", *part.color}, {"metallicFactor", 0.0}}},
                 {"alphaMode", (*part.color)[3] < 1.0F ? "BLEND" : "OPAQUE"},
                 {"doubleSided", true}});
        }
        meshes.push_back({{"name", part.name}, {"primitives", {primitive}}});
        json extras = json::object();
        if (!part.layer.empty()) extras["layer"] = part.layer;
        if (part.on) extras["on"] = *part.on;
        roots.push_back(nodes.size());
        nodes.push_back({{"name", part.name}, {"mesh", meshes.size() - 1}});
        if (!extras.empty()) nodes.back()["extras"] = extras;
    }
};

}  // namespace

std::string gltf_file(const std::vector<GltfPart>& parts, bool binary) {
    GltfModel model;
    for (const GltfPart& part : parts) {
        if (!part.indices.empty()) model.add(part);
    }
    json buffer = {{"byteLength", model.bytes.size()}};
    if (!binary) buffer["uri"] = "data:application/octet-stream;base64," + base64(model.bytes);
    json file = {{"asset", {{"version", "2.0"}, {"generator", "Hollow Probe"}}},
                 {"scene", 0},
                 {"scenes", {{{"nodes", model.roots}}}},
                 {"nodes", model.nodes},
                 {"meshes", model.meshes},
                 {"accessors", model.accessors},
                 {"bufferViews", model.views},
                 {"buffers", {buffer}}};
    if (!model.materials.empty()) file["materials"] = model.materials;
    std::string text = file.dump(binary ? -1 : 1);
    if (!binary) return text + "\n";
    std::string bytes = std::move(model.bytes);
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

}  // namespace hollow_probe
